// How a route is set up for a run: what of it lies between the two machines, and what is other than surveyed.
#pragma once

#include "house/house.h"

#include <nlohmann/json_fwd.hpp>
#include <vector>

namespace metrodos::benchmark {

/// Something of the route is other than surveyed.
struct Alteration {
    house::Id element;
    house::AlterationKind kind = house::AlterationKind::other_outlet;
    std::string place = {}; ///< other_outlet: which, a jack or "device.port"; empty: not known

    friend auto operator<=>(const Alteration&, const Alteration&) = default;
};

inline constexpr std::size_t maxElementBytes = 130; ///< of an element's id: device, dot, port
inline constexpr std::size_t maxBypassed = 64;
inline constexpr std::size_t maxAltered = 8;

/// The default is the route as surveyed. A simulated house is set up so; a real one was, by hand.
struct Arrangement {
    house::Setup setup = house::Setup::place;
    /// Elements that the run does not pass: left out, bridged, or exchanged for a part known to be good.
    std::vector<house::Id> bypassed = {};
    bool swapped = false; ///< the machines at the ends have changed places
    std::vector<Alteration> altered = {};

    [[nodiscard]] bool isAsSurveyed() const { return *this == Arrangement{}; }

    friend auto operator<=>(const Arrangement&, const Arrangement&) = default;
};

/// Writes "setup", "bypassed", "swapped" and "altered" ({"element", "how", "place"} each) into an object, and
/// reads those that are there. Throws quantity::BadField.
void writeArrangement(nlohmann::json& object, const Arrangement& arrangement);
[[nodiscard]] Arrangement readArrangement(const nlohmann::json& object);

} // namespace metrodos::benchmark
