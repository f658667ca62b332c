#include "probe/host_facts.h"
#include "probe/socket.h"

#include <cstring>
#include <filesystem>
#include <fstream>
#include <ifaddrs.h>
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

json busOf(const fs::path& port) {
    std::error_code error;
    const std::string kind = fs::read_symlink(port / "device/subsystem", error).filename();
    json bus{{"kind", kind.empty() ? json(nullptr) : json(kind)}, {"rate_bps", nullptr}, {"lanes", nullptr}};
    if (kind == "usb") {
        // The interface's parent is the device; its speed is in Mbit/s.
        if (const double mbps = figure(port / "device/../speed"); mbps > 0) bus["rate_bps"] = mbps * 1e6;
    } else if (kind == "pci") {
        const double perLane = figure(port / "device/current_link_speed"); // in GT/s
        const double lanes = figure(port / "device/current_link_width");
        if (lanes > 0) bus["lanes"] = lanes;
        if (perLane > 0 && lanes > 0) bus["rate_bps"] = perLane * 1e9 * lanes;
    }
    return bus;
}

std::multimap<std::string, std::string> addresses() {
    std::multimap<std::string, std::string> out;
    ifaddrs* list = nullptr;
    if (::getifaddrs(&list) != 0) return out;
    const std::unique_ptr<ifaddrs, decltype(&::freeifaddrs)> owner(list, &::freeifaddrs);
    for (const ifaddrs* at = list; at != nullptr; at = at->ifa_next) {
        if (at->ifa_addr == nullptr) continue;
        const auto family = at->ifa_addr->sa_family;
        if (family != AF_INET && family != AF_INET6) continue;
        Address address;
        address.length = family == AF_INET ? sizeof(sockaddr_in) : sizeof(sockaddr_in6);
        std::memcpy(&address.storage, at->ifa_addr, address.length);
        out.emplace(at->ifa_name, address.host());
    }
    return out;
}

std::string cpuModel() {
    std::ifstream info("/proc/cpuinfo");
    for (std::string text; std::getline(info, text);)
        if (text.starts_with("model name")) return text.substr(text.find(':') + 2);
    return {};
}

json orNull(const std::string& text) {
    return text.empty() ? json(nullptr) : json(text);
}

} // namespace

json hostFacts(const std::string& name) {
    json ports = json::array();
    const auto known = addresses();
    std::error_code error;
    for (const auto& entry : fs::directory_iterator("/sys/class/net", error)) {
        const fs::path& port = entry.path();
        const std::string interface = port.filename();
        if (interface == "lo" || ports.size() >= 64) continue;
        const double mbps = figure(port / "speed");
        json list = json::array();
        const auto [begin, end] = known.equal_range(interface);
        for (auto it = begin; it != end; ++it)
            list.push_back(it->second);
        const std::string duplex = line(port / "duplex");
        ports.push_back(
            {{"name", interface},
             {"up", line(port / "operstate") == "up"},
             {"rate_bps", mbps > 0 ? json(mbps * 1e6) : json(nullptr)},
             {"duplex", duplex == "full" || duplex == "half" ? json(duplex) : json(nullptr)},
             {"radio", fs::exists(port / "wireless", error) || fs::exists(port / "phy80211", error)},
             {"driver", orNull(fs::read_symlink(port / "device/driver", error).filename())},
             {"addresses", std::move(list)},
             {"bus", busOf(port)}});
    }
    utsname kernel{};
    ::uname(&kernel);
    return {{"name", name},
            {"kernel", kernel.release},
            {"cpu", {{"model", orNull(cpuModel())}, {"cores", std::thread::hardware_concurrency()}}},
            {"ports", std::move(ports)}};
}

} // namespace metrodos::probe
