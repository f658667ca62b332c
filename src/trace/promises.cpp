#include "trace/promises.h"

#include "quantity/format.h"

#include <algorithm>

namespace metrodos::trace {
namespace {

using quantity::BitRate;

struct Promise {
    BitRate rate;
    std::string what; ///< "the Coax adapter, hall"
    bool isOfBox = true;
};

std::optional<Promise> leastPromise(const Case& asked, bool isForward) {
    std::optional<Promise> out;
    const auto take = [&](BitRate rate, const std::string& what, bool isOfBox) {
        if (rate > BitRate() && (!out || rate < out->rate)) out = Promise{rate, what, isOfBox};
    };
    for (const capacity::ElementPrediction& e : asked.prediction.elements) {
        const house::Device* device = asked.house.device(e.element.device);
        const catalog::DeviceClass* cls =
            device == nullptr ? nullptr : asked.catalog.device(device->deviceClass);
        if (cls != nullptr) take(cls->rated, device->label, true);
        if (const auto& service = asked.house.service;
            service && e.element.kind == house::ElementKind::service) {
            // Towards the house is down, whichever end the service is.
            const bool isDown = isForward == (asked.prediction.route.from == service->id);
            take((isDown ? service->down : service->up).value_or(BitRate()), service->label, false);
        }
    }
    return out;
}

std::string shareText(double share) {
    return quantity::significant(100 * share, share < 0.1 ? 1 : 2) + " %";
}

bool isFree(const house::House& house, const house::Device& device, const house::Port& port) {
    if (!port.jack.empty()) return false;
    const house::PortRef own{device.id, port.id};
    return std::none_of(house.connections.begin(), house.connections.end(), [&](const house::Connection& c) {
        return std::find(c.ends.begin(), c.ends.end(), own) != c.ends.end();
    });
}

} // namespace

std::string soldAgainstMeasured(const Case& asked, const Diagnosis& d) {
    std::string out;
    std::string last; // whose promise was named
    bool isAnyOfBox = false;
    for (const bool isForward : {true, false}) {
        const auto& measured = isForward ? d.measuredForward : d.measuredBackward;
        const auto promise = leastPromise(asked, isForward);
        if (!measured || !promise) continue;
        out += out.empty() ? "Sold against measured: " : ", ";
        out += std::string(isForward ? "forward " : "backward ") + quantity::plain(*measured) + " of " +
               quantity::plain(promise->rate) + " (" + shareText(measured->bps() / promise->rate.bps());
        if (promise->what != last) out += ", " + promise->what;
        out += ")";
        last = promise->what;
        isAnyOfBox = isAnyOfBox || promise->isOfBox;
    }
    if (isAnyOfBox) out += "; the number on a box is the rate of its modem or port, not of payload";
    return out.empty() ? out : out + ".";
}

std::vector<std::string> slowPorts(const capacity::RoutePrediction& prediction, const house::House& house,
                                   const catalog::Catalog& catalog) {
    std::vector<std::string> out;
    for (const capacity::ElementPrediction& e : prediction.elements) {
        if (e.element.kind != house::ElementKind::port) continue;
        const house::Device* device = house.device(e.element.device);
        const house::Port* used = house.port({e.element.device, e.element.port});
        if (device == nullptr || used == nullptr) continue;
        const catalog::Phy* own = catalog.phy(used->phy);
        if (own == nullptr) continue;
        for (const house::Port& other : device->ports) {
            const catalog::Phy* phy = catalog.phy(other.phy);
            if (other.id == used->id || other.kind != used->kind || phy == nullptr ||
                !(phy->rate > own->rate) || !isFree(house, *device, other))
                continue;
            out.push_back("“" + house.labelOf({device->id, used->id}) + "” is made for " +
                          quantity::plain(own->rate) + " and “" + other.label +
                          "” of the same box, made for " + quantity::plain(phy->rate) + ", is free");
            break;
        }
    }
    return out;
}

} // namespace metrodos::trace
