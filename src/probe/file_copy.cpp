#include "probe/file_copy.h"

#include "probe/run_stamp.h"

#include "probe/load.h"
#include "probe/tolerances.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <functional>
#include <sys/mman.h>
#include <sys/statvfs.h>
#include <unistd.h>

namespace metrodos::probe {
namespace {

using Clock = std::chrono::steady_clock;
using quantity::problem;
using quantity::Result;

constexpr std::size_t piece = 1024 * 1024; // what file protocols ask for at once
constexpr std::uint64_t smallest = 1'000'000;
constexpr std::uint64_t largest = 1'000'000'000'000;
constexpr std::uint64_t spareBytes = 100'000'000; // nobody's disk is filled to the brim
constexpr std::size_t parts = 10;

double since(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

// A file that is gone when this is.
class OwnFile {
  public:
    explicit OwnFile(std::string path)
        : m_path(std::move(path))
        , m_fd(::mkstemp(m_path.data())) {}
    ~OwnFile() {
        if (m_fd) ::unlink(m_path.c_str());
    }
    OwnFile(const OwnFile&) = delete;
    OwnFile& operator=(const OwnFile&) = delete;
    [[nodiscard]] int fd() const { return m_fd.get(); }
    explicit operator bool() const { return static_cast<bool>(m_fd); }

  private:
    std::string m_path;
    Fd m_fd;
};

// Share of the file's pages that are in this machine's memory.
std::optional<double> cachedShare(int fd, std::uint64_t bytes) {
    void* at = ::mmap(nullptr, bytes, PROT_READ, MAP_SHARED, fd, 0);
    if (at == MAP_FAILED) return std::nullopt;
    const auto page = static_cast<std::uint64_t>(::sysconf(_SC_PAGESIZE));
    std::vector<unsigned char> pages((bytes + page - 1) / page);
    const bool told = ::mincore(at, bytes, pages.data()) == 0;
    ::munmap(at, bytes);
    if (!told) return std::nullopt;
    const auto in = std::count_if(pages.begin(), pages.end(), [](unsigned char p) { return (p & 1U) != 0; });
    return static_cast<double>(in) / static_cast<double>(pages.size());
}

// Goes over the file piece by piece; `move` handles one piece and returns what it moved, below 0 on failure.
Result<benchmark::CopyPass> pass(std::uint64_t bytes, const std::stop_token& stop, const char* what,
                                 const std::function<ssize_t(std::size_t, std::uint64_t)>& move,
                                 const std::function<bool()>& finish) {
    benchmark::CopyPass out;
    const auto start = Clock::now();
    auto partStart = start;
    std::uint64_t done = 0;
    std::uint64_t partFrom = 0;
    while (done < bytes) {
        if (stop.stop_requested()) return problem("the copy was stopped", "", "start it again");
        const auto n = move(static_cast<std::size_t>(std::min<std::uint64_t>(piece, bytes - done)), done);
        if (n <= 0) {
            if (n < 0 && errno == EINTR) continue;
            return problem(std::string("the file cannot be ") + what + ": " +
                               std::strerror(n < 0 ? errno : EIO),
                           "", "check the space and the connection of the folder");
        }
        done += static_cast<std::uint64_t>(n);
        if (done >= bytes * (out.bpsByTenth.size() + 1) / parts && out.bpsByTenth.size() < parts) {
            out.bpsByTenth.push_back(static_cast<double>(done - partFrom) * 8 /
                                     std::max(since(partStart), 1e-9));
            partStart = Clock::now();
            partFrom = done;
        }
    }
    if (!finish())
        return problem("the file does not reach the disk: " + std::string(std::strerror(errno)), "",
                       "check the connection of the folder");
    out.seconds = std::max(since(start), 1e-9);
    out.rate = quantity::BitRate::bitsPerSecond(static_cast<double>(bytes) * 8 / out.seconds);
    return out;
}

} // namespace

Result<benchmark::CopyReport> copyFile(const CopySettings& settings, const std::stop_token& stop) {
    const std::string folder = settings.folder.string();
    if (settings.bytes < smallest || settings.bytes > largest)
        return problem("a test file has 1 MB to 1 TB", "", "choose a size between");
    struct statvfs room {};
    if (::statvfs(folder.c_str(), &room) != 0)
        return problem("the folder cannot be reached: " + std::string(std::strerror(errno)), folder,
                       "mount it first, or choose another");
    if (static_cast<std::uint64_t>(room.f_bavail) * room.f_frsize < settings.bytes + spareBytes)
        return problem("there is not enough room for the test file", folder, "choose a smaller size");
    const OwnFile file(folder + "/metrodos-copy-XXXXXX");
    if (!file)
        return problem("no file can be made there: " + std::string(std::strerror(errno)), folder,
                       "choose a folder that you may write");
    std::vector<unsigned char> buffer(piece);
    fillPayload(buffer, 3);
    const int fd = file.fd();
    const auto nothing = [] { return true; };
    const auto read = [&](std::size_t size, std::uint64_t at) {
        return ::pread(fd, buffer.data(), size, static_cast<off_t>(at));
    };
    benchmark::CopyReport out;
    out.head.startedAt = utcNow();
    out.bytes = settings.bytes;
    out.folder = settings.folder.string();
    auto written = pass(
        settings.bytes, stop, "written",
        [&](std::size_t size, std::uint64_t at) {
            // No two pieces alike: some stores keep the same block once only.
            std::memcpy(buffer.data(), &at, sizeof at);
            return ::pwrite(fd, buffer.data(), size, static_cast<off_t>(at));
        },
        [&] { return ::fsync(fd) == 0; });
    if (!written) return tl::unexpected(written.error());
    out.write = std::move(*written);
    // Clean pages only can be dropped; after the fsync all are.
    (void)::posix_fadvise(fd, 0, 0, POSIX_FADV_DONTNEED);
    const auto before = cachedShare(fd, settings.bytes);
    auto cold = pass(settings.bytes, stop, "read", read, nothing);
    if (!cold) return tl::unexpected(cold.error());
    cold->cachedAtStart = before;
    if (before && *before < coldBelow) out.cold = std::move(*cold);
    const auto again = cachedShare(fd, settings.bytes);
    auto warm = pass(settings.bytes, stop, "read", read, nothing);
    if (!warm) return tl::unexpected(warm.error());
    out.warm = std::move(*warm);
    out.warm.cachedAtStart = again;
    return out;
}

std::vector<benchmark::Run> copyRuns(const benchmark::CopyReport& copy, bool hereIsFrom) {
    std::vector<benchmark::Run> out;
    const auto add = [&](const benchmark::CopyPass& pass, bool forward) {
        benchmark::Run run;
        run.id = newRunId();
        run.startedAt = utcNow();
        run.config.direction = forward ? benchmark::Direction::forward : benchmark::Direction::backward;
        run.seconds = run.config.seconds = std::clamp(pass.seconds, benchmark::minRun, benchmark::maxRun);
        run.goodput = pass.rate;
        // A tenth of the file each, which take the longer the slower they are.
        double t = 0;
        double all = 0;
        for (const double bps : pass.bpsByTenth)
            all += 1 / std::max(bps, 1.0);
        for (const double bps : pass.bpsByTenth) {
            t += pass.seconds / std::max(bps, 1.0) / all;
            benchmark::Sample sample;
            sample.t = t;
            sample.goodputBps = bps;
            run.samples.push_back(sample);
        }
        out.push_back(std::move(run));
    };
    add(copy.write, hereIsFrom);
    if (copy.cold) add(*copy.cold, !hereIsFrom);
    return out;
}

} // namespace metrodos::probe
