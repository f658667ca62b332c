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
/// "neighbour": {"system", "port", "description"}, "behind": [hardware addresses],
/// "bus": {"kind", "rate_bps", "lanes", "possible_rate_bps", "possible_lanes", "slot_lanes"}}], "routes":
/// [{"to", "via", "port"}]}; null for what the kernel does not tell. Rates of a bus are raw bits per second,
/// of PCIe over all lanes. Read from sysfs and procfs, by the ethtool ioctl, and what lies below /run
/// (lldp.h). `sys`, `proc` and `run` are where those are.
[[nodiscard]] nlohmann::json hostFacts(const std::string& name, const std::filesystem::path& sys = "/sys",
                                       const std::filesystem::path& proc = "/proc",
                                       const std::filesystem::path& run = "/run");

} // namespace metrodos::probe
