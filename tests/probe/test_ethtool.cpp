// What ports say by ethtool, of a kernel whose answers are known: this file stands in for its ioctl, as
// linux/ethtool.h describes it.
#include "probe/ethtool.h"

#include <QTest>
#include <cstdarg>
#include <cstddef>
#include <cstring>
#include <dlfcn.h>
#include <linux/ethtool.h>
#include <linux/sockios.h>
#include <net/if.h>
#include <optional>
#include <sys/ioctl.h>

namespace {

// Nothing of what is not there is supported by the driver.
struct Kernel {
    std::string interface = "lan0";
    std::optional<std::uint32_t> speed; // Mbit/s
    std::uint8_t duplex = DUPLEX_FULL;
    std::int8_t maskWords = 3;
    std::vector<int> supported; // bits
    std::vector<int> partner;
    std::optional<bool> energySaving;
    std::optional<bool> segmentation;
    std::optional<bool> coalescing;
};
Kernel kernel;

void setBits(unsigned char* mask, const std::vector<int>& bits) {
    for (const int bit : bits) {
        std::uint32_t word = 0;
        std::memcpy(&word, mask + bit / 32 * 4, 4);
        word |= 1U << (bit % 32);
        std::memcpy(mask + bit / 32 * 4, &word, 4);
    }
}

// The words must be asked for first; they come behind the settings: supported, advertised, the partner's.
int linkSettings(unsigned char* request) {
    if (!kernel.speed) return -1;
    ethtool_link_settings settings{};
    std::memcpy(&settings, request, sizeof settings);
    if (settings.link_mode_masks_nwords != kernel.maskWords) {
        settings.link_mode_masks_nwords = static_cast<__s8>(-kernel.maskWords);
    } else {
        settings.speed = *kernel.speed;
        settings.duplex = kernel.duplex;
        unsigned char* masks = request + sizeof settings;
        setBits(masks, kernel.supported);
        setBits(masks + 2 * 4 * kernel.maskWords, kernel.partner);
    }
    std::memcpy(request, &settings, sizeof settings);
    return 0;
}

int flag(void* request, const std::optional<bool>& value) {
    if (value) static_cast<ethtool_value*>(request)->data = *value ? 1 : 0;
    return value ? 0 : -1;
}

} // namespace

extern "C" int ioctl(int fd, unsigned long request, ...) noexcept {
    std::va_list rest;
    va_start(rest, request);
    void* argument = va_arg(rest, void*);
    va_end(rest);
    if (request != SIOCETHTOOL) {
        static const auto real =
            reinterpret_cast<int (*)(int, unsigned long, ...)>(::dlsym(RTLD_NEXT, "ioctl"));
        return real(fd, request, argument);
    }
    const auto* asked = static_cast<ifreq*>(argument);
    if (kernel.interface != asked->ifr_name) return -1;
    std::uint32_t command = 0;
    std::memcpy(&command, asked->ifr_data, sizeof command);
    switch (command) {
    case ETHTOOL_GLINKSETTINGS:
        return linkSettings(reinterpret_cast<unsigned char*>(asked->ifr_data));
    case ETHTOOL_GEEE:
        if (kernel.energySaving)
            reinterpret_cast<ethtool_eee*>(asked->ifr_data)->eee_active = *kernel.energySaving ? 1 : 0;
        return kernel.energySaving ? 0 : -1;
    case ETHTOOL_GTSO:
        return flag(asked->ifr_data, kernel.segmentation);
    case ETHTOOL_GGRO:
        return flag(asked->ifr_data, kernel.coalescing);
    default:
        return -1;
    }
}

using metrodos::probe::EthtoolReading;
using metrodos::probe::LinkMode;
using metrodos::probe::readEthtool;

class TestEthtool : public QObject {
    Q_OBJECT

  private slots:
    void init() { kernel = {}; }

    void whatTheDriverTells() {
        kernel.speed = 2500;
        kernel.supported = {ETHTOOL_LINK_MODE_1000baseT_Full_BIT, ETHTOOL_LINK_MODE_2500baseT_Full_BIT,
                            ETHTOOL_LINK_MODE_10000baseT_Full_BIT};
        kernel.partner = {ETHTOOL_LINK_MODE_100baseT_Full_BIT, ETHTOOL_LINK_MODE_2500baseT_Full_BIT};
        for (const bool yes : {true, false}) {
            kernel.energySaving = yes;
            kernel.segmentation = !yes;
            kernel.coalescing = yes;
            const EthtoolReading r = readEthtool("lan0");
            QCOMPARE(r.link.value(), (LinkMode{2.5e9, true}));
            QCOMPARE(r.supported.value(), (LinkMode{10e9, true}));
            QCOMPARE(r.partner.value(), (LinkMode{2.5e9, true}));
            QCOMPARE(r.energySaving.value(), yes);
            QCOMPARE(r.segmentation.value(), !yes);
            QCOMPARE(r.coalescing.value(), yes);
        }
    }
    void ofTwoModesOfOneRateTheFullOne() {
        kernel.speed = 100;
        kernel.duplex = DUPLEX_HALF;
        kernel.supported = {ETHTOOL_LINK_MODE_100baseT_Full_BIT, ETHTOOL_LINK_MODE_100baseT_Half_BIT};
        kernel.partner = {ETHTOOL_LINK_MODE_100baseT_Half_BIT, ETHTOOL_LINK_MODE_10baseT_Full_BIT};
        const EthtoolReading r = readEthtool("lan0");
        QCOMPARE(r.link.value(), (LinkMode{100e6, false}));
        QCOMPARE(r.supported.value(), (LinkMode{100e6, true}));
        QCOMPARE(r.partner.value(), (LinkMode{100e6, false}));
    }
    // What is not told stays unknown: the port of a bridge, a link that is down, a name that is not there.
    void whatIsNotToldStaysUnknown() {
        const auto knows = [](const EthtoolReading& r) { return r.link || r.supported || r.partner; };
        QVERIFY(!knows(readEthtool("lan0")) && !readEthtool("lan0").energySaving);
        kernel.speed = 1000;
        kernel.supported = {ETHTOOL_LINK_MODE_1000baseT_Full_BIT};
        QVERIFY(knows(readEthtool("lan0")) && !readEthtool("lan0").partner);
        QVERIFY(!knows(readEthtool("lan1")));
        kernel.duplex = DUPLEX_UNKNOWN;
        QVERIFY(!readEthtool("lan0").link && readEthtool("lan0").supported);
        kernel.duplex = DUPLEX_FULL;
        for (const std::uint32_t none : {0U, static_cast<std::uint32_t>(SPEED_UNKNOWN)}) {
            kernel.speed = none;
            QVERIFY(!readEthtool("lan0").link && readEthtool("lan0").supported);
        }
        kernel.speed = 1000;
        for (const std::int8_t words : {std::int8_t{1}, std::int8_t{8}, std::int8_t{9}, std::int8_t{127}}) {
            kernel.maskWords = words; // of a later kernel: more than eight are not read
            QCOMPARE(readEthtool("lan0").supported.has_value(), words <= 8);
        }
    }
};

QTEST_GUILESS_MAIN(TestEthtool)
#include "test_ethtool.moc"
