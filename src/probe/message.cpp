#include "probe/message.h"

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
    return {{"run", task.run},
            {"role", name(task.role)},
            {"streams", task.streams},
            {"seconds", task.seconds},
            {"maximum_bytes", task.maximumBytes},
            {"bind", task.bind}};
}

json toJson(const DataTarget& target) {
    return {{"host", target.host}, {"port", target.port}, {"token", toHex(target.token)}};
}

Result<RunTask> readTask(const json& message) {
    const auto run = textField(message, "run", 64);
    const auto role = textField(message, "role", 8);
    const auto streams = numberField(message, "streams", 1, benchmark::maximumStreams);
    const auto seconds = numberField(message, "seconds", benchmark::shortestRun, benchmark::longestRun);
    const auto bytes = numberField(message, "maximum_bytes", 0, 1e18);
    const auto bind = textField(message, "bind", 64);
    for (const auto* text : {&run, &role, &bind})
        if (!*text) return tl::unexpected(text->error());
    for (const auto* number : {&streams, &seconds, &bytes})
        if (!*number) return tl::unexpected(number->error());
    const bool sound = !run->empty() && std::all_of(run->begin(), run->end(), [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-';
    });
    if (!sound) return badField("run");
    if (*role != "send" && *role != "receive") return badField("role");
    return RunTask{*run,     *role == "send" ? Role::send : Role::receive, static_cast<int>(*streams),
                   *seconds, static_cast<std::uint64_t>(*bytes),           *bind};
}

Result<DataTarget> readTarget(const json& message) {
    const auto host = textField(message, "host", 256);
    const auto port = numberField(message, "port", 1, 65535);
    const auto hex = textField(message, "token", 32);
    if (!host) return tl::unexpected(host.error());
    if (!port) return tl::unexpected(port.error());
    if (!hex) return tl::unexpected(hex.error());
    DataTarget target{*host, static_cast<std::uint16_t>(*port), {}};
    if (hex->size() != 2 * target.token.size()) return badField("token");
    for (std::size_t i = 0; i < target.token.size(); ++i) {
        const int high = hexValue((*hex)[2 * i]);
        const int low = hexValue((*hex)[2 * i + 1]);
        if (high < 0 || low < 0) return badField("token");
        target.token[i] = static_cast<std::uint8_t>(high * 16 + low);
    }
    return target;
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
