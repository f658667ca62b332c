#include "fit/steps_json.h"

#include "fit/cause.h"

#include <nlohmann/json.hpp>

namespace metrodos::fit {
namespace {

using nlohmann::json;

json toJson(const Step& s) {
    json parts = json::array();
    for (const Part& p : s.parts)
        parts.push_back({{"class", p.item.empty() ? json(nullptr) : json(p.item)},
                         {"label", p.label},
                         {"count", p.count},
                         {"unit", p.unit.empty() ? "piece" : p.unit}});
    json cautions = json::array();
    for (const Caution& c : s.cautions)
        cautions.push_back({{"text", c.what}, {"because", c.why}});
    return {{"id", s.id},
            {"kind", name(s.kind)},
            {"place", s.room.empty() ? json(nullptr) : json(s.room)},
            {"where", s.where},
            {"label", s.label.empty() ? json(nullptr) : json(s.label)},
            {"do", s.what},
            {"because", s.why},
            {"parts", std::move(parts)},
            {"how", s.measures},
            {"cautions", std::move(cautions)},
            {"see", s.before},
            {"otherwise", s.otherwise},
            {"needs", s.needs},
            {"fits", s.fits},
            {"state", house::name(s.state)},
            {"at", s.at.empty() ? json(nullptr) : json(s.at)},
            {"reason", s.reason},
            {"note", s.note},
            {"changed", s.isChanged},
            {"photos", s.photos}};
}

} // namespace

json stepsDocument(const house::House& house, const catalog::Catalog& catalog,
                   const benchmark::RouteRuns& runs) {
    json list = json::array();
    const std::vector<Step> steps = stepsOf(house, catalog);
    for (const Step& s : steps) {
        json one = toJson(s);
        const auto expected = expectedOf(s, house, catalog, runs);
        const auto measured = measuredOf(s, runs);
        one["expect"] = expected ? json{{"low_bps", expected->low.bps()},
                                        {"high_bps", expected->high.bps()},
                                        {"from", expected->from}}
                                 : json(nullptr);
        one["measured_bps"] = measured ? json(measured->bps()) : json(nullptr);
        // What a run has proven stands until somebody says otherwise.
        if (const auto proven = provenBy(measured, expected); proven && s.at.empty())
            one["state"] = house::name(*proven);
        one["cause"] = nullptr;
        if (one["state"] == house::name(house::StepState::failed) && measured)
            if (const auto cause = causeOf(s, house, catalog, runs)) {
                json suspects = json::array();
                for (const Suspicion& suspect : cause->suspects)
                    suspects.push_back({{"element", suspect.label},
                                        {"state", suspect.state},
                                        {"probability", suspect.probability}});
                one["cause"] = {{"suspects", std::move(suspects)}, {"next_test", cause->nextTest}};
            }
        list.push_back(std::move(one));
    }
    json gone = json::array();
    for (const house::StepRecord& r : noLongerNeeded(house, steps))
        gone.push_back({{"id", r.step}, {"do", r.what}, {"state", house::name(r.state)}, {"note", r.note}});
    return {{"format", "metrodos-steps"},
            {"version", 1},
            {"steps", std::move(list)},
            {"no_longer_needed", std::move(gone)}};
}

} // namespace metrodos::fit
