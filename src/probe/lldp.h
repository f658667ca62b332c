// What the box at the other end of a link says of itself (LLDP, IEEE 802.1AB). Nothing is listened to here:
// frames that the system's own network manager has kept are read from its files.
#pragma once

#include <filesystem>
#include <optional>
#include <span>
#include <string>

namespace metrodos::probe {

/// Texts of at most 64 bytes, one line each; what was not said is empty.
struct LinkNeighbour {
    std::string system;      ///< name of the box
    std::string port;        ///< id of its port: "3", "eth2", "02:00:5e:10:00:01"
    std::string description; ///< of its port: "port 3"

    friend bool operator==(const LinkNeighbour&, const LinkNeighbour&) = default;
};

/// Reads a whole Ethernet frame. Nothing where it is no LLDP frame, or ends within a field.
[[nodiscard]] std::optional<LinkNeighbour> parseLldp(std::span<const std::uint8_t> frame);

/// The newest neighbour that systemd-networkd has heard on the interface of this index (its files below
/// `run`/systemd/netif/lldp: for each frame its length in 8 bytes, little-endian, then the frame); nothing
/// where it keeps none.
[[nodiscard]] std::optional<LinkNeighbour> heardNeighbour(int interfaceIndex,
                                                          const std::filesystem::path& run = "/run");

} // namespace metrodos::probe
