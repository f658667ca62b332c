// Reading one entry of a catalog file, with its place for complaints. Internal to the layer: throws Problem.
#pragma once

#include "catalog/spread.h"
#include "quantity/problem.h"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <functional>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

namespace metrodos::catalog {

[[noreturn]] inline void fail(const std::string& where, const std::string& what) {
    throw quantity::Problem{what, where, "correct the catalog file or install the program again"};
}

using json = nlohmann::json;

using quantity::Frequency;

inline json read(const std::filesystem::path& file) {
    std::ifstream stream(file);
    if (!stream) fail(file.string(), "the catalog file cannot be read");
    json document = json::parse(stream, nullptr, false);
    if (!document.is_object() || !document.contains("format") || document.at("format") != "metrodos-catalog")
        fail(file.string(), "it is not a catalog file");
    if (!document.contains("version") || document.at("version") != 1)
        fail(file.string(), "its version is not 1");
    return document;
}

/// One entry with its place, so that every complaint says where.
class Entry {
  public:
    Entry(json value, std::string where)
        : m_value(std::move(value))
        , m_where(std::move(where)) {
        if (!m_value.is_object()) fail(m_where, "an object is expected");
    }

    [[nodiscard]] std::string text(const char* key) const {
        const auto it = m_value.find(key);
        if (it == m_value.end() || !it->is_string() || it->get_ref<const std::string&>().empty())
            fail(m_where, std::string("“") + key + "” must be a text");
        return it->get<std::string>();
    }
    [[nodiscard]] std::string textOr(const char* key) const { return m_value.contains(key) ? text(key) : ""; }
    /// False where it is not said.
    [[nodiscard]] bool flag(const char* key) const {
        const auto it = m_value.find(key);
        if (it == m_value.end()) return false;
        if (!it->is_boolean()) fail(m_where, std::string("“") + key + "” must be true or false");
        return it->get<bool>();
    }
    [[nodiscard]] double number(const char* key, double low, double high) const {
        return bounded(m_value.contains(key) ? m_value.at(key) : json(), key, low, high);
    }
    [[nodiscard]] std::vector<double> numbers(const char* key, std::size_t count, double low,
                                              double high) const {
        return numbersOf(m_value.contains(key) ? m_value.at(key) : json(), key, count, low, high);
    }
    [[nodiscard]] std::vector<double> numbersOf(const json& list, const std::string& key, std::size_t count,
                                                double low, double high) const {
        if (!list.is_array() || list.size() != count)
            fail(m_where, "“" + key + "” has the wrong number of figures");
        std::vector<double> out;
        for (const json& item : list)
            out.push_back(bounded(item, key, low, high));
        if (!std::is_sorted(out.begin(), out.end())) fail(m_where, "“" + key + "” must not fall");
        return out;
    }
    [[nodiscard]] RateSpread rates(const json& list, const std::string& key) const {
        const auto v = numbersOf(list, key, 3, 1e3, 1e12);
        return {quantity::BitRate::bitsPerSecond(v[0]), quantity::BitRate::bitsPerSecond(v[1]),
                quantity::BitRate::bitsPerSecond(v[2])};
    }
    [[nodiscard]] RateSpread rates(const char* key) const {
        return rates(m_value.contains(key) ? m_value.at(key) : json(), key);
    }
    [[nodiscard]] quantity::BitRate rate(const char* key) const {
        return quantity::BitRate::bitsPerSecond(number(key, 1e3, 1e12));
    }
    [[nodiscard]] Frequency frequency(const char* key) const {
        return Frequency::hertz(number(key, 1e3, 1e11));
    }
    [[nodiscard]] Spread<double> spread(const char* key, double low, double high) const {
        const auto v = numbers(key, 3, low, high);
        return {v[0], v[1], v[2]};
    }
    /// An object of its own inside this one, with its source.
    [[nodiscard]] Entry part(const char* key) const {
        Entry out(m_value.contains(key) ? m_value.at(key) : json(), m_where + " " + key);
        (void)out.text("source");
        return out;
    }
    [[nodiscard]] const json& raw() const { return m_value; }
    [[nodiscard]] const std::string& where() const { return m_where; }

  private:
    [[nodiscard]] double bounded(const json& item, const std::string& key, double low, double high) const {
        const double value = item.is_number() ? item.get<double>() : low - 1;
        if (!(value >= low && value <= high)) fail(m_where, "“" + key + "” must be a number in its range");
        return value;
    }

    json m_value; // a copy: entries are small and may be temporaries
    std::string m_where;
};

template <typename Handle>
void each(const json& document, const std::string& file, const char* list, Handle handle) {
    if (!document.contains(list) || !document.at(list).is_array() || document.at(list).empty())
        fail(file, std::string("the list “") + list + "” is missing");
    std::set<std::string> ids;
    std::size_t index = 0;
    for (const json& item : document.at(list)) {
        const Entry entry(item, file + " " + list + "[" + std::to_string(index++) + "]");
        (void)entry.text("source");
        (void)entry.text("label");
        const std::string id = entry.text(item.contains("id") ? "id" : "medium");
        if (!ids.insert(id).second) fail(entry.where(), "the id “" + id + "” is used twice");
        handle(entry);
    }
}

inline std::map<std::string, double> weights(const json& document, const std::string& file, const char* key,
                                             const std::function<bool(const std::string&)>& known) {
    const Entry entry(document.contains(key) ? document.at(key) : json(), file + " " + key);
    (void)entry.text("source");
    std::map<std::string, double> out;
    double sum = 0;
    if (!entry.raw().contains("weights")) fail(entry.where(), "“weights” is missing");
    for (const auto& [id, weight] : entry.raw().at("weights").items()) {
        if (!known(id) || !weight.is_number() || !(weight.get<double>() > 0))
            fail(entry.where(), "the weight of “" + id + "” is wrong");
        sum += out[id] = weight.get<double>();
    }
    if (out.empty()) fail(entry.where(), "“weights” is empty");
    for (auto& [id, weight] : out)
        weight /= sum;
    return out;
}

inline double sourcedValue(const json& document, const std::string& file, const char* key, double low,
                           double high) {
    const Entry entry(document.contains(key) ? document.at(key) : json(), file + " " + key);
    (void)entry.text("source");
    return entry.number("value", low, high);
}

} // namespace metrodos::catalog
