#include "probe/private_file.h"

#include "probe/socket.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace metrodos::probe {

namespace fs = std::filesystem;
using quantity::problem;
using quantity::Result;

Result<void> writePrivately(const fs::path& file, const std::string& text) {
    const fs::path beside = file.string() + ".part";
    const auto failed = [&] {
        return problem(std::string("it cannot be written: ") + std::strerror(errno), file.string(),
                       "check the folder and its free space");
    };
    {
        Fd fd(
            ::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC | O_NOFOLLOW, S_IRUSR | S_IWUSR));
        if (!fd) return failed();
        std::size_t done = 0;
        while (done < text.size()) {
            const ssize_t n = TEMP_FAILURE_RETRY(::write(fd.get(), text.data() + done, text.size() - done));
            if (n <= 0) return failed();
            done += static_cast<std::size_t>(n);
        }
        if (::fsync(fd.get()) != 0) return failed();
    }
    if (::rename(beside.c_str(), file.c_str()) != 0) return failed();
    return {};
}

} // namespace metrodos::probe
