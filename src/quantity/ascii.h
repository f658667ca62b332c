// Letters and digits of ASCII, whatever the locale: ids, keys, names of hosts and addresses are made of them.
#pragma once

#include <algorithm>
#include <string>
#include <string_view>

namespace metrodos::quantity::ascii {

[[nodiscard]] constexpr bool isDigit(char c) {
    return c >= '0' && c <= '9';
}
[[nodiscard]] constexpr bool isSmall(char c) {
    return c >= 'a' && c <= 'z';
}
[[nodiscard]] constexpr bool isCapital(char c) {
    return c >= 'A' && c <= 'Z';
}
[[nodiscard]] constexpr bool isLetterOrDigit(char c) {
    return isDigit(c) || isSmall(c) || isCapital(c);
}
/// The small letter of a capital; anything else as it is.
[[nodiscard]] constexpr char lower(char c) {
    return isCapital(c) ? static_cast<char>(c - 'A' + 'a') : c;
}
/// The capital of a small letter; anything else as it is.
[[nodiscard]] constexpr char upper(char c) {
    return isSmall(c) ? static_cast<char>(c - 'a' + 'A') : c;
}
[[nodiscard]] inline std::string inLowerCase(std::string_view text) {
    std::string out(text);
    std::ranges::transform(out, out.begin(), lower);
    return out;
}
[[nodiscard]] inline std::string inUpperCase(std::string_view text) {
    std::string out(text);
    std::ranges::transform(out, out.begin(), upper);
    return out;
}

} // namespace metrodos::quantity::ascii
