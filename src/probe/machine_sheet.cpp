#include "probe/machine_sheet.h"

#include "quantity/format.h"
#include "quantity/quantity.h"

#include <algorithm>
#include <cmath>

namespace metrodos::probe {
namespace {

constexpr const char* notTold = "not told";

std::string rate(double bps) {
    return quantity::plain(quantity::BitRate::bitsPerSecond(bps));
}

std::string yesNo(const std::optional<bool>& value, const char* yes, const char* no) {
    return !value ? notTold : *value ? yes : no;
}

std::string joined(const std::vector<std::string>& texts) {
    std::string out;
    for (const std::string& text : texts)
        out += (out.empty() ? "" : ", ") + text;
    return out;
}

std::string count(const std::optional<double>& value) {
    return value ? std::to_string(std::llround(*value)) : notTold;
}

// "2 more since the last reading"; a counter that went back began anew.
std::string since(const std::optional<double>& now, const std::optional<double>& before) {
    if (!now || !before || *now < *before) return {};
    const auto more = std::llround(*now - *before);
    return more == 0 ? "none since the last reading" : std::to_string(more) + " more since the last reading";
}

std::string linkCould(const PortFacts& p) {
    if (p.supportedBps && p.partnerBps)
        return "both ends could " + rate(std::min(*p.supportedBps, *p.partnerBps));
    if (p.supportedBps) return "this end could " + rate(*p.supportedBps) + ", the other has not said";
    return p.partnerBps ? "the other end could " + rate(*p.partnerBps) : std::string();
}

std::string busNow(const BusFacts& bus) {
    if (!bus.bps) return bus.kind.empty() ? notTold : bus.kind + ", its rate not told";
    return (bus.kind == "pci"   ? "PCIe"
            : bus.kind == "usb" ? "USB"
                                : bus.kind) +
           " at " + rate(*bus.bps) + " raw" +
           (bus.lanes ? ", " + std::to_string(*bus.lanes) + (*bus.lanes == 1 ? " lane" : " lanes") : "");
}

std::string busCould(const BusFacts& bus) {
    if (!bus.possibleBps) return {};
    return "could " + rate(*bus.possibleBps) + " raw" +
           (bus.possibleLanes ? " over " + std::to_string(*bus.possibleLanes) +
                                    (*bus.possibleLanes == 1 ? " lane" : " lanes")
                              : "");
}

std::string neighbour(const LinkNeighbour& n) {
    std::string out = n.system.empty() ? "a box without a name" : n.system;
    out += ", port " + n.port;
    return n.description.empty() || n.description == n.port ? out : out + " (" + n.description + ")";
}

void addPort(std::vector<FactRow>& out, const PortFacts& p, const PortFacts* before) {
    const auto add = [&](const char* what, std::string now, std::string other = {}) {
        out.push_back({p.name, what, std::move(now), std::move(other)});
    };
    add("Link",
        !p.up     ? "down"
        : p.radio ? "radio"
        : p.bps   ? rate(*p.bps) + (p.halfDuplex ? ", half-duplex" : ", full-duplex")
                  : notTold,
        p.radio ? std::string() : linkCould(p));
    add("Saves energy", yesNo(p.energySaving, "yes (IEEE 802.3az)", "no"));
    add("Driver", p.driver.empty() ? notTold : p.driver);
    add("Cuts segments itself", yesNo(p.segmentation, "yes", "no, the processor does"));
    add("Gathers frames", yesNo(p.coalescing, "yes", "no"));
    add("Frames with errors", count(p.errors),
        since(p.errors, before == nullptr ? std::nullopt : before->errors));
    add("Frames dropped", count(p.dropped),
        since(p.dropped, before == nullptr ? std::nullopt : before->dropped));
    add("Link went up or down", count(p.carrierChanges),
        since(p.carrierChanges, before == nullptr ? std::nullopt : before->carrierChanges));
    add("Bus", busNow(p.bus), busCould(p.bus));
    add("Addresses", p.addresses.empty() ? "none" : joined(p.addresses));
    if (p.neighbour) add("At the other end", neighbour(*p.neighbour));
    if (p.behind) add("Bridged, behind it", p.behind->empty() ? "nothing heard" : joined(*p.behind));
}

} // namespace

std::vector<FactRow> sheetOf(const MachineFacts& facts, const MachineFacts* before) {
    std::vector<FactRow> out;
    const auto add = [&](const char* what, std::string now, std::string other = {}) {
        out.push_back({"", what, std::move(now), std::move(other)});
    };
    add("Processor", facts.cpuModel.empty() ? notTold : facts.cpuModel,
        facts.cores ? std::to_string(*facts.cores) + (*facts.cores == 1 ? " core" : " cores")
                    : std::string());
    if (!facts.governor.empty()) add("Clock follows", facts.governor);
    constexpr double gigabyte = 1e9;
    add("Memory",
        facts.memoryBytes ? quantity::significant(*facts.memoryBytes / gigabyte, 3) + " GB" : notTold);
    add("Power", facts.onBattery ? (*facts.onBattery ? "battery" : "mains") : "no battery");
    add("Kernel", facts.kernel.empty() ? notTold : facts.kernel);
    for (const RouteFact& r : facts.routes)
        add("Route", r.to == "0.0.0.0/0" ? "everywhere else" : r.to,
            "by " + r.port + (r.via.empty() ? "" : " over " + r.via));
    for (const PortFacts& p : facts.ports) {
        const PortFacts* earlier = nullptr;
        if (before != nullptr)
            for (const PortFacts& b : before->ports)
                if (b.name == p.name) earlier = &b;
        addPort(out, p, earlier);
    }
    return out;
}

} // namespace metrodos::probe
