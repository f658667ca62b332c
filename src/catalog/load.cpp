#include "catalog/load.h"

#include "catalog/entry.h"
#include "catalog/load_faults.h"
#include "catalog/load_planning.h"
#include "catalog/load_plant.h"

#include <algorithm>

namespace metrodos::catalog {
namespace {

using quantity::Problem;

void readPhys(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "phys", [&](const Entry& e) {
        out.phys.push_back({e.text("id"), e.text("label"), e.rate("rate_bps"),
                            static_cast<int>(e.number("pairs", 1, 4)), e.text("source")});
    });
    std::ranges::sort(out.phys, {}, &Phy::rate);
    out.unknownPort = weights(document, file.string(), "unknown_port",
                              [&](const std::string& id) { return out.phy(id) != nullptr; });
}

void readCables(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "cables", [&](const Entry& e) {
        CableCategory cable{e.text("id"),
                            e.text("label"),
                            {},
                            Money::units(e.number("price_per_metre", 0, 1e4)),
                            e.text("source")};
        if (!e.raw().contains("reach") || !e.raw().at("reach").is_object())
            fail(e.where(), "“reach” is missing");
        for (const auto& [phy, lengths] : e.raw().at("reach").items()) {
            if (out.phy(phy) == nullptr) fail(e.where(), "the PHY “" + phy + "” is unknown");
            const auto metres = e.numbersOf(lengths, phy, 2, 0, 1000);
            cable.reach[phy] = {Length::metres(metres[0]), Length::metres(metres[1])};
        }
        out.cables.push_back(std::move(cable));
    });
    out.likelyLinkProbability = sourcedValue(document, file.string(), "likely_link_probability", 0, 1);
    out.badPairProbability = sourcedValue(document, file.string(), "bad_pair_probability", 0, 1);
    out.unknownCable = weights(document, file.string(), "unknown_cable",
                               [&](const std::string& id) { return out.cable(id) != nullptr; });
    out.unknownLength =
        Length::metres(Entry(document.at("unknown_cable"), file.string()).number("length_m", 0, 1000));
    each(document, file.string(), "terminations", [&](const Entry& e) {
        out.terminations.push_back({e.text("id"), e.text("label"), e.number("bad_pair_factor", 0, 30)});
    });
    out.patchLead =
        Length::metres(Entry(document, file.string()).part("patch_lead").number("length_m", 0, 20));
}

void readBuses(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "buses", [&](const Entry& e) {
        const auto kind = house::portKind(e.text("kind"));
        if (kind != house::PortKind::usb && kind != house::PortKind::pcie)
            fail(e.where(), "“kind” must be usb or pcie");
        out.buses.push_back({e.text("id"), e.text("label"), *kind, e.rate("raw_bps"), e.rates("goodput_bps"),
                             e.raw().value("half_duplex", false), e.text("source")});
    });
}

Family familyNamed(const Entry& e) {
    static const std::map<std::string, Family> names{{"switch", Family::network_switch},
                                                     {"router", Family::router},
                                                     {"bus", Family::bus},
                                                     {"coax", Family::coax},
                                                     {"mains", Family::mains},
                                                     {"air", Family::air}};
    const auto hit = names.find(e.text("family"));
    if (hit == names.end()) fail(e.where(), "“family” is unknown");
    return hit->second;
}

void readDevices(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "hosts", [&](const Entry& e) {
        out.hosts.push_back({e.text("id"), e.text("label"), e.rates("goodput_bps"),
                             e.number("window_bytes", 1024, 1e10), e.flag("baseline_first"),
                             e.text("source")});
    });
    each(document, file.string(), "devices", [&](const Entry& e) {
        DeviceClass device;
        device.id = e.text("id");
        device.label = e.text("label");
        device.family = familyNamed(e);
        device.price = Money::units(e.number("price", 0, 1e6));
        device.ethernetPhy = e.text("ethernet_phy");
        if (out.phy(device.ethernetPhy) == nullptr) fail(e.where(), "“ethernet_phy” is unknown");
        device.busPhy = e.textOr("bus_phy");
        device.speaks = e.textOr("speaks");
        device.builtIn = e.textOr("built_in");
        if (!device.busPhy.empty() && out.bus(device.busPhy) == nullptr)
            fail(e.where(), "“bus_phy” is unknown");
        if (e.raw().contains("rated_bps")) device.rated = e.rate("rated_bps");
        device.goodput = e.rates("goodput_bps");
        device.source = e.text("source");
        if (e.raw().contains("medium_bps"))
            for (const auto& [situation, range] : e.raw().at("medium_bps").items())
                device.medium[situation] = e.rates(range, "medium_bps." + situation);
        out.devices.push_back(std::move(device));
    });
    for (const DeviceClass& device : out.devices)
        if (!device.builtIn.empty()) {
            const DeviceClass* inside = out.device(device.builtIn);
            if (inside == nullptr || !isOfMedium(inside->family))
                fail(device.id, "“built_in” is no class of an adapter for coax, mains or radio");
        }
}

void readMedia(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "media", [&](const Entry& e) {
        const auto medium = house::medium(e.text("medium"));
        if (!medium || !house::isShared(*medium)) fail(e.where(), "“medium” is unknown");
        const auto rtt = e.numbers("rtt_us", 3, 1, 1e7);
        MediumClass out1{*medium,
                         e.text("label"),
                         {rtt[0], rtt[1], rtt[2]},
                         e.number("variation", 0, 1),
                         e.number("hours", 0, 2),
                         e.number("loaded_delay", 1, 100),
                         {},
                         e.spread("phy_share", 0.01, 1),
                         e.text("source")};
        if (!e.raw().contains("situations")) fail(e.where(), "“situations” is missing");
        for (const json& item : e.raw().at("situations")) {
            const Entry situation(item, e.where());
            out1.situations.push_back({situation.text("id"), situation.text("label")});
        }
        out.media.push_back(std::move(out1));
    });
    out.wiredRttMicroseconds = sourcedValue(document, file.string(), "wired_rtt_us", 0, 1e6);
    out.serviceShare = Entry(document, file.string()).part("service_share").spread("share", 0.1, 2);
    out.unknownService = Entry(document, file.string()).part("unknown_service").rates("rate_bps");
    // Every class of a medium must know every way its ends can lie to each other.
    for (const DeviceClass& device : out.devices)
        for (const MediumClass& medium : out.media)
            if (familyOf(medium.medium) == device.family)
                for (const Situation& situation : medium.situations)
                    if (!device.medium.contains(situation.id))
                        fail(device.id, "“medium_bps” lacks “" + situation.id + "”");
}

} // namespace

quantity::Result<Catalog> load(const std::filesystem::path& folder) {
    Catalog out;
    try {
        readPhys(out, folder / "phys.json");
        readCables(out, folder / "cables.json");
        readBuses(out, folder / "buses.json");
        readDevices(out, folder / "devices.json");
        readMedia(out, folder / "media.json");
        out.coax = readCoax(folder / "coax.json");
        out.mains = readMains(folder / "mains.json");
        out.air = readAir(folder / "air.json");
        readStorage(folder / "storage.json", out.disks, out.protocols);
        out.faults = readFaults(folder / "faults.json");
        out.planning = readPlanning(folder / "planning.json");
        for (const SwitchModel& model : out.planning.switches)
            if (out.device(model.deviceClass) == nullptr)
                fail(model.id, "the class “" + model.deviceClass + "” is unknown");
        if (out.cable(out.planning.laying.cable) == nullptr)
            fail("laying", "the cable “" + out.planning.laying.cable + "” is unknown");
        for (const FaultClass& fault : out.faults.faults)
            for (const std::string& bus : fault.buses)
                if (out.bus(bus) == nullptr) fail(fault.id, "the bus “" + bus + "” is unknown");
    } catch (Problem& fault) {
        return tl::unexpected(std::move(fault));
    } catch (const json::exception&) {
        return quantity::problem("one of the catalog files holds a value of the wrong kind", folder.string(),
                                 "correct the file or install the program again");
    }
    return out;
}

} // namespace metrodos::catalog
