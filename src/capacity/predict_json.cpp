#include "capacity/predict_json.h"

#include <nlohmann/json.hpp>

namespace metrodos::capacity {

using nlohmann::json;

json toJson(const RateSpread& spread) {
    return {{"p10_bps", spread.p10.bps()}, {"p50_bps", spread.p50.bps()}, {"p90_bps", spread.p90.bps()}};
}

json toJson(const std::vector<RoutePrediction>& routes) {
    json list = json::array();
    for (const RoutePrediction& route : routes) {
        json elements = json::array();
        for (const ElementPrediction& e : route.elements)
            elements.push_back({{"id", e.element.id},
                                {"kind", house::name(e.element.kind)},
                                {"label", e.element.label},
                                {"forward", toJson(e.forward)},
                                {"backward", toJson(e.backward)},
                                {"limiter_probability", (e.limiterForward + e.limiterBackward) / 2},
                                {"because", e.ceiling.because}});
        list.push_back({{"id", route.route.id},
                        {"from", route.route.from},
                        {"to", route.route.to},
                        {"forward", toJson(route.forward)},
                        {"backward", toJson(route.backward)},
                        {"elements", std::move(elements)}});
    }
    return {{"format", "metrodos-prediction"}, {"version", 1}, {"routes", std::move(list)}};
}

} // namespace metrodos::capacity
