#include "probe/message.h"

#include "probe/scratch_file.h"
#include "quantity/ascii.h"

#include <algorithm>

namespace metrodos::probe {
namespace {

namespace ascii = quantity::ascii;

namespace fields = quantity::fields;
using nlohmann::json;
using quantity::BadField;
using quantity::Result;

constexpr std::size_t maxProblemBytes = 1000;

int hexValue(char c) {
    const auto at = std::string_view("0123456789abcdef").find(c);
    return at == std::string_view::npos ? -1 : static_cast<int>(at);
}

// Small letters, digits and what is in `also`.
bool isPlain(const std::string& text, std::string_view also) {
    return std::all_of(text.begin(), text.end(), [&](char c) {
        return ascii::isSmall(c) || ascii::isDigit(c) || also.find(c) != also.npos;
    });
}

std::optional<Role> role(std::string_view word) {
    for (const Role r : {Role::send, Role::receive})
        if (word == name(r)) return r;
    return std::nullopt;
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

Result<std::string> typeOf(const json& message) {
    return reading([&] { return fields::neededText(message, "type", 32); });
}

json toJson(const RunTask& task) {
    const benchmark::RunConfig& c = task.config;
    json out{{"run", task.run},
             {"role", name(task.role)},
             {"protocol", name(c.protocol)},
             {"streams", c.streams},
             {"seconds", c.seconds},
             {"maximum_bytes", c.maxBytes},
             {"bind", c.bind},
             {"rate_bps", c.rate ? c.rate->bps() : 0},
             {"congestion_control", c.congestion},
             {"window_bytes", c.windowBytes},
             {"segment_bytes", c.segmentBytes},
             {"dscp", c.dscp}};
    benchmark::writeArrangement(out, c.arrangement);
    if (task.onDisk) out["on_disk"] = true;
    return out;
}

json toJson(const FileOrder& order) {
    return {{"type", "file"}, {"bytes", order.bytes}, {"cold", order.isCold}};
}

Result<FileOrder> readFileOrder(const json& message) {
    return reading([&] {
        return FileOrder{static_cast<std::uint64_t>(fields::neededNumber(message, "bytes",
                                                                         static_cast<double>(smallestFile),
                                                                         static_cast<double>(largestFile))),
                         fields::flag(message, "cold").value_or(true)};
    });
}

json toJson(const FileMade& made) {
    return {{"type", "file-made"}, {"cached_at_start", fields::orNull(made.cachedAtStart)}};
}

Result<FileMade> readFileMade(const json& message) {
    return reading([&] { return FileMade{fields::number(message, "cached_at_start", 0, 1)}; });
}

json toJson(const DataTarget& target) {
    return {{"host", target.host},
            {"port", target.port},
            {"delay_port", target.delayPort},
            {"token", toHex(target.token)}};
}

Result<RunTask> readTask(const json& message) {
    return reading([&] {
        RunTask task;
        benchmark::RunConfig& c = task.config;
        task.run = fields::neededText(message, "run", maxRunName);
        if (task.run.empty() || !isPlain(task.run, "-")) throw BadField{"run"};
        task.role = fields::word(message, "role", &role);
        c.protocol = fields::word(message, "protocol", &benchmark::protocol);
        c.streams = static_cast<int>(fields::neededNumber(message, "streams", 1, benchmark::maxStreams));
        c.seconds = fields::neededNumber(message, "seconds", benchmark::minRun, benchmark::maxRun);
        c.maxBytes = static_cast<std::uint64_t>(fields::neededNumber(message, "maximum_bytes", 0, 1e18));
        c.bind = fields::neededText(message, "bind", 64);
        const double rate = fields::neededNumber(message, "rate_bps", 0, benchmark::maxPace);
        if (rate > 0 && rate < benchmark::minPace) throw BadField{"rate_bps"};
        if (rate > 0) c.rate = quantity::BitRate::bitsPerSecond(rate);
        c.congestion = fields::neededText(message, "congestion_control", 15); // TCP_CA_NAME_MAX less its end
        if (!isPlain(c.congestion, "-_")) throw BadField{"congestion_control"};
        c.windowBytes = static_cast<std::uint64_t>(
            fields::neededNumber(message, "window_bytes", 0, benchmark::maxWindow));
        c.segmentBytes =
            static_cast<int>(fields::neededNumber(message, "segment_bytes", 0, benchmark::maxSegment));
        if (c.segmentBytes > 0 && c.segmentBytes < benchmark::minSegment) throw BadField{"segment_bytes"};
        c.dscp = static_cast<int>(fields::neededNumber(message, "dscp", 0, 63));
        c.arrangement = benchmark::readArrangement(message);
        // Without a pace, datagrams would only measure how fast the sender can throw them away.
        if (c.protocol == benchmark::Protocol::udp && !c.rate) throw BadField{"rate_bps"};
        task.onDisk = fields::flag(message, "on_disk").value_or(false);
        if (task.onDisk && (c.protocol != benchmark::Protocol::tcp || c.streams != 1 ||
                            c.maxBytes < smallestFile || c.maxBytes > largestFile))
            throw BadField{"on_disk"};
        return task;
    });
}

Result<DataTarget> readTarget(const json& message) {
    return reading([&] {
        DataTarget target;
        target.host = fields::neededText(message, "host", 256);
        target.port = static_cast<std::uint16_t>(fields::neededNumber(message, "port", 1, 65535));
        target.delayPort = static_cast<std::uint16_t>(fields::neededNumber(message, "delay_port", 0, 65535));
        const std::string hex = fields::neededText(message, "token", 32);
        if (hex.size() != 2 * target.token.size()) throw BadField{"token"};
        for (std::size_t i = 0; i < target.token.size(); ++i) {
            const int high = hexValue(hex[2 * i]);
            const int low = hexValue(hex[2 * i + 1]);
            if (high < 0 || low < 0) throw BadField{"token"};
            target.token[i] = static_cast<std::uint8_t>(high * 16 + low);
        }
        return target;
    });
}

json problemMessage(const quantity::Problem& problem) {
    return {
        {"type", "problem"}, {"what", problem.what}, {"where", problem.where}, {"advice", problem.advice}};
}

quantity::Problem readProblem(const json& message) {
    const auto text = [&](const char* key, const char* otherwise) {
        const auto read = fields::ifSound([&] { return fields::neededText(message, key, maxProblemBytes); });
        return read.value_or(otherwise);
    };
    return {text("what", "the endpoint could not do what was asked"), text("where", ""), text("advice", "")};
}

} // namespace metrodos::probe
