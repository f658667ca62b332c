// Endpoints on the network by name: agents announce themselves, controllers look, by DNS-SD (RFC 6763)
// through the system's Avahi daemon where there is one.
#pragma once

#include "quantity/problem.h"

#include <chrono>
#include <cstdint>
#include <memory>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::probe {

inline constexpr const char* serviceType = "_metrodos._tcp";

/// Announces an agent while it lives. Where no daemon runs nothing is announced until one does; a name that
/// is taken on the network gets a number behind it.
class Announcement {
  public:
    /// `name` is cut to the 63 bytes that DNS-SD allows.
    Announcement(const std::string& name, std::uint16_t port);
    ~Announcement();
    Announcement(const Announcement&) = delete;
    Announcement& operator=(const Announcement&) = delete;

    /// Whether the network has been told.
    [[nodiscard]] bool isMade() const;

  private:
    struct Impl;
    std::unique_ptr<Impl> m_impl;
};

/// An agent that has answered. What it says of itself is not to be trusted before it has shown the key.
struct FoundEndpoint {
    std::string name;
    std::string address; ///< "host:port" with a numeric host
    std::chrono::system_clock::time_point seen;

    friend bool operator==(const FoundEndpoint&, const FoundEndpoint&) = default;
};

/// An agent as a record of DNS-SD tells of it: its name as one line, whatever bytes it is of.
[[nodiscard]] FoundEndpoint foundEndpoint(std::string_view name, const std::string& host, std::uint16_t port);

/// Looks for as long as told, or until stopped; by name, at most 256. A Problem when the system has no
/// daemon: then addresses must be typed.
[[nodiscard]] quantity::Result<std::vector<FoundEndpoint>> findEndpoints(std::chrono::milliseconds span,
                                                                         const std::stop_token& stop);

} // namespace metrodos::probe
