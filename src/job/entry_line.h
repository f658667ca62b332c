// Fast entry: one line per thing, fields divided by "/", as one types it standing in the room.
#pragma once

#include "catalog/catalog.h"
#include "quantity/problem.h"

#include <string>
#include <string_view>
#include <vector>

namespace metrodos::job {

/// What a line made of the house.
struct Entered {
    house::House house;
    std::string label; ///< "Loft coax 1", for the undo step and the answer
    house::Id thing;   ///< what was added or changed first
};

/// Understands, in any case and with field names in any order after the first two:
///   Loft / floor 2 [/ building Barn]                 a room
///   Loft / coax [/ from Hall] [/ RG-6] [/ 23 m] [/ bad connector]
///   Loft / data [/ from Hall switch port 4 | from Hall] [/ cat 6] [/ 18 m] [/ 4 pairs] [/ tested]
///   Loft / outlet [/ on upper sockets] [/ 4 m]       and "3 outlets" for several
///   Loft / phone [/ from Hall]
///   Loft / laptop [/ Anna's laptop] [/ 2.5G] [/ nvme] a machine; also switch, router
///   Loft / need / 1.8G down / 50M up [/ image stacking]
///   Loft / appliance / dimmer [/ at Loft outlet 1] [/ 18-23]
///   service / 900M down / 300M up / at Service router
///   splitter / 3-way / rated / Loft; filter, amplifier, entry, joint likewise
///   panel / House panel [/ Hall] [/ fed by Main]
///   circuit / upper sockets / House panel [/ leg 2] [/ breaker]
/// Jacks are numbered by room and kind. A field that is not understood is one clear sentence; nothing is
/// changed then.
[[nodiscard]] quantity::Result<Entered> enterLine(const house::House& house, const catalog::Catalog& catalog,
                                                  std::string_view line);

/// What the last field of an unfinished line may become: whole fields, best first, at most 12.
[[nodiscard]] std::vector<std::string> completions(const house::House& house, const catalog::Catalog& catalog,
                                                   std::string_view line);

/// A second room with the same jacks, numbered anew, and no runs.
[[nodiscard]] quantity::Result<Entered> duplicateRoom(const house::House& house, const std::string& room,
                                                      const std::string& label);

} // namespace metrodos::job
