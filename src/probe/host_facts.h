// What a machine says of itself: its network ports with rate, duplex, driver and bus, and its processor.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>

namespace metrodos::probe {

/// {"name", "kernel", "cpu": {"model", "cores"}, "ports": [{"name", "up", "rate_bps", "duplex", "radio",
/// "driver", "addresses", "bus": {"kind", "rate_bps", "lanes"}}]}; null for what the kernel does not tell.
/// Read from sysfs.
[[nodiscard]] nlohmann::json hostFacts(const std::string& name);

} // namespace metrodos::probe
