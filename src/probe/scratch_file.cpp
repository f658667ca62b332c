#include "probe/scratch_file.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/mman.h>
#include <sys/statvfs.h>
#include <unistd.h>
#include <utility>
#include <vector>

namespace metrodos::probe {
namespace {

using quantity::problem;

constexpr std::uint64_t spareBytes = 100'000'000; // nobody's disk is filled to the brim

} // namespace

ScratchFile::ScratchFile(std::string path, Fd fd)
    : m_path(std::move(path))
    , m_fd(std::move(fd)) {}

ScratchFile::ScratchFile(ScratchFile&& other) noexcept
    : m_path(std::exchange(other.m_path, std::string()))
    , m_fd(std::move(other.m_fd)) {}

ScratchFile::~ScratchFile() {
    if (!m_path.empty()) ::unlink(m_path.c_str());
}

quantity::Result<ScratchFile> ScratchFile::make(const std::filesystem::path& folder, std::uint64_t bytes) {
    const std::string where = folder.string();
    if (bytes < smallestFile || bytes > largestFile)
        return problem("a test file has 1 MB to 1 TB", "", "choose a size between");
    struct statvfs room {};
    if (::statvfs(where.c_str(), &room) != 0)
        return problem("the folder cannot be reached: " + std::string(std::strerror(errno)), where,
                       "mount it first, or choose another");
    if (static_cast<std::uint64_t>(room.f_bavail) * room.f_frsize < bytes + spareBytes)
        return problem("there is not enough room for the test file", where, "choose a smaller size");
    std::string path = where + "/metrodos-copy-XXXXXX";
    Fd fd(::mkstemp(path.data()));
    if (!fd)
        return problem("no file can be made there: " + std::string(std::strerror(errno)), where,
                       "choose a folder that you may write");
    return ScratchFile(std::move(path), std::move(fd));
}

std::optional<double> ScratchFile::cachedShare(std::uint64_t bytes) const {
    void* at = ::mmap(nullptr, bytes, PROT_READ, MAP_SHARED, m_fd.get(), 0);
    if (at == MAP_FAILED) return std::nullopt;
    const auto page = static_cast<std::uint64_t>(::sysconf(_SC_PAGESIZE));
    std::vector<unsigned char> pages((bytes + page - 1) / page);
    const bool told = ::mincore(at, bytes, pages.data()) == 0;
    ::munmap(at, bytes);
    if (!told) return std::nullopt;
    const auto in = std::count_if(pages.begin(), pages.end(), [](unsigned char p) { return (p & 1U) != 0; });
    return static_cast<double>(in) / static_cast<double>(pages.size());
}

void ScratchFile::dropCache() const {
    // Clean pages only can be dropped; after fdatasync all are.
    (void)::posix_fadvise(m_fd.get(), 0, 0, POSIX_FADV_DONTNEED);
}

} // namespace metrodos::probe
