#include "quantity/format.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace metrodos::quantity {
namespace {

template <std::size_t count>
std::string scaled(double value, const std::array<const char*, count>& units) {
    std::size_t step = 0;
    // 999.5 would round to "1000" in the smaller unit.
    while (step + 1 < units.size() && value >= 999.5) {
        value /= 1000;
        ++step;
    }
    return significant(value, 3) + " " + units[step];
}

} // namespace

std::string significant(double value, int figures) {
    if (!std::isfinite(value)) return "–";
    if (value == 0) return "0";
    const int magnitude = static_cast<int>(std::floor(std::log10(std::fabs(value))));
    const int decimals = std::clamp(figures - 1 - magnitude, 0, 9);
    std::array<char, 64> text{};
    std::snprintf(text.data(), text.size(), "%.*f", decimals, value);
    std::string out = text.data();
    // 9.996 at three figures prints as "10.00": one decimal too many.
    if (decimals > 0 && std::fabs(std::stod(out)) >= std::pow(10.0, magnitude + 1)) out.pop_back();
    if (!out.empty() && out.back() == '.') out.pop_back();
    return out;
}

std::string plain(BitRate rate) {
    return scaled(rate.bps(), std::array{"bit/s", "kbit/s", "Mbit/s", "Gbit/s"});
}

std::string plainBytes(BitRate rate) {
    return scaled(rate.bps() / 8, std::array{"B/s", "kB/s", "MB/s", "GB/s"});
}

std::string plain(ByteCount count) {
    return scaled(static_cast<double>(count.bytes), std::array{"B", "kB", "MB", "GB", "TB", "PB"});
}

std::string plainBoth(BitRate rate) {
    return plain(rate) + " · " + plainBytes(rate);
}

std::string plain(Length length) {
    std::array<char, 64> text{};
    std::snprintf(text.data(), text.size(), "%.1f", length.inMetres());
    std::string out = text.data();
    if (out.size() > 2 && out.ends_with(".0")) out.resize(out.size() - 2);
    return out + " m";
}

std::string plain(Money money) {
    std::array<char, 64> text{};
    std::snprintf(text.data(), text.size(), money.hundredths % 100 == 0 ? "¤ %.0f" : "¤ %.2f",
                  money.inUnits());
    return text.data();
}

std::string plainMicroseconds(double microseconds) {
    if (microseconds < 1000) return significant(microseconds, 3) + " µs";
    return significant(microseconds / 1000, 3) + " ms";
}

} // namespace metrodos::quantity
