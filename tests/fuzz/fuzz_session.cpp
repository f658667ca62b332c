// A whole conversation: each line is one message to a session whose performer does nothing.
#include "fuzz/scripted_channel.h"
#include "probe/session.h"

#include <nlohmann/json.hpp>
#include <string>

namespace {

using namespace metrodos;
using namespace metrodos::probe;
using metrodos::fuzz::ScriptedChannel;

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
    const auto keys = AgentKeys::ofKey(Key::generate()); // granted and forgotten
    SessionExtras extras;
    extras.kept = keys.get();
    extras.schedules = keeper.get();
    serveSession(channel, performer, "fuzz", never, extras);
    return 0;
}
