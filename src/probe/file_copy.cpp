#include "probe/file_copy.h"

#include "probe/run_stamp.h"

#include "benchmark/tolerances.h"
#include "probe/load.h"
#include "probe/scratch_file.h"
#include "probe/tolerances.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <functional>
#include <unistd.h>

namespace metrodos::probe {
namespace {

using Clock = std::chrono::steady_clock;
using quantity::problem;
using quantity::Result;

constexpr std::size_t piece = 1024 * 1024; // what file protocols ask for at once
constexpr std::size_t parts = 10;

double since(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

// Goes over the file piece by piece; `move` handles one piece and returns what it moved, below 0 on failure.
Result<benchmark::CopyPass> pass(std::uint64_t bytes, const std::stop_token& stop, const char* what,
                                 const std::function<ssize_t(std::size_t, std::uint64_t)>& move,
                                 const std::function<bool()>& finish,
                                 const std::function<void(double)>& told) {
    benchmark::CopyPass out;
    const auto start = Clock::now();
    auto partStart = start;
    std::uint64_t done = 0;
    std::uint64_t partFrom = 0;
    while (done < bytes) {
        if (stop.stop_requested()) return problem("the copy was stopped", "", "start it again");
        const auto size = static_cast<std::size_t>(std::min<std::uint64_t>(piece, bytes - done));
        const auto n = TEMP_FAILURE_RETRY(move(size, done));
        if (n <= 0) {
            return problem(std::string("the file cannot be ") + what + ": " +
                               std::strerror(n < 0 ? errno : EIO),
                           "", "check the space and the connection of the folder");
        }
        done += static_cast<std::uint64_t>(n);
        if (done >= bytes * (out.bpsByTenth.size() + 1) / parts) {
            out.bpsByTenth.push_back(static_cast<double>(done - partFrom) * 8 /
                                     std::max(since(partStart), 1e-9));
            partStart = Clock::now();
            partFrom = done;
            if (told) told(static_cast<double>(done) / static_cast<double>(bytes));
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

Result<benchmark::CopyReport> copyFile(const CopySettings& settings, const std::stop_token& stop,
                                       const std::function<void(double)>& told) {
    const auto file = ScratchFile::make(settings.folder, settings.bytes);
    if (!file) return tl::unexpected(file.error());
    std::vector<unsigned char> buffer(piece);
    fillPayload(buffer, 3);
    const int fd = file->fd();
    const auto nothing = [] { return true; };
    const auto read = [&](std::size_t size, std::uint64_t at) {
        return ::pread(fd, buffer.data(), size, static_cast<off_t>(at));
    };
    const auto ofPass = [&](int before) {
        return [&told, before](double done) {
            constexpr double passes = 3;
            if (told) told((before + done) / passes);
        };
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
        [&] { return ::fsync(fd) == 0; }, ofPass(0));
    if (!written) return tl::unexpected(written.error());
    out.write = std::move(*written);
    file->dropCache();
    const auto before = file->cachedShare(settings.bytes);
    auto cold = pass(settings.bytes, stop, "read", read, nothing, ofPass(1));
    if (!cold) return tl::unexpected(cold.error());
    cold->cachedAtStart = before;
    if (before && *before < benchmark::coldBelow) out.cold = std::move(*cold);
    const auto again = file->cachedShare(settings.bytes);
    auto warm = pass(settings.bytes, stop, "read", read, nothing, ofPass(2));
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
