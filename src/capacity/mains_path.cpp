#include "capacity/mains_path.h"

#include <algorithm>

namespace metrodos::capacity {
namespace {

using namespace house;

std::size_t positionOn(const Circuit& circuit, const Id& outlet) {
    const auto hit = std::find_if(circuit.outlets.begin(), circuit.outlets.end(),
                                  [&](const CircuitOutlet& o) { return o.jack == outlet; });
    return static_cast<std::size_t>(hit - circuit.outlets.begin());
}

// The wire from outlet number `first` to number `last`, first < last; −1 stands for the panel.
WireStretch stretch(const Circuit& circuit, int first, int last) {
    WireStretch out;
    out.circuit = circuit.id;
    out.label = circuit.label;
    out.wiring = circuit.wiring;
    for (int i = first + 1; i <= last; ++i) {
        const auto& step = circuit.outlets[static_cast<std::size_t>(i)].fromPrevious;
        if (step)
            out.metres += step->inMetres();
        else
            ++out.unknownSteps;
    }
    out.outletsPassed = std::max(0, last - first - 1);
    return out;
}

std::vector<Id> upwards(const House& house, const Id& panel) {
    std::vector<Id> out;
    for (const Panel* at = house.panel(panel); at != nullptr && out.size() <= house.panels.size();
         at = house.panel(at->fedBy))
        out.push_back(at->id);
    return out;
}

} // namespace

const Circuit* circuitOf(const House& house, const Id& outlet) {
    for (const Circuit& circuit : house.circuits)
        if (positionOn(circuit, outlet) < circuit.outlets.size()) return &circuit;
    return nullptr;
}

MainsPath mainsPath(const House& house, const Id& outletA, const Id& outletB) {
    MainsPath out;
    const Circuit* a = circuitOf(house, outletA);
    const Circuit* b = circuitOf(house, outletB);
    if (a == nullptr || b == nullptr) return out;
    out.isKnown = true;
    const auto i = static_cast<int>(positionOn(*a, outletA));
    const auto j = static_cast<int>(positionOn(*b, outletB));
    if (a == b) {
        out.sameCircuit = true;
        out.wire.push_back(stretch(*a, std::min(i, j), std::max(i, j)));
        return out;
    }
    out.wire = {stretch(*a, -1, i), stretch(*b, -1, j)};
    out.crossed = {a, b};
    if (a->leg.empty() || b->leg.empty())
        out.legs = Legs::unknown;
    else
        out.legs = a->leg == b->leg ? Legs::same : Legs::different;
    if (a->panel.empty() || b->panel.empty() || a->panel == b->panel) return out;
    const std::vector<Id> up = upwards(house, a->panel);
    const std::vector<Id> other = upwards(house, b->panel);
    for (std::size_t k = 0; k < up.size(); ++k)
        if (const auto hit = std::find(other.begin(), other.end(), up[k]); hit != other.end()) {
            out.subPanels = static_cast<int>(k) + static_cast<int>(hit - other.begin());
            return out;
        }
    out.sameSupply = false;
    return out;
}

} // namespace metrodos::capacity
