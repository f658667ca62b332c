#include "probe/run_events.h"

#include "benchmark/run_parts.h"
#include "probe/message.h"

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;

constexpr std::size_t maxIdBytes = 64;

// A figure that is out of its bounds was not taken; the rest of the event is still worth having.
template <typename Read>
auto figure(Read read) -> decltype(read()) {
    const auto sound = fields::ifSound(read);
    return sound ? *sound : decltype(read())();
}

template <typename T>
void put(json& message, const char* key, const std::optional<T>& value) {
    if (value) message[key] = *value;
}

} // namespace

json toJson(const SampleEvent& e) {
    json out{{"type", "sample"}, {"run", e.run}, {"n", e.number}, {"t_s", e.t}};
    put(out, "cpu", e.cpu);
    put(out, "goodput_bps", e.goodputBps);
    if (!e.streamBps.empty()) out["streams_bps"] = e.streamBps;
    put(out, "loss_ratio", e.lossRatio);
    put(out, "tcp_rtt_us", e.tcpRttUs);
    put(out, "window_bytes", e.windowBytes);
    put(out, "retransmits", e.retransmits);
    put(out, "rtt_us", e.rttUs);
    return out;
}

quantity::Result<SampleEvent> readSampleEvent(const json& message) {
    return reading([&] {
        SampleEvent e;
        e.run = fields::neededText(message, "run", maxIdBytes);
        e.number = static_cast<std::size_t>(
            fields::neededNumber(message, "n", 1, benchmark::maxRun / benchmark::sampleSeconds + 1));
        e.t = fields::neededNumber(message, "t_s", 0, benchmark::maxSeconds);
        e.cpu = figure([&] { return fields::number(message, "cpu", 0, 1); });
        e.goodputBps = fields::number(message, "goodput_bps", 0, benchmark::maxBps);
        e.streamBps = figure([&] {
            return fields::numbers(message, "streams_bps", benchmark::maxStreams, 0, benchmark::maxBps);
        });
        e.lossRatio = figure([&] { return fields::number(message, "loss_ratio", 0, 1); });
        e.tcpRttUs = figure([&] { return fields::number(message, "tcp_rtt_us", 0, benchmark::maxRttUs); });
        e.windowBytes = figure([&] { return fields::number(message, "window_bytes", 0, benchmark::maxBps); });
        e.retransmits = figure([&] { return fields::count(message, "retransmits"); });
        e.rttUs = figure([&] { return fields::number(message, "rtt_us", 0, benchmark::maxRttUs); });
        return e;
    });
}

json toJson(const FinishedEvent& e) {
    json out{{"type", "finished"}, {"run", e.run}, {"seconds", e.seconds}, {"bytes", e.bytes}};
    put(out, "cpu", e.cpu);
    put(out, "cpu_process", e.cpuProcess);
    if (e.interface) out["interface"] = benchmark::toJson(e.interface);
    if (e.senderLimited) out["sender_limited"] = benchmark::toJson(e.senderLimited);
    put(out, "retransmits", e.retransmits);
    put(out, "datagrams_sent", e.datagramsSent);
    put(out, "datagrams_unsent", e.datagramsUnsent);
    if (e.datagrams) out["datagrams"] = benchmark::toJson(e.datagrams);
    put(out, "moved_s", e.movedSeconds);
    put(out, "sync_s", e.syncSeconds);
    if (e.rttLoadedUs) out["rtt_loaded_us"] = benchmark::toJson(e.rttLoadedUs);
    put(out, "delay_lost", e.delayLost);
    if (!e.spikes.empty()) out["delay_spikes"] = benchmark::toJson(e.spikes);
    return out;
}

quantity::Result<FinishedEvent> readFinishedEvent(const json& message) {
    return reading([&] {
        FinishedEvent e;
        e.run = fields::neededText(message, "run", maxIdBytes);
        e.seconds = fields::neededNumber(message, "seconds", 0, benchmark::maxSeconds);
        e.bytes = static_cast<std::uint64_t>(fields::neededNumber(message, "bytes", 0, 1e18));
        e.cpu = figure([&] { return fields::number(message, "cpu", 0, 1); });
        e.cpuProcess = figure([&] { return fields::number(message, "cpu_process", 0, benchmark::maxCores); });
        e.interface = figure([&]() -> std::optional<benchmark::InterfaceCount> {
            const json* interface = fields::find(message, "interface");
            return interface == nullptr ? std::nullopt : benchmark::readInterface(*interface);
        });
        e.senderLimited = figure([&] { return benchmark::readSenderLimited(message); });
        e.retransmits = figure([&] { return fields::count(message, "retransmits"); });
        e.datagramsSent = figure([&] { return fields::count(message, "datagrams_sent"); });
        e.datagramsUnsent = figure([&] { return fields::count(message, "datagrams_unsent"); });
        e.datagrams = figure([&]() -> std::optional<benchmark::DatagramCount> {
            const json* datagrams = fields::find(message, "datagrams");
            return datagrams == nullptr ? std::nullopt : std::optional(benchmark::readDatagrams(*datagrams));
        });
        e.movedSeconds = figure([&] { return fields::number(message, "moved_s", 0, benchmark::maxSeconds); });
        e.syncSeconds = figure([&] { return fields::number(message, "sync_s", 0, benchmark::maxSeconds); });
        e.rttLoadedUs = figure([&] { return benchmark::readPercentiles(message, "rtt_loaded_us"); });
        e.delayLost = figure([&] { return fields::count(message, "delay_lost"); });
        e.spikes = figure([&] { return benchmark::readSpikes(message); });
        return e;
    });
}

} // namespace metrodos::probe
