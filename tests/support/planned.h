// The plan for a house at the catalog's own prices, for the tests of what plans say.
#pragma once

#include "fit/steps.h"
#include "support/served_house.h"
#include "weigh/apply_plan.h"
#include "weigh/objectives.h"

#include <QtGlobal>
#include <algorithm>
#include <cmath>

namespace metrodos::testing {

using namespace weigh;

inline const Prices& prices() {
    static const Prices all(classes(), {});
    return all;
}

inline Options optionsFor(const house::House& h) {
    const auto options = optionsOf(h, classes());
    if (!options) qFatal("%s", options.error().sentence().c_str());
    return *options;
}

inline Plan planFor(const house::House& h, Objective objective = Objective::cheapest) {
    const auto plan = planBy(objective, optionsFor(h), prices());
    if (!plan) qFatal("%s", plan.error().sentence().c_str());
    return *plan;
}

/// The way with this id or key to a spot; one that is not there ends the test.
inline const SpotWay& wayOf(const Options& options, const std::string& way, std::size_t spot = 0) {
    for (const SpotWay& w : options.spots.at(spot).ways)
        if (w.id == way || w.key() == way) return w;
    qFatal("there is no way %s", way.c_str());
}

inline bool isNear(double value, double wanted, double share = 0.005) {
    return std::fabs(value / wanted - 1) <= share;
}

inline bool notes(const Plan& plan, const std::string& words) {
    return std::any_of(plan.notes.begin(), plan.notes.end(),
                       [&](const std::string& n) { return n.find(words) != std::string::npos; });
}

inline std::string stepsOf(const house::House& h, const Plan& plan) {
    std::string all;
    const AppliedPlan made = applyPlan(h, classes(), optionsFor(h), plan).value();
    for (const fit::Step& s : fit::stepsOf(made.house, classes())) {
        all += s.what + "\n";
        for (const std::string& how : s.measures)
            all += how + "\n";
    }
    return all;
}

inline double count(const Plan& plan, const std::string& item) {
    for (const PartLine& line : plan.parts)
        if (line.item == item) return line.count;
    return 0;
}

} // namespace metrodos::testing
