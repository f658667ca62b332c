// What a spot needs, from what is done there or in figures.
#pragma once

#include "catalog/catalog.h"
#include "quantity/problem.h"

#include <chrono>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::weigh {

using quantity::BitRate;

/// Traffic between a spot and one other end: a part of its need.
struct Traffic {
    std::string peer; ///< house::servicePeer, a device's id, or empty: anywhere in the house
    BitRate down;     ///< towards the spot, all of it
    BitRate up;
    double atOnce = 1;        ///< share of it that goes on while the rest of the house is busy, 0–1
    bool isOfClients = false; ///< what other spots draw from the device at this one
};

struct Need {
    BitRate down; ///< towards the spot, goodput; 0: nothing is known
    BitRate up;
    std::optional<std::chrono::microseconds> delay; ///< round trip at most, also under load
    bool steady = false;                            ///< drop-outs and spikes are felt
    std::vector<std::string> because;               ///< the sum, a line each
    std::vector<Traffic> traffic;                   ///< by other end; together down and up

    [[nodiscard]] bool any() const { return down.bps() > 0 || up.bps() > 0; }
};

/// The uses of a spot added up; a figure of the spot goes before what follows from its uses, and comes from
/// the spot's own peer, the service where none is named. Steady uses go on all at once with the rest of the
/// house, of the others the house's share (house::Weighing::atOnce); figures count whole.
[[nodiscard]] Need needOf(const house::House& house, const house::Spot& spot,
                          const catalog::Catalog& catalog);

/// The device that stands for a kind of other end: the host with most disks for a store or a recorder; empty:
/// there is none, or anywhere in the house.
[[nodiscard]] std::string peerOf(const house::House& house, catalog::PeerKind kind);

/// Reads "2 4K streams + 8 calls + backup 400 GB in 3 h to Store + capture 1.8G + access point 1200"; parts
/// are separated by '+', ',' or "and"; "from" and "to" name the other end, a device of the house by label or
/// id, or "the service". A Problem names the part that is not understood. An empty text is no use at all.
[[nodiscard]] quantity::Result<std::vector<house::Use>>
parseUses(std::string_view text, const catalog::Catalog& catalog, const house::House& house = {});

/// The same written out again; parseUses with the same house reads it back.
[[nodiscard]] std::string usesText(const std::vector<house::Use>& uses, const catalog::Catalog& catalog,
                                   const house::House& house = {});

} // namespace metrodos::weigh
