// How steady a way is, and how long it delays while its media are loaded. Internal to the layer.
#pragma once

#include "weigh/demand.h"

namespace metrodos::weigh {

/// Sets steadiness and loadedUs of a way to a spot that needs so much of it alone (bit/s). Both follow from
/// its media, and from how much more it carries than is needed: with ln rate normal around its median, of
/// spread s from second to second and from hour to hour together, it is below the need for a share
/// Φ(−ln(median / need) / s) of the time. Where there is margin to spare, steadiness is that of the class; a
/// way that was watched has its own, with the class counting as one hour of watching, and where a watch
/// filled the way, median and spread are what that saw.
void setSteadiness(SpotWay& way, const Rates& alone, const catalog::Catalog& catalog);

} // namespace metrodos::weigh
