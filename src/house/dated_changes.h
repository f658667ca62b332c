// What was exchanged between two states of a house: what may be the cause where a later run differs.
#pragma once

#include "house/house.h"

namespace metrodos::house {

/// `after` with a note of each exchange since `before`: the rates of the service, the class of a device, what
/// its ports are and where they are plugged in, the category of a cable, what a bus is plugged into, where
/// both were known. What becomes known for the first time is no exchange. `at`: ISO 8601, UTC.
[[nodiscard]] House withChangesNoted(const House& before, House after, const std::string& at);

/// Those after `from` and up to `until`, both ISO 8601, UTC; oldest first.
[[nodiscard]] std::vector<DatedChange> changesBetween(const House& house, const std::string& from,
                                                      const std::string& until);

} // namespace metrodos::house
