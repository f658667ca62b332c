// What a controller and an agent say to each other of the agent's guest: one writer and one reader each.
// Internal to the layer.
#pragma once

#include "probe/guest_end.h"
#include "probe/message.h"

#include <nlohmann/json.hpp>

namespace metrodos::probe {

[[nodiscard]] nlohmann::json toJson(const GuestState& state);
/// Of untrusted JSON, as the other readers here.
[[nodiscard]] quantity::Result<GuestState> readGuestState(const nlohmann::json& message);

/// The orders of one group, in the order of the legs.
[[nodiscard]] nlohmann::json guestOrder(const std::vector<GuestLeg>& legs);
[[nodiscard]] quantity::Result<std::vector<benchmark::RunConfig>>
readGuestOrder(const nlohmann::json& message);

} // namespace metrodos::probe
