#include "probe/key_file.h"

#include "probe/socket.h"
#include "quantity/text.h"

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace metrodos::probe {
namespace {

namespace fs = std::filesystem;
using quantity::problem;
using quantity::Result;

constexpr std::size_t maxFile = 1024;
constexpr std::string_view rightLine = "right: ";
constexpr std::string_view holderLine = "for: ";

bool isHandedOver(const fs::path& file) {
    const char* folder =
        std::getenv("CREDENTIALS_DIRECTORY"); // NOLINT(concurrency-mt-unsafe): never set here
    return folder != nullptr && *folder == '/' &&
           file.parent_path().lexically_normal() == fs::path(folder).lexically_normal();
}

// Of the file that was opened, not of the name: that may lead elsewhere a moment later.
Result<void> checkOwnerAndMode(int fd, const fs::path& file) {
    struct stat info {};
    if (::fstat(fd, &info) != 0 || !S_ISREG(info.st_mode))
        return problem("this is no file", file.string(), "name the file that the key is in");
    if (info.st_uid != ::geteuid() && info.st_uid != 0)
        return problem("the key file belongs to another user", file.string(),
                       "copy it to a file of your own with mode 600");
    const mode_t mayNot = isHandedOver(file) ? S_IWGRP | S_IXGRP | S_IRWXO : S_IRWXG | S_IRWXO;
    if ((info.st_mode & mayNot) != 0)
        return problem("others can read the key file", file.string(), "run chmod 600 on it");
    return {};
}

std::string shownHolder(std::string_view text) {
    return quantity::cutTo(quantity::oneLine(text), maxHolderBytes);
}

} // namespace

Result<KeptKey> loadKeyFile(const fs::path& file) {
    // Not blocking: a pipe would wait for somebody to write.
    const Fd fd(::open(file.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY));
    if (!fd)
        return problem("the key file cannot be read: " + std::string(std::strerror(errno)), file.string(),
                       errno == EACCES ? "run the program as the user whom it belongs to"
                                       : "make one with metrodos-cli key new FILE");
    if (const auto sound = checkOwnerAndMode(fd.get(), file); !sound) return tl::unexpected(sound.error());
    std::string text(maxFile, '\0');
    const WipedAtEnd wiped(text);
    const ssize_t count = ::read(fd.get(), text.data(), text.size());
    if (count < 0)
        return problem("the key file cannot be read: " + std::string(std::strerror(errno)), file.string());
    std::string_view rest(text.data(), static_cast<std::size_t>(count));
    const auto takeLine = [&rest] {
        const auto end = std::min(rest.find('\n'), rest.size());
        std::string_view line = rest.substr(0, end);
        rest.remove_prefix(std::min(end + 1, rest.size()));
        if (line.ends_with('\r')) line.remove_suffix(1);
        return line;
    };
    const auto firstLine = [&] {
        std::string_view line;
        while (line.empty() && !rest.empty())
            line = takeLine();
        return line;
    };
    KeptKey out;
    auto key = Key::parse(firstLine());
    if (!key) {
        quantity::Problem wrong = key.error();
        wrong.where = file.string();
        return tl::unexpected(std::move(wrong));
    }
    out.key = *key;
    while (!rest.empty()) {
        const std::string_view line = takeLine();
        if (line.empty()) continue;
        if (line.starts_with(holderLine)) {
            out.holder = shownHolder(line.substr(holderLine.size()));
            continue;
        }
        const auto said = line.starts_with(rightLine) ? right(line.substr(rightLine.size())) : std::nullopt;
        if (!said)
            return problem(
                "the key file has a line that is not known", file.string(),
                "after the key there may be “right: command” or “right: take part”, and “for: NAME”");
        out.right = *said;
    }
    return out;
}

Result<void> saveKeyFile(const KeptKey& kept, const fs::path& file) {
    const Fd fd(::open(file.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0600));
    if (!fd)
        return problem("the key file cannot be made: " + std::string(std::strerror(errno)), file.string(),
                       "choose a new name in a folder that you may write to");
    std::string lines = kept.key.text();
    const WipedAtEnd wiped(lines);
    lines += '\n';
    if (kept.right == Right::takePart) {
        lines += rightLine;
        lines += name(kept.right);
        lines += '\n';
    }
    if (!kept.holder.empty()) {
        lines += holderLine;
        lines += shownHolder(kept.holder);
        lines += '\n';
    }
    if (::write(fd.get(), lines.data(), lines.size()) != static_cast<ssize_t>(lines.size()) ||
        ::fsync(fd.get()) != 0) {
        ::unlink(file.c_str());
        return problem("the key file cannot be written", file.string(), "free some space on the disk");
    }
    return {};
}

Result<Key> Key::load(const fs::path& file) {
    return loadKeyFile(file).map([](const KeptKey& kept) { return kept.key; });
}

Result<void> Key::save(const fs::path& file) const {
    return saveKeyFile({*this, Right::command, {}}, file);
}

} // namespace metrodos::probe
