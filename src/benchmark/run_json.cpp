#include "benchmark/run_json.h"

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
    return p ? json{{"p50", p->p50}, {"p95", p->p95}} : json{{"p50", nullptr}, {"p95", nullptr}};
}

json toJson(const std::optional<InterfaceCount>& count) {
    return count ? json{{"name", count->name}, {"bytes", count->bytes}}
                 : json{{"name", nullptr}, {"bytes", nullptr}};
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
    return s;
}

std::optional<Percentiles> readPercentiles(const json& object, const char* key) {
    if (!object.contains(key) || object.at(key).is_null()) return std::nullopt;
    const auto p50 = number(object.at(key), "p50", 0, 1e9);
    const auto p95 = number(object.at(key), "p95", 0, 1e9);
    if (!p50 || !p95) return std::nullopt;
    return Percentiles{*p50, *p95};
}

std::optional<InterfaceCount> readInterface(const json& object, const char* side) {
    if (!object.contains("interface") || !object.at("interface").contains(side)) return std::nullopt;
    const json& value = object.at("interface").at(side);
    const auto bytes = count(value, "bytes");
    if (!bytes) return std::nullopt;
    return InterfaceCount{text(value, "name", 64), *bytes};
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

json toJson(const Sample& s) {
    return {{"t_s", s.t},
            {"goodput_bps", s.goodputBps},
            {"rtt_us", orNull(s.rttUs)},
            {"tcp_rtt_us", orNull(s.tcpRttUs)},
            {"window_bytes", orNull(s.windowBytes)},
            {"retransmits", orNull(s.retransmits)},
            {"cpu_sender", orNull(s.cpuSender)},
            {"cpu_receiver", orNull(s.cpuReceiver)}};
}

json toJson(const Run& run) {
    json samples = json::array();
    for (const Sample& sample : run.samples)
        samples.push_back(toJson(sample));
    return {{"id", run.id},
            {"started_at", run.startedAt},
            {"simulated", run.simulated},
            {"complete", run.complete},
            {"direction", name(run.order.direction)},
            {"protocol", "tcp"},
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
            {"loss_ratio", nullptr},
            {"jitter_us", nullptr},
            {"cpu", {{"sender", orNull(run.cpuSender)}, {"receiver", orNull(run.cpuReceiver)}}},
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
