#include "catalog/experience.h"

#include "quantity/fields.h"
#include "quantity/normal.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>

namespace metrodos::catalog {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;

constexpr std::size_t maxClasses = 500;
constexpr std::size_t maxHouses = 5000;
constexpr int rounds = 12; // of the iteration, which halves its error in each

double density(double z) {
    return std::exp(-z * z / 2) / std::sqrt(2 * std::numbers::pi);
}
double above(double z) {
    return std::erfc(z / std::numbers::sqrt2) / 2;
}

// Mean and square of a normal value that is known to lie above a bound.
struct Moments {
    double mean = 0;
    double square = 0;
};
Moments aboveBound(double mean, double deviation, double bound) {
    const double z = (bound - mean) / deviation;
    // Far above the rest the bound is as good as the value.
    constexpr double farOut = 6;
    if (z > farOut) return {bound, bound * bound};
    const double hazard = density(z) / above(z);
    const double m = mean + deviation * hazard;
    const double variance = deviation * deviation * (1 + z * hazard - hazard * hazard);
    return {m, variance + m * m};
}

const RateSpread* rangeOf(const Catalog& catalog, const ClassExperience& e) {
    const DeviceClass* cls = catalog.device(e.deviceClass);
    if (cls == nullptr) return nullptr;
    const auto it = cls->medium.find(e.situation);
    return it == cls->medium.end() || it->second.p10.bps() <= 0 ? nullptr : &it->second;
}

} // namespace

std::optional<RateSpread> refined(const Catalog& catalog, const ClassExperience& experience) {
    const RateSpread* range = rangeOf(catalog, experience);
    if (range == nullptr) return std::nullopt;
    if (experience.houses.empty()) return *range;
    const double tail = quantity::normalQuantile(0.9);
    const double mean0 = std::log(range->p50.bps());
    const double deviation0 =
        std::max((std::log(range->p90.bps()) - std::log(range->p10.bps())) / (2 * tail), 0.02);
    const auto n = static_cast<double>(experience.houses.size());
    double mean = mean0;
    double deviation = deviation0;
    for (int round = 0; round < rounds; ++round) {
        double sum = 0;
        double squares = 0;
        for (const HouseFigure& h : experience.houses) {
            const Moments m = h.isAtLeast ? aboveBound(mean, deviation, h.meanLog)
                                          : Moments{h.meanLog, h.meanLog * h.meanLog};
            sum += m.mean;
            squares += m.square;
        }
        const double average = sum / n;
        const double scatter = std::max(squares - n * average * average, 0.0);
        const double between = priorHouses * n / (priorHouses + n) * std::pow(average - mean0, 2);
        mean = (priorHouses * mean0 + sum) / (priorHouses + n);
        deviation =
            std::sqrt((priorHouses * deviation0 * deviation0 + scatter + between) / (priorHouses + n));
    }
    const auto at = [&](double z) { return BitRate::bitsPerSecond(std::exp(mean + z * deviation)); };
    return RateSpread{at(-tail), at(0), at(tail)};
}

Catalog withExperience(const Catalog& catalog, const Experience& experience) {
    Catalog out = catalog;
    for (const ClassExperience& e : experience) {
        const auto range = refined(catalog, e);
        if (!range || e.houses.empty()) continue;
        for (DeviceClass& cls : out.devices)
            if (cls.id == e.deviceClass) {
                cls.medium[e.situation] = *range;
                cls.refinedBy[e.situation] = static_cast<int>(e.houses.size());
            }
    }
    return out;
}

Experience joined(const Experience& a, const Experience& b) {
    Experience out = a;
    for (const ClassExperience& e : b) {
        const auto same = std::find_if(out.begin(), out.end(), [&](const ClassExperience& o) {
            return o.medium == e.medium && o.deviceClass == e.deviceClass && o.situation == e.situation;
        });
        if (same == out.end()) {
            out.push_back(e);
            continue;
        }
        for (const HouseFigure& h : e.houses)
            if (std::find(same->houses.begin(), same->houses.end(), h) == same->houses.end())
                same->houses.push_back(h);
    }
    return out;
}

json toJson(const Experience& experience) {
    json classes = json::array();
    for (const ClassExperience& e : experience) {
        json houses = json::array();
        for (const HouseFigure& h : e.houses)
            houses.push_back(
                {{"mean_bps", std::exp(h.meanLog)}, {"pairs", h.pairs}, {"at_least", h.isAtLeast}});
        classes.push_back({{"medium", house::name(e.medium)},
                           {"class", e.deviceClass},
                           {"situation", e.situation},
                           {"houses", std::move(houses)}});
    }
    return {{"format", "metrodos-experience"}, {"version", 1}, {"classes", std::move(classes)}};
}

quantity::Result<Experience> experienceFromJson(const json& document) {
    try {
        if (fields::neededText(document, "format", 40) != "metrodos-experience")
            return quantity::problem("this is no file of one's own houses", "",
                                     "choose one that was exported by this program");
        Experience out;
        if (const json* classes = fields::list(document, "classes", maxClasses))
            for (const json& one : *classes) {
                ClassExperience e;
                e.medium = fields::word(one, "medium", &house::medium);
                e.deviceClass = fields::neededText(one, "class", 64);
                e.situation = fields::neededText(one, "situation", 64);
                if (const json* houses = fields::list(one, "houses", maxHouses))
                    for (const json& h : *houses)
                        e.houses.push_back({std::log(fields::neededNumber(h, "mean_bps", 1, 1e12)),
                                            static_cast<int>(fields::neededNumber(h, "pairs", 1, 10'000)),
                                            fields::flag(h, "at_least").value_or(false)});
                out.push_back(std::move(e));
            }
        return out;
    } catch (const quantity::BadField& bad) {
        return quantity::problem("“" + bad.name + "” is missing or out of range", "",
                                 "choose a file that was exported by this program");
    }
}

} // namespace metrodos::catalog
