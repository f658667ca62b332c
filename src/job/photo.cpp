#include "job/photo.h"

#include <array>
#include <openssl/evp.h>

namespace metrodos::job {
namespace {

// What the library takes and gives, as bytes of text.
const unsigned char* bytesOf(std::string_view text) {
    return reinterpret_cast<const unsigned char*>(text.data()); // NOLINT(*-reinterpret-cast)
}
unsigned char* bytesOf(std::string& text) {
    return reinterpret_cast<unsigned char*>(text.data()); // NOLINT(*-reinterpret-cast)
}

} // namespace

std::string digestOf(std::string_view bytes) {
    std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
    unsigned int size = 0;
    if (EVP_Digest(bytes.data(), bytes.size(), digest.data(), &size, EVP_sha256(), nullptr) != 1) return {};
    constexpr std::string_view digits = "0123456789abcdef";
    std::string out;
    for (unsigned int i = 0; i < size; ++i) {
        out += digits[digest.at(i) >> 4U];
        out += digits[digest.at(i) & 15U];
    }
    return out;
}

bool isPhoto(std::string_view bytes) {
    return bytes.starts_with("\xff\xd8\xff") && bytes.size() <= maxPhotoBytes;
}

std::string base64(std::string_view bytes) {
    std::string out((bytes.size() + 2) / 3 * 4 + 1, '\0'); // with the 0 that the library puts behind it
    const int size = EVP_EncodeBlock(bytesOf(out), bytesOf(bytes), static_cast<int>(bytes.size()));
    out.resize(static_cast<std::size_t>(size));
    return out;
}

std::optional<std::string> fromBase64(std::string_view text) {
    if (text.size() % 4 != 0 || text.size() > (maxPhotoBytes + 2) / 3 * 4) return std::nullopt;
    std::string out(text.size() / 4 * 3, '\0');
    const int size = EVP_DecodeBlock(bytesOf(out), bytesOf(text), static_cast<int>(text.size()));
    if (size < 0) return std::nullopt;
    // It counts the padding as bytes.
    const std::size_t padding = text.ends_with("==") ? 2 : text.ends_with("=") ? 1 : 0;
    out.resize(static_cast<std::size_t>(size) - padding);
    return out;
}

} // namespace metrodos::job
