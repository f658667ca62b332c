#include "benchmark/run_json.h"

#include "benchmark/delay_statistics.h"

#include <cmath>
#include <nlohmann/json.hpp>

namespace metrodos::benchmark {
namespace {

using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::size_t maximumSamples = 40'000;

template <typename T>
json orNull(const std::optional<T>& value) {
    return value ? json(*value) : json(nullptr);
}

json toJson(const std::optional<Percentiles>& p) {
    if (!p) return {{"p50", nullptr}, {"p95", nullptr}, {"p99", nullptr}, {"max", nullptr}};
    return {{"p50", p->p50}, {"p95", p->p95}, {"p99", orNull(p->p99)}, {"max", orNull(p->most)}};
}

json toJson(const std::optional<InterfaceCount>& count) {
    if (!count) return {{"name", nullptr}, {"bytes", nullptr}};
    return {{"name", count->name},
            {"bytes", count->bytes},
            {"errors", orNull(count->errors)},
            {"radio", orNull(count->radio)},
            {"cable_too", orNull(count->cableToo)},
            {"elsewhere", count->elsewhere.empty() ? json(nullptr) : json(count->elsewhere)}};
}

json toJson(const std::optional<DatagramCount>& d) {
    if (!d) return nullptr;
    return {{"sent", d->sent},
            {"unsent", d->unsent},
            {"received", d->received},
            {"duplicates", d->duplicates},
            {"reordered", d->reordered},
            {"dropped_at_receiver", d->dropped},
            {"variation_us", toJson(d->variationUs)}};
}

json toJson(const Conditions& c) {
    return {{"appliances", c.appliances},
            {"others_active", orNull(c.othersActive)},
            {"changed", c.changed.empty() ? json(nullptr) : json(c.changed)},
            {"hour", orNull(c.hour)}};
}

json toJson(const std::vector<DelaySpike>& spikes) {
    json out = json::array();
    for (const DelaySpike& s : spikes)
        out.push_back({{"t_s", s.t}, {"rtt_us", s.rttUs}});
    return out;
}

json toJson(const std::optional<SenderLimited>& s) {
    if (!s) return {{"network", nullptr}, {"receiver_window", nullptr}, {"send_buffer", nullptr}};
    return {{"network", s->network}, {"receiver_window", s->receiverWindow}, {"send_buffer", s->sendBuffer}};
}

struct Wrong {
    std::string field;
};

// A field that may be null or absent; anything else must be a number within bounds.
std::optional<double> number(const json& object, const char* key, double low, double high) {
    if (!object.is_object()) throw Wrong{key};
    const auto it = object.find(key);
    if (it == object.end() || it->is_null()) return std::nullopt;
    if (!it->is_number()) throw Wrong{key};
    const auto value = it->get<double>();
    if (!(value >= low && value <= high)) throw Wrong{key};
    return value;
}

double needed(const json& object, const char* key, double low, double high) {
    const auto value = number(object, key, low, high);
    if (!value) throw Wrong{key};
    return *value;
}

std::optional<std::uint64_t> count(const json& object, const char* key) {
    const auto value = number(object, key, 0, 1.8e19);
    if (!value) return std::nullopt;
    if (!object.at(key).is_number_unsigned()) throw Wrong{key};
    return object.at(key).get<std::uint64_t>();
}

std::string text(const json& object, const char* key, std::size_t longest) {
    const auto it = object.find(key);
    if (it == object.end() || !it->is_string() || it->get_ref<const std::string&>().size() > longest)
        throw Wrong{key};
    return it->get<std::string>();
}

Sample readSample(const json& value) {
    Sample s;
    s.t = needed(value, "t_s", 0, longestRun * 2);
    s.goodputBps = needed(value, "goodput_bps", 0, 1e13);
    s.rttUs = number(value, "rtt_us", 0, 1e9);
    s.tcpRttUs = number(value, "tcp_rtt_us", 0, 1e9);
    s.windowBytes = number(value, "window_bytes", 0, 1e13);
    s.retransmits = count(value, "retransmits");
    s.cpuSender = number(value, "cpu_sender", 0, 1);
    s.cpuReceiver = number(value, "cpu_receiver", 0, 1);
    s.lossRatio = number(value, "loss_ratio", 0, 1);
    if (const auto streams = value.find("streams_bps"); streams != value.end()) {
        if (!streams->is_array() || streams->size() > maximumStreams) throw Wrong{"streams_bps"};
        for (const json& one : *streams) {
            if (!one.is_number() || !(one.get<double>() >= 0 && one.get<double>() <= 1e13))
                throw Wrong{"streams_bps"};
            s.streamBps.push_back(one.get<double>());
        }
    }
    return s;
}

std::optional<Percentiles> readPercentiles(const json& object, const char* key) {
    if (!object.contains(key) || object.at(key).is_null()) return std::nullopt;
    const auto p50 = number(object.at(key), "p50", 0, 1e9);
    const auto p95 = number(object.at(key), "p95", 0, 1e9);
    if (!p50 || !p95) return std::nullopt;
    return Percentiles{*p50, *p95, number(object.at(key), "p99", 0, 1e9),
                       number(object.at(key), "max", 0, 1e10)};
}

std::optional<bool> flag(const json& object, const char* key) {
    const auto it = object.find(key);
    if (it == object.end() || it->is_null()) return std::nullopt;
    if (!it->is_boolean()) throw Wrong{key};
    return it->get<bool>();
}

std::uint64_t neededCount(const json& object, const char* key) {
    const auto value = count(object, key);
    if (!value) throw Wrong{key};
    return *value;
}

std::string optionalText(const json& object, const char* key, std::size_t longest) {
    const auto it = object.find(key);
    return it == object.end() || it->is_null() ? std::string() : text(object, key, longest);
}

// What was asked of a run besides its direction, length and warm-up. Runs of earlier versions have none of
// it.
void readChoices(const json& value, RunOrder& order) {
    const std::string protocol = optionalText(value, "protocol", 8);
    if (protocol != "tcp" && protocol != "udp" && !protocol.empty()) throw Wrong{"protocol"};
    order.protocol = protocol == "udp" ? Protocol::udp : Protocol::tcp;
    if (const auto rate = number(value, "rate_bps", slowestPace, fastestPace))
        order.rate = BitRate::bitsPerSecond(*rate);
    order.congestion = optionalText(value, "congestion_control", 16);
    order.windowBytes = count(value, "window_bytes").value_or(0);
    order.segmentBytes =
        static_cast<int>(number(value, "segment_bytes", smallestSegment, largestSegment).value_or(0));
    order.dscp = static_cast<int>(number(value, "dscp", 0, 63).value_or(0));
    order.group = optionalText(value, "group", 64);
}

Conditions readConditions(const json& value) {
    Conditions out;
    const auto it = value.find("conditions");
    if (it == value.end() || it->is_null()) return out;
    if (const auto list = it->find("appliances"); list != it->end()) {
        if (!list->is_array() || list->size() > 200) throw Wrong{"appliances"};
        for (const json& one : *list) {
            if (!one.is_string() || one.get_ref<const std::string&>().size() > 200) throw Wrong{"appliances"};
            out.appliances.push_back(one.get<std::string>());
        }
    }
    out.othersActive = flag(*it, "others_active");
    out.changed = optionalText(*it, "changed", 1000);
    if (const auto hour = number(*it, "hour", 0, 23)) out.hour = static_cast<int>(*hour);
    return out;
}

std::optional<DatagramCount> readDatagrams(const json& value) {
    const auto it = value.find("datagrams");
    if (it == value.end() || it->is_null()) return std::nullopt;
    DatagramCount out;
    out.sent = neededCount(*it, "sent");
    out.unsent = count(*it, "unsent").value_or(0);
    out.received = neededCount(*it, "received");
    out.duplicates = neededCount(*it, "duplicates");
    out.reordered = neededCount(*it, "reordered");
    out.dropped = neededCount(*it, "dropped_at_receiver");
    out.variationUs = readPercentiles(*it, "variation_us");
    out.jitterUs = number(value, "jitter_us", 0, 1e9).value_or(0);
    return out;
}

std::optional<InterfaceCount> readInterface(const json& object, const char* side) {
    if (!object.contains("interface") || !object.at("interface").contains(side)) return std::nullopt;
    const json& value = object.at("interface").at(side);
    const auto bytes = count(value, "bytes");
    if (!bytes) return std::nullopt;
    return InterfaceCount{text(value, "name", 64),  *bytes,
                          count(value, "errors"),   flag(value, "radio"),
                          flag(value, "cable_too"), optionalText(value, "elsewhere", 64)};
}

Run readRun(const json& value) {
    if (!value.is_object()) throw Wrong{"run"};
    Run run;
    run.id = text(value, "id", 64);
    run.startedAt = text(value, "started_at", 40);
    if (!value.contains("simulated") || !value.at("simulated").is_boolean()) throw Wrong{"simulated"};
    run.simulated = value.at("simulated").get<bool>();
    const std::string direction = text(value, "direction", 10);
    if (direction != "forward" && direction != "backward") throw Wrong{"direction"};
    run.order.direction = direction == "forward" ? Direction::forward : Direction::backward;
    run.order.streams = static_cast<int>(needed(value, "streams", 1, maximumStreams));
    run.order.seconds = needed(value, "ordered_seconds", shortestRun, longestRun);
    run.order.warmup = number(value, "ordered_warmup_s", 0, longestRun);
    readChoices(value, run.order);
    run.seconds = needed(value, "seconds", 0, longestRun * 2);
    run.warmupSeconds = needed(value, "warmup_s", 0, longestRun);
    run.goodput = BitRate::bitsPerSecond(needed(value, "goodput_bps", 0, 1e13));
    if (!value.contains("complete") || !value.at("complete").is_boolean()) throw Wrong{"complete"};
    run.complete = value.at("complete").get<bool>();
    const auto samples = value.find("samples");
    if (samples == value.end() || !samples->is_array() || samples->size() > maximumSamples)
        throw Wrong{"samples"};
    for (const json& sample : *samples)
        run.samples.push_back(readSample(sample));
    run.rttIdleUs = readPercentiles(value, "rtt_idle_us");
    run.rttLoadedUs = readPercentiles(value, "rtt_loaded_us");
    run.retransmits = count(value, "retransmits");
    if (value.contains("sender_limited")) {
        const json& s = value.at("sender_limited");
        const auto network = number(s, "network", 0, 1);
        const auto window = number(s, "receiver_window", 0, 1);
        const auto buffer = number(s, "send_buffer", 0, 1);
        if (network && window && buffer) run.senderLimited = SenderLimited{*network, *window, *buffer};
    }
    if (value.contains("cpu")) {
        run.cpuSender = number(value.at("cpu"), "sender", 0, 1);
        run.cpuReceiver = number(value.at("cpu"), "receiver", 0, 1);
        run.cpuProcessSender = number(value.at("cpu"), "sender_process", 0, 1024);
        run.cpuProcessReceiver = number(value.at("cpu"), "receiver_process", 0, 1024);
    }
    run.datagrams = readDatagrams(value);
    run.conditions = readConditions(value);
    run.step = optionalText(value, "step", 64);
    if (const std::string setup = optionalText(value, "setup", 16); !setup.empty()) {
        const auto known = house::setup(setup);
        if (!known) throw Wrong{"setup"};
        run.setup = *known;
    }
    if (const auto bypassed = value.find("bypassed"); bypassed != value.end()) {
        if (!bypassed->is_array() || bypassed->size() > 64) throw Wrong{"bypassed"};
        for (const json& one : *bypassed) {
            if (!one.is_string() || one.get_ref<const std::string&>().size() > longestElement)
                throw Wrong{"bypassed"};
            run.bypassed.push_back(one.get<std::string>());
        }
    }
    run.swapped = flag(value, "swapped").value_or(false);
    auto altered = readAltered(value);
    if (!altered) throw Wrong{"altered"};
    run.altered = std::move(*altered);
    run.delayLost = count(value, "delay_lost");
    if (const auto spikes = value.find("delay_spikes"); spikes != value.end()) {
        if (!spikes->is_array() || spikes->size() > 20) throw Wrong{"delay_spikes"};
        for (const json& spike : *spikes)
            run.spikes.push_back({needed(spike, "t_s", 0, longestRun * 2), needed(spike, "rtt_us", 0, 1e10)});
    }
    run.interfaceSender = readInterface(value, "sender");
    run.interfaceReceiver = readInterface(value, "receiver");
    return run;
}

json toJson(const std::optional<Summary>& summary) {
    if (!summary) return nullptr;
    return {{"rule", name(summary->rule)},
            {"goodput_bps", summary->goodput.bps()},
            {"low_bps", summary->low ? json(summary->low->bps()) : json(nullptr)},
            {"high_bps", summary->high ? json(summary->high->bps()) : json(nullptr)},
            {"runs", summary->runs}};
}

} // namespace

json toJson(const std::vector<Alteration>& altered) {
    json out = json::array();
    for (const Alteration& a : altered)
        out.push_back({{"element", a.element}, {"how", a.how}});
    return out;
}

std::optional<std::vector<Alteration>> readAltered(const json& value) {
    constexpr std::size_t most = 8;
    std::vector<Alteration> out;
    const auto it = value.find("altered");
    if (it == value.end()) return out;
    if (!it->is_array() || it->size() > most) return std::nullopt;
    for (const json& one : *it) {
        if (!one.is_object()) return std::nullopt;
        const auto element = one.find("element");
        const auto how = one.find("how");
        if (element == one.end() || how == one.end() || !element->is_string() || !how->is_string() ||
            element->get_ref<const std::string&>().size() > longestElement ||
            !isAlteration(how->get_ref<const std::string&>()))
            return std::nullopt;
        out.push_back({element->get<std::string>(), how->get<std::string>()});
    }
    return out;
}

json toJson(const Sample& s) {
    json out{{"t_s", s.t},
             {"goodput_bps", s.goodputBps},
             {"rtt_us", orNull(s.rttUs)},
             {"tcp_rtt_us", orNull(s.tcpRttUs)},
             {"window_bytes", orNull(s.windowBytes)},
             {"retransmits", orNull(s.retransmits)},
             {"cpu_sender", orNull(s.cpuSender)},
             {"cpu_receiver", orNull(s.cpuReceiver)}};
    if (!s.streamBps.empty()) out["streams_bps"] = s.streamBps;
    if (s.lossRatio) out["loss_ratio"] = *s.lossRatio;
    return out;
}

json toJson(const Run& run) {
    json samples = json::array();
    for (const Sample& sample : run.samples)
        samples.push_back(toJson(sample));
    return {{"id", run.id},
            {"started_at", run.startedAt},
            {"simulated", run.simulated},
            {"complete", run.complete},
            {"conditions", toJson(run.conditions)},
            {"step", run.step.empty() ? json(nullptr) : json(run.step)},
            {"setup", house::name(run.setup)},
            {"bypassed", run.bypassed},
            {"swapped", run.swapped},
            {"altered", toJson(run.altered)},
            {"direction", name(run.order.direction)},
            {"protocol", name(run.order.protocol)},
            {"rate_bps", run.order.rate ? json(run.order.rate->bps()) : json(nullptr)},
            {"congestion_control", run.order.congestion.empty() ? json(nullptr) : json(run.order.congestion)},
            {"window_bytes", run.order.windowBytes == 0 ? json(nullptr) : json(run.order.windowBytes)},
            {"segment_bytes", run.order.segmentBytes == 0 ? json(nullptr) : json(run.order.segmentBytes)},
            {"dscp", run.order.dscp},
            {"group", run.order.group.empty() ? json(nullptr) : json(run.order.group)},
            {"streams", run.order.streams},
            {"ordered_seconds", run.order.seconds},
            {"ordered_warmup_s", orNull(run.order.warmup)},
            {"seconds", run.seconds},
            {"warmup_s", run.warmupSeconds},
            {"goodput_bps", run.goodput.bps()},
            {"samples", std::move(samples)},
            {"rtt_idle_us", toJson(run.rttIdleUs)},
            {"rtt_loaded_us", toJson(run.rttLoadedUs)},
            {"retransmits", orNull(run.retransmits)},
            {"sender_limited", toJson(run.senderLimited)},
            {"loss_ratio", run.datagrams ? json(run.datagrams->lossRatio()) : json(nullptr)},
            {"jitter_us", run.datagrams ? json(run.datagrams->jitterUs) : json(nullptr)},
            {"datagrams", toJson(run.datagrams)},
            {"delay_spikes", toJson(run.spikes)},
            {"delay_lost", orNull(run.delayLost)},
            {"round_trips_per_minute",
             run.rttLoadedUs ? json(roundTripsPerMinute(run.rttLoadedUs->p50)) : json(nullptr)},
            {"queue_bytes", orNull(queueBytes(run))},
            {"cpu",
             {{"sender", orNull(run.cpuSender)},
              {"receiver", orNull(run.cpuReceiver)},
              {"sender_process", orNull(run.cpuProcessSender)},
              {"receiver_process", orNull(run.cpuProcessReceiver)}}},
            {"interface",
             {{"sender", toJson(run.interfaceSender)}, {"receiver", toJson(run.interfaceReceiver)}}}};
}

Result<Sample> sampleFromJson(const json& value) {
    try {
        return readSample(value);
    } catch (const Wrong& wrong) {
        return problem("“" + wrong.field + "” is missing or out of range", "sample");
    } catch (const json::exception&) {
        return problem("the sample is not well formed", "sample");
    }
}

Result<Run> runFromJson(const json& value) {
    try {
        return readRun(value);
    } catch (const Wrong& wrong) {
        return problem("“" + wrong.field + "” is missing or out of range", "run",
                       "measure again or leave the run out");
    } catch (const json::exception&) {
        return problem("the run is not well formed", "run", "measure again or leave the run out");
    }
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
             {{"forward", toJson(summarise(runs, Direction::forward, rule))},
              {"backward", toJson(summarise(runs, Direction::backward, rule))}}}};
}

} // namespace metrodos::benchmark
