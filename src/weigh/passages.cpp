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
    std::vector<std::size_t> places; // in the prediction
    for (std::size_t i = 0; i < prediction.elements.size(); ++i)
        if (const auto& e = prediction.elements[i]; e.element.device != start || !e.element.port.empty()) {
            elements.push_back(e);
            places.push_back(i);
        }
    for (capacity::ElementPrediction& e : elements)
        if (update) update(e, e.ceiling.forward, e.ceiling.backward);
    const auto nameOf = [&](const Element& e) {
        // What stands at the hub is there for all ways that come from it.
        const Device* device = house.device(e.device);
        const Device* hub = house.device(start);
        const bool forAll = !way.hubShare.empty() && device != nullptr && hub != nullptr &&
                            !device->room.empty() && device->room == hub->room;
        return (forAll ? way.hubShare : spot) + "/" + e.id;
    };
    const std::vector<ElementRisks> risks = risksOf(prediction, house, catalog, nameOf);
    for (const bool isDown : {true, false}) {
        const auto rateOf = [&](const capacity::ElementPrediction& e) -> const Distribution& {
            return isDown ? e.ceiling.forward : e.ceiling.backward;
        };
        std::vector<Distribution::Named> whole;
        std::vector<Distribution::Named> own;
        const capacity::ElementPrediction* least = nullptr;
        std::vector<Risk> ownRisks;
        for (std::size_t i = 0; i < elements.size(); ++i) {
            const capacity::ElementPrediction& e = elements[i];
            const std::vector<Risk>& risk = isDown ? risks[places[i]].forward : risks[places[i]].backward;
            const Distribution& rate = rateOf(e);
            whole.push_back({capacity::drawName(house, e.element, isDown), &rate});
            if (house::isMedium(e.element.kind)) {
                const Connection& connection = *house.connection(e.element.connection);
                const Medium medium = connection.medium;
                const bool isPair = connection.ends.size() == 2; // else the rate is of all its nodes
                std::string language;
                for (const PortRef& end : connection.ends)
                    if (const Device* box = house.device(end.device))
                        if (const auto* cls = catalog.adapterOf(box->deviceClass, catalog::familyOf(medium)))
                            language = cls->speaks;
                // On coax they have bands of their own; on mains they disturb each other.
                const std::string resource =
                    std::string(name(medium)) +
                    (medium == Medium::coax && !language.empty() ? ", " + language : "");
                way.passages.push_back({resource, catalog.medium(medium)->label, rate, isDown, false, risk,
                                        medium == Medium::coax && isPair ? catalog.coax.nodeOverhead : 0,
                                        language,
                                        medium == Medium::mains ? 1 - catalog.mains.otherLanguageShare : 0});
            } else if (e.ceiling.shared) {
                way.passages.push_back(
                    {spot + "/" + e.element.id, e.element.label, rate, isDown, true, risk});
            } else {
                own.push_back(whole.back());
                ownRisks.insert(ownRisks.end(), risk.begin(), risk.end());
                if (least == nullptr || rate.quantile(0.1) < rateOf(*least).quantile(0.1)) least = &e;
            }
        }
        if (!own.empty())
            way.passages.push_back({spot + (isDown ? "/down" : "/up"), labelOf(*least, house, way),
                                    Distribution::least(own), isDown, true, std::move(ownRisks)});
        if (whole.empty()) continue;
        (isDown ? way.wholeDown : way.wholeUp) = Distribution::least(whole);
        (isDown ? way.down : way.up) = (isDown ? way.wholeDown : way.wholeUp)->spread();
    }
}

} // namespace metrodos::weigh
