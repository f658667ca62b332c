#include "quantity/text.h"

#include <algorithm>

#include <cstdint>

namespace metrodos::quantity {
namespace {

// How many bytes the UTF-8 sequence at the front has, 0 where there is none (RFC 3629: no overlong forms, no
// surrogates); `code` is its code point.
std::size_t sequence(std::string_view text, std::uint32_t& code) {
    const auto byte = [&](std::size_t i) { return static_cast<std::uint8_t>(text[i]); };
    const std::uint8_t first = byte(0);
    if (first < 0x80) {
        code = first;
        return 1;
    }
    const std::size_t length = first >= 0xf0 ? 4 : first >= 0xe0 ? 3 : 2;
    if (first < 0xc2 || first > 0xf4 || text.size() < length) return 0;
    code = first & (0x7fU >> length);
    for (std::size_t i = 1; i < length; ++i) {
        if ((byte(i) & 0xc0U) != 0x80U) return 0;
        code = code << 6U | (byte(i) & 0x3fU);
    }
    const bool overlong = (length == 3 && code < 0x800) || (length == 4 && code < 0x10000);
    return overlong || (code >= 0xd800 && code <= 0xdfff) || code > 0x10ffff ? 0 : length;
}

bool disturbs(std::uint32_t code) {
    return code < 0x20 || (code >= 0x7f && code < 0xa0) || code == 0x2028 || code == 0x2029 ||
           code == 0x200e || code == 0x200f || code == 0x061c || (code >= 0x202a && code <= 0x202e) ||
           (code >= 0x2066 && code <= 0x2069);
}

} // namespace

std::string oneLine(std::string_view text) {
    std::string out;
    out.reserve(text.size());
    while (!text.empty()) {
        std::uint32_t code = 0;
        const std::size_t length = sequence(text, code);
        if (length == 0)
            out += "\xef\xbf\xbd";
        else if (code == '\n' || code == '\r' || code == '\t')
            out += ' ';
        else if (!disturbs(code))
            out += text.substr(0, length);
        text.remove_prefix(length == 0 ? 1 : length);
    }
    return out;
}

std::size_t lettersOf(std::string_view text) {
    return static_cast<std::size_t>(
        std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; }));
}

std::string shortened(std::string_view text, std::size_t letters) {
    if (lettersOf(text) <= letters) return std::string(text);
    std::string out;
    std::size_t count = 0;
    for (const char c : text) {
        if ((c & 0xC0) != 0x80 && ++count >= letters) break;
        out += c;
    }
    return out + "…";
}

std::string cutTo(std::string_view text, std::size_t bytes) {
    if (text.size() <= bytes) return std::string(text);
    while (bytes > 0 && (text[bytes] & 0xC0) == 0x80)
        --bytes; // in the middle of a letter
    return std::string(text.substr(0, bytes));
}

std::string inQuotes(std::string_view text) {
    return "“" + shortened(oneLine(text.substr(0, 1000)), 60) + "”";
}

std::string counted(long long n, std::string_view one, std::string_view many) {
    std::string out = std::to_string(n) + ' ';
    if (n == 1 || many.empty()) out += one;
    if (n != 1) many.empty() ? out += 's' : out += many;
    return out;
}

} // namespace metrodos::quantity
