// The orders that a controller gives to an endpoint, read from untrusted JSON with every field bounded.
#pragma once

#include "benchmark/run.h"
#include "quantity/fields.h"
#include "quantity/problem.h"

#include <array>
#include <cstdint>
#include <optional>
#include <string>

namespace metrodos::probe {

/// The secret of one run, made by the endpoint that listens and told to the other by the controller; and what
/// is made of it for each of the run's connections (stream_token.h).
using Token = std::array<std::uint8_t, 16>;

[[nodiscard]] std::string toHex(const Token& token);

enum class Role { send, receive };
[[nodiscard]] constexpr const char* name(Role role) {
    return role == Role::send ? "send" : "receive";
}

inline constexpr std::size_t maxRunName = 64;
/// In an “alive” for the runs of an agent's guest, which have no name of their own.
inline constexpr std::string_view guestRunName = "guest";

/// What one endpoint does in one run: the order's part of it.
struct RunTask {
    std::string run; ///< 1–maxRunName of a–z, 0–9 and '-'
    Role role = Role::send;
    benchmark::RunConfig config; ///< but for direction, warm-up and group
    /// This end's bytes come from the file that it was told to make, or go into one: then the run is one
    /// stream of TCP with a bound.
    bool onDisk = false;
};

/// A file to be sent.
struct FileOrder {
    std::uint64_t bytes = 0; ///< smallestFile to largestFile (scratch_file.h)
    bool isCold = true;      ///< out of the machine's memory before; otherwise read through once
};
struct FileMade {
    std::optional<double>
        cachedAtStart; ///< share of it that the memory holds; nothing: the kernel does not say
};
[[nodiscard]] nlohmann::json toJson(const FileOrder& order); ///< of type "file"
[[nodiscard]] quantity::Result<FileOrder> readFileOrder(const nlohmann::json& message);
[[nodiscard]] nlohmann::json toJson(const FileMade& made); ///< of type "file-made"
[[nodiscard]] quantity::Result<FileMade> readFileMade(const nlohmann::json& message);

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

/// What `read` returns, or the Problem that a field of the message is not as it must be (quantity/fields.h).
template <typename Read>
[[nodiscard]] auto reading(Read read) -> quantity::Result<decltype(read())> {
    try {
        return read();
    } catch (const quantity::BadField& bad) {
        return quantity::problem("the field “" + bad.name + "” of a message is missing or out of range", "",
                                 "use the same version of the program at both ends");
    }
}
/// The type of a message, at most 32 bytes.
[[nodiscard]] quantity::Result<std::string> typeOf(const nlohmann::json& message);

[[nodiscard]] nlohmann::json problemMessage(const quantity::Problem& problem);
/// The problem that a message of type "problem" carries.
[[nodiscard]] quantity::Problem readProblem(const nlohmann::json& message);

} // namespace metrodos::probe
