#include "probe/guest_end.h"

namespace metrodos::probe {
namespace {

using quantity::problem;
using quantity::Result;

// No page can set what its browser's sockets do.
bool isUsual(const benchmark::RunConfig& c) {
    return !c.rate && c.congestion.empty() && c.bind.empty() && c.maxBytes == 0 && c.windowBytes == 0 &&
           c.segmentBytes == 0 && c.dscp == 0;
}

} // namespace

Result<void> checkGuestOrder(const std::vector<GuestLeg>& legs) {
    for (const GuestLeg& leg : legs)
        if (leg.config.protocol != benchmark::Protocol::tcp || leg.config.streams < 1 ||
            leg.config.streams > maxGuestStreams)
            return problem("a browser carries 1 to 8 streams of TCP", "",
                           "choose TCP, and at most 8 streams");
    for (const GuestLeg& leg : legs)
        if (!isUsual(leg.config))
            return problem("a browser cannot be told a pace, a window or anything else of that kind", "",
                           "set those back to what is usual");
    if (legs.empty() || legs.size() > 2) return problem("a browser does one or two runs at once");
    return {};
}

} // namespace metrodos::probe
