#include "quantity/format.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <locale>

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

// `number` with the program's own decimal mark. Done here, where it is known to be a number: in a whole
// sentence the point of "enp3s0.10" looks like one.
std::string withMark(std::string number) {
    const char mark = std::use_facet<std::numpunct<char>>(std::locale()).decimal_point();
    if (const std::size_t point = number.find('.'); point != std::string::npos) number[point] = mark;
    return number;
}

} // namespace

std::string fixed(double value, int decimals) {
    std::array<char, 340> text{}; // the largest double has 309 digits before the point
    const auto end = std::to_chars(text.data(), text.data() + text.size(), value, std::chars_format::fixed,
                                   std::clamp(decimals, 0, 9))
                         .ptr;
    return {text.data(), end};
}

std::string decimals(double value, int count) {
    return std::isfinite(value) ? withMark(fixed(value, count)) : "–";
}

std::string significant(double value, int figures) {
    if (!std::isfinite(value)) return "–";
    if (value == 0) return "0";
    const int magnitude = static_cast<int>(std::floor(std::log10(std::fabs(value))));
    const int decimals = std::clamp(figures - 1 - magnitude, 0, 9);
    const double next = std::pow(10.0, magnitude + 1);
    // 9.996 at three figures would read "10.00": one decimal too many.
    const double unit = std::pow(10.0, -decimals);
    const bool carries = decimals > 0 && std::round(std::fabs(value) / unit) * unit >= next * (1 - 1e-12);
    return withMark(fixed(value, carries ? decimals - 1 : decimals));
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
    std::string out = fixed(length.inMetres(), 1);
    if (out.ends_with(".0")) out.resize(out.size() - 2);
    return withMark(std::move(out)) + " m";
}

std::string plain(Money money) {
    return "¤ " + withMark(fixed(money.inUnits(), money.hundredths % 100 == 0 ? 0 : 2));
}

std::string plainMicroseconds(double microseconds) {
    if (microseconds < 1000) return significant(microseconds, 3) + " µs";
    return significant(microseconds / 1000, 3) + " ms";
}

} // namespace metrodos::quantity
