// The ways to get from one place of the house to another over what is in its walls, best first.
#pragma once

#include "capacity/predict.h"

namespace metrodos::capacity {

/// The class of a family that carries most; nullptr: the catalog has none.
[[nodiscard]] const catalog::DeviceClass* fastest(const catalog::Catalog& catalog, catalog::Family family);

/// The classes of a family, the one that carries most first.
[[nodiscard]] std::vector<const catalog::DeviceClass*> byRate(const catalog::Catalog& catalog,
                                                              catalog::Family family);

/// The Ethernet port of a machine, or of an adapter in its sockets, that carries most, the socket included;
/// one of unknown rate counts as what most are. Nothing: it has none.
[[nodiscard]] std::optional<house::PortRef>
bestPort(const house::House& house, const catalog::Catalog& catalog, const house::Device& machine);

enum class WayKind { existing, data, coax, mains, air };

/// One way with the house that it is predicted in: the real one, or a small one with the adapters that would
/// be needed, the real plant between them, and at its ends the machines that are named, with their sockets
/// and ports; a fast one where a room or a jack is.
struct Way {
    WayKind kind = WayKind::existing;
    std::string label;        ///< "coax, Loft coax to Hall coax, two adapters of 2500 class"
    std::string adapterClass; ///< that it would take; empty: none, or what is there
    house::House house;
    RoutePrediction prediction;
};

/// Of the house's own wiring what a way passes: ids of runs, of circuits, and of devices with their leads.
[[nodiscard]] std::vector<house::Id> wiresOf(const house::House& house, const Way& way);

/// Which adapters are tried over a medium.
enum class Adapters { fastest, all };

/// `from` and `to` are rooms, jacks or devices of the house. Over each medium the best pair of jacks is
/// taken, with the catalog's fastest adapters, or with each class as a way of its own; radio is there as the
/// baseline. Sorted by the median of the slower direction. Fails when a place does not exist or both are the
/// same.
[[nodiscard]] quantity::Result<std::vector<Way>> waysBetween(const house::House& house,
                                                             const catalog::Catalog& catalog,
                                                             const house::Id& from, const house::Id& to,
                                                             Adapters adapters = Adapters::fastest);

/// The way between two places over a new run of data cable, as `cable` says (its ends are not looked at).
/// Nothing where a place does not exist.
[[nodiscard]] std::optional<Way> wayOverCable(const house::House& house, const catalog::Catalog& catalog,
                                              const house::Id& from, const house::Id& to,
                                              const house::Connection& cable, const std::string& label);

struct KeptRoute {
    house::House house;
    house::Id route;
    bool isNew = true; ///< false: the two ends were joined by a route of the job already
};

/// The house with an installed way as a route to measure; the machines at its ends become endpoints where
/// they are not. Fails for a way that is not installed.
[[nodiscard]] quantity::Result<KeptRoute> withRoute(const house::House& house, const Way& way);

} // namespace metrodos::capacity
