// What a controller that may command asks of an agent about keys.
#pragma once

#include "probe/endpoint_link.h"
#include "probe/key_file.h"

namespace metrodos::probe {

/// The agent makes a key for one holder and keeps it; `holder` says to its owner whose it is.
[[nodiscard]] quantity::Result<Key> askForKey(EndpointLink& agent, Right right, const std::string& holder);

/// The agent knows the key that the link was opened with no longer. A key from its key file stays in that
/// file, but is noted as retired.
[[nodiscard]] quantity::Result<void> askToForget(EndpointLink& agent);

/// The same for a key that somebody else has, by its identity (key_ring.h).
[[nodiscard]] quantity::Result<void> askToForget(EndpointLink& agent, const std::string& identity);

} // namespace metrodos::probe
