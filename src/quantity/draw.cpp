#include "quantity/draw.h"

#include <array>
#include <cmath>
#include <numbers>

namespace metrodos::quantity {
namespace {

constexpr std::uint64_t mixed(std::uint64_t hash) {
    hash += 0x9e3779b97f4a7c15ULL;
    hash = (hash ^ (hash >> 30U)) * 0xbf58476d1ce4e5b9ULL;
    hash = (hash ^ (hash >> 27U)) * 0x94d049bb133111ebULL;
    return hash ^ (hash >> 31U);
}

constexpr double unit(std::uint64_t hash) {
    return (static_cast<double>(hash >> 11U) + 0.5) / 9007199254740992.0;
}

constexpr std::size_t tableSize = 8192;

} // namespace

std::uint64_t hashOf(std::uint64_t seed, std::string_view name) {
    std::uint64_t hash = 0xcbf29ce484222325ULL ^ seed;
    for (const char c : name)
        hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
    return mixed(hash);
}

double uniformOf(std::uint64_t seed, std::string_view name) {
    return unit(hashOf(seed, name));
}

double normalDraw(std::uint64_t n) {
    static const std::array<double, tableSize> table = [] {
        std::array<double, tableSize> out{};
        for (std::size_t i = 0; i < tableSize; i += 2) { // Box and Muller
            const double radius = std::sqrt(-2 * std::log(unit(mixed(i))));
            const double angle = 2 * std::numbers::pi * unit(mixed(i + 1));
            out[i] = radius * std::cos(angle);
            out[i + 1] = radius * std::sin(angle);
        }
        return out;
    }();
    return table[n % tableSize];
}

} // namespace metrodos::quantity
