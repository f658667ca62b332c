// The listening side of an endpoint: takes control connections and serves each in a thread of its own.
#pragma once

#include "probe/agent_keys.h"
#include "probe/guest_door.h"
#include "probe/key_ring.h"
#include "probe/meeting.h"
#include "probe/performer.h"
#include "probe/schedule_keeper.h"

#include <memory>
#include <vector>

namespace metrodos::probe {

struct AgentSettings {
    std::string listen;                         ///< "host:port"; port 0 takes a free one
    std::string name;                           ///< how the endpoint calls itself
    std::shared_ptr<KeyRing> keys;              ///< of those who may connect
    std::vector<AddressRange> allowed;          ///< peers besides the nearby ones
    std::shared_ptr<GuestDoor> guest = nullptr; ///< of devices with a browser; nullptr: none may take part
    std::shared_ptr<ScheduleKeeper> schedules = nullptr; ///< of runs that it makes by itself; nullptr: none
    std::shared_ptr<Meeting> meeting = nullptr;          ///< with who has the code; nullptr: there is none
    /// Where the keys are kept, asked by controllers that may command, and looked at every second: a key that
    /// is taken away ends its sessions; nullptr: the ring is all there is.
    std::shared_ptr<AgentKeys> kept = nullptr;
};

/// Makes the performer of one session; the filter says which peers may open data connections.
using PerformerFactory = std::function<std::unique_ptr<Performer>(const PeerFilter&)>;

/// Runs until destroyed. One thread listens and takes strangers through their handshakes (reception.h); each
/// session of who has shown a key has a thread of its own. What a stranger does costs the sessions no more
/// than that thread's time. At most 16 sessions at once, 12 of one network.
class Agent {
  public:
    static quantity::Result<std::unique_ptr<Agent>> start(const AgentSettings& settings,
                                                          PerformerFactory factory);
    ~Agent();
    Agent(const Agent&) = delete;
    Agent& operator=(const Agent&) = delete;

    [[nodiscard]] Address address() const;

  private:
    struct Impl;
    explicit Agent(std::unique_ptr<Impl> impl);
    std::unique_ptr<Impl> m_impl;
};

} // namespace metrodos::probe
