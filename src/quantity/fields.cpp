#include "quantity/fields.h"

#include "quantity/text.h"

namespace metrodos::quantity::fields {
namespace {

template <typename T>
T needed(std::optional<T> value, const char* key) {
    if (!value) throw BadField{key};
    return std::move(*value);
}

double numberOf(const json& value, const char* key, double low, double high) {
    const double out = value.is_number() ? value.get<double>() : low - 1;
    if (!value.is_number() || !(out >= low && out <= high)) throw BadField{key}; // NaN is in no bounds
    return out;
}

std::string textOf(const json& value, const char* key, std::size_t maxBytes) {
    if (!value.is_string() || value.get_ref<const std::string&>().size() > maxBytes) throw BadField{key};
    return oneLine(value.get_ref<const std::string&>());
}

} // namespace

const json* find(const json& object, const char* key) {
    if (!object.is_object()) throw BadField{key};
    const auto it = object.find(key);
    return it == object.end() || it->is_null() ? nullptr : &*it;
}

std::optional<double> numberOrNull(const json& value, const char* key, double low, double high) {
    return value.is_null() ? std::nullopt : std::optional(numberOf(value, key, low, high));
}

std::optional<double> number(const json& object, const char* key, double low, double high) {
    const json* value = find(object, key);
    return value == nullptr ? std::nullopt : std::optional(numberOf(*value, key, low, high));
}

double neededNumber(const json& object, const char* key, double low, double high) {
    return needed(number(object, key, low, high), key);
}

std::optional<std::uint64_t> count(const json& object, const char* key) {
    const json* value = find(object, key);
    if (value == nullptr) return std::nullopt;
    if (!value->is_number_unsigned() || value->get<std::uint64_t>() > 18'000'000'000'000'000'000U)
        throw BadField{key};
    return value->get<std::uint64_t>();
}

std::uint64_t neededCount(const json& object, const char* key) {
    return needed(count(object, key), key);
}

std::optional<bool> flag(const json& object, const char* key) {
    const json* value = find(object, key);
    if (value == nullptr) return std::nullopt;
    if (!value->is_boolean()) throw BadField{key};
    return value->get<bool>();
}

bool neededFlag(const json& object, const char* key) {
    return needed(flag(object, key), key);
}

std::string text(const json& object, const char* key, std::size_t maxBytes) {
    const json* value = find(object, key);
    return value == nullptr ? std::string() : textOf(*value, key, maxBytes);
}

std::string neededText(const json& object, const char* key, std::size_t maxBytes) {
    const json* value = find(object, key);
    if (value == nullptr) throw BadField{key};
    return textOf(*value, key, maxBytes);
}

const json* list(const json& object, const char* key, std::size_t maxItems) {
    const json* value = find(object, key);
    if (value != nullptr && (!value->is_array() || value->size() > maxItems)) throw BadField{key};
    return value;
}

std::vector<std::string> texts(const json& object, const char* key, std::size_t maxItems,
                               std::size_t maxBytes) {
    std::vector<std::string> out;
    if (const json* all = list(object, key, maxItems))
        for (const json& one : *all)
            out.push_back(textOf(one, key, maxBytes));
    return out;
}

std::vector<double> numbers(const json& object, const char* key, std::size_t maxItems, double low,
                            double high) {
    std::vector<double> out;
    if (const json* all = list(object, key, maxItems))
        for (const json& one : *all)
            out.push_back(numberOf(one, key, low, high));
    return out;
}

} // namespace metrodos::quantity::fields
