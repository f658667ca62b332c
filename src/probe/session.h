// The endpoint's side of a control connection: reads orders, checks each field, lets the performer act.
#pragma once

#include "probe/channel.h"
#include "probe/guest_door.h"
#include "probe/performer.h"
#include "probe/schedule_keeper.h"

#include <atomic>

namespace metrodos::probe {

/// What an agent offers besides runs.
struct SessionExtras {
    GuestDoor* guest = nullptr; ///< nullptr: no device with a browser may take part
    /// Forgets the key that the controller has shown; empty: this endpoint has no such keys.
    std::function<quantity::Result<void>()> forget = {};
    ScheduleKeeper* schedules = nullptr; ///< nullptr: this endpoint makes no runs by itself
};

/// Serves one controller until the channel closes, the controller falls silent during a run, or `stop` is
/// set. A run in progress then ends. The first message must be a hello of the same protocol version:
///   hello → hello · facts → facts · prepare → prepared · join → joined · idle → idle · start → events ·
///   cancel → cancelled · alive → (nothing) · guest, guest-run (guest_door.h) · forget → forgotten ·
///   clock → clock · schedule-… (schedule_messages.h).
/// What cannot be done is answered by a problem.
void serveSession(Channel& channel, Performer& performer, const std::string& name,
                  const std::atomic<bool>& stop, const SessionExtras& extras = {});

} // namespace metrodos::probe
