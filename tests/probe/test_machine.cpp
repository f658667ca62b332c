// What machines say of themselves: read from a kernel's files, understood, and put into the house.
#include "capacity/predict.h"
#include "catalog/refit.h"
#include "house/machine_ports.h"
#include "probe/ethtool.h"
#include "probe/host_facts.h"
#include "probe/lldp.h"
#include "probe/machine_sheet.h"
#include "support/classes.h"
#include "support/houses.h"

#include <QTemporaryDir>
#include <QTest>
#include <array>
#include <filesystem>
#include <fstream>
#include <linux/ethtool.h>
#include <nlohmann/json.hpp>

using namespace metrodos;
using testing::classes;
using namespace metrodos::probe;
using nlohmann::json;
namespace fs = std::filesystem;

namespace {

void put(const fs::path& file, const std::string& text) {
    fs::create_directories(file.parent_path());
    std::ofstream(file) << text << '\n';
}

/// The files of a kernel for a machine with one port of each kind of bus.
void makeKernel(const fs::path& root) {
    const fs::path usb = root / "sys/devices/usb1/1-2";
    put(usb / "speed", "480");
    put(usb / "version", " 3.20");
    put(usb / "1-2:1.0/x", "");
    const fs::path pci = root / "sys/devices/bridge/0000:01:00.0";
    put(pci / "current_link_speed", "5.0 GT/s PCIe");
    put(pci / "current_link_width", "1");
    put(pci / "max_link_speed", "8.0 GT/s PCIe");
    put(pci / "max_link_width", "4");
    put(pci / "../max_link_width", "1");
    for (const char* kind : {"usb", "pci"}) {
        const fs::path port = root / "sys/class/net" / (std::string("no-such-") + kind);
        put(port / "operstate", "up");
        put(port / "speed", std::string(kind) == "usb" ? "2500" : "10000");
        put(port / "duplex", "full");
        put(port / "statistics/rx_errors", "3");
        fs::create_directories(root / "sys/bus" / kind);
        const fs::path device = std::string(kind) == "usb" ? usb / "1-2:1.0" : pci;
        fs::create_directory_symlink(root / "sys/bus" / kind, device / "subsystem");
        fs::create_directory_symlink(device, port / "device");
    }
    put(root / "sys/class/power_supply/BAT0/type", "Battery");
    put(root / "sys/class/power_supply/AC/type", "Mains");
    put(root / "sys/class/power_supply/AC/online", "0");
    put(root / "proc/cpuinfo", "processor : 0\nmodel name\t: some core");
    put(root / "proc/meminfo", "MemTotal:        4096 kB");
}

std::string tlv(int type, const std::string& value) {
    std::string out;
    out += static_cast<char>(type << 1 | static_cast<int>(value.size() >> 8));
    out += static_cast<char>(value.size() & 0xff);
    return out + value;
}

// As IEEE 802.1AB has it: to the nearest bridge, chassis by its address, port by a local id.
std::string lldpFrame() {
    const std::string head("\x01\x80\xc2\x00\x00\x0e\x02\x00\x5e\x10\x00\x01\x88\xcc", 14);
    return head + tlv(1, std::string("\x04\x02\x00\x5e\x10\x00\x01", 7)) + tlv(2, std::string("\x07") + "3") +
           tlv(3, std::string("\x00\x78", 2)) + tlv(4, "port 3") + tlv(5, "Hall switch") + tlv(0, "");
}

json portSaying(const json& what) {
    json port{{"name", "eth0"}, {"up", true}, {"rate_bps", 1e9}, {"duplex", "full"}};
    if (what.is_object()) port.update(what);
    return {{"name", "box"}, {"ports", {port}}};
}

bool says(const json& facts, const std::string& words) {
    const auto all = remarks(readFacts(facts));
    return std::any_of(all.begin(), all.end(),
                       [&](const std::string& r) { return r.find(words) != std::string::npos; });
}

capacity::Ceiling ceilingOf(const house::House& h, house::ElementKind kind) {
    const auto elements = house::findRoute(h, h.routes[0].from, h.routes[0].to).value();
    for (const house::Element& e : elements)
        if (e.kind == kind) return capacity::ceilingOn(h, classes(), h.routes[0], e);
    throw std::runtime_error("no such element");
}

} // namespace

class TestMachine : public QObject {
    Q_OBJECT

  private slots:
    void theKernelsFilesAreRead() {
        const QTemporaryDir folder;
        const fs::path root = folder.path().toStdString();
        makeKernel(root);
        const json facts = hostFacts("bench", root / "sys", root / "proc");
        QVERIFY(facts.at("cpu").at("model") == json("some core"));
        QVERIFY(facts.at("memory_bytes") == json(4096.0 * 1024));
        QVERIFY(facts.at("on_battery") == json(true));
        QCOMPARE(facts.at("ports").size(), std::size_t(2));
        for (const json& port : facts.at("ports")) {
            const json& bus = port.at("bus");
            QVERIFY(port.at("counters").at("rx_errors") == json(3.0));
            QVERIFY(port.at("counters").at("tx_errors").is_null());
            if (bus.at("kind") == "usb") {
                QVERIFY(bus.at("rate_bps") == json(480e6));
                QVERIFY(bus.at("possible_rate_bps") == json(5e9));
            } else {
                QVERIFY(bus.at("rate_bps") == json(5e9));
                QVERIFY(bus.at("possible_rate_bps") == json(32e9));
                QVERIFY(bus.at("slot_lanes") == json(1.0));
            }
        }
        const MachineFacts read = readFacts(facts);
        const auto all = partCeilings(read, classes());
        QCOMPARE(all.size(), std::size_t(4));
        for (const PartCeiling& c : all) {
            if (c.part == "usb") QCOMPARE(c.goodput.inMegabits(), 315.0);
            if (c.part == "pci") QCOMPARE(c.goodput.inMegabits(), 3400.0);
        }
        QVERIFY(says(facts, "made for USB 3 and runs as USB 2"));
        QVERIFY(says(facts, "1 of 4 PCIe lanes"));
        QVERIFY(says(facts, "3 frames with errors"));
        QVERIFY(says(facts, "battery"));
        // A speed without its lanes is no rate.
        for (const char* width : {"current_link_width", "max_link_width"})
            fs::remove(root / "sys/devices/bridge/0000:01:00.0" / width);
        const json less = hostFacts("bench", root / "sys", root / "proc");
        QCOMPARE(less.at("ports").size(), std::size_t(2));
        for (const json& port : less.at("ports"))
            if (port.at("bus").at("kind") == "pci")
                QVERIFY(port.at("bus").at("rate_bps").is_null() &&
                        port.at("bus").at("possible_rate_bps").is_null());
    }
    // Tables as Linux writes them, made by hand.
    void routesBridgesAndNeighboursAreRead() {
        const QTemporaryDir folder;
        const fs::path root = folder.path().toStdString();
        makeKernel(root);
        put(root / "proc/net/route",
            "Iface\tDestination\tGateway\tFlags\tRefCnt\tUse\tMetric\tMask\tMTU\tWindow\tIRTT\n"
            "eth0\t00000000\t010200C0\t0003\t0\t0\t100\t00000000\t0\t0\t0\n"
            "eth0\t000200C0\t00000000\t0001\t0\t0\t100\t00FFFFFF\t0\t0\t0\n"
            "broken line");
        const fs::path port = root / "sys/class/net/no-such-pci";
        put(port / "ifindex", "7");
        put(port / "brport/port_no", "0x2");
        fs::create_directories(root / "sys/class/net/br0");
        fs::create_directory_symlink(root / "sys/class/net/br0", port / "brport/bridge");
        {
            // struct __fdb_entry: address, port, is it the bridge's own, age, high byte of the port, padding.
            std::ofstream table(root / "sys/class/net/br0/brforward", std::ios::binary);
            const auto entry = [&](std::uint8_t last, std::uint8_t number, bool local) {
                const std::array<std::uint8_t, 16> bytes{2, 0, 0x5e, 0x10, 0, last, number, local,
                                                         0, 0, 0,    0,    0, 0,    0,      0};
                table.write(reinterpret_cast<const char*>(bytes.data()), bytes.size());
            };
            entry(1, 2, false);
            entry(2, 1, false);
            entry(3, 2, true);
        }
        {
            fs::create_directories(root / "run/systemd/netif/lldp");
            std::ofstream heard(root / "run/systemd/netif/lldp/7", std::ios::binary);
            const std::string frame = lldpFrame();
            const std::array<char, 8> length{static_cast<char>(frame.size()), 0, 0, 0, 0, 0, 0, 0};
            heard.write(length.data(), length.size());
            heard << frame;
        }
        const json facts = hostFacts("bench", root / "sys", root / "proc", root / "run");
        const MachineFacts read = readFacts(facts);
        QCOMPARE(read.routes.size(), std::size_t(2));
        QCOMPARE(read.routes[0].to, std::string("0.0.0.0/0"));
        QCOMPARE(read.routes[0].via, std::string("192.0.2.1"));
        QCOMPARE(read.routes[1].to, std::string("192.0.2.0/24"));
        QCOMPARE(read.routes[1].via, std::string());
        int seen = 0;
        for (const PortFacts& p : read.ports) {
            if (p.name != "no-such-pci") {
                QVERIFY(!p.behind && !p.neighbour);
                continue;
            }
            ++seen;
            QCOMPARE(p.behind.value(), std::vector<std::string>{"02:00:5e:10:00:01"});
            QCOMPARE(p.neighbour.value(), (LinkNeighbour{"Hall switch", "3", "port 3"}));
        }
        QCOMPARE(seen, 1);
        QCOMPARE(read.cpuModel, std::string("some core"));
        QCOMPARE(read.memoryBytes, std::optional(4096.0 * 1024));
    }
    void framesOfNeighboursAreReadOrRefused() {
        const auto parse = [](const std::string& frame) {
            return parseLldp({reinterpret_cast<const std::uint8_t*>(frame.data()), frame.size()});
        };
        const std::string frame = lldpFrame();
        QVERIFY(parse(frame).has_value());
        // Cut anywhere it says what it has of whole fields, or nothing; never what lies behind its end.
        for (std::size_t n = 0; n < frame.size(); ++n)
            if (const auto cut = parse(frame.substr(0, n))) {
                QVERIFY(!cut->port.empty());
                QVERIFY(cut->system.empty() || cut->system == "Hall switch");
            }
        std::string other = frame;
        other[13] = 0;
        QVERIFY(!parse(other));
        // A hardware address as the port's id, and a text that would move a terminal's cursor.
        std::string hard = frame.substr(0, 14) + tlv(2, std::string("\x03\x02\x00\x5e\x10\x00\x07", 7)) +
                           tlv(5, "\x1b[2Jswitch");
        QCOMPARE(parse(hard)->port, std::string("02:00:5e:10:00:07"));
        QCOMPARE(parse(hard)->system.find('\x1b'), std::string::npos);
        // Six letters that somebody has given are no hardware address, and an address of five bytes is none.
        const auto named = [&](const std::string& id) { return parse(frame.substr(0, 14) + tlv(2, id)); };
        QCOMPARE(named("\x07port-1")->port, std::string("port-1"));
        QCOMPARE(named("\x05ge-0/1")->port, std::string("ge-0/1"));
        QCOMPARE(named("\x03"
                       "abcde")
                     ->port,
                 std::string("abcde"));
    }
    // A socket that already stands in the house as it is read is no change; another one is, once.
    void aSocketIsNotedWhereItIsAnother() {
        const house::House h = testing::coaxHouse("usb2");
        const auto at = [](double bps) {
            return readFacts({{"name", "box"},
                              {"ports", json::array({{{"name", "usb0"},
                                                      {"up", true},
                                                      {"addresses", json::array({"10.0.0.2"})},
                                                      {"bus", {{"kind", "usb"}, {"rate_bps", bps}}}}})}});
        };
        const auto noted = [&](const house::House& house, double bps) {
            return noteFacts(house, classes(), h.routes[0].to, at(bps), "10.0.0.2").value();
        };
        const Noted same = noted(noted(h, 480e6).house, 480e6);
        QVERIFY2(same.changes.empty(), same.changes.empty() ? "" : same.changes[0].c_str());
        const Noted other = noted(same.house, 5e9);
        QCOMPARE(other.changes.size(), std::size_t(1));
        QVERIFY2(other.changes[0].find("runs as USB 3") != std::string::npos, other.changes[0].c_str());
        QVERIFY(noted(other.house, 5e9).changes.empty());
    }
    void theSheetSaysWhatIsAndWhatCouldBe() {
        json port = portSaying({{"supported_bps", 2.5e9},
                                {"partner_bps", 2.5e9},
                                {"energy_saving", true},
                                {"segmentation", false},
                                {"driver", "somedriver"},
                                {"counters", {{"rx_errors", 5}, {"tx_errors", 2}, {"rx_dropped", 1}}},
                                {"bus",
                                 {{"kind", "pci"},
                                  {"rate_bps", 5e9},
                                  {"lanes", 1},
                                  {"possible_rate_bps", 32e9},
                                  {"possible_lanes", 4}}},
                                {"addresses", {"192.0.2.7"}}});
        MachineFacts before = readFacts(port);
        before.ports[0].errors = 4;
        const auto rows = sheetOf(readFacts(port), &before);
        const auto row = [&](const std::string& what) {
            for (const FactRow& r : rows)
                if (r.port == "eth0" && r.what == what) return r;
            return FactRow{};
        };
        QCOMPARE(row("Link"),
                 (FactRow{"eth0", "Link", "1.00 Gbit/s, full-duplex", "both ends could 2.50 Gbit/s"}));
        QCOMPARE(row("Saves energy").now, std::string("yes (IEEE 802.3az)"));
        QCOMPARE(row("Cuts segments itself").now, std::string("no, the processor does"));
        QCOMPARE(row("Gathers frames").now, std::string("not told"));
        QCOMPARE(row("Driver").now, std::string("somedriver"));
        QCOMPARE(row("Frames with errors"),
                 (FactRow{"eth0", "Frames with errors", "7", "3 more since the last reading"}));
        QCOMPARE(row("Frames dropped"),
                 (FactRow{"eth0", "Frames dropped", "1", "none since the last reading"}));
        QCOMPARE(row("Bus"), (FactRow{"eth0", "Bus", "PCIe at 5.00 Gbit/s raw, 1 lane",
                                      "could 32.0 Gbit/s raw over 4 lanes"}));
        QCOMPARE(row("Addresses").now, std::string("192.0.2.7"));
        // Where the machine came up anew its counters tell nothing of since.
        before.ports[0].errors = 9;
        const auto again = sheetOf(readFacts(port), &before);
        for (const FactRow& r : again)
            if (r.what == "Frames with errors") QCOMPARE(r.other, std::string());
    }
    void whetherARadioIsUp() {
        const MachineFacts wired = readFacts(portSaying({}));
        const MachineFacts radio = readFacts(portSaying({{"radio", true}}));
        const MachineFacts off = readFacts(portSaying({{"radio", true}, {"up", false}}));
        const MachineFacts silent;
        QCOMPARE(radioUp({&wired, &wired}), std::optional(false));
        QCOMPARE(radioUp({&wired, &radio}), std::optional(true));
        QCOMPARE(radioUp({&radio, &wired}), std::optional(true));
        QCOMPARE(radioUp({&off, &wired}), std::optional(false));
        QVERIFY(!radioUp({&silent, &silent}));
    }
    void theFarEndOfTheCableIsReadNotTyped() {
        house::House h = testing::wiredHouse();
        const house::Id from = h.routes[0].from;
        const auto own = house::machinePorts(h, *h.device(h.deviceAt(from))).front().port;
        const house::Id cable = h.cableAt(own)->id;
        house::Device box;
        box.id = "hall-switch";
        box.label = "Hall switch";
        box.kind = house::DeviceKind::network_switch;
        box.ports = {{"p1", "port 1", house::PortKind::ethernet, "1000base-t"},
                     {"p3", "port 3", house::PortKind::ethernet, "1000base-t"}};
        h.devices.push_back(box);
        json facts = portSaying(
            {{"addresses", {"10.0.0.2"}},
             {"neighbour", {{"system", "HALL SWITCH"}, {"port", "3"}, {"description", "port 3"}}}});
        const auto noted = noteFacts(h, classes(), from, readFacts(facts), "10.0.0.2").value();
        const auto& ends = noted.house.connection(cable)->ends;
        QVERIFY(std::find(ends.begin(), ends.end(), house::PortRef{"hall-switch", "p3"}) != ends.end());
        QVERIFY(std::find(ends.begin(), ends.end(), own) != ends.end());
        QCOMPARE(ends.size(), std::size_t(2));
        QVERIFY(noted.changes.front().find("as the box there says") != std::string::npos);
        // The same again is nothing new; a box that nobody knows changes nothing.
        const auto again = noteFacts(noted.house, classes(), from, readFacts(facts), "10.0.0.2").value();
        QCOMPARE(again.house.connection(cable)->ends, ends);
        for (const std::string& change : again.changes)
            QVERIFY(change.find("as the box") == std::string::npos);
        facts["ports"][0]["neighbour"]["system"] = "Another switch";
        const auto unknown = noteFacts(h, classes(), from, readFacts(facts), "10.0.0.2").value();
        QCOMPARE(unknown.house.connection(cable)->ends, h.connection(cable)->ends);
    }
    void thisMachineAnswersToo() {
        const json facts = hostFacts("here");
        QVERIFY(facts.at("ports").is_array());
        QVERIFY(facts.at("memory_bytes").get<double>() > 1e6);
        // The loopback has no link to speak of; nor has what does not exist.
        QVERIFY(!readEthtool("no-such-port").link);
        QVERIFY(!readEthtool("no-such-port").segmentation);
        QVERIFY(readEthtool("lo").segmentation.has_value());
    }
    void theFastestModeOfAMask() {
        QVERIFY(!fastest({}));
        std::array<std::uint32_t, 2> mask{};
        QVERIFY(!fastest(mask));
        const auto set = [&](int bit) { mask[static_cast<std::size_t>(bit) / 32] |= 1U << (bit % 32); };
        set(ETHTOOL_LINK_MODE_Autoneg_BIT);
        set(ETHTOOL_LINK_MODE_1000baseT_Half_BIT);
        QVERIFY(fastest(mask) == (LinkMode{1e9, false}));
        set(ETHTOOL_LINK_MODE_1000baseT_Full_BIT);
        QVERIFY(fastest(mask) == (LinkMode{1e9, true}));
        set(ETHTOOL_LINK_MODE_2500baseT_Full_BIT);
        QVERIFY(fastest(mask) == (LinkMode{2.5e9, true}));
        QVERIFY(fastest(std::span(mask).first(1)) == (LinkMode{1e9, true}));
    }
    void whatIsWrongIsSaid() {
        QVERIFY(remarks(readFacts(portSaying({}))).empty());
        QVERIFY(says(portSaying({{"supported_bps", 2.5e9}, {"partner_bps", 2.5e9}}), "though both ends can"));
        // A slow partner is not the cable's fault.
        QVERIFY(!says(portSaying({{"supported_bps", 2.5e9}, {"partner_bps", 1e9}}), "both ends"));
        QVERIFY(says(portSaying({{"duplex", "half"}}), "half-duplex"));
        QVERIFY(says(portSaying({{"energy_saving", true}}), "802.3az"));
        QVERIFY(says(portSaying({{"segmentation", false}, {"rate_bps", 10e9}}), "one core"));
        QVERIFY(!says(portSaying({{"segmentation", false}}), "one core"));
        QVERIFY(!says(portSaying({{"duplex", "half"}, {"up", false}}), "half-duplex"));
    }
    void whichOfSeveralPortsIsSaid() {
        json facts = portSaying({{"addresses", {"10.0.0.2"}}});
        facts["ports"].push_back(
            {{"name", "eth1"}, {"up", true}, {"rate_bps", 2.5e9}, {"addresses", {"10.0.1.2"}}});
        const auto said = remarks(readFacts(facts), "10.0.0.2");
        QCOMPARE(said.size(), std::size_t(1));
        QVERIFY2(said[0].find("go by eth0") != std::string::npos &&
                     said[0].find("10.0.1.2") != std::string::npos,
                 said[0].c_str());
        QVERIFY(remarks(readFacts(facts)).empty());
    }
    void whatMakesNoSenseIsNotTold() {
        for (const char* text :
             {"null", "[]", "7", R"({"ports":7})", R"({"ports":[7,null,[]]})",
              R"({"ports":[{"name":7,"up":"yes","rate_bps":"fast","duplex":3,"bus":[],"counters":7,
                  "addresses":[1,{}]}]})",
              R"({"ports":[{"up":true,"rate_bps":-1,"bus":{"kind":"usb","rate_bps":1e300,"lanes":-4}}]})"}) {
            const MachineFacts facts = readFacts(json::parse(text));
            QVERIFY(remarks(facts).empty());
            QVERIFY(partCeilings(facts, classes()).empty());
        }
        json many{{"ports", json::array()}};
        for (int i = 0; i < 1000; ++i)
            many["ports"].push_back({{"name", std::string(1000, 'x')}});
        QCOMPARE(readFacts(many).ports.size(), std::size_t(64));
        QCOMPARE(readFacts(many).ports[0].name.size(), std::size_t(64));
    }
    void theHouseTakesWhatIsNew() {
        const house::House h = testing::wiredHouse();
        const house::Id from = h.routes[0].from;
        const json facts = portSaying({{"rate_bps", 100e6},
                                       {"supported_bps", 1e9},
                                       {"partner_bps", 2.5e9},
                                       {"addresses", {"10.0.0.2"}}});
        const auto noted = noteFacts(h, classes(), from, readFacts(facts), "10.0.0.2");
        QVERIFY2(noted.has_value(), noted ? "" : noted.error().sentence().c_str());
        QVERIFY(!noted->changes.empty());
        // The cable is slower than the ports at its ends: the cable it is.
        const capacity::Ceiling cable = ceilingOf(noted->house, house::ElementKind::cable);
        QCOMPARE(cable.forward.spread().p50.inMegabits(), 100 * 1448.0 / 1538);
        QVERIFY(cable.because.find("only") != std::string::npos);
        // The same again is nothing new.
        QVERIFY(noteFacts(noted->house, classes(), from, readFacts(facts), "10.0.0.2")->changes.empty());
        // Another class of cable makes it another link.
        const auto elements = house::findRoute(h, from, h.routes[0].to).value();
        for (const house::Element& e : elements)
            if (e.kind == house::ElementKind::cable) {
                const auto other = catalog::withChoice(noted->house, classes(), e, "cat8");
                QVERIFY2(other.has_value(), other ? "" : other.error().sentence().c_str());
                QVERIFY(!other->connection(e.connection)->linkedAt);
                break;
            }
    }
    void aLinkAsFastAsItsPortsClearsTheCable() {
        house::House h = testing::wiredHouse();
        const auto elements = house::findRoute(h, h.routes[0].from, h.routes[0].to).value();
        for (const house::Element& e : elements)
            if (e.kind == house::ElementKind::cable) {
                house::Connection& cable = *h.connection(e.connection);
                cable.cableClass.clear();
                cable.length.reset();
                cable.goodPairs.reset();
                const auto before = ceilingOf(h, house::ElementKind::cable).forward;
                cable.linkedAt = quantity::BitRate::bitsPerSecond(1e9);
                const auto after = ceilingOf(h, house::ElementKind::cable).forward;
                // Slower than what was seen to link is out of the question; faster is as likely as it was.
                const double linked = 0.94e9;
                QVERIFY(before.cdf(linked) > 0.01);
                QVERIFY(after.cdf(linked) < 1e-9);
                QVERIFY(after.quantile(0.99) >= before.quantile(0.99) * 0.999);
                cable.halfDuplex = true;
                QVERIFY(ceilingOf(h, house::ElementKind::cable).shared);
                return;
            }
        QFAIL("no cable");
    }
    void anUnknownPortIsAtLeastAsFastAsItsLink() {
        house::House h = testing::wiredHouse();
        const auto elements = house::findRoute(h, h.routes[0].from, h.routes[0].to).value();
        for (const house::Element& e : elements)
            if (e.kind == house::ElementKind::port) {
                h.port({e.device, e.port})->phy.clear();
                QVERIFY(ceilingOf(h, house::ElementKind::port).forward.cdf(0.9e9) > 0.01);
                h.connection(h.cableAt({e.device, e.port})->id)->linkedAt =
                    quantity::BitRate::bitsPerSecond(1e9);
                QVERIFY(ceilingOf(h, house::ElementKind::port).forward.cdf(0.9e9) < 1e-9);
                return;
            }
        QFAIL("no port");
    }
    void whichPortItIsMustBeClear() {
        const house::House h = testing::wiredHouse();
        json facts = portSaying({});
        facts["ports"].push_back({{"name", "eth1"}, {"up", true}, {"rate_bps", 1e9}});
        const auto noted = noteFacts(h, classes(), h.routes[0].from, readFacts(facts), "10.0.0.9");
        QVERIFY(!noted && noted.error().sentence().find("not clear which port") != std::string::npos);
        QVERIFY(!noteFacts(h, classes(), "nobody", readFacts(portSaying({})), ""));
    }
};

QTEST_GUILESS_MAIN(TestMachine)
#include "test_machine.moc"
