#include "weigh/passages.h"

namespace metrodos::weigh {

using namespace house;
using capacity::Distribution;

namespace {

// What it is called where it decides.
std::string labelOf(const capacity::ElementPrediction& e, const House& house, const SpotWay& way) {
    const Device* device = house.device(e.element.device);
    if (device == nullptr || e.element.kind == ElementKind::cable) return way.label;
    return e.element.port.empty() ? device->label : "the port of " + device->label;
}

} // namespace

void addPassages(SpotWay& way, const Id& spot, const capacity::RoutePrediction& prediction,
                 const House& house, const catalog::Catalog& catalog, const CeilingUpdate& update) {
    const Id start = house.deviceAt(prediction.route.from);
    std::vector<capacity::ElementPrediction> elements;
    for (const capacity::ElementPrediction& e : prediction.elements)
        if (e.element.device != start || !e.element.port.empty()) elements.push_back(e);
    for (capacity::ElementPrediction& e : elements)
        if (update) update(e, e.ceiling.forward, e.ceiling.backward);
    for (const bool isDown : {true, false}) {
        const auto rateOf = [&](const capacity::ElementPrediction& e) -> const Distribution& {
            return isDown ? e.ceiling.forward : e.ceiling.backward;
        };
        std::vector<Distribution::Named> whole;
        std::vector<Distribution::Named> own;
        const capacity::ElementPrediction* least = nullptr;
        for (const capacity::ElementPrediction& e : elements) {
            const Distribution& rate = rateOf(e);
            whole.push_back({capacity::drawName(house, e.element, isDown), &rate});
            if (house::isMedium(e.element.kind)) {
                const Medium medium = house.connection(e.element.connection)->medium;
                way.passages.push_back(
                    {std::string(name(medium)), catalog.medium(medium)->label, rate, isDown});
            } else if (e.ceiling.shared) {
                way.passages.push_back({spot + "/" + e.element.id, e.element.label, rate, isDown, true});
            } else {
                own.push_back(whole.back());
                if (least == nullptr || rate.quantile(0.1) < rateOf(*least).quantile(0.1)) least = &e;
            }
        }
        if (!own.empty())
            way.passages.push_back({spot + (isDown ? "/down" : "/up"), labelOf(*least, house, way),
                                    Distribution::least(own), isDown, true});
        if (whole.empty()) continue;
        (isDown ? way.wholeDown : way.wholeUp) = Distribution::least(whole);
        (isDown ? way.down : way.up) = (isDown ? way.wholeDown : way.wholeUp)->spread();
    }
}

} // namespace metrodos::weigh
