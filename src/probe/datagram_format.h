// What datagrams of a run look like: those that open a flow, and the head of those that are the flow. Read
// from whoever sends to the port.
#pragma once

#include "probe/message.h"

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace metrodos::probe {

/// Hello and answer carry the token; challenge and welcome do not and are shorter than what they answer, so
/// that nothing is amplified.
enum class OpeningKind : std::uint8_t { hello = 1, challenge = 2, answer = 3, welcome = 4 };

using Cookie = std::array<std::uint8_t, 16>;

struct Opening {
    OpeningKind kind = OpeningKind::hello;
    Token token{};   ///< of hello and answer
    Cookie cookie{}; ///< of all but hello
};

inline constexpr std::size_t maxOpening = 40; ///< bytes

[[nodiscard]] std::vector<std::uint8_t> write(const Opening& opening);
/// Nothing for what is not exactly one.
[[nodiscard]] std::optional<Opening> readOpening(std::span<const std::uint8_t> bytes);

/// The first bytes of a datagram of a flow, in the byte order of x86 and ARM.
struct FlowHead {
    std::uint64_t mark = 0;   ///< which flow: from its token
    std::uint64_t number = 0; ///< from 0; endOfFlow says that no more will come
    std::int64_t sentNs = 0;  ///< on the sender's monotonic clock
};

inline constexpr std::size_t flowHeadBytes = 24;
inline constexpr std::uint64_t endOfFlow = UINT64_MAX;

/// `at` has room for flowHeadBytes.
void writeHead(const FlowHead& head, unsigned char* at);
[[nodiscard]] std::optional<FlowHead> readHead(std::span<const std::uint8_t> bytes);
[[nodiscard]] std::uint64_t markOf(const Token& token);

} // namespace metrodos::probe
