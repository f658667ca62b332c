// The words of fast entry: fields of a line, labels compared as people type them. Internal to the layer.
#pragma once

#include "quantity/ascii.h"

#include "house/house.h"
#include "quantity/text.h"

#include <algorithm>
#include <cctype>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::job {

using namespace house;

inline std::string lower(std::string_view text) {
    return quantity::ascii::inLowerCase(text);
}

inline std::string trimmed(std::string_view text) {
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.front())))
        text.remove_prefix(1);
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.back())))
        text.remove_suffix(1);
    return std::string(text);
}

// Where the next field ends: at a slash, but for that of "Gbit/s" and "MB/s".
inline std::size_t fieldEnd(std::string_view line, std::size_t from) {
    for (std::size_t at = line.find('/', from); at < line.size(); at = line.find('/', at + 1)) {
        const bool isPerSecond =
            (line.substr(from, at - from).ends_with("bit") || line.substr(from, at - from).ends_with("B")) &&
            line.substr(at + 1).starts_with("s") &&
            (at + 2 == line.size() || std::isalnum(static_cast<unsigned char>(line[at + 2])) == 0);
        if (!isPerSecond) return at;
    }
    return line.size();
}

inline std::vector<std::string> fieldsOf(std::string_view typed) {
    const std::string line = quantity::oneLine(typed);
    std::vector<std::string> out;
    std::size_t from = 0;
    while (from <= line.size()) {
        const std::size_t to = fieldEnd(line, from);
        out.push_back(trimmed(std::string_view(line).substr(from, to - from)));
        from = to + 1;
    }
    return out;
}

// Letters and digits only: "RG-6", "rg 6" and "rg6" are the same word.
inline std::string folded(std::string_view text) {
    std::string out;
    for (const char c : lower(text))
        if (std::isalnum(static_cast<unsigned char>(c)) || static_cast<unsigned char>(c) >= 0x80)
            out.push_back(c);
    return out;
}

inline std::optional<std::string> valueAfter(const std::string& field, std::string_view word) {
    if (lower(field).starts_with(word) && field.size() > word.size() && field[word.size()] == ' ')
        return trimmed(std::string_view(field).substr(word.size()));
    return std::nullopt;
}

inline std::string stemOf(const std::string& label) {
    std::string out;
    for (const char c : lower(label))
        if (isId(std::string_view(&c, 1)))
            out.push_back(c);
        else if (!out.empty() && out.back() != '-')
            out.push_back('-');
    while (!out.empty() && out.back() == '-')
        out.pop_back();
    return out.empty() ? "thing" : out.substr(0, 48);
}

/// A label that several things have: no key, so that whoever typed it has to say which is meant. Thrown.
struct Ambiguous {
    std::string label;
    std::string oneId;
    std::string otherId;
};

/// The thing of this id, or the only one of this label; nullptr: there is none.
template <typename Items>
auto labelled(Items& items, const std::string& label) -> decltype(&items.front()) {
    decltype(&items.front()) found = nullptr;
    for (auto& item : items)
        if (item.id == lower(label)) return &item;
    for (auto& item : items) {
        if (folded(item.label) != folded(label)) continue;
        if (found != nullptr) throw Ambiguous{label, found->id, item.id};
        found = &item;
    }
    return found;
}

inline const char* wordOf(JackKind kind) {
    switch (kind) {
    case JackKind::data:
        return "data";
    case JackKind::coax:
        return "coax";
    case JackKind::mains:
        return "outlet";
    case JackKind::phone:
        return "phone";
    }
    return "";
}

} // namespace metrodos::job
