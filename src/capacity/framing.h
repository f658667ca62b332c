// From line rate to goodput: what Ethernet, IP and the transport take from every frame.
#pragma once

#include "quantity/quantity.h"

namespace metrodos::capacity {

enum class Transport { tcp, udp };

struct Framing {
    int mtu = 1500; ///< bytes of IP packet per frame
    bool vlanTag = false;
    int ipVersion = 4;
    Transport transport = Transport::tcp;
    bool tcpTimestamps = true; ///< RFC 7323, 12 bytes with padding; the default of Linux
};

/// Payload bytes of the transport in one full frame: MTU − IP header (20 or 40) − TCP 20 (+12) or UDP 8.
[[nodiscard]] int payloadBytes(const Framing& framing);

/// Bytes that one full frame takes on the wire: MTU + 38 (preamble and start 8, header 14, check 4, gap 12),
/// + 4 with a VLAN tag. IEEE 802.3 clauses 3 and 4, IEEE 802.1Q.
[[nodiscard]] int wireBytes(const Framing& framing);

/// goodput = line rate × payload / wire bytes.
[[nodiscard]] quantity::BitRate goodput(quantity::BitRate lineRate, const Framing& framing);

} // namespace metrodos::capacity
