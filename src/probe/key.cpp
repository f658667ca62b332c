#include "probe/key.h"

#include "quantity/ascii.h"

#include <openssl/evp.h>
#include <openssl/rand.h>
#include <stdexcept>

namespace metrodos::probe {
namespace {

constexpr std::size_t characters = 26; // 128 bits in steps of five, two bits of padding

int valueOf(char c) {
    c = quantity::ascii::upper(c);
    if (c == 'O') c = '0';
    if (c == 'I' || c == 'L') c = '1';
    const auto at = crockford.find(c);
    return at == std::string_view::npos ? -1 : static_cast<int>(at);
}

quantity::Problem notAKey() {
    return {"this is not a key of 26 letters and digits", "",
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

std::optional<Right> right(std::string_view word) {
    for (const Right r : {Right::takePart, Right::command})
        if (word == name(r)) return r;
    return std::nullopt;
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
        if (value < 0 || ++count > characters) return tl::unexpected(notAKey());
        buffer = (buffer << 5) | static_cast<unsigned>(value);
        bits += 5;
        if (bits >= 8 && byte < key.m_bits.size()) {
            bits -= 8;
            key.m_bits[byte++] = static_cast<std::uint8_t>(buffer >> bits);
            buffer &= (1U << bits) - 1;
        }
    }
    if (count != characters || buffer != 0) return tl::unexpected(notAKey());
    return key;
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

SecretBytes<unsigned char, 32> Key::secret() const {
    std::string input = "metrodos control 1";
    const WipedAtEnd wiped(input);
    input.append(reinterpret_cast<const char*>(m_bits.data()), m_bits.size());
    SecretBytes<unsigned char, 32> out;
    unsigned length = 0;
    EVP_Digest(input.data(), input.size(), out.data(), &length, EVP_sha256(), nullptr);
    return out;
}

} // namespace metrodos::probe
