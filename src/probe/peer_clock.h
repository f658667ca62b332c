// How far two machines' clocks are apart.
#pragma once

#include "probe/endpoint_link.h"

namespace metrodos::probe {

/// Seconds since 1970 by this machine's clock.
[[nodiscard]] double wallSeconds();

/// Seconds by which the clock at the other end is ahead of this machine's: of several exchanges the one with
/// the shortest way, whose middle is taken for the moment of the answer (as RFC 5905 does), so that the error
/// is at most half of its round trip. Nothing where the other end does not say.
[[nodiscard]] std::optional<double> clockAhead(EndpointLink& link);

} // namespace metrodos::probe
