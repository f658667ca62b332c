#include "probe/kernel_tables.h"

#include <array>
#include <bit>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <iomanip>
#include <linux/if_bridge.h>
#include <nlohmann/json.hpp>
#include <sstream>

namespace metrodos::probe {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr std::size_t maxRows = 64;

// The table has the four bytes of an address as one hexadecimal number in the machine's order.
std::string dotted(std::uint32_t number) {
    std::array<std::uint8_t, 4> bytes{};
    std::memcpy(bytes.data(), &number, sizeof(number));
    return std::to_string(bytes[0]) + "." + std::to_string(bytes[1]) + "." + std::to_string(bytes[2]) + "." +
           std::to_string(bytes[3]);
}

} // namespace

json routesOf(const fs::path& proc) {
    std::ifstream table(proc / "net/route");
    json out = json::array();
    std::string line;
    std::getline(table, line); // the head
    while (std::getline(table, line) && out.size() < maxRows) {
        std::istringstream row(line);
        std::string port;
        std::uint32_t to = 0;
        std::uint32_t via = 0;
        std::uint32_t flags = 0;
        std::uint32_t mask = 0;
        std::string references;
        std::string uses;
        std::string metric;
        if (!(row >> port >> std::hex >> to >> via >> flags >> references >> uses >> metric >> mask))
            continue;
        out.push_back({{"to", dotted(to) + "/" + std::to_string(std::popcount(mask))},
                       {"via", via == 0 ? json(nullptr) : json(dotted(via))},
                       {"port", port}});
    }
    return out;
}

json behindPort(const fs::path& port) {
    std::ifstream number(port / "brport/port_no");
    unsigned own = 0;
    if (!(number >> std::setbase(0) >> own)) return nullptr;
    std::ifstream table(port / "brport/bridge/brforward", std::ios::binary);
    json out = json::array();
    __fdb_entry entry{};
    while (out.size() < maxRows && table.read(reinterpret_cast<char*>(&entry), sizeof(entry))) {
        const unsigned at = entry.port_no | static_cast<unsigned>(entry.port_hi) << 8;
        if (at != own || entry.is_local != 0) continue;
        std::array<char, 18> text{};
        std::snprintf(text.data(), text.size(), "%02x:%02x:%02x:%02x:%02x:%02x", entry.mac_addr[0],
                      entry.mac_addr[1], entry.mac_addr[2], entry.mac_addr[3], entry.mac_addr[4],
                      entry.mac_addr[5]);
        out.push_back(text.data());
    }
    return out;
}

} // namespace metrodos::probe
