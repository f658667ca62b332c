// Reading and writing optional fields of documents. Internal to the layer: readers throw Wrong or json
// exceptions.
#pragma once

#include "house/house.h"

#include <nlohmann/json.hpp>

namespace metrodos::job {

using json = nlohmann::json;

/// A word of an enumeration that does not exist.
struct Wrong {
    std::string what;
};

inline std::string text(const json& object, const char* key) {
    const auto it = object.find(key);
    return it == object.end() || it->is_null() ? std::string() : it->get<std::string>();
}

/// An id: null means unknown.
inline json orNull(const std::string& id) {
    return id.empty() ? json(nullptr) : json(id);
}

template <typename T>
json orNull(const std::optional<T>& value) {
    return value ? json(*value) : json(nullptr);
}
inline json orNull(const std::optional<quantity::BitRate>& rate) {
    return rate ? json(rate->bps()) : json(nullptr);
}
inline json orNull(const std::optional<quantity::Length>& length) {
    return length ? json(length->inMetres()) : json(nullptr);
}
inline json orNull(const std::optional<quantity::Frequency>& frequency) {
    return frequency ? json(frequency->inHertz()) : json(nullptr);
}

template <typename T>
T named(std::optional<T> value, const json& object, const char* key) {
    if (!value) throw Wrong{"“" + object.at(key).dump() + "” is not a " + key};
    return *value;
}

template <typename T>
std::optional<T> optional(const json& object, const char* key) {
    if (!object.contains(key) || object.at(key).is_null()) return std::nullopt;
    return object.at(key).get<T>();
}
inline std::optional<quantity::BitRate> rate(const json& object, const char* key) {
    const auto bps = optional<double>(object, key);
    return bps ? std::optional(quantity::BitRate::bitsPerSecond(*bps)) : std::nullopt;
}
inline std::optional<quantity::Length> length(const json& object, const char* key) {
    const auto metres = optional<double>(object, key);
    return metres ? std::optional(quantity::Length::metres(*metres)) : std::nullopt;
}

} // namespace metrodos::job
