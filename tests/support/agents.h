// Agents and links on loopback for tests.
#pragma once

#include "probe/agent.h"
#include "probe/conduct.h"
#include "probe/tls.h"

#include <atomic>
#include <filesystem>

namespace metrodos::testing {

using namespace metrodos::probe;

/// An agent on a free port of loopback.
struct LoopbackAgent {
    Key key = Key::generate();
    std::shared_ptr<KeyRing> keys = ringOf(key);
    std::unique_ptr<Agent> agent;
    std::string address;

    /// `folder`: of file copies; empty: none.
    explicit LoopbackAgent(const std::string& name = "test agent", const std::filesystem::path& folder = {}) {
        AgentSettings settings{"127.0.0.1:0", name, keys, {}};
        agent = Agent::start(settings, [name, folder](const PeerFilter& filter) {
                    return makePerformer(name, filter, false, folder);
                }).value();
        address = agent->address().text();
    }
};

/// Counts what belongs to this process, to see that nothing is left behind.
inline std::ptrdiff_t entries(const char* folder) {
    return std::distance(std::filesystem::directory_iterator(folder), std::filesystem::directory_iterator());
}
inline std::ptrdiff_t openFiles() {
    return entries("/proc/self/fd");
}
inline std::ptrdiff_t threads() {
    return entries("/proc/self/task");
}

} // namespace metrodos::testing
