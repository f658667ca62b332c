// A whole simulated run at once, with the same record as a measured one.
#pragma once

#include "standin/flow_model.h"

namespace metrodos::standin {

/// Deterministic for a seed. Fails only where the route is not joined.
[[nodiscard]] quantity::Result<benchmark::Run>
simulate(const house::House& house, const catalog::Catalog& catalog, const house::Route& route,
         const benchmark::RunConfig& config, std::uint64_t seed, int repeat, const Situation& situation = {});

/// All the orders at once over one route, as one group when there are several.
[[nodiscard]] quantity::Result<std::vector<benchmark::Run>>
simulate(const house::House& house, const catalog::Catalog& catalog, const house::Route& route,
         const std::vector<benchmark::RunConfig>& configs, std::uint64_t seed, int repeat,
         const Situation& situation = {});

/// Payload bytes with their headers, as an interface counts them (MTU 1500 without preamble and gap).
[[nodiscard]] std::uint64_t countedBytes(double payload);

} // namespace metrodos::standin
