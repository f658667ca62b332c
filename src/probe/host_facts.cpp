#include "probe/host_facts.h"
#include "probe/counters.h"
#include "probe/ethtool.h"
#include "probe/kernel_tables.h"
#include "probe/lldp.h"
#include "probe/socket.h"

#include <cstring>
#include <filesystem>
#include <fstream>
#include <map>
#include <memory>
#include <netinet/in.h>
#include <nlohmann/json.hpp>
#include <sys/utsname.h>
#include <thread>

namespace metrodos::probe {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

std::string line(const fs::path& file) {
    std::ifstream stream(file);
    std::string text;
    std::getline(stream, text);
    return text;
}

double figure(const fs::path& file) {
    std::ifstream stream(file);
    double value = -1;
    stream >> value;
    return stream ? value : -1;
}

json orNull(const std::string& text) {
    return text.empty() ? json(nullptr) : json(text);
}
json orNull(double value) {
    return value >= 0 ? json(value) : json(nullptr);
}
json orNull(const std::optional<bool>& value) {
    return value ? json(*value) : json(nullptr);
}

json usbBus(const fs::path& port) {
    // The interface's parent is the device; its speed is in Mbit/s, its version that of the standard it was
    // made for: one of USB 3 that runs at 480 Mbit/s sits in a slower socket or on a slower cable.
    json bus{{"kind", "usb"}};
    const double mbps = figure(port / "device/../speed");
    const double version = figure(port / "device/../version");
    bus["rate_bps"] = mbps > 0 ? json(mbps * 1e6) : json(nullptr);
    bus["possible_rate_bps"] = version >= 3 ? json(std::max(5e9, mbps * 1e6)) : bus["rate_bps"];
    return bus;
}

json pciBus(const fs::path& port) {
    // Speeds are in GT/s a lane. The slot is what the port above offers.
    json bus{{"kind", "pci"}};
    const double speed = figure(port / "device/current_link_speed");
    const double lanes = figure(port / "device/current_link_width");
    const double mostSpeed = figure(port / "device/max_link_speed");
    const double mostLanes = figure(port / "device/max_link_width");
    const double slotLanes = figure(port / "device/../max_link_width");
    bus["lanes"] = lanes > 0 ? json(lanes) : json(nullptr);
    bus["rate_bps"] = speed > 0 && lanes > 0 ? json(speed * 1e9 * lanes) : json(nullptr);
    bus["possible_lanes"] = mostLanes > 0 ? json(mostLanes) : json(nullptr);
    bus["possible_rate_bps"] =
        mostSpeed > 0 && mostLanes > 0 ? json(mostSpeed * 1e9 * mostLanes) : json(nullptr);
    bus["slot_lanes"] = slotLanes > 0 ? json(slotLanes) : json(nullptr);
    return bus;
}

json busOf(const fs::path& port) {
    std::error_code error;
    const std::string kind = fs::read_symlink(port / "device/subsystem", error).filename();
    json bus{{"kind", orNull(kind)},         {"rate_bps", nullptr},       {"lanes", nullptr},
             {"possible_rate_bps", nullptr}, {"possible_lanes", nullptr}, {"slot_lanes", nullptr}};
    if (kind == "usb") bus.update(usbBus(port));
    if (kind == "pci") bus.update(pciBus(port));
    return bus;
}

json countersOf(const fs::path& port) {
    json out = json::object();
    for (const char* name : {"rx_errors", "tx_errors", "rx_dropped", "tx_dropped"})
        out[name] = orNull(figure(port / "statistics" / name));
    out["carrier_changes"] = orNull(figure(port / "carrier_changes"));
    return out;
}

std::string cpuModel(const fs::path& proc) {
    std::ifstream info(proc / "cpuinfo");
    for (std::string text; std::getline(info, text);)
        if (text.starts_with("model name")) return text.substr(text.find(':') + 2);
    return {};
}

json memoryBytes(const fs::path& proc) {
    std::ifstream info(proc / "meminfo");
    std::string word;
    double kibibytes = 0;
    return info >> word >> kibibytes && word == "MemTotal:" ? json(kibibytes * 1024) : json(nullptr);
}

// A machine with a battery and without a mains supply that is on; null where there is no battery.
json onBattery(const fs::path& sys) {
    std::error_code error;
    bool battery = false;
    bool mains = false;
    for (const auto& entry : fs::directory_iterator(sys / "class/power_supply", error)) {
        const std::string type = line(entry.path() / "type");
        // A battery of the machine itself, not of a mouse.
        battery = battery || (type == "Battery" && line(entry.path() / "scope") != "Device");
        mains = mains || (type != "Battery" && figure(entry.path() / "online") == 1);
    }
    return battery ? json(!mains) : json(nullptr);
}

json neighbourOf(const fs::path& port, const fs::path& run) {
    const double index = figure(port / "ifindex");
    const auto heard = index < 0 ? std::nullopt : heardNeighbour(static_cast<int>(index), run);
    return heard ? json{{"system", orNull(heard->system)},
                        {"port", orNull(heard->port)},
                        {"description", orNull(heard->description)}}
                 : json(nullptr);
}

json portFacts(const fs::path& port, json addresses, const fs::path& run) {
    std::error_code error;
    const std::string interface = port.filename();
    const EthtoolReading told = readEthtool(interface);
    double bps = figure(port / "speed") * 1e6;
    if (bps <= 0 && told.link) bps = told.link->bps;
    std::string duplex = line(port / "duplex");
    if (duplex != "full" && duplex != "half")
        duplex = !told.link ? "" : told.link->fullDuplex ? "full" : "half";
    const auto mode = [](const std::optional<LinkMode>& m) { return m ? json(m->bps) : json(nullptr); };
    const std::string control = line(port / "device/power/control");
    return {{"name", interface},
            {"up", line(port / "operstate") == "up"},
            {"rate_bps", bps > 0 ? json(bps) : json(nullptr)},
            {"duplex", orNull(duplex)},
            {"supported_bps", mode(told.supported)},
            {"partner_bps", mode(told.partner)},
            {"energy_saving", orNull(told.energySaving)},
            {"sleeps", control.empty() ? json(nullptr) : json(control == "auto")},
            {"segmentation", orNull(told.segmentation)},
            {"coalescing", orNull(told.coalescing)},
            {"radio", fs::exists(port / "wireless", error) || fs::exists(port / "phy80211", error)},
            {"driver", orNull(fs::read_symlink(port / "device/driver", error).filename())},
            {"addresses", std::move(addresses)},
            {"counters", countersOf(port)},
            {"bus", busOf(port)},
            {"neighbour", neighbourOf(port, run)},
            {"behind", behindPort(port)}};
}

} // namespace

json hostFacts(const std::string& name, const fs::path& sys, const fs::path& proc, const fs::path& run) {
    json ports = json::array();
    const auto known = addresses();
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(sys / "class/net", error)) {
        const std::string interface = entry.path().filename();
        if (interface == "lo" || ports.size() >= 64) continue;
        json list = json::array();
        const auto [begin, end] = known.equal_range(interface);
        for (auto it = begin; it != end; ++it)
            list.push_back(it->second);
        ports.push_back(portFacts(entry.path(), std::move(list), run));
    }
    utsname kernel{};
    ::uname(&kernel);
    return {{"name", name},
            {"kernel", kernel.release},
            {"cpu",
             {{"model", orNull(cpuModel(proc))},
              {"cores", std::thread::hardware_concurrency()},
              {"governor", orNull(line(sys / "devices/system/cpu/cpu0/cpufreq/scaling_governor"))}}},
            {"memory_bytes", memoryBytes(proc)},
            {"on_battery", onBattery(sys)},
            {"routes", routesOf(proc)},
            {"ports", std::move(ports)}};
}

} // namespace metrodos::probe
