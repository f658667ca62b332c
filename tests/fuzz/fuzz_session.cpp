// A whole conversation: each line is one message to a session whose performer does nothing.
#include "probe/session.h"

#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

namespace {

using namespace metrodos;
using namespace metrodos::probe;

class IdlePerformer final : public Performer {
  public:
    bool simulated() const override { return true; }
    nlohmann::json facts() override { return nlohmann::json::object(); }
    quantity::Result<DataTarget> prepare(const RunTask&, const std::string& host) override {
        return DataTarget{host, 1, 1, {}};
    }
    quantity::Result<void> join(const RunTask&, const DataTarget&, const Interrupted&) override { return {}; }
    std::optional<benchmark::Percentiles> idleDelay(const Interrupted&) override { return std::nullopt; }
    quantity::Result<void> start(Emit) override { return {}; }
    void cancel() override {}
};

/// Hands out the lines of the input, then says that the peer has left.
class ScriptedChannel final : public Channel {
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

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    ScriptedChannel channel({reinterpret_cast<const char*>(data), size});
    IdlePerformer performer;
    const std::atomic<bool> never{false};
    // Kept over all inputs: the first of the 16 schedules that it takes are all that it has, and none is due.
    static const auto keeper =
        ScheduleKeeper::start(
            {{}, [] { return EndpointLink::here("fuzz"); }, {}, [] { return std::int64_t(0); }, &uptimeNow})
            .value();
    serveSession(channel, performer, "fuzz", never, {nullptr, {}, keeper.get()});
    return 0;
}
