// What a way passes, from its prediction. Internal to the layer.
#pragma once

#include "weigh/options.h"

#include <functional>

namespace metrodos::weigh {

/// What the ceilings of an element become by what was measured over it, towards the spot and back.
using CeilingUpdate = std::function<void(const capacity::ElementPrediction&, capacity::Distribution& down,
                                         capacity::Distribution& up)>;

/// Sets rates and passages of a way to `spot` from its prediction in a house, whose first machine is left out
/// and its port is not: a shared medium is everybody's; what is half-duplex by itself is one for both
/// directions; the rest is the spot's own.
void addPassages(SpotWay& way, const house::Id& spot, const capacity::RoutePrediction& prediction,
                 const house::House& house, const catalog::Catalog& catalog,
                 const CeilingUpdate& update = {});

} // namespace metrodos::weigh
