#include "probe/message.h"

#include "benchmark/run_json.h"

#include <algorithm>
#include <nlohmann/json.hpp>

namespace metrodos::probe {
namespace {

using nlohmann::json;
using quantity::problem;
using quantity::Result;

tl::unexpected<quantity::Problem> badField(const char* key) {
    return problem(std::string("the field “") + key + "” of a message is missing or out of range", "",
                   "use the same version of the program at both ends");
}

int hexValue(char c) {
    if (c >= '0' && c <= '9') return c - '0';
    if (c >= 'a' && c <= 'f') return c - 'a' + 10;
    return -1;
}

} // namespace

std::string toHex(const Token& token) {
    constexpr std::string_view digits = "0123456789abcdef";
    std::string out;
    for (const std::uint8_t byte : token) {
        out.push_back(digits[byte >> 4U]);
        out.push_back(digits[byte & 15U]);
    }
    return out;
}

Result<std::string> textField(const json& message, const char* key, std::size_t longest) {
    const auto it = message.find(key);
    if (it == message.end() || !it->is_string() || it->get_ref<const std::string&>().size() > longest)
        return badField(key);
    return it->get<std::string>();
}

Result<double> numberField(const json& message, const char* key, double low, double high) {
    const auto it = message.find(key);
    if (it == message.end() || !it->is_number()) return badField(key);
    const auto value = it->get<double>();
    if (!(value >= low && value <= high)) return badField(key);
    return value;
}

json toJson(const RunTask& task) {
    const benchmark::RunOrder& o = task.order;
    return {{"run", task.run},
            {"role", name(task.role)},
            {"protocol", benchmark::name(o.protocol)},
            {"streams", o.streams},
            {"seconds", o.seconds},
            {"maximum_bytes", o.maximumBytes},
            {"bind", o.bind},
            {"rate_bps", o.rate ? o.rate->bps() : 0},
            {"congestion_control", o.congestion},
            {"window_bytes", o.windowBytes},
            {"segment_bytes", o.segmentBytes},
            {"dscp", o.dscp},
            {"setup", house::name(o.setup)},
            {"bypassed", o.bypassed},
            {"swapped", o.swapped},
            {"altered", benchmark::toJson(o.altered)}};
}

json toJson(const DataTarget& target) {
    return {{"host", target.host},
            {"port", target.port},
            {"delay_port", target.delayPort},
            {"token", toHex(target.token)}};
}

namespace {

// How the route is set up, where the message says so; what a real endpoint has no use for.
bool readSetup(const json& message, benchmark::RunOrder& order) {
    constexpr std::size_t mostParts = 64;
    if (const auto it = message.find("setup"); it != message.end()) {
        const auto setup = it->is_string() ? house::setup(it->get_ref<const std::string&>()) : std::nullopt;
        if (!setup) return false;
        order.setup = *setup;
    }
    if (const auto it = message.find("swapped"); it != message.end()) {
        if (!it->is_boolean()) return false;
        order.swapped = it->get<bool>();
    }
    if (const auto it = message.find("bypassed"); it != message.end()) {
        if (!it->is_array() || it->size() > mostParts) return false;
        for (const json& part : *it) {
            if (!part.is_string() || part.get_ref<const std::string&>().size() > benchmark::longestElement)
                return false;
            order.bypassed.push_back(part.get<std::string>());
        }
    }
    auto altered = benchmark::readAltered(message);
    if (!altered) return false;
    order.altered = std::move(*altered);
    return true;
}

} // namespace

Result<RunTask> readTask(const json& message) {
    const auto run = textField(message, "run", 64);
    const auto role = textField(message, "role", 8);
    const auto protocol = textField(message, "protocol", 8);
    const auto bind = textField(message, "bind", 64);
    const auto congestion = textField(message, "congestion_control", 15); // TCP_CA_NAME_MAX less its end
    for (const auto* text : {&run, &role, &protocol, &bind, &congestion})
        if (!*text) return tl::unexpected(text->error());
    const auto streams = numberField(message, "streams", 1, benchmark::maximumStreams);
    const auto seconds = numberField(message, "seconds", benchmark::shortestRun, benchmark::longestRun);
    const auto bytes = numberField(message, "maximum_bytes", 0, 1e18);
    const auto rate = numberField(message, "rate_bps", 0, benchmark::fastestPace);
    const auto window = numberField(message, "window_bytes", 0, benchmark::largestWindow);
    const auto segment = numberField(message, "segment_bytes", 0, benchmark::largestSegment);
    const auto dscp = numberField(message, "dscp", 0, 63);
    for (const auto* number : {&streams, &seconds, &bytes, &rate, &window, &segment, &dscp})
        if (!*number) return tl::unexpected(number->error());
    const auto plain = [](const std::string& text, std::string_view also) {
        return std::all_of(text.begin(), text.end(), [&](char c) {
            return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || also.find(c) != also.npos;
        });
    };
    if (run->empty() || !plain(*run, "-")) return badField("run");
    if (!plain(*congestion, "-_")) return badField("congestion_control");
    if (*role != "send" && *role != "receive") return badField("role");
    if (*protocol != "tcp" && *protocol != "udp") return badField("protocol");
    if (*rate > 0 && *rate < benchmark::slowestPace) return badField("rate_bps");
    if (*segment > 0 && *segment < benchmark::smallestSegment) return badField("segment_bytes");
    RunTask task;
    task.run = *run;
    task.role = *role == "send" ? Role::send : Role::receive;
    benchmark::RunOrder& o = task.order;
    o.protocol = *protocol == "udp" ? benchmark::Protocol::udp : benchmark::Protocol::tcp;
    o.streams = static_cast<int>(*streams);
    o.seconds = *seconds;
    o.maximumBytes = static_cast<std::uint64_t>(*bytes);
    o.bind = *bind;
    if (*rate > 0) o.rate = quantity::BitRate::bitsPerSecond(*rate);
    o.congestion = *congestion;
    o.windowBytes = static_cast<std::uint64_t>(*window);
    o.segmentBytes = static_cast<int>(*segment);
    o.dscp = static_cast<int>(*dscp);
    if (!readSetup(message, o)) return badField("setup");
    // Without a pace, datagrams would only measure how fast the sender can throw them away.
    if (o.protocol == benchmark::Protocol::udp && !o.rate) return badField("rate_bps");
    return task;
}

Result<DataTarget> readTarget(const json& message) {
    const auto host = textField(message, "host", 256);
    const auto port = numberField(message, "port", 1, 65535);
    const auto delayPort = numberField(message, "delay_port", 0, 65535);
    const auto hex = textField(message, "token", 32);
    if (!host) return tl::unexpected(host.error());
    if (!port) return tl::unexpected(port.error());
    if (!delayPort) return tl::unexpected(delayPort.error());
    if (!hex) return tl::unexpected(hex.error());
    DataTarget target{*host, static_cast<std::uint16_t>(*port), static_cast<std::uint16_t>(*delayPort), {}};
    if (hex->size() != 2 * target.token.size()) return badField("token");
    for (std::size_t i = 0; i < target.token.size(); ++i) {
        const int high = hexValue((*hex)[2 * i]);
        const int low = hexValue((*hex)[2 * i + 1]);
        if (high < 0 || low < 0) return badField("token");
        target.token[i] = static_cast<std::uint8_t>(high * 16 + low);
    }
    return target;
}

json percentilesMessage(const benchmark::Percentiles& p) {
    json out{{"p50", p.p50}, {"p95", p.p95}};
    if (p.p99) out["p99"] = *p.p99;
    if (p.most) out["max"] = *p.most;
    return out;
}

std::optional<benchmark::Percentiles> readPercentiles(const json& message, const char* key) {
    const auto it = message.find(key);
    if (it == message.end() || !it->is_object()) return std::nullopt;
    const auto figure = [&](const char* name) -> std::optional<double> {
        const auto value = numberField(*it, name, 0, 1e10);
        return value ? std::optional(*value) : std::nullopt;
    };
    const auto p50 = figure("p50");
    const auto p95 = figure("p95");
    if (!p50 || !p95) return std::nullopt;
    return benchmark::Percentiles{*p50, *p95, figure("p99"), figure("max")};
}

json problemMessage(const quantity::Problem& problem) {
    return {
        {"type", "problem"}, {"what", problem.what}, {"where", problem.where}, {"advice", problem.advice}};
}

quantity::Problem readProblem(const json& message) {
    return {textField(message, "what", 1000).value_or("the endpoint could not do what was asked"),
            textField(message, "where", 1000).value_or(""), textField(message, "advice", 1000).value_or("")};
}

} // namespace metrodos::probe
