// What an agent tells a controller by a code or a line of text: where it is, and how to be let in.
#pragma once

#include "probe/meeting.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace metrodos::probe {

/// What a code says of an agent: where it is, which key it knows, or both.
struct Invitation {
    std::string address;    ///< host:port; empty: the key only
    std::optional<Key> key; ///< nothing: the address only
    /// The words of a meeting with the agent there (meeting.h); then there is no key.
    std::optional<MeetingCode> meeting = {};

    /// "METRODOS:ADDRESS/KEY", either part may be empty, or "METRODOS:ADDRESS/MEET:WORD-WORD-…"; upper case,
    /// which makes a smaller code.
    [[nodiscard]] std::string text() const;
    [[nodiscard]] static quantity::Result<Invitation> parse(std::string_view text);

    friend bool operator==(const Invitation&, const Invitation&) = default;
};

/// The address under which the others of the network reach an agent that waits on this one: itself, or, if it
/// waits on every address, the machine's first that is neither loopback nor link-local. Nothing: it has none.
[[nodiscard]] std::optional<std::string> reachableAddress(const std::string& host, std::uint16_t port);

} // namespace metrodos::probe
