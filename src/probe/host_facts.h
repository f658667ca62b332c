// What a machine says of itself: its network ports with rate, duplex, driver and bus, its processor, memory
// and power.
#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <string>

namespace metrodos::probe {

/// {"name", "kernel", "cpu": {"model", "cores", "governor"}, "memory_bytes", "on_battery",
/// "ports": [{"name", "up", "rate_bps", "duplex", "supported_bps", "partner_bps", "energy_saving", "sleeps",
/// "segmentation", "coalescing", "radio", "driver", "addresses", "counters": {"rx_errors", "tx_errors",
/// "rx_dropped", "tx_dropped", "carrier_changes"},
/// "bus": {"kind", "rate_bps", "lanes", "possible_rate_bps", "possible_lanes", "slot_lanes"}}]}; null for
/// what the kernel does not tell. Rates of a bus are raw bits per second, of PCIe over all lanes. Read from
/// sysfs and procfs, and by the ethtool ioctl. `sys` and `proc` are where those are mounted.
[[nodiscard]] nlohmann::json hostFacts(const std::string& name, const std::filesystem::path& sys = "/sys",
                                       const std::filesystem::path& proc = "/proc");

} // namespace metrodos::probe
