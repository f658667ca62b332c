#include "quantity/parse.h"
#include "quantity/text.h"

#include "quantity/ascii.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <string>

namespace metrodos::quantity {
namespace {

struct NumberAndUnit {
    double number = 0;
    std::string unit; // without blanks
};

// Splits "113 MB/s" into 113 and "MB/s". A decimal comma counts as a point; exponents are not taken.
std::optional<NumberAndUnit> split(std::string_view text) {
    std::string compact;
    for (const char c : text)
        if (c != ' ' && c != '\t') compact.push_back(c == ',' ? '.' : c);
    const auto end = std::find_if_not(compact.begin(), compact.end(),
                                      [](char c) { return ascii::isDigit(c) || c == '.'; });
    const std::string digits(compact.begin(), end);
    if (digits.empty() || digits.size() > 20) return std::nullopt;
    NumberAndUnit out;
    const auto [stop, error] =
        std::from_chars(digits.data(), digits.data() + digits.size(), out.number, std::chars_format::fixed);
    if (error != std::errc{} || stop != digits.data() + digits.size()) return std::nullopt;
    out.unit.assign(end, compact.end());
    return out;
}

struct Unit {
    std::string_view name;
    double factor;
};

template <std::size_t N>
std::optional<double> factorOf(std::string_view unit, const std::array<Unit, N>& table) {
    const auto* hit = std::find_if(table.begin(), table.end(), [&](const Unit& u) { return u.name == unit; });
    if (hit == table.end()) return std::nullopt;
    return hit->factor;
}

// The prefix of a rate and what is left of its unit behind it.
double takePrefix(std::string_view& unit) {
    static constexpr std::array<Unit, 7> prefixes{{{"Ki", 1024.0},
                                                   {"Mi", 1048576.0},
                                                   {"Gi", 1073741824.0},
                                                   {"k", 1e3},
                                                   {"K", 1e3},
                                                   {"M", 1e6},
                                                   {"G", 1e9}}};
    for (const Unit& prefix : prefixes)
        if (unit.substr(0, prefix.name.size()) == prefix.name) {
            unit.remove_prefix(prefix.name.size());
            return prefix.factor;
        }
    return 1.0;
}

} // namespace

Result<BitRate> parseBitRate(std::string_view text) {
    static constexpr std::array<Unit, 14> bases{{{"", 1},
                                                 {"b", 1},
                                                 {"b/s", 1},
                                                 {"bps", 1},
                                                 {"bit", 1},
                                                 {"bits", 1},
                                                 {"bit/s", 1},
                                                 {"bits/s", 1},
                                                 {"B", 8},
                                                 {"B/s", 8},
                                                 {"Bps", 8},
                                                 {"byte/s", 8},
                                                 {"bytes/s", 8},
                                                 {"/s", 1}}};
    const auto refuse = [&] {
        return problem(inQuotes(text) + " is not a rate", "", "write it like 1.2G, 940M or 113 MB/s");
    };
    const auto parts = split(text);
    if (!parts) return refuse();
    std::string_view unit = parts->unit;
    const double prefix = takePrefix(unit);
    const auto base = factorOf(unit, bases);
    if (!base) return refuse();
    const double bps = parts->number * prefix * *base;
    if (!(bps > 0) || bps > 1e12) return refuse();
    return BitRate::bitsPerSecond(bps);
}

Result<ByteCount> parseByteCount(std::string_view text) {
    static constexpr std::array<Unit, 9> units{{{"", 1.0},
                                                {"k", 1e3},
                                                {"K", 1e3},
                                                {"M", 1e6},
                                                {"G", 1e9},
                                                {"T", 1e12},
                                                {"Ki", 1024.0},
                                                {"Mi", 1048576.0},
                                                {"Gi", 1073741824.0}}};
    const auto parts = split(text);
    std::string_view unit = parts ? std::string_view(parts->unit) : std::string_view();
    if (!unit.empty() && unit.back() == 'B') unit.remove_suffix(1);
    const auto factor = parts ? factorOf(unit, units) : std::nullopt;
    if (!factor || parts->number * *factor > 1e18)
        return problem("this is not a number of bytes", std::string(text), "write it like 256 KiB or 4 GB");
    return ByteCount{static_cast<std::uint64_t>(std::llround(parts->number * *factor))};
}

Result<Length> parseLength(std::string_view text) {
    static constexpr std::array<Unit, 7> units{
        {{"", 1}, {"m", 1}, {"cm", 0.01}, {"km", 1000}, {"ft", 0.3048}, {"'", 0.3048}, {"in", 0.0254}}};
    const auto parts = split(text);
    const auto factor = parts ? factorOf(parts->unit, units) : std::nullopt;
    if (!factor || parts->number * *factor > 100e3)
        return problem(inQuotes(text) + " is not a length", "", "write it like 23 m or 30 ft");
    return Length::metres(parts->number * *factor);
}

Result<std::chrono::duration<double>> parseDuration(std::string_view text) {
    static constexpr std::array<Unit, 6> units{
        {{"", 1}, {"s", 1}, {"ms", 1e-3}, {"min", 60}, {"h", 3600}, {"d", 86400}}};
    const auto parts = split(text);
    const auto factor = parts ? factorOf(parts->unit, units) : std::nullopt;
    const double seconds = factor ? parts->number * *factor : 0;
    if (!(seconds > 0) || seconds > 30 * 86400.0)
        return problem(inQuotes(text) + " is not a time", "", "write it like 10 s, 500 ms or 5 min");
    return std::chrono::duration<double>(seconds);
}

std::optional<long long> parseWhole(std::string_view text, long long low, long long high) {
    long long value = 0;
    const auto [stop, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc{} || stop != text.data() + text.size() || value < low || value > high)
        return std::nullopt;
    return value;
}

} // namespace metrodos::quantity
