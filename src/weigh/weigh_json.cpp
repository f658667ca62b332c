#include "weigh/weigh_json.h"

#include <nlohmann/json.hpp>

namespace metrodos::weigh {
namespace {

using nlohmann::json;

json toJson(const SpotResult& s) {
    const bool any = s.way >= 0;
    return {{"spot", s.spot},
            {"way", any ? json(s.wayId) : json(nullptr)},
            {"class", s.deviceClass.empty() ? json(nullptr) : json(s.deviceClass)},
            {"p10_bps", any ? json(s.p10.bps()) : json(nullptr)},
            {"p50_bps", any ? json(s.p50.bps()) : json(nullptr)},
            {"need_bps", s.need.bps() > 0 ? json(s.need.bps()) : json(nullptr)},
            {"headroom", any && s.need.bps() > 0 ? json(s.headroom) : json(nullptr)},
            {"headroom_of_house", any && s.need.bps() > 0 ? json(s.houseHeadroom) : json(nullptr)},
            {"carried", s.isMet()},
            {"wiring_carries", s.carried},
            {"nic", s.nicClass.empty() ? json(nullptr) : json(s.nicClass)},
            {"carried_share", any ? json(s.carriedShare) : json(nullptr)},
            {"sound_share", any ? json(s.soundShare) : json(nullptr)},
            {"limit", s.limit.empty() ? json(nullptr) : json(s.limit)}};
}

json toJson(const Limit& limit) {
    return {{"element", limit.element},
            {"direction", limit.down ? "down" : "up"},
            {"need_bps", limit.need.bps()},
            {"carries_bps", limit.carries.bps()},
            {"because", limit.because}};
}

json toJson(const Options& options, const Plan& plan, const Prices& prices) {
    json spots = json::array();
    json peers = json::array();
    for (std::size_t i = 0; i < plan.spots.size(); ++i)
        (options.spots[i].isPeer ? peers : spots).push_back(toJson(plan.spots[i]));
    json limits = json::array();
    for (const Limit& limit : plan.limits)
        limits.push_back(toJson(limit));
    json parts = json::array();
    for (const PartLine& p : plan.parts)
        parts.push_back({{"class", p.item},
                         {"label", p.label},
                         {"unit", p.unit},
                         {"count", p.count},
                         {"from_stock", p.fromStock},
                         {"unit_price", p.unitPrice.inUnits()},
                         {"total", p.total.inUnits()}});
    return {{"id", plan.id},
            {"label", plan.label},
            {"cost", plan.cost.inUnits()},
            {"currency", prices.currency()},
            {"labour_minutes", plan.minutes},
            {"holes", plan.holes},
            {"years", plan.years},
            {"worst_headroom", plan.headroom},
            {"carries_all", plan.carriesAll},
            {"wiring_carries_all", plan.wiringCarriesAll},
            {"carried_share", plan.carriedShare},
            {"sound_share", plan.soundShare},
            {"limits", std::move(limits)},
            {"proven_gap", plan.gap},
            {"notes", plan.notes},
            {"spots", std::move(spots)},
            {"peers", std::move(peers)},
            {"parts", std::move(parts)}};
}

json spreadOf(const catalog::RateSpread& s) {
    return {{"p10_bps", s.p10.bps()}, {"p50_bps", s.p50.bps()}, {"p90_bps", s.p90.bps()}};
}

json waysOf(const SpotOptions& spot) {
    json out = json::array();
    for (const SpotWay& w : spot.ways) {
        json way{{"way", w.id},
                 {"class", w.deviceClass.empty() ? json(nullptr) : json(w.deviceClass)},
                 {"nic", w.nicClass.empty() ? json(nullptr) : json(w.nicClass)},
                 {"label", w.label},
                 {"ruled_out", w.isPossible() ? json(nullptr) : json(w.ruledOut)}};
        if (w.isPossible()) {
            way["down"] = spreadOf(w.down);
            way["up"] = spreadOf(w.up);
            way["rtt_us"] = w.rttUs.p50;
            way["rtt_loaded_us"] = w.delayUs();
            way["rtt_loaded_was_measured"] = w.measuredLoadedUs.has_value();
            way["watched_s"] = w.watchedSeconds();
            way["steadiness"] = w.steadiness;
            way["labour_minutes"] = w.minutes;
            way["holes"] = w.holes;
            way["years"] = w.years;
            way["promise_bps"] = w.promise.bps() > 0 ? json(w.promise.bps()) : json(nullptr);
            way["measured_down_bps"] = w.measuredDown ? json(w.measuredDown->bps()) : json(nullptr);
            way["measured_up_bps"] = w.measuredUp ? json(w.measuredUp->bps()) : json(nullptr);
        }
        out.push_back(std::move(way));
    }
    return out;
}

json trafficOf(const Need& need) {
    json out = json::array();
    for (const Traffic& t : need.traffic)
        out.push_back({{"peer", t.peer.empty() ? json(nullptr) : json(t.peer)},
                       {"down_bps", t.down.bps()},
                       {"up_bps", t.up.bps()},
                       {"at_once", t.atOnce},
                       {"of_clients", t.isOfClients}});
    return out;
}

} // namespace

json toJson(const Options& options, const Prices& prices, const Weighed& weighed, Objective first) {
    json plans = json::array();
    // The chosen objective's plan, then the other objectives', then the rest of the front.
    std::vector<std::string> order{weighed.best.at(first)};
    for (const Plan& plan : weighed.plans)
        if (plan.id != order.front()) order.push_back(plan.id);
    for (const std::string& id : order)
        for (const Plan& plan : weighed.plans)
            if (plan.id == id) plans.push_back(toJson(options, plan, prices));
    json best = json::object();
    for (const auto& [objective, id] : weighed.best)
        best[std::string(name(objective))] = id;
    json spots = json::array();
    for (const SpotOptions& s : options.spots)
        spots.push_back({{"spot", s.spot},
                         {"label", s.label},
                         {"need_down_bps", s.need.down.bps() > 0 ? json(s.need.down.bps()) : json(nullptr)},
                         {"need_up_bps", s.need.up.bps() > 0 ? json(s.need.up.bps()) : json(nullptr)},
                         {"steady", s.need.steady},
                         {"is_peer", s.isPeer},
                         {"traffic", trafficOf(s.need)},
                         {"ways", waysOf(s)}});
    return {{"format", "metrodos-plans"}, {"version", 1},
            {"school", name(first)},      {"share", options.share},
            {"plans", std::move(plans)},  {"best", std::move(best)},
            {"front", weighed.front},     {"spots", std::move(spots)}};
}

} // namespace metrodos::weigh
