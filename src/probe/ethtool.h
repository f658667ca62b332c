// What the kernel's ethtool interface tells of a port, by ioctl and without privilege.
#pragma once

#include "quantity/quantity.h"

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace metrodos::probe {

/// A way in which an Ethernet port can run.
struct LinkMode {
    double bps = 0;
    bool fullDuplex = true;

    friend bool operator==(const LinkMode&, const LinkMode&) = default;
};

/// The fastest of a bit mask of the kernel's link modes (linux/ethtool.h, ETHTOOL_LINK_MODE_*), full-duplex
/// before half; nothing when no known one is set.
[[nodiscard]] std::optional<LinkMode> fastest(std::span<const std::uint32_t> mask);

/// What one port says; nothing for what its driver does not tell.
struct EthtoolReading {
    std::optional<LinkMode> link;      ///< what it runs at now
    std::optional<LinkMode> supported; ///< the fastest that it can
    std::optional<LinkMode> partner;   ///< the fastest that the other end offers
    std::optional<bool> energySaving;  ///< IEEE 802.3az is in use on the link
    std::optional<bool> segmentation;  ///< the port cuts TCP segments itself
    std::optional<bool> coalescing;    ///< arriving segments are joined before the stack sees them
};
[[nodiscard]] EthtoolReading readEthtool(const std::string& interface);

} // namespace metrodos::probe
