#include "probe/key.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <openssl/evp.h>
#include <openssl/rand.h>
#include <stdexcept>
#include <sys/stat.h>
#include <unistd.h>

namespace metrodos::probe {
namespace {

constexpr std::size_t characters = 26; // 128 bits in steps of five, two bits of padding

int valueOf(char c) {
    if (c >= 'a' && c <= 'z') c = static_cast<char>(c - 'a' + 'A');
    if (c == 'O') c = '0';
    if (c == 'I' || c == 'L') c = '1';
    const auto at = crockford.find(c);
    return at == std::string_view::npos ? -1 : static_cast<int>(at);
}

quantity::Problem notAKey(const std::string& where) {
    return {"this is not a key of 26 letters and digits", where,
            "copy the whole key, or make one with metrodos-cli key new FILE"};
}

} // namespace

// Throws: what was guessable would be worse than nothing.
void fillRandom(unsigned char* bytes, std::size_t count) {
    if (RAND_bytes(bytes, static_cast<int>(count)) != 1)
        throw std::runtime_error("the system has no random numbers");
}

std::string randomLetters(std::size_t count) {
    std::string out(count, '\0');
    fillRandom(reinterpret_cast<unsigned char*>(out.data()), out.size());
    for (char& c : out)
        c = crockford[static_cast<unsigned char>(c) & 31U];
    return out;
}

Key Key::generate() {
    Key key;
    fillRandom(key.m_bits.data(), key.m_bits.size());
    return key;
}

quantity::Result<Key> Key::parse(std::string_view text) {
    Key key;
    std::size_t count = 0;
    unsigned buffer = 0;
    int bits = 0;
    std::size_t byte = 0;
    for (const char c : text) {
        if (c == '-' || c == ' ' || c == '\n' || c == '\r' || c == '\t') continue;
        const int value = valueOf(c);
        if (value < 0 || ++count > characters) return tl::unexpected(notAKey(""));
        buffer = (buffer << 5) | static_cast<unsigned>(value);
        bits += 5;
        if (bits >= 8 && byte < key.m_bits.size()) {
            bits -= 8;
            key.m_bits[byte++] = static_cast<std::uint8_t>(buffer >> bits);
            buffer &= (1U << bits) - 1;
        }
    }
    if (count != characters || buffer != 0) return tl::unexpected(notAKey(""));
    return key;
}

quantity::Result<Key> Key::load(const std::filesystem::path& file) {
    struct stat info {};
    if (::stat(file.c_str(), &info) != 0)
        return quantity::problem("the key file cannot be read: " + std::string(std::strerror(errno)),
                                 file.string(), "make one with metrodos-cli key new FILE");
    if ((info.st_mode & 077U) != 0)
        return quantity::problem("others can read the key file", file.string(), "run chmod 600 on it");
    std::ifstream stream(file);
    std::string text(256, '\0');
    stream.read(text.data(), static_cast<std::streamsize>(text.size()));
    text.resize(static_cast<std::size_t>(stream.gcount()));
    auto key = parse(text);
    if (!key) return tl::unexpected(notAKey(file.string()));
    return key;
}

quantity::Result<void> Key::save(const std::filesystem::path& file) const {
    const int fd = ::open(file.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
    if (fd < 0)
        return quantity::problem("the key file cannot be made: " + std::string(std::strerror(errno)),
                                 file.string(), "choose a new name in a folder that you may write to");
    const std::string line = text() + "\n";
    const bool written = ::write(fd, line.data(), line.size()) == static_cast<ssize_t>(line.size());
    if (::close(fd) != 0 || !written) {
        ::unlink(file.c_str());
        return quantity::problem("the key file cannot be written", file.string(),
                                 "free some space on the disk");
    }
    return {};
}

std::string Key::text() const {
    std::string out;
    unsigned buffer = 0;
    int bits = 0;
    std::size_t count = 0;
    const auto put = [&](unsigned value) {
        if (count > 0 && count % 5 == 0) out.push_back('-');
        out.push_back(crockford[value]);
        ++count;
    };
    for (const std::uint8_t byte : m_bits) {
        buffer = (buffer << 8) | byte;
        bits += 8;
        while (bits >= 5) {
            bits -= 5;
            put((buffer >> bits) & 31U);
        }
        buffer &= (1U << bits) - 1;
    }
    put((buffer << (5 - bits)) & 31U);
    return out;
}

std::array<unsigned char, 32> Key::secret() const {
    std::string input = "metrodos control 1";
    input.append(reinterpret_cast<const char*>(m_bits.data()), m_bits.size());
    std::array<unsigned char, 32> out{};
    unsigned length = 0;
    EVP_Digest(input.data(), input.size(), out.data(), &length, EVP_sha256(), nullptr);
    return out;
}

} // namespace metrodos::probe
