#include "job/document.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <random>
#include <sys/stat.h>
#include <unistd.h>

namespace metrodos::job {
namespace {

// Closes what it has, and takes the name away again unless the file has got another one.
class PartFile {
  public:
    // Made anew, under a name that nobody can have put a link at.
    explicit PartFile(const std::filesystem::path& beside) {
        std::random_device random;
        constexpr int tries = 20;
        for (int i = 0; i < tries && m_fd < 0; ++i) {
            m_name = beside.string() + "." + std::to_string(random()) + ".part";
            m_fd = ::open(m_name.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0666);
            if (m_fd < 0 && errno != EEXIST) break;
        }
    }
    ~PartFile() {
        if (m_fd < 0) return;
        const int why = errno;
        ::close(m_fd);
        if (!m_isKept) ::unlink(m_name.c_str());
        errno = why;
    }
    PartFile(const PartFile&) = delete;
    PartFile& operator=(const PartFile&) = delete;
    PartFile(PartFile&&) = delete;
    PartFile& operator=(PartFile&&) = delete;

    [[nodiscard]] bool write(std::string_view bytes) const {
        if (m_fd < 0) return false;
        while (!bytes.empty()) {
            const ssize_t put = TEMP_FAILURE_RETRY(::write(m_fd, bytes.data(), bytes.size()));
            if (put <= 0) return false;
            bytes.remove_prefix(static_cast<std::size_t>(put));
        }
        return true;
    }
    // With the rights of the file that it replaces.
    [[nodiscard]] bool setRights(const std::filesystem::path& replaced) const {
        struct stat there {};
        if (::lstat(replaced.c_str(), &there) != 0 || !S_ISREG(there.st_mode)) return true;
        return ::fchmod(m_fd, there.st_mode & 0777U) == 0;
    }
    // Only when it is on the disk does it take the other's place.
    [[nodiscard]] bool become(const std::filesystem::path& file) {
        if (::fsync(m_fd) != 0 || ::rename(m_name.c_str(), file.c_str()) != 0) return false;
        m_isKept = true;
        std::filesystem::path folder = file.parent_path();
        if (folder.empty()) folder = ".";
        // Of a folder that cannot be flushed the name may be the old one after a cut; the file is whole.
        if (const int fd = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC); fd >= 0) {
            (void)::fsync(fd);
            ::close(fd);
        }
        return true;
    }

  private:
    std::string m_name;
    int m_fd = -1;
    bool m_isKept = false;
};

} // namespace

quantity::Result<void> writeText(const std::filesystem::path& file, std::string_view text) {
    errno = 0;
    PartFile part(file);
    if (part.write(text) && part.setRights(file) && part.become(file)) return {};
    const int why = errno;
    return quantity::problem("the file cannot be written: " + std::string(std::strerror(why)), file.string(),
                             why == ENOSPC ? "free some space"
                                           : "check the folder's rights and the free space");
}

} // namespace metrodos::job
