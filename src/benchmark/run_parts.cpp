#include "benchmark/run_parts.h"

namespace metrodos::benchmark {

namespace fields = quantity::fields;
using fields::orNull;
using nlohmann::json;

json toJson(const std::optional<BitRate>& rate) {
    return rate ? json(rate->bps()) : json(nullptr);
}

std::optional<BitRate> readRate(const json& object, const char* key) {
    const auto bps = fields::number(object, key, 0, maxBps);
    return bps ? std::optional(BitRate::bitsPerSecond(*bps)) : std::nullopt;
}

json toJson(const std::optional<Percentiles>& p) {
    if (!p) return {{"p50", nullptr}, {"p95", nullptr}, {"p99", nullptr}, {"max", nullptr}};
    return {{"p50", p->p50}, {"p95", p->p95}, {"p99", orNull(p->p99)}, {"max", orNull(p->max)}};
}

std::optional<Percentiles> readPercentiles(const json& object, const char* key) {
    const json* value = fields::find(object, key);
    if (value == nullptr) return std::nullopt;
    const auto p50 = fields::number(*value, "p50", 0, maxRttUs);
    const auto p95 = fields::number(*value, "p95", 0, maxRttUs);
    if (!p50 || !p95) return std::nullopt;
    return Percentiles{*p50, *p95, fields::number(*value, "p99", 0, maxRttUs),
                       fields::number(*value, "max", 0, maxRttUs)};
}

json toJson(const std::optional<InterfaceCount>& count) {
    if (!count) return {{"name", nullptr}, {"bytes", nullptr}};
    return {{"name", count->name},
            {"bytes", count->bytes},
            {"errors", orNull(count->errors)},
            {"radio", orNull(count->radio)},
            {"cable_too", orNull(count->cableToo)},
            {"elsewhere", orNull(count->elsewhere)}};
}

std::optional<InterfaceCount> readInterface(const json& value) {
    const auto bytes = fields::count(value, "bytes");
    if (!bytes) return std::nullopt;
    return InterfaceCount{fields::neededText(value, "name", 64), *bytes,
                          fields::count(value, "errors"),        fields::flag(value, "radio"),
                          fields::flag(value, "cable_too"),      fields::text(value, "elsewhere", 64)};
}

json toJson(const std::optional<SenderLimited>& s) {
    if (!s) return {{"network", nullptr}, {"receiver_window", nullptr}, {"send_buffer", nullptr}};
    return {{"network", s->network}, {"receiver_window", s->receiverWindow}, {"send_buffer", s->sendBuffer}};
}

std::optional<SenderLimited> readSenderLimited(const json& object) {
    const json* value = fields::find(object, "sender_limited");
    if (value == nullptr) return std::nullopt;
    const auto network = fields::number(*value, "network", 0, 1);
    const auto window = fields::number(*value, "receiver_window", 0, 1);
    const auto buffer = fields::number(*value, "send_buffer", 0, 1);
    if (!network || !window || !buffer) return std::nullopt;
    return SenderLimited{*network, *window, *buffer};
}

json toJson(const std::optional<DatagramCount>& d) {
    if (!d) return nullptr;
    return {{"sent", d->sent},           {"unsent", d->unsent},
            {"received", d->received},   {"duplicates", d->duplicates},
            {"reordered", d->reordered}, {"dropped_at_receiver", d->dropped},
            {"jitter_us", d->jitterUs},  {"variation_us", toJson(d->variationUs)}};
}

DatagramCount readDatagrams(const json& value) {
    DatagramCount out;
    out.sent = fields::neededCount(value, "sent");
    out.unsent = fields::count(value, "unsent").value_or(0);
    out.received = fields::neededCount(value, "received");
    out.duplicates = fields::neededCount(value, "duplicates");
    out.reordered = fields::neededCount(value, "reordered");
    out.dropped = fields::neededCount(value, "dropped_at_receiver");
    out.jitterUs = fields::number(value, "jitter_us", 0, maxRttUs).value_or(0);
    out.variationUs = readPercentiles(value, "variation_us");
    return out;
}

json toJson(const std::vector<DelaySpike>& spikes) {
    json out = json::array();
    for (const DelaySpike& s : spikes)
        out.push_back({{"t_s", s.t}, {"rtt_us", s.rttUs}});
    return out;
}

std::vector<DelaySpike> readSpikes(const json& object) {
    std::vector<DelaySpike> out;
    if (const json* list = fields::list(object, "delay_spikes", maxSpikes))
        for (const json& spike : *list)
            out.push_back({fields::neededNumber(spike, "t_s", 0, maxSeconds),
                           fields::neededNumber(spike, "rtt_us", 0, maxRttUs)});
    return out;
}

} // namespace metrodos::benchmark
