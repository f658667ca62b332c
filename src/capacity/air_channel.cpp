#include "capacity/air_channel.h"

#include "capacity/contribution.h"
#include "quantity/draw.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>

namespace metrodos::capacity {

AirQuestion airBetween(const catalog::AirModel& model, const house::Room& a, const house::Room& b) {
    AirQuestion out;
    const int floors = std::abs(a.floor - b.floor);
    const bool apart = a.building != b.building;
    out.distance = (apart ? model.betweenBuildings : model.betweenRooms) + model.perFloor * floors;
    out.walls = (apart ? model.wallsBetweenBuildings : model.wallsBetweenRooms) + floors;
    return out;
}

AirForecast airForecast(const catalog::AirModel& model, const AirQuestion& question) {
    constexpr int assumedWalls = 2; // at most, where nobody counted
    std::vector<double> draws;
    for (std::uint64_t n = 1; n <= drawsPerPath; ++n) {
        const auto chance = [&](const char* what) { return quantity::uniformOf(n, what); };
        const double distance = question.distance ? question.distance->inMetres()
                                                  : valueAt(model.unknownDistance, chance("air/distance"));
        const double walls =
            question.walls ? *question.walls : std::floor(chance("air/walls") * (assumedWalls + 1));
        const double stations = question.stations
                                    ? *question.stations
                                    : std::max(1.0, valueAt(model.stations, chance("air/stations")));
        const double path = 10 * model.exponent * std::log10(std::max(distance, 0.1) / model.referenceMetres);
        const double excess = std::max(0.0, path + walls * valueAt(model.wallDb, chance("air/wall")));
        draws.push_back(
            std::max(1.0, question.negotiated.bps() * valueAt(model.nearShare, chance("air/near")) *
                              std::pow(2, -excess / model.dbPerHalving) / stations));
    }
    AirForecast out;
    out.rate = Distribution::ofDraws(std::move(draws));
    out.arithmetic = {
        "negotiated near by " + quantity::plain(question.negotiated) + ", of which " +
            quantity::significant(model.nearShare.p10 * 100, 2) + " to " +
            quantity::significant(model.nearShare.p90 * 100, 2) + " % are goodput",
        (question.distance ? quantity::plain(*question.distance) : std::string("unknown distance")) + ", " +
            (question.walls ? std::to_string(*question.walls) + " walls" : "unknown walls") +
            ": the rate halves with every " + quantity::significant(model.dbPerHalving, 2) + " dB",
        question.stations ? "shared by " + std::to_string(*question.stations) + " stations"
                          : "shared by an unknown number of stations"};
    return out;
}

} // namespace metrodos::capacity
