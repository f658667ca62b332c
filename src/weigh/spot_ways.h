// The ways to one spot. Internal to the layer; options.h says what comes of it.
#pragma once

#include "weigh/demand.h"
#include "weigh/measured.h"

namespace metrodos::weigh {

/// Every way of the catalog from the hub's room to a spot that needs so much of it alone (bit/s), the
/// impossible ones with the reason.
[[nodiscard]] std::vector<SpotWay> waysTo(const house::House& house, const catalog::Catalog& catalog,
                                          const house::Id& hubRoom, const house::Spot& spot,
                                          const std::vector<Measured>& measured, const Rates& alone);

/// The classes of which one at the hub serves an adapter of this class, this one among them: its family and
/// its standard, as fast or faster; the fastest first.
[[nodiscard]] std::vector<std::string> servingAtHub(const catalog::Catalog& catalog,
                                                    const catalog::DeviceClass& least);

/// The box in the hub's room that has one of these adapter classes built in; null: none has.
[[nodiscard]] const house::Device* boxWithInside(const house::House& house, const catalog::Catalog& catalog,
                                                 const house::Id& hubRoom,
                                                 const std::vector<std::string>& adapters);

/// The house with a network adapter of this class in the machine: in a free socket of its kind, else in one
/// that nobody has entered yet.
[[nodiscard]] house::House withNic(const house::House& house, const catalog::Catalog& catalog,
                                   const house::Device& machine, const catalog::DeviceClass& nic);

/// Ways with a faster network adapter in the machine at the spot, where it is the machine that falls short of
/// what is wanted (bit/s, each way): of each way with the cheapest that is enough, or else the one that
/// brings most.
[[nodiscard]] std::vector<SpotWay> waysWithNic(const house::House& house, const catalog::Catalog& catalog,
                                               const house::Id& hubRoom, const house::Spot& spot,
                                               const std::vector<Measured>& measured,
                                               const SpotOptions& options, const Options& all);

} // namespace metrodos::weigh
