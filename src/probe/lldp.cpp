#include "probe/lldp.h"

#include "quantity/text.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <fstream>
#include <iterator>
#include <vector>

namespace metrodos::probe {
namespace {

constexpr std::size_t longestName = 64;
constexpr std::size_t longestFile = 256 * 1024;
constexpr std::size_t headBytes = 14;      // of an Ethernet frame without a tag
constexpr std::uint16_t lldpType = 0x88cc; // IEEE 802.1AB, 8.3
// TLV types (IEEE 802.1AB, table 8-1).
enum : std::uint8_t {
    endOfLldp = 0,
    chassisId = 1,
    portId = 2,
    timeToLive = 3,
    portDescription = 4,
    systemName = 5
};
constexpr std::uint8_t hardwareSubtype = 3; // of a port id (table 8-3)

std::string text(std::span<const std::uint8_t> bytes) {
    return quantity::cutTo(quantity::oneLine(std::string(bytes.begin(), bytes.end())), longestName);
}

std::string hardware(std::span<const std::uint8_t> bytes) {
    std::string out;
    for (const std::uint8_t byte : bytes) {
        std::array<char, 4> two{};
        std::snprintf(two.data(), two.size(), "%02x", byte);
        out += (out.empty() ? "" : ":") + std::string(two.data());
    }
    return out;
}

} // namespace

std::optional<LinkNeighbour> parseLldp(std::span<const std::uint8_t> frame) {
    if (frame.size() < headBytes || (frame[12] << 8 | frame[13]) != lldpType) return std::nullopt;
    LinkNeighbour out;
    bool hasPort = false;
    for (std::size_t at = headBytes; at + 2 <= frame.size();) {
        // Seven bits of type, nine of length.
        const auto type = static_cast<std::uint8_t>(frame[at] >> 1);
        const std::size_t length = static_cast<std::size_t>(frame[at] & 1) << 8 | frame[at + 1];
        at += 2;
        if (length > frame.size() - at) return std::nullopt;
        const auto value = frame.subspan(at, length);
        at += length;
        if (type == endOfLldp) break;
        if (type == portId && length >= 2) {
            const auto id = value.subspan(1);
            out.port = value[0] == hardwareSubtype && id.size() == 6 ? hardware(id) : text(id);
            hasPort = true;
        }
        if (type == portDescription) out.description = text(value);
        if (type == systemName) out.system = text(value);
    }
    return hasPort ? std::optional(out) : std::nullopt; // a port id is in every frame
}

std::optional<LinkNeighbour> heardNeighbour(int interfaceIndex, const std::filesystem::path& run) {
    std::ifstream stream(run / "systemd/netif/lldp" / std::to_string(interfaceIndex), std::ios::binary);
    std::vector<std::uint8_t> all;
    for (std::istreambuf_iterator<char> it(stream), end; it != end && all.size() < longestFile; ++it)
        all.push_back(static_cast<std::uint8_t>(*it));
    std::optional<LinkNeighbour> newest;
    std::size_t at = 0;
    while (at + 8 <= all.size()) {
        std::uint64_t length = 0;
        for (int byte = 7; byte >= 0; --byte)
            length = length << 8 | all[at + static_cast<std::size_t>(byte)];
        at += 8;
        if (length > all.size() - at) break;
        if (auto one = parseLldp(std::span(all).subspan(at, length))) newest = std::move(one);
        at += length;
    }
    return newest;
}

} // namespace metrodos::probe
