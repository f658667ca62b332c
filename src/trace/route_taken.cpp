#include "trace/route_taken.h"

#include "benchmark/remarks.h"
#include "trace/tolerances.h"

#include <algorithm>

namespace metrodos::trace {
namespace {

// A radio is a way of this route only where its survey has one.
bool hasAir(const capacity::RoutePrediction& prediction) {
    return std::any_of(prediction.elements.begin(), prediction.elements.end(),
                       [](const auto& e) { return e.element.kind == house::ElementKind::air; });
}

} // namespace

std::optional<std::string> saysNothing(const benchmark::Run& run,
                                       const capacity::RoutePrediction& prediction) {
    if (!run.complete && run.seconds < rampUpSeconds) return "it was stopped before it had got up to speed";
    if (run.simulated) return std::nullopt;
    const auto& sender = run.interfaceSender;
    const auto& receiver = run.interfaceReceiver;
    if (sender && receiver && sender->name == "lo" && receiver->name == "lo")
        return "both ends are one machine: it never left it (lo)";
    const double payload = benchmark::payloadBytes(run);
    for (const auto& [count, side] : {std::pair(&sender, "sender"), std::pair(&receiver, "receiver")}) {
        if (!*count) continue;
        const benchmark::InterfaceCount& c = **count;
        if (c.radio == true && !hasAir(prediction))
            return "it went over radio (" + c.name + " of the " + side + ") and the route is cable";
        if (payload > leastCounted && static_cast<double>(c.bytes) < crossedFrom * payload)
            return "the interface " + c.name + " of the " + side +
                   " did not carry its bytes: it went over another one";
    }
    return std::nullopt;
}

} // namespace metrodos::trace
