// What one run says about itself, in plain sentences: what held it back, and whether it took the way that it
// was believed to take.
#pragma once

#include "benchmark/run.h"

#include <string>
#include <vector>

namespace metrodos::benchmark {

/// What kept a run from going faster.
enum class HeldBy {
    unknown,        ///< the figures that would tell were not taken
    receiverWindow, ///< closed for more than half of the time (RFC 6349, 3.3)
    sendBuffer,     ///< empty for more than half of the time
    pace,           ///< its own
    senderCore,     ///< one core nine tenths busy or more
    receiverCore,
    loss,       ///< retransmissions, and no queue
    queue,      ///< a queue built up in front of the narrowest element
    network,    ///< the congestion window, and neither loss nor queue show why
    nothing,    ///< UDP: the whole pace arrived
    receiver,   ///< UDP: lost at the receiver's own socket
    senderSide, ///< UDP: the sender's interface or machine did not take the pace
};

struct Attribution {
    HeldBy by = HeldBy::unknown;
    std::string sentence; ///< "held back by …", without a full stop
};
[[nodiscard]] Attribution heldBack(const Run& run);

/// Payload that arrived, from the samples.
[[nodiscard]] double payloadBytes(const Run& run);

/// Rate × idle delay: what must be under way for the rate; nothing without an idle delay.
[[nodiscard]] std::optional<double> bandwidthDelayBytes(const Run& run);

/// What crossed the interface of one side besides the run, by its counter: of this machine or of others
/// behind it. Nothing where it was not counted, is too little to say, or the run was one of a group.
[[nodiscard]] std::optional<BitRate> otherTraffic(const Run& run, const std::optional<InterfaceCount>& count);

/// How the run went astray, if it did: bytes that the interface did not see, other traffic beside it, radio
/// while a cable is up, another interface for the way back, frames with errors, loss of the delay probe.
[[nodiscard]] std::vector<std::string> pathWarnings(const Run& run);

/// The attribution's sentence, then the warnings.
[[nodiscard]] std::vector<std::string> remarks(const Run& run);

} // namespace metrodos::benchmark
