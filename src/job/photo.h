// Pictures of a job: the bytes of a JPEG file, named by their digest.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace metrodos::job {

inline constexpr std::size_t maxPhotoBytes = 4U * 1024 * 1024;

/// SHA-256 in 64 hexadecimal digits (FIPS 180-4).
[[nodiscard]] std::string digestOf(std::string_view bytes);

/// Whether this may be kept as a picture: it begins as a JPEG file does and is not too large.
[[nodiscard]] bool isPhoto(std::string_view bytes);

/// Base 64 without line breaks (RFC 4648, section 4); nothing where `text` is none.
[[nodiscard]] std::string base64(std::string_view bytes);
[[nodiscard]] std::optional<std::string> fromBase64(std::string_view text);

} // namespace metrodos::job
