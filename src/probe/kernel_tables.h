// Tables of the kernel that say where frames and packets go: its routes, and what its bridges have learnt.
#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>

namespace metrodos::probe {

/// IPv4 routes, at most 64: [{"to": "192.0.2.0/24", "via": "192.0.2.1" or null, "port": "eth0"}], from
/// `proc`/net/route.
[[nodiscard]] nlohmann::json routesOf(const std::filesystem::path& proc);

/// Hardware addresses that the bridge of a port has learnt behind it, at most 64, from the bridge's
/// forwarding table in `port` (a folder of /sys/class/net); its own are left out. Null where the port is in
/// no bridge.
[[nodiscard]] nlohmann::json behindPort(const std::filesystem::path& port);

} // namespace metrodos::probe
