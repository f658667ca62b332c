// What lies between two outlets: wire, outlets passed, devices crossed, panels, legs.
#pragma once

#include "house/house.h"

#include <vector>

namespace metrodos::capacity {

/// A stretch of wire: known metres, and steps of unknown length.
struct WireStretch {
    house::Id circuit;
    std::string label;
    std::string wiring; ///< catalog id; empty: unknown
    double metres = 0;
    int unknownSteps = 0;
    int outletsPassed = 0;
};

enum class Legs { same, different, unknown };

/// The way between two outlets, as far as the survey tells. Without circuits for both only `isKnown` is set.
struct MainsPath {
    bool isKnown = false;
    bool sameCircuit = false;
    bool sameSupply = true; ///< their panels hang on one main panel
    std::vector<WireStretch> wire;
    std::vector<const house::Circuit*> crossed; ///< circuits whose protective device is crossed
    int subPanels = 0;
    Legs legs = Legs::same;
};

[[nodiscard]] MainsPath mainsPath(const house::House& house, const house::Id& outletA,
                                  const house::Id& outletB);

/// The circuit that an outlet is on, or nullptr.
[[nodiscard]] const house::Circuit* circuitOf(const house::House& house, const house::Id& outlet);

} // namespace metrodos::capacity
