// Names that some reader or other takes for its own: markup, commands of a terminal, keys, paths, formulas.
#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

namespace metrodos::testing {

inline constexpr std::string_view hostileNames[] = {
    "<img src=\"/dev/zero\">",
    "<a href='file:///etc/passwd'>x</a>",
    "<script>alert(1)</script>",
    "</title></svg><b>",
    "&amp;&lt;&#x41;",
    "\x1b[31mred\x1b[0m",
    "\x1b]0;title\x07",
    "bell\x07"
    "back\x08",
    "line\nbreak\r\ttab",
    "\xc2\x9b"
    "31m C1",
    "left \xe2\x80\xae right",
    "\xe2\x80\xa8 separator",
    "%n%s%1$s %1 %2",
    "../../etc/passwd",
    "C:\\con.txt",
    "=HYPERLINK(\"http://x\")",
    "@SUM(A1)",
    "'; DROP TABLE item; --",
    "{{x}} ${x} $(x) `x`",
    "| **b** [l](javascript:x) #",
    "\xf0\x9f\x8f\xa0 \xe6\xbc\xa2\xe5\xad\x97 \xd7\xa9",
    "&x &y &&z",
};

/// A document with each label, note and name replaced by one of these in turn.
inline void poison(nlohmann::json& value, std::size_t& next) {
    if (value.is_object())
        for (auto& [key, item] : value.items()) {
            const bool isName = key == "label" || key == "name" || key == "note" || key == "reason" ||
                                key == "key_place" || key == "changed" || key == "building";
            if (isName && item.is_string()) {
                item = std::string(hostileNames[next % std::size(hostileNames)]) + " " + std::to_string(next);
                ++next;
            } else {
                poison(item, next);
            }
        }
    else if (value.is_array())
        for (auto& item : value)
            poison(item, next);
}

/// Whether a text does nothing to the terminal it is printed on: no control characters but ends of lines and
/// tabulators, no C1, nothing that turns the direction of writing.
inline bool isTame(std::string_view text) {
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto c = static_cast<unsigned char>(text[i]);
        if ((c < 0x20 && c != '\n' && c != '\t' && c != '\r') || c == 0x7f) return false;
        const std::string_view rest = text.substr(i);
        if (c == 0xc2 && rest.size() > 1 && static_cast<unsigned char>(rest[1]) < 0xa0) return false;
        if (rest.starts_with("\xe2\x80\xae") || rest.starts_with("\xe2\x80\xa8")) return false;
    }
    return true;
}

} // namespace metrodos::testing
