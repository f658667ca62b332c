#include "benchmark/remarks.h"

#include "benchmark/delay_statistics.h"
#include "benchmark/rate_steps.h"
#include "benchmark/run_measures.h"
#include "benchmark/tolerances.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>

namespace metrodos::benchmark {
namespace {

using quantity::plain;
using quantity::plainMicroseconds;
using quantity::significant;

constexpr double mostOfTheTime = 0.5;
constexpr double paceReached = 0.97;
constexpr double muchLoss = 0.002;    // of segments: below, cubic still fills the links of a house
constexpr double noticedLoss = 0.001; // of datagrams
constexpr double queueAboveUs = 1000; // a rise of the delay that is no jitter
constexpr double queueFactor = 1.5;
constexpr double headers = 1.1;    // an interface counts payload, headers and acknowledgements
constexpr double otherAbove = 1e6; // bit/s of other traffic that is worth a word

std::string percent(double share) {
    return share > 0 && share < 0.001 ? "<0.1 %" : significant(share * 100, share < 0.1 ? 2 : 3) + " %";
}

Attribution ofDatagrams(const Run& run) {
    if (!run.datagrams) return {HeldBy::unknown, ""};
    const DatagramCount& d = *run.datagrams;
    const double loss = d.lossRatio();
    if (d.unsent > (d.sent + d.unsent) / 100)
        return {HeldBy::senderSide,
                "the sender could not get rid of " +
                    percent(static_cast<double>(d.unsent) / static_cast<double>(d.sent + d.unsent)) +
                    " of the pace: its own interface or machine is the limit"};
    const std::string rate = run.config.rate ? plain(*run.config.rate) : std::string("the pace");
    if (loss < noticedLoss) return {HeldBy::nothing, "all of " + rate + " arrived, but for " + percent(loss)};
    const auto lost = static_cast<double>(d.sent - std::min(d.received, d.sent));
    if (static_cast<double>(d.dropped) > lost / 2)
        return {HeldBy::receiver,
                percent(loss) + " of " + rate + " was lost, most of it in the receiving machine itself"};
    return {HeldBy::network, percent(loss) + " of " + rate + " was lost on the way"};
}

void addInterface(std::vector<std::string>& out, const Run& run, const std::optional<InterfaceCount>& count,
                  const std::string& side) {
    if (!count) return;
    const std::string where = count->name + " of the " + side;
    const double payload = payloadBytes(run);
    const auto counted = static_cast<double>(count->bytes);
    if (payload > 1e5 && counted < 0.9 * payload)
        out.push_back("the bytes did not cross " + where + ": its counter saw " + bytesText(counted) +
                      " of " + bytesText(payload));
    if (const auto other = otherTraffic(run, count))
        out.push_back("beside the run about " + plain(*other) + " of other traffic crossed " + where);
    if (count->radio == true && count->cableToo == true)
        out.push_back("the run went by radio over " + where + " although a cable is up there");
    if (!count->elsewhere.empty())
        out.push_back("the " + side + " would reach the other end by " + count->elsewhere + ", not by " +
                      count->name + ": the ways there and back may differ");
    if (count->errors.value_or(0) > 0)
        out.push_back(std::to_string(*count->errors) + " frames with errors or dropped at " + where +
                      ": look at its cable");
}

} // namespace

std::optional<BitRate> otherTraffic(const Run& run, const std::optional<InterfaceCount>& count) {
    // Loopback counts both directions and whatever else runs on the machine.
    if (!count || count->name == "lo" || !run.config.group.empty()) return std::nullopt;
    const double payload = payloadBytes(run);
    const double other =
        (static_cast<double>(count->bytes) / headers - payload) * 8 / std::max(run.seconds, 0.1);
    if (payload <= 1e5 || other <= otherAbove || other <= 0.05 * run.goodput.bps()) return std::nullopt;
    return BitRate::bitsPerSecond(other);
}

double payloadBytes(const Run& run) {
    double sum = 0;
    double last = 0;
    for (const Sample& s : run.samples) {
        sum += s.goodputBps * (s.t - last) / 8;
        last = s.t;
    }
    return sum;
}

std::optional<double> bandwidthDelayBytes(const Run& run) {
    if (!run.rttIdleUs) return std::nullopt;
    return run.goodput.bps() / 8 * run.rttIdleUs->p50 * 1e-6;
}

Attribution heldBack(const Run& run) {
    if (run.config.protocol == Protocol::udp) return ofDatagrams(run);
    if (!run.senderLimited) return {HeldBy::unknown, ""};
    const SenderLimited& limited = *run.senderLimited;
    if (run.config.rate && run.goodput.bps() >= paceReached * run.config.rate->bps())
        return {HeldBy::pace, "held back by its own pace of " + plain(*run.config.rate)};
    if (limited.receiverWindow > mostOfTheTime) {
        std::string text =
            "held back by the receive window, closed " + percent(limited.receiverWindow) + " of the time";
        if (const auto under = bandwidthDelayBytes(run))
            text += ": about " + bytesText(*under / run.config.streams) + " a stream were under way";
        return {HeldBy::receiverWindow, text + "; several streams or a larger window go faster"};
    }
    // One full core explains a poor window and an empty buffer; so it comes before the buffer.
    if (run.cpuSender.value_or(0) >= fullCore)
        return {HeldBy::senderCore,
                "held back by the sender: one of its cores was " + percent(*run.cpuSender) + " busy"};
    if (run.cpuReceiver.value_or(0) >= fullCore)
        return {HeldBy::receiverCore,
                "held back by the receiver: one of its cores was " + percent(*run.cpuReceiver) + " busy"};
    if (limited.sendBuffer > mostOfTheTime)
        return {HeldBy::sendBuffer,
                "held back by the send buffer, too small " + percent(limited.sendBuffer) + " of the time"};
    const bool knowsDelay = run.rttIdleUs && run.rttLoadedUs;
    const double rise = knowsDelay ? run.rttLoadedUs->p50 - run.rttIdleUs->p50 : 0;
    if (knowsDelay && rise > queueAboveUs && run.rttLoadedUs->p50 > queueFactor * run.rttIdleUs->p50)
        return {HeldBy::queue, "held back by the network: a queue of " + bytesText(*queueBytes(run)) +
                                   " built up in front of the narrowest element and added " +
                                   plainMicroseconds(rise)};
    const double loss = resentShare(run).value_or(0);
    if (loss > muchLoss)
        return {HeldBy::loss, "held back by loss: " + percent(loss) +
                                  " of the segments were sent again, and no queue built up"};
    return {HeldBy::network, "held back by the network, without a queue that would show where"};
}

std::vector<std::string> pathWarnings(const Run& run) {
    std::vector<std::string> out;
    addInterface(out, run, run.interfaceSender, "sender");
    addInterface(out, run, run.interfaceReceiver, "receiver");
    if (!run.spikes.empty()) {
        const auto worst = std::ranges::max_element(run.spikes, {}, &DelaySpike::rttUs);
        out.push_back(
            "the delay leapt " +
            (run.spikes.size() == 1 ? std::string("once") : std::to_string(run.spikes.size()) + " times") +
            ", to " + plainMicroseconds(worst->rttUs) + " at " + significant(worst->t, 3) + " s");
    }
    if (run.delayLost.value_or(0) > 0)
        out.push_back(std::to_string(*run.delayLost) + " delay probes never came back");
    return out;
}

std::vector<std::string> remarks(const Run& run) {
    std::vector<std::string> out = pathWarnings(run);
    const Attribution held = heldBack(run);
    if (!held.sentence.empty()) out.insert(out.begin(), held.sentence);
    if (!run.redirectedTo.empty())
        out.push_back("the service's address sends on to " + run.redirectedTo +
                      ": the figure is that of the way there");
    // A port or an adapter that sleeps between packets wakes late for some (IEEE 802.3, 78).
    constexpr std::size_t often = 4;
    constexpr double steady = 0.03;
    if (run.spikes.size() >= often && secondsSpread(run).value_or(1) < steady)
        out.push_back("short spikes of the delay at a steady rate: a port or an adapter may be saving power; "
                      "turn that off and run again");
    // What interactive use feels first (RFC 8289, 1).
    constexpr double swollenUs = 100e3;
    if (run.rttIdleUs && run.rttLoadedUs && run.rttLoadedUs->p50 - run.rttIdleUs->p50 > swollenUs)
        out.push_back("a swollen queue: calls and games suffer while it is full; set the rate a little below "
                      "this one in the router that stands before it, or let that manage its queue");
    for (const RateStep& step : rateSteps(run)) {
        std::string text = step.after < step.before ? "the rate fell from " : "the rate rose from ";
        text += plain(step.before) + " to " + plain(step.after) + " at " + significant(step.t, 3) + " s";
        out.push_back(std::move(text));
    }
    return out;
}

} // namespace metrodos::benchmark
