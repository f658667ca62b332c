#include "quantity/moment.h"

#include "quantity/ascii.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <ctime>

namespace metrodos::quantity {
namespace {

constexpr std::int64_t last = 253'402'300'799; // of the year 9999

int number(std::string_view digits) {
    int out = 0;
    for (const char c : digits)
        out = out * 10 + (c - '0');
    return out;
}

} // namespace

std::string utcText(std::int64_t seconds) {
    const auto at = static_cast<std::time_t>(std::clamp<std::int64_t>(seconds, 0, last));
    std::tm parts{};
    ::gmtime_r(&at, &parts);
    std::array<char, 32> text{};
    std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M:%SZ", &parts);
    return text.data();
}

std::string utcNow() {
    return utcText(std::time(nullptr));
}

std::optional<std::int64_t> utcSeconds(std::string_view text) {
    constexpr std::string_view form = "dddd-dd-ddTdd:dd:dd";
    if (text.size() <= form.size() || text.back() != 'Z') return std::nullopt;
    using ascii::isDigit;
    for (std::size_t i = 0; i < form.size(); ++i)
        if (form[i] == 'd' ? !isDigit(text[i]) : text[i] != form[i]) return std::nullopt;
    const std::string_view fraction = text.substr(form.size(), text.size() - form.size() - 1);
    if (!fraction.empty() && (fraction.size() < 2 || fraction[0] != '.' ||
                              !std::all_of(fraction.begin() + 1, fraction.end(), isDigit)))
        return std::nullopt;
    std::tm parts{};
    parts.tm_year = number(text.substr(0, 4)) - 1900;
    parts.tm_mon = number(text.substr(5, 2)) - 1;
    parts.tm_mday = number(text.substr(8, 2));
    parts.tm_hour = number(text.substr(11, 2));
    parts.tm_min = number(text.substr(14, 2));
    parts.tm_sec = number(text.substr(17, 2));
    const std::tm asked = parts;
    const std::time_t at = ::timegm(&parts);
    // The 31st of April would be the first of May.
    if (parts.tm_mon != asked.tm_mon || parts.tm_mday != asked.tm_mday || parts.tm_hour != asked.tm_hour ||
        parts.tm_min != asked.tm_min || at < 0)
        return std::nullopt;
    return at;
}

std::string LocalTime::dateText() const {
    std::array<char, 48> text{};
    std::snprintf(text.data(), text.size(), "%04d-%02d-%02d", year, month, day);
    return text.data();
}

LocalTime localTime(std::int64_t seconds) {
    const auto at = static_cast<std::time_t>(seconds);
    std::tm parts{};
    ::localtime_r(&at, &parts);
    constexpr int sunday = 6;
    return {parts.tm_year + 1900, parts.tm_mon + 1,
            parts.tm_mday,        parts.tm_wday == 0 ? sunday : parts.tm_wday - 1,
            parts.tm_hour,        parts.tm_min};
}

} // namespace metrodos::quantity
