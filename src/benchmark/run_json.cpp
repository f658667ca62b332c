#include "benchmark/run_json.h"

#include "benchmark/run_measures.h"
#include "benchmark/run_parts.h"

#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>

namespace metrodos::benchmark {
namespace {

namespace fields = quantity::fields;
using fields::orNull;
using nlohmann::json;
using quantity::BadField;
using quantity::problem;
using quantity::Result;

json written(const Conditions& c) {
    return {{"appliances", c.appliances},
            {"others_active", orNull(c.othersActive)},
            {"changed", orNull(c.changed)},
            {"hour", orNull(c.hour)},
            {"radio_up", orNull(c.radioUp)}};
}

Conditions readConditions(const json& run) {
    Conditions out;
    const json* value = fields::find(run, "conditions");
    if (value == nullptr) return out;
    out.appliances = fields::texts(*value, "appliances", 200, 200);
    out.othersActive = fields::flag(*value, "others_active");
    out.changed = fields::text(*value, "changed", 1000);
    out.radioUp = fields::flag(*value, "radio_up");
    if (const auto hour = fields::number(*value, "hour", 0, 23)) out.hour = static_cast<int>(*hour);
    return out;
}

// The figures of a sample that may be missing.
struct Column {
    const char* name;
    std::optional<double> Sample::*field;
    double max;
};
constexpr std::array<Column, 6> columns{{{"rtt_us", &Sample::rttUs, maxRttUs},
                                         {"tcp_rtt_us", &Sample::tcpRttUs, maxRttUs},
                                         {"window_bytes", &Sample::windowBytes, maxBps},
                                         {"cpu_sender", &Sample::cpuSender, 1},
                                         {"cpu_receiver", &Sample::cpuReceiver, 1},
                                         {"loss_ratio", &Sample::lossRatio, 1}}};

Sample readSample(const json& value) {
    Sample s;
    s.t = fields::neededNumber(value, "t_s", 0, maxSeconds);
    s.goodputBps = fields::neededNumber(value, "goodput_bps", 0, maxBps);
    for (const Column& column : columns)
        s.*column.field = fields::number(value, column.name, 0, column.max);
    s.retransmits = fields::count(value, "retransmits");
    s.streamBps = fields::numbers(value, "streams_bps", maxStreams, 0, maxBps);
    return s;
}

// What was asked of a run besides its direction, length and warm-up. Runs of earlier versions have none of
// it.
void readChoices(const json& value, RunConfig& config) {
    if (fields::find(value, "protocol") != nullptr)
        config.protocol = fields::word(value, "protocol", &protocol);
    if (const auto rate = fields::number(value, "rate_bps", minPace, maxPace))
        config.rate = BitRate::bitsPerSecond(*rate);
    config.congestion = fields::text(value, "congestion_control", 16);
    config.windowBytes = fields::count(value, "window_bytes").value_or(0);
    config.segmentBytes =
        static_cast<int>(fields::number(value, "segment_bytes", minSegment, maxSegment).value_or(0));
    config.dscp = static_cast<int>(fields::number(value, "dscp", 0, 63).value_or(0));
    config.maxBytes = fields::count(value, "maximum_bytes").value_or(0);
    config.ipVersion = static_cast<int>(fields::number(value, "ip_version", 4, 6).value_or(0));
    config.group = fields::text(value, "group", 64);
}

std::optional<InterfaceCount> readInterfaceOf(const json& run, const char* side) {
    const json* both = fields::find(run, "interface");
    const json* one = both == nullptr ? nullptr : fields::find(*both, side);
    return one == nullptr ? std::nullopt : readInterface(*one);
}

Run readHead(const json& value) {
    Run run;
    run.id = fields::neededText(value, "id", 64);
    run.startedAt = fields::neededText(value, "started_at", 40);
    run.simulated = fields::neededFlag(value, "simulated");
    run.config.direction = fields::word(value, "direction", &direction);
    run.config.streams = static_cast<int>(fields::neededNumber(value, "streams", 1, maxStreams));
    run.config.seconds = fields::neededNumber(value, "ordered_seconds", minRun, maxRun);
    run.config.warmup = fields::number(value, "ordered_warmup_s", 0, maxRun);
    readChoices(value, run.config);
    run.config.arrangement = readArrangement(value);
    run.seconds = fields::neededNumber(value, "seconds", 0, maxSeconds);
    run.warmupSeconds = fields::neededNumber(value, "warmup_s", 0, maxRun);
    run.goodput = BitRate::bitsPerSecond(fields::neededNumber(value, "goodput_bps", 0, maxBps));
    run.complete = fields::neededFlag(value, "complete");
    run.rttIdleUs = readPercentiles(value, "rtt_idle_us");
    run.rttLoadedUs = readPercentiles(value, "rtt_loaded_us");
    run.retransmits = fields::count(value, "retransmits");
    run.senderLimited = readSenderLimited(value);
    if (const json* cpu = fields::find(value, "cpu")) {
        run.cpuSender = fields::number(*cpu, "sender", 0, 1);
        run.cpuReceiver = fields::number(*cpu, "receiver", 0, 1);
        run.cpuProcessSender = fields::number(*cpu, "sender_process", 0, maxCores);
        run.cpuProcessReceiver = fields::number(*cpu, "receiver_process", 0, maxCores);
    }
    if (const json* datagrams = fields::find(value, "datagrams")) {
        run.datagrams = readDatagrams(*datagrams);
        run.datagrams->jitterUs =
            fields::number(value, "jitter_us", 0, maxRttUs).value_or(run.datagrams->jitterUs);
    }
    run.conditions = readConditions(value);
    run.step = fields::text(value, "step", 64);
    run.redirectedTo = fields::text(value, "redirected_to", maxAddressBytes);
    run.delayLost = fields::count(value, "delay_lost");
    run.spikes = readSpikes(value);
    run.interfaceSender = readInterfaceOf(value, "sender");
    run.interfaceReceiver = readInterfaceOf(value, "receiver");
    return run;
}

// What `read` returns, or what was wrong in which field of the `what`.
template <typename Read>
auto reading(const char* what, Read read) -> Result<decltype(read())> {
    try {
        return read();
    } catch (const BadField& bad) {
        return problem("“" + bad.name + "” is missing or out of range", what,
                       "measure again or leave the run out");
    } catch (const json::exception&) {
        return problem("it is not well formed", what, "measure again or leave the run out");
    }
}

json written(const std::optional<Summary>& summary) {
    if (!summary) return nullptr;
    return {{"rule", name(summary->rule)},
            {"goodput_bps", summary->goodput.bps()},
            {"low_bps", toJson(summary->low)},
            {"high_bps", toJson(summary->high)},
            {"runs", summary->runs}};
}

} // namespace

std::optional<Direction> direction(std::string_view wanted) {
    for (const Direction d : {Direction::forward, Direction::backward})
        if (wanted == name(d)) return d;
    return std::nullopt;
}

std::optional<Protocol> protocol(std::string_view wanted) {
    for (const Protocol p : {Protocol::tcp, Protocol::udp})
        if (wanted == name(p)) return p;
    return std::nullopt;
}

json toJson(const Sample& s) {
    json out{{"t_s", s.t}, {"goodput_bps", s.goodputBps}, {"retransmits", orNull(s.retransmits)}};
    for (const Column& column : columns)
        out[column.name] = orNull(s.*column.field);
    if (!s.streamBps.empty()) out["streams_bps"] = s.streamBps;
    if (!s.lossRatio) out.erase("loss_ratio"); // of datagrams only
    return out;
}

json headToJson(const Run& run) {
    const RunConfig& c = run.config;
    const RunMeasures measures = measuresOf(run);
    json out{{"id", run.id},
             {"started_at", run.startedAt},
             {"simulated", run.simulated},
             {"complete", run.complete},
             {"conditions", written(run.conditions)},
             {"step", orNull(run.step)},
             {"redirected_to", orNull(run.redirectedTo)},
             {"direction", name(c.direction)},
             {"protocol", name(c.protocol)},
             {"rate_bps", toJson(c.rate)},
             {"congestion_control", orNull(c.congestion)},
             {"window_bytes", c.windowBytes == 0 ? json(nullptr) : json(c.windowBytes)},
             {"segment_bytes", c.segmentBytes == 0 ? json(nullptr) : json(c.segmentBytes)},
             {"dscp", c.dscp},
             {"maximum_bytes", c.maxBytes == 0 ? json(nullptr) : json(c.maxBytes)},
             {"ip_version", c.ipVersion == 0 ? json(nullptr) : json(c.ipVersion)},
             {"group", orNull(c.group)},
             {"streams", c.streams},
             {"ordered_seconds", c.seconds},
             {"ordered_warmup_s", orNull(c.warmup)},
             {"seconds", run.seconds},
             {"warmup_s", run.warmupSeconds},
             {"goodput_bps", run.goodput.bps()},
             {"rtt_idle_us", toJson(run.rttIdleUs)},
             {"rtt_loaded_us", toJson(run.rttLoadedUs)},
             {"retransmits", orNull(run.retransmits)},
             {"sender_limited", toJson(run.senderLimited)},
             {"loss_ratio", run.datagrams ? json(run.datagrams->lossRatio()) : json(nullptr)},
             {"jitter_us", run.datagrams ? json(run.datagrams->jitterUs) : json(nullptr)},
             {"datagrams", toJson(run.datagrams)},
             {"delay_spikes", toJson(run.spikes)},
             {"delay_lost", orNull(run.delayLost)},
             {"round_trips_per_minute", orNull(measures.roundTripsPerMinute)},
             {"queue_bytes", orNull(measures.queueBytes)},
             {"buffer_delay", orNull(measures.bufferDelay)},
             {"tcp_efficiency", orNull(measures.tcpEfficiency)},
             {"cpu",
              {{"sender", orNull(run.cpuSender)},
               {"receiver", orNull(run.cpuReceiver)},
               {"sender_process", orNull(run.cpuProcessSender)},
               {"receiver_process", orNull(run.cpuProcessReceiver)}}},
             {"interface",
              {{"sender", toJson(run.interfaceSender)}, {"receiver", toJson(run.interfaceReceiver)}}}};
    writeArrangement(out, c.arrangement);
    return out;
}

json toJson(const Run& run) {
    json samples = json::array();
    for (const Sample& sample : run.samples)
        samples.push_back(toJson(sample));
    json out = headToJson(run);
    out["samples"] = std::move(samples);
    return out;
}

Result<Sample> sampleFromJson(const json& value) {
    return reading("sample", [&] { return readSample(value); });
}

Result<Run> headFromJson(const json& value) {
    return reading("run", [&] { return readHead(value); });
}

Result<Run> runFromJson(const json& value) {
    return reading("run", [&] {
        Run run = readHead(value);
        const json* list = fields::list(value, "samples", maxSamples);
        if (list == nullptr) throw BadField{"samples"};
        std::vector<Sample> samples;
        samples.reserve(list->size());
        for (const json& sample : *list)
            samples.push_back(readSample(sample));
        run.samples = std::move(samples);
        return run;
    });
}

json seriesToJson(const std::vector<Sample>& samples) {
    json out{{"t_s", json::array()}, {"goodput_bps", json::array()}};
    for (const Sample& s : samples) {
        out["t_s"].push_back(s.t);
        out["goodput_bps"].push_back(s.goodputBps);
    }
    for (const Column& column : columns)
        if (std::any_of(samples.begin(), samples.end(), [&](const Sample& s) { return s.*column.field; })) {
            json& values = out[column.name] = json::array();
            for (const Sample& s : samples)
                values.push_back(orNull(s.*column.field));
        }
    const auto any = [&](auto has) { return std::any_of(samples.begin(), samples.end(), has); };
    if (any([](const Sample& s) { return s.retransmits.has_value(); }))
        for (const Sample& s : samples)
            out["retransmits"].push_back(orNull(s.retransmits));
    if (any([](const Sample& s) { return !s.streamBps.empty(); }))
        for (const Sample& s : samples)
            out["streams_bps"].push_back(s.streamBps);
    return out;
}

Result<std::vector<Sample>> seriesFromJson(const json& value) {
    return reading("run", [&] {
        const std::vector<double> times = fields::numbers(value, "t_s", maxSamples, 0, maxSeconds);
        const std::vector<double> rates = fields::numbers(value, "goodput_bps", maxSamples, 0, maxBps);
        if (rates.size() != times.size()) throw BadField{"goodput_bps"};
        std::vector<Sample> out(times.size());
        for (std::size_t i = 0; i < out.size(); ++i) {
            out[i].t = times[i];
            out[i].goodputBps = rates[i];
        }
        const auto column = [&](const char* key, auto take) {
            const json* list = fields::list(value, key, maxSamples);
            if (list == nullptr) return;
            if (list->size() != out.size()) throw BadField{key};
            for (std::size_t i = 0; i < out.size(); ++i)
                take(out[i], (*list)[i]);
        };
        for (const Column& c : columns)
            column(c.name, [&](Sample& s, const json& one) {
                s.*c.field = fields::numberOrNull(one, c.name, 0, c.max);
            });
        column("retransmits", [](Sample& s, const json& one) {
            if (const auto n = fields::numberOrNull(one, "retransmits", 0, 1e18))
                s.retransmits = static_cast<std::uint64_t>(*n);
        });
        column("streams_bps", [](Sample& s, const json& one) {
            s.streamBps = fields::numbers({{"streams_bps", one}}, "streams_bps", maxStreams, 0, maxBps);
        });
        return out;
    });
}

json measurementDocument(const std::vector<Run>& runs, Rule rule) {
    json list = json::array();
    bool simulated = false;
    for (const Run& run : runs) {
        list.push_back(toJson(run));
        simulated = simulated || run.simulated;
    }
    return {{"format", "metrodos-measurement"},
            {"version", 1},
            {"simulated", simulated},
            {"runs", std::move(list)},
            {"summary",
             {{"forward", written(summarise(runs, Direction::forward, rule))},
              {"backward", written(summarise(runs, Direction::backward, rule))}}}};
}

} // namespace metrodos::benchmark
