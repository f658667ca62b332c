// A two-way stream of JSON messages between a controller and an endpoint.
#pragma once

#include "quantity/problem.h"

#include <chrono>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>

namespace metrodos::probe {

/// Messages are JSON objects of at most this many bytes and of nesting at most maximumDepth.
inline constexpr std::size_t maxMessage = 256 * 1024;
inline constexpr int maxDepth = 16;
inline constexpr int protocolVersion = 4;

struct Pairing;

/// Both directions may be used from different threads at once.
class Channel {
  public:
    virtual ~Channel() = default;

    /// Sends a whole message or fails; a peer that does not take it within five seconds has failed.
    [[nodiscard]] virtual quantity::Result<void> send(const nlohmann::json& message) = 0;
    /// The next message; nothing when `limit` passed without one; a Problem when the channel is broken or
    /// closed.
    [[nodiscard]] virtual quantity::Result<std::optional<nlohmann::json>>
    receive(std::chrono::milliseconds limit) = 0;
    /// Ends the channel; receive and send on either side fail from now on.
    virtual void close() = 0;
    /// The address of this side and of the peer without ports, as the other machines see them; empty
    /// in-process.
    [[nodiscard]] virtual std::string localHost() const { return {}; }
    [[nodiscard]] virtual std::string peerHost() const { return {}; }
    /// Which key the peer has shown (key_ring.h); empty in-process.
    [[nodiscard]] virtual std::string identity() const { return {}; }
    /// What was made of a meeting (meeting.h); nullptr: this is none.
    [[nodiscard]] virtual const Pairing* pairing() const { return nullptr; }
};

/// Two ends of a channel within the process.
[[nodiscard]] std::pair<std::unique_ptr<Channel>, std::unique_ptr<Channel>> localChannel();

/// Parses one message; refuses what is not an object, too deep or not UTF-8.
[[nodiscard]] quantity::Result<nlohmann::json> parseMessage(std::string_view bytes);

} // namespace metrodos::probe
