#include "probe/ethtool.h"

#include "probe/socket.h"

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstring>
#include <linux/ethtool.h>
#include <linux/sockios.h>
#include <net/if.h>
#include <sys/ioctl.h>

namespace metrodos::probe {
namespace {

struct KnownMode {
    int bit;
    LinkMode mode;
};

// Backplane and fibre modes only as far as they are met on machines of a house.
constexpr std::array known{
    KnownMode{ETHTOOL_LINK_MODE_10baseT_Half_BIT, {10e6, false}},
    KnownMode{ETHTOOL_LINK_MODE_10baseT_Full_BIT, {10e6, true}},
    KnownMode{ETHTOOL_LINK_MODE_100baseT_Half_BIT, {100e6, false}},
    KnownMode{ETHTOOL_LINK_MODE_100baseT_Full_BIT, {100e6, true}},
    KnownMode{ETHTOOL_LINK_MODE_1000baseT_Half_BIT, {1e9, false}},
    KnownMode{ETHTOOL_LINK_MODE_1000baseT_Full_BIT, {1e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_1000baseX_Full_BIT, {1e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_1000baseKX_Full_BIT, {1e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_2500baseX_Full_BIT, {2.5e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_2500baseT_Full_BIT, {2.5e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_5000baseT_Full_BIT, {5e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_10000baseT_Full_BIT, {10e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_10000baseKX4_Full_BIT, {10e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_10000baseKR_Full_BIT, {10e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_10000baseCR_Full_BIT, {10e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_10000baseSR_Full_BIT, {10e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_10000baseLR_Full_BIT, {10e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_25000baseCR_Full_BIT, {25e9, true}},
    KnownMode{ETHTOOL_LINK_MODE_25000baseSR_Full_BIT, {25e9, true}},
};

class Port {
  public:
    explicit Port(const std::string& interface)
        : m_socket(::socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC, 0)) {
        interface.copy(m_request.ifr_name, IFNAMSIZ - 1);
    }
    bool ask(void* command) {
        m_request.ifr_data = static_cast<char*>(command);
        return m_socket && ::ioctl(m_socket.get(), SIOCETHTOOL, &m_request) == 0;
    }
    std::optional<bool> flag(std::uint32_t command) {
        ethtool_value value{command, 0};
        return ask(&value) ? std::optional(value.data != 0) : std::nullopt;
    }

  private:
    Fd m_socket;
    ifreq m_request{};
};

void readLink(Port& port, EthtoolReading& out) {
    // Three masks follow the structure; how long they are the kernel says first, as a negative number.
    constexpr int maxWords = 8;
    constexpr std::size_t headBytes = sizeof(ethtool_link_settings);
    alignas(ethtool_link_settings) std::array<unsigned char, headBytes + 3UL * maxWords * 4> request{};
    const auto at = [&](std::size_t offset, auto value) {
        std::memcpy(&value, request.data() + offset, sizeof value);
        return value;
    };
    // How many words the kernel says, as it wants them; 0 when it does not answer.
    const auto ask = [&](__s8 words) -> __s8 {
        constexpr __u32 command = ETHTOOL_GLINKSETTINGS;
        std::memcpy(request.data(), &command, sizeof command);
        request[offsetof(ethtool_link_settings, link_mode_masks_nwords)] = static_cast<unsigned char>(words);
        return port.ask(request.data()) ? at(offsetof(ethtool_link_settings, link_mode_masks_nwords), __s8{})
                                        : __s8{0};
    };
    const __s8 wanted = ask(0);
    if (wanted >= 0 || wanted < -maxWords) return;
    const auto given = static_cast<__s8>(-wanted);
    if (ask(given) != given) return;
    const auto count = static_cast<std::size_t>(static_cast<unsigned char>(given)); // 1 to mostWords
    std::array<std::uint32_t, 3UL * maxWords> words{};
    std::memcpy(words.data(), request.data() + headBytes, 3 * count * 4);
    const std::span<const std::uint32_t> masks(words);
    out.supported = fastest(masks.first(count));
    out.partner = fastest(masks.subspan(2 * count, count));
    const auto speed = at(offsetof(ethtool_link_settings, speed), __u32{});
    const auto duplex = at(offsetof(ethtool_link_settings, duplex), __u8{});
    if (speed != 0 && speed != static_cast<__u32>(SPEED_UNKNOWN) && duplex != DUPLEX_UNKNOWN)
        out.link = LinkMode{speed * 1e6, duplex == DUPLEX_FULL};
}

} // namespace

std::optional<LinkMode> fastest(std::span<const std::uint32_t> mask) {
    std::optional<LinkMode> out;
    for (const auto& [bit, mode] : known) {
        const auto word = static_cast<std::size_t>(bit) / 32;
        if (word >= mask.size() || ((mask[word] >> (bit % 32)) & 1U) == 0) continue;
        if (!out || mode.bps > out->bps || (mode.bps == out->bps && mode.fullDuplex)) out = mode;
    }
    return out;
}

EthtoolReading readEthtool(const std::string& interface) {
    EthtoolReading out;
    Port port(interface);
    readLink(port, out);
    ethtool_eee saving{};
    saving.cmd = ETHTOOL_GEEE;
    if (port.ask(&saving)) out.energySaving = saving.eee_active != 0;
    out.segmentation = port.flag(ETHTOOL_GTSO);
    out.coalescing = port.flag(ETHTOOL_GGRO);
    return out;
}

} // namespace metrodos::probe
