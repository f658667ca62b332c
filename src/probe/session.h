// The endpoint's side of a control connection: reads orders, checks each field, lets the performer act.
#pragma once

#include "probe/agent_keys.h"
#include "probe/channel.h"
#include "probe/guest_door.h"
#include "probe/message_budget.h"
#include "probe/performer.h"
#include "probe/schedule_keeper.h"

#include <atomic>

namespace metrodos::probe {

/// What an agent offers besides runs.
struct SessionExtras {
    GuestDoor* guest = nullptr;          ///< nullptr: no device with a browser may take part
    AgentKeys* kept = nullptr;           ///< nullptr: no keys can be made or forgotten here
    ScheduleKeeper* schedules = nullptr; ///< nullptr: this endpoint makes no runs by itself
    /// What the key that was shown lets its holder do now; nothing: it was taken away, and the session ends.
    /// Empty: everything.
    std::function<std::optional<Right>()> right = {};
    MessageBudget* budget = nullptr; ///< nullptr: messages are heard as they come
};

/// Serves one controller until the channel closes, the controller falls silent during a run, its key is taken
/// away, or `stop` is set. A run in progress then ends. The first message must be a hello of the same
/// protocol version:
///   hello → hello · facts → facts · prepare → prepared · join → joined · idle → idle · start → events ·
///   cancel → cancelled · alive → (nothing) · guest, guest-run (guest_door.h) · forget → forgotten ·
///   grant → granted · file → file-made · clock → clock · schedule-… (schedule_messages.h).
/// What was opened or made for a run goes with cancel. What cannot be done is answered by a problem. A run
/// goes on while “alive” comes with its name, at least every three seconds; other messages keep the session
/// only. Who may only take part has hello, prepare, join, idle, start, cancel, alive and clock.
void serveSession(Channel& channel, Performer& performer, const std::string& name,
                  const std::atomic<bool>& stop, const SessionExtras& extras = {});

} // namespace metrodos::probe
