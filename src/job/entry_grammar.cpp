#include "job/entry_grammar.h"

#include <algorithm>

namespace metrodos::job {
namespace {

using namespace house;

constexpr std::size_t maxNext = 12;

} // namespace

const std::vector<LineForm>& lineForms() {
    static const std::vector<LineForm> forms{
        {"Hall", "a room on the ground floor"},
        {"Loft / floor 2 [/ building Barn]", "a room on another floor, or in another building"},
        {"Hall / router / Box [/ 2.5G] [/ 5 ports]", "the box that the service ends in, with its ports"},
        {"service / 900M down / 300M up [/ at Box]", "what was sold"},
        {"Hall / switch [/ Hall switch] [/ 2.5G] [/ 8 ports]", "a switch"},
        {"Loft / data [/ from Hall switch port 4] [/ cat 6] [/ 18 m] [/ 4 pairs] [/ tested]",
         "a data jack, with its run"},
        {"Loft / phone [/ from Hall]", "a phone jack, with its wire"},
        {"entry / aerial / Hall", "where the coax comes in"},
        {"filter / entry filter / Hall [/ from aerial] [/ RG-6] [/ 1 m]",
         "a part of the coax tree; splitter, amplifier and joint likewise"},
        {"splitter / landing splitter / 3-way [/ rated] [/ open] [/ from entry filter] [/ RG-6] [/ 6 m]",
         "a splitter, and what it hangs on"},
        {"Loft / coax [/ from landing splitter] [/ RG-6] [/ 23 m] [/ bad connector]",
         "a coax jack, with its run"},
        {"panel / Main panel [/ Hall] [/ fed by Other panel]", "a consumer unit or sub-panel"},
        {"circuit / Sockets / Main panel [/ leg 2] [/ residual current] [/ copper]", "a circuit of a panel"},
        {"Loft / outlet [/ on Sockets] [/ 4 m] [/ surge strip]",
         "a mains outlet, the wire from the one before, a strip in it; “3 outlets” for several"},
        {"Loft / appliance / dimmer [/ at Loft outlet 1] [/ 18-23]", "what disturbs the mains, and when"},
        {"Loft / laptop [/ Anna's laptop] [/ 1G] [/ USB 2] [/ nvme] [/ at Loft data 1]",
         "a machine: its port, sockets, disk, and the jack that it is plugged into"},
        {"port / Anna's laptop / USB 2 [/ front socket]", "one more port or socket of a device"},
        {"Loft / USB network adapter, 2.5 Gbit/s / in Anna's laptop front socket",
         "a network adapter or card in a machine"},
        {"Loft / coax adapter, 2500 class [/ at Loft coax 1] [/ from Hall switch] [/ 2 m]",
         "an adapter at a jack or outlet, and the lead to it"},
        {"cable / Hall switch port 2 / Box [/ cat 6] [/ 12 m]",
         "a lead or run between two boxes, jacks or parts"},
        {"Loft / need / 100M down / 20M up [/ video calls] [/ at Anna's laptop]", "what is needed where"}};
    return forms;
}

std::vector<LineForm> nextLines(const House& house, const catalog::Catalog& catalog) {
    std::vector<LineForm> out;
    if (house.rooms.empty()) {
        out.push_back({"Hall", "a room on the ground floor: its name is enough"});
        out.push_back({"Loft / floor 2", "a room on another floor"});
        return out;
    }
    const auto anyJack = [&](JackKind kind) {
        return std::any_of(house.jacks.begin(), house.jacks.end(),
                           [&](const Jack& j) { return j.kind == kind; });
    };
    const auto firstOf = [&](DeviceKind kind) {
        return std::find_if(house.devices.begin(), house.devices.end(),
                            [&](const Device& d) { return d.kind == kind; });
    };
    const auto say = [&](const std::string& line, const char* meaning) {
        // Only what is understood is shown; labels may be such as no line can name.
        if (out.size() < maxNext && enterLine(house, catalog, line)) out.push_back({line, meaning});
    };
    const std::string& first = house.rooms.front().label;
    const std::string& newest = house.rooms.back().label;
    const auto router = firstOf(DeviceKind::router);
    if (router == house.devices.end())
        say(first + " / router / Box / 1G", "the box that the service ends in");
    if (router != house.devices.end() && !house.service)
        say("service / 500M down / 50M up / at " + router->label, "what was sold");
    say("Landing / floor 1", "one more room");
    const auto box = firstOf(DeviceKind::network_switch);
    const std::string from = box != house.devices.end()      ? " / from " + box->label
                             : router != house.devices.end() ? " / from " + router->label
                                                             : "";
    say(newest + " / data" + from + " / cat 6 / 18 m", "a data jack, with its run");
    const auto splitter = std::find_if(house.coaxParts.begin(), house.coaxParts.end(),
                                       [](const CoaxPart& p) { return p.kind == CoaxPartKind::splitter; });
    if (house.coaxParts.empty()) say("entry / aerial / " + first, "where the coax comes in");
    if (!house.coaxParts.empty() && splitter == house.coaxParts.end())
        say("splitter / 3-way / " + first + " / from " + house.coaxParts.back().label,
            "what the coax branches at");
    say(newest + " / coax" + (splitter == house.coaxParts.end() ? "" : " / from " + splitter->label) +
            " / RG-6 / 23 m",
        "a coax jack, with its run");
    if (house.panels.empty()) say("panel / Main panel / " + first, "the consumer unit");
    if (!house.panels.empty() && house.circuits.empty())
        say("circuit / Sockets / " + house.panels.front().label, "a circuit");
    if (!house.circuits.empty())
        say(newest + " / 2 outlets / on " + house.circuits.back().label + " / 4 m",
            "outlets in the order of the wire");
    say(newest + " / laptop / 1G / USB 3, 5 Gbit/s", "a machine, its port and a socket");
    const auto machine = firstOf(DeviceKind::host);
    if (machine != house.devices.end()) {
        say(newest + " / USB network adapter, 2.5 Gbit/s / in " + machine->label + " USB 2",
            "an adapter in a socket of a machine");
        say(newest + " / need / 100M down / 20M up / at " + machine->label, "what is needed there");
    }
    if (anyJack(JackKind::coax))
        say(newest + " / coax adapter, 2500 class", "an adapter at the coax of a room");
    if (anyJack(JackKind::mains)) {
        say(newest + " / mains adapter, 1000–1300 class", "an adapter at an outlet");
        say(newest + " / appliance / dimmer / 18-23", "what disturbs the mains, and when");
    }
    return out;
}

} // namespace metrodos::job
