// The orders that a controller gives to an endpoint, read from untrusted JSON with every field bounded.
#pragma once

#include "benchmark/run.h"
#include "quantity/problem.h"

#include <array>
#include <cstdint>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>

namespace metrodos::probe {

/// Opens the data connections of one run; made by the endpoint that listens, told to the other by the
/// controller.
using Token = std::array<std::uint8_t, 16>;

[[nodiscard]] std::string toHex(const Token& token);

enum class Role { send, receive };
[[nodiscard]] constexpr const char* name(Role role) {
    return role == Role::send ? "send" : "receive";
}

/// What one endpoint does in one run: the order's part of it.
struct RunTask {
    std::string run; ///< 1–64 of a–z, 0–9 and '-'
    Role role = Role::send;
    benchmark::RunOrder order; ///< but for direction, warm-up and group
};

/// Where the other endpoint waits: streams (TCP) or the flow of datagrams (UDP) at `port`, the delay probe
/// (UDP) at `delayPort`.
struct DataTarget {
    std::string host;
    std::uint16_t port = 0;
    std::uint16_t delayPort = 0;
    Token token{};
};

[[nodiscard]] nlohmann::json toJson(const RunTask& task);
[[nodiscard]] nlohmann::json toJson(const DataTarget& target);
[[nodiscard]] quantity::Result<RunTask> readTask(const nlohmann::json& message);
[[nodiscard]] quantity::Result<DataTarget> readTarget(const nlohmann::json& message);

/// The fields of a message, each refused when absent, of the wrong type or out of bounds.
[[nodiscard]] quantity::Result<std::string> textField(const nlohmann::json& message, const char* key,
                                                      std::size_t longest);
[[nodiscard]] quantity::Result<double> numberField(const nlohmann::json& message, const char* key, double low,
                                                   double high);

[[nodiscard]] nlohmann::json percentilesMessage(const benchmark::Percentiles& p);
/// Nothing when the field is absent or out of bounds.
[[nodiscard]] std::optional<benchmark::Percentiles> readPercentiles(const nlohmann::json& message,
                                                                    const char* key);

[[nodiscard]] nlohmann::json problemMessage(const quantity::Problem& problem);
/// The problem that a message of type "problem" carries.
[[nodiscard]] quantity::Problem readProblem(const nlohmann::json& message);

} // namespace metrodos::probe
