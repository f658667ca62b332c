// Where a typed line says that a cable, a plug or an adapter goes. Internal to the layer.
#pragma once

#include "catalog/catalog.h"
#include "job/entry_words.h"
#include "quantity/problem.h"

#include <optional>
#include <string>

namespace metrodos::job {

/// The end of a cable of this medium that a typed place names: a jack, a part's first free port ("out" before
/// "in"), "BOX port 3", a box's first free port, or a room, where it ends loose. Throws Ambiguous.
[[nodiscard]] std::optional<PortRef> endNamed(const House& house, Medium medium, const std::string& place);

/// The socket or slot of a machine that an adapter of this class sits in: "MACHINE front USB socket" by the
/// label of the socket, "MACHINE USB 2" by its class, which is noted where the machine has none of it yet, or
/// "MACHINE" alone where only one is free. Throws Ambiguous.
[[nodiscard]] quantity::Result<PortRef> socketNamed(House& house, const catalog::Catalog& catalog,
                                                    const catalog::DeviceClass& adapter,
                                                    const std::string& place);

/// The first id of the form "stem-1", "stem-2" … that no port of the device has.
[[nodiscard]] Id freePort(const Device& device, const std::string& stem);

/// Puts an adapter that is in the house onto the network that those of its medium and language form there, or
/// forms one with the first other that is on none.
void joinOthers(House& house, const catalog::Catalog& catalog, const Id& adapter);

} // namespace metrodos::job
