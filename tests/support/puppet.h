// An endpoint that says what a test has it say.
#pragma once

#include "probe/endpoint_link.h"

#include <functional>
#include <nlohmann/json.hpp>
#include <optional>
#include <thread>
#include <vector>

namespace metrodos::testing {

/// An endpoint whose answers a test writes: one function from order to answers.
class Puppet {
  public:
    using Script = std::function<std::vector<nlohmann::json>(const nlohmann::json&)>;

    explicit Puppet(Script script) {
        auto [mine, theirs] = probe::localChannel();
        m_thread = std::thread(
            [script = std::move(script), channel = std::shared_ptr<probe::Channel>(std::move(theirs))] {
                for (;;) {
                    const auto config = channel->receive(std::chrono::seconds(5));
                    if (!config || !*config) return;
                    for (const nlohmann::json& answer : script(**config)) {
                        if (answer.is_null())
                            channel->close();
                        else if (!channel->send(answer))
                            return;
                    }
                }
            });
        link.emplace(probe::EndpointLink::greet(std::move(mine), "puppet"));
    }
    ~Puppet() {
        link.reset();
        m_thread.join();
    }
    std::optional<quantity::Result<probe::EndpointLink>> link;

  private:
    std::thread m_thread;
};

inline nlohmann::json greeting() {
    return {{"type", "hello"}, {"protocol", probe::protocolVersion}, {"name", "puppet"}, {"simulated", true}};
}

} // namespace metrodos::testing
