// A controller made of the bytes of an input.
#pragma once

#include "probe/channel.h"

#include <algorithm>
#include <string>
#include <string_view>

namespace metrodos::fuzz {

using namespace metrodos::probe;

/// Hands out the lines of the input, then says that the peer has left.
class ScriptedChannel : public Channel {
  public:
    explicit ScriptedChannel(std::string_view script)
        : m_script(script) {}
    quantity::Result<void> send(const nlohmann::json& message) override {
        (void)message.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
        return {};
    }
    quantity::Result<std::optional<nlohmann::json>> receive(std::chrono::milliseconds) override {
        if (m_script.empty()) return quantity::problem("the peer has left");
        const auto end = std::min(m_script.find('\n'), m_script.size());
        auto message = parseMessage(m_script.substr(0, end));
        m_script.remove_prefix(std::min(end + 1, m_script.size()));
        if (!message) return tl::unexpected(message.error());
        return std::move(*message);
    }
    void close() override {}

  private:
    std::string_view m_script;
};

} // namespace metrodos::fuzz
