// A whole conversation with a session that opens real sockets on loopback, each line one message. Nothing but
// loopback is dialled.
#include "fuzz/scripted_channel.h"
#include "probe/session.h"

using namespace metrodos;
using namespace metrodos::probe;

namespace {

// On loopback; a conversation that was left waits for nobody.
class LoopbackChannel final : public fuzz::ScriptedChannel {
  public:
    using fuzz::ScriptedChannel::ScriptedChannel;
    std::string localHost() const override { return "127.0.0.1"; }
};

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    constexpr std::size_t most = 4096; // each order may open sockets and threads
    LoopbackChannel channel({reinterpret_cast<const char*>(data), std::min(size, most)});
    const auto performer = makePerformer("fuzz", [](const Address& peer) { return peer.isLoopback(); });
    const std::atomic<bool> never{false};
    serveSession(channel, *performer, "fuzz", never);
    return 0;
}
