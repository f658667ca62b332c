// Fields of JSON from outside, each with its bounds: the one place that says what a figure, a flag or a text
// may be. Readers throw BadField; whoever reads a document catches it and says which field of which document
// was wrong.
#pragma once

#include <cstdint>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::quantity {

/// A field that is missing, of another type, or out of its bounds.
struct BadField {
    std::string name;
};

namespace fields {

using json = nlohmann::json;

/// The member, or nullptr where the object has none or has null there. BadField where `object` is no object.
[[nodiscard]] const json* find(const json& object, const char* key);

/// A number in [low, high]; nothing where it is absent or null.
[[nodiscard]] std::optional<double> number(const json& object, const char* key, double low, double high);
[[nodiscard]] double neededNumber(const json& object, const char* key, double low, double high);

/// A whole number from 0 to 1.8e19; nothing where it is absent or null.
[[nodiscard]] std::optional<std::uint64_t> count(const json& object, const char* key);
[[nodiscard]] std::uint64_t neededCount(const json& object, const char* key);

[[nodiscard]] std::optional<bool> flag(const json& object, const char* key);
[[nodiscard]] bool neededFlag(const json& object, const char* key);

/// At most `maxBytes` of text, fit to be shown (oneLine); empty where it is absent or null.
[[nodiscard]] std::string text(const json& object, const char* key, std::size_t maxBytes);
[[nodiscard]] std::string neededText(const json& object, const char* key, std::size_t maxBytes);

/// At most `maxItems` texts of at most `maxBytes`; empty where it is absent or null.
[[nodiscard]] std::vector<std::string> texts(const json& object, const char* key, std::size_t maxItems,
                                             std::size_t maxBytes);
/// At most `maxItems` numbers in [low, high]; empty where it is absent or null.
[[nodiscard]] std::vector<double> numbers(const json& object, const char* key, std::size_t maxItems,
                                          double low, double high);
/// `value` itself, as `number` reads a member: nothing where it is null. `key` names it in a BadField.
[[nodiscard]] std::optional<double> numberOrNull(const json& value, const char* key, double low, double high);
/// An array of at most `maxItems`; nullptr where it is absent or null.
[[nodiscard]] const json* list(const json& object, const char* key, std::size_t maxItems);

/// The value of a word, by the function that knows the words ("forward" → Direction::forward).
template <typename Enum>
[[nodiscard]] Enum word(const json& object, const char* key,
                        std::optional<Enum> (*valueOf)(std::string_view)) {
    const auto value = valueOf(neededText(object, key, 40));
    if (!value) throw BadField{key};
    return *value;
}

/// What `read` returns, or nothing where it meets a BadField: for figures without which the rest is still
/// worth having.
template <typename Read>
[[nodiscard]] auto ifSound(Read read) -> std::optional<decltype(read())> {
    try {
        return read();
    } catch (const BadField&) {
        return std::nullopt;
    }
}

/// null for nothing.
template <typename T>
[[nodiscard]] json orNull(const std::optional<T>& value) {
    return value ? json(*value) : json(nullptr);
}
[[nodiscard]] inline json orNull(const std::string& text) {
    return text.empty() ? json(nullptr) : json(text);
}

} // namespace fields
} // namespace metrodos::quantity
