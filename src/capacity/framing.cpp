#include "capacity/framing.h"

namespace metrodos::capacity {

int payloadBytes(const Framing& framing) {
    const int ip = framing.ipVersion == 6 ? 40 : 20;
    const int transport = framing.transport == Transport::udp ? 8 : 20 + (framing.tcpTimestamps ? 12 : 0);
    return framing.mtu - ip - transport;
}

int wireBytes(const Framing& framing) {
    return framing.mtu + 38 + (framing.vlanTag ? 4 : 0);
}

quantity::BitRate goodput(quantity::BitRate lineRate, const Framing& framing) {
    return lineRate * (static_cast<double>(payloadBytes(framing)) / wireBytes(framing));
}

} // namespace metrodos::capacity
