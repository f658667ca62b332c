// The address plan: which port has which address, what clashes, and how each clash is mended.
//
// A fixed address has to lie outside the automatic pool, or the router gives it to somebody else as well. A
// reserved one may lie inside it: a server keeps a binding for whom it is meant (RFC 2131, section 4.3.1).
#pragma once

#include "house/house.h"
#include "quantity/ip_address.h"

#include <map>

namespace metrodos::house {

enum class ClashKind {
    bad_network,     ///< its prefix, gateway or pool cannot be read
    overlap,         ///< two networks have addresses in common
    gateway_outside, ///< of its network
    pool_outside,    ///< or upside down
    gateway_in_pool,
    gone,        ///< the port or network of an address is not there any more
    missing,     ///< an address is still to be chosen
    bad_address, ///< cannot be read
    wrong_network,
    not_for_hosts,  ///< the network's own or its broadcast address
    twice,          ///< two ports, or a port and the gateway
    twice_reserved, ///< one hardware address, two reservations of one network
    inside_pool,
    no_hardware, ///< a reservation without
    none_left,   ///< no address outside the pool is free
};

struct Clash {
    ClashKind kind = ClashKind::twice;
    Id network;                            ///< empty: none that is there
    Id address;                            ///< of Addressing::ports; empty: it is about the network
    std::string what;                      ///< a sentence without a full stop
    std::string mend;                      ///< what to do, in the imperative
    std::optional<Addressing> mended = {}; ///< with that done; nothing: only a person can
};

/// Everything that does not fit together, networks first. None: each address is unique, in its network, none
/// that is fixed in the automatic pool.
[[nodiscard]] std::vector<Clash> clashesOf(const House& house);

/// The first address of the network that nobody has, outside the pool; nothing where none is left or the
/// network cannot be read.
[[nodiscard]] std::optional<quantity::IpAddress> freeAddress(const Addressing& addressing,
                                                             const Network& network);

/// An id that no network, or no address, of the plan has.
[[nodiscard]] Id freeNetworkId(const Addressing& addressing);
[[nodiscard]] Id freeAddressId(const Addressing& addressing);

/// The network with its pool moved to where no fixed address lies: as large as before where there is room,
/// and as near; nothing where it has none or can stay.
[[nodiscard]] std::optional<Network> shiftedPool(const Addressing& addressing, const Network& network);

/// Whose address this is; `address` may have a port behind it, as that of an endpoint. Nothing: in no plan.
[[nodiscard]] std::optional<PortRef> portAt(const House& house, std::string_view address);

/// What says that a run over the route will go to or from a port that is not the route's, by the addresses of
/// its endpoints; a sentence for each end where that is so.
[[nodiscard]] std::vector<std::string> wrongPorts(const House& house, const Route& route);

/// "loft-pc", "loft-pc-lan-2": names for hosts files and reservations, as RFC 1123 has them, each once, by
/// the id of the address.
[[nodiscard]] std::map<Id, std::string> hostNames(const House& house);

/// How reservations are written for a router.
enum class ReservationSyntax {
    lines, ///< dhcp-host=HARDWARE,ADDRESS,NAME
    blocks ///< host NAME { hardware ethernet HARDWARE; fixed-address ADDRESS; }
};
/// A hosts file (hosts(5)), and reservations: those without a hardware address are comments.
[[nodiscard]] std::string hostsFile(const House& house);
[[nodiscard]] std::string reservations(const House& house, ReservationSyntax syntax);

} // namespace metrodos::house
