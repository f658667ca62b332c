#include "catalog/load_plant.h"

#include "catalog/entry.h"
#include "quantity/parse.h"

#include <algorithm>

namespace metrodos::catalog {

CoaxModel readCoax(const std::filesystem::path& file) {
    const json document = read(file);
    const Entry all(document, file.string());
    CoaxModel m;
    for (const auto& [name, to] : {std::pair("band", &m.above), {"television_band", &m.television}}) {
        const Entry band = all.part(name);
        *to = {band.frequency("low_hz"), band.frequency("high_hz"), band.frequency("middle_hz")};
        if (!(to->low < to->middle && to->middle < to->high)) fail(band.where(), "its frequencies must rise");
    }
    const Entry link = all.part("link");
    m.transmitDbm = link.number("transmit_dbm", -60, 30);
    m.noiseDbm = link.number("noise_dbm", -174, 0);
    m.goneSnrDb = link.number("gone_snr_db", 0, 60);
    m.dbPerBit = link.number("db_per_bit", 0.1, 20);
    m.fullBits = link.number("full_bits", 1, 20);
    m.nodeOverhead = sourcedValue(document, file.string(), "node_overhead", 0, 0.05);
    each(document, file.string(), "cables", [&](const Entry& e) {
        m.cables.push_back({e.text("id"), e.text("label"), e.spread("loss_db", 0.01, 10),
                            quantity::Money::units(e.number("price_per_metre", 0, 1e4))});
    });
    m.unknownCable = weights(document, file.string(), "unknown_cable",
                             [&](const std::string& id) { return m.cable(id) != nullptr; });
    m.unknownLength = all.part("unknown_length").spread("length_m", 0, 1000);
    const Entry connector = all.part("connector");
    m.goodConnectorDb = connector.number("good_db", 0, 20);
    m.badConnectorDb = connector.spread("bad_db", 0, 20);
    m.badConnectorProbability = connector.number("bad_probability", 0, 1);
    each(document, file.string(), "splitters", [&](const Entry& e) {
        const auto ways = quantity::parseWhole(e.text("id"), 2, 64);
        if (!ways) fail(e.where(), "the id of a splitter is its number of ways");
        m.splitters.push_back({static_cast<int>(*ways), e.number("rated_db", 0, 60),
                               e.number("unrated_db", 0, 60), e.number("television_db", 0, 60)});
    });
    std::ranges::sort(m.splitters, {}, &SplitterLoss::ways);
    const Entry isolation = all.part("isolation");
    m.unratedIsolationDb = isolation.spread("unrated_db", 0, 80);
    m.televisionIsolationDb = isolation.spread("television_db", 0, 80);
    m.ratedIsolationPerLoss = isolation.number("rated_per_loss", 1, 10);
    m.ratedProbability = isolation.number("rated_probability", 0, 1);
    const Entry amplifier = all.part("amplifier");
    m.amplifierBlockedDb = amplifier.number("blocked_db", 0, 120);
    m.amplifierBypassDb = amplifier.number("bypass_db", 0, 60);
    m.bypassProbability = amplifier.number("bypass_probability", 0, 1);
    const Entry filter = all.part("filter");
    m.filterPass = quantity::Frequency::hertz(filter.number("pass_hz", 1e6, 1e10));
    m.filterStopDb = filter.number("stop_db", 0, 120);
    m.filterReflectDb = filter.number("reflect_db", 0, 20);
    m.jointDb = all.part("joint").number("loss_db", 0, 20);
    const Entry ripple = all.part("ripple");
    m.rippleDb = ripple.spread("per_open_db", 0, 20);
    m.mostRipples = static_cast<int>(ripple.number("most", 0, 16));
    m.openProbability = ripple.number("open_probability", 0, 1);
    each(document, file.string(), "classes", [&](const Entry& e) {
        m.classes.push_back({e.text("id"), static_cast<int>(e.number("channels", 1, 16)),
                             e.frequency("channel_hz"), e.textOr("band") == "television"});
    });
    return m;
}

MainsModel readMains(const std::filesystem::path& file) {
    const json document = read(file);
    const Entry all(document, file.string());
    MainsModel m;
    const Entry carriers = all.part("carriers");
    m.low = carriers.frequency("low_hz");
    m.spacingHz = carriers.number("spacing_hz", 1e3, 1e6);
    m.symbolMicroseconds = carriers.number("symbol_us", 1, 1e4);
    m.gapDb = carriers.number("gap_db", 0, 40);
    m.netShare = carriers.number("net_share", 0.01, 1);
    const Entry transmit = all.part("transmit");
    m.transmitLow = transmit.number("low_dbm_hz", -140, 0);
    m.transmitHigh = transmit.number("high_dbm_hz", -140, 0);
    m.transmitEdge = transmit.frequency("edge_hz");
    const Entry noise = all.part("noise");
    m.noiseFloor = noise.number("floor_dbm_hz", -174, 0);
    m.noiseRiseDb = noise.number("rise_db", 0, 100);
    m.noiseExponent = noise.number("exponent", -4, 0);
    const Entry wire = all.part("wire");
    m.wireBase = wire.number("base_db_per_m", 0, 10);
    m.wireSlope = wire.number("slope_db_per_m_mhz", 0, 1);
    const Entry fading = all.part("fading");
    m.fadingSigmaDb = fading.number("sigma_db", 0, 30);
    m.fadingBlockHz = fading.number("block_hz", 1e5, 1e8);
    m.secondStreamDb = fading.number("second_stream_db", 0, 60);
    m.couplingDb = sourcedValue(document, file.string(), "coupling_db", 0, 60);
    m.outletDb = all.part("outlet_db").spread("range", 0, 20);
    each(document, file.string(), "protections", [&](const Entry& e) {
        m.protections.push_back(
            {e.text("id"), e.text("label"), e.number("base_db", 0, 80), e.number("slope_db_mhz", 0, 5)});
    });
    each(document, file.string(), "wirings", [&](const Entry& e) {
        m.wirings.push_back({e.text("id"), e.text("label"), e.number("factor", 0.1, 10)});
    });
    m.otherLegDb = all.part("other_leg_db").spread("range", 0, 80);
    m.subPanelDb = sourcedValue(document, file.string(), "sub_panel_db", 0, 80);
    m.otherUnitDb = sourcedValue(document, file.string(), "other_unit_db", 0, 120);
    each(document, file.string(), "strips", [&](const Entry& e) {
        m.strips.push_back({e.text("id"), e.text("label"), e.number("loss_db", 0, 120)});
    });
    m.unknownStep = all.part("unknown_step").spread("length_m", 0, 1000);
    each(document, file.string(), "appliances", [&](const Entry& e) {
        m.appliances.push_back({e.text("id"), e.text("label"), e.number("noise_db", 0, 60)});
    });
    const Entry reach = all.part("appliance_reach");
    m.applianceDbPerMetre = reach.number("db_per_m", 0, 10);
    m.applianceCrossingDb = reach.number("crossing_db", 0, 80);
    m.ambientNoiseDb = all.part("ambient_noise").spread("range", 0, 60);
    m.macShare = all.part("mac_share").spread("range", 0.01, 1);
    m.otherLanguageShare = sourcedValue(document, file.string(), "other_language_share", 0.01, 1);
    each(document, file.string(), "classes", [&](const Entry& e) {
        m.classes.push_back({e.text("id"), e.frequency("top_hz"), static_cast<int>(e.number("streams", 1, 2)),
                             e.number("full_bits", 1, 16)});
    });
    for (const char* id : {"unknown", "breaker", "fuse", "residual_current", "arc_fault"})
        if (m.protection(id) == nullptr)
            fail(file.string(), std::string("the protection “") + id + "” is missing");
    for (const char* id : {"unknown", "wall", "plain", "surge_protected"})
        if (m.strip(id) == nullptr) fail(file.string(), std::string("the strip “") + id + "” is missing");
    return m;
}

AirModel readAir(const std::filesystem::path& file) {
    const json document = read(file);
    const Entry all(document, file.string());
    AirModel m;
    m.nearShare = all.part("near").spread("share", 0.01, 1);
    const Entry path = all.part("path");
    m.exponent = path.number("exponent", 1, 8);
    m.referenceMetres = path.number("reference_m", 0.1, 100);
    m.wallDb = path.spread("wall_db", 0, 60);
    m.dbPerHalving = path.number("db_per_halving", 0.5, 60);
    m.unknownDistance = all.part("unknown_distance").spread("length_m", 0.1, 1000);
    m.stations = all.part("stations").spread("range", 1, 256);
    const Entry rooms = all.part("between_rooms");
    m.betweenRooms = Length::metres(rooms.number("distance_m", 0.1, 200));
    m.wallsBetweenRooms = static_cast<int>(rooms.number("walls", 0, 20));
    m.perFloor = Length::metres(rooms.number("per_floor_m", 0, 50));
    const Entry buildings = all.part("between_buildings");
    m.betweenBuildings = Length::metres(buildings.number("distance_m", 0.1, 1000));
    m.wallsBetweenBuildings = static_cast<int>(buildings.number("walls", 0, 20));
    return m;
}

void readStorage(const std::filesystem::path& file, std::vector<DiskClass>& disks,
                 std::vector<FileProtocol>& protocols) {
    const json document = read(file);
    each(document, file.string(), "disks", [&](const Entry& e) {
        disks.push_back(
            {e.text("id"), e.text("label"), e.rates("read_bps"), e.rates("write_bps"), e.text("source")});
    });
    each(document, file.string(), "protocols", [&](const Entry& e) {
        FileProtocol protocol{e.text("id"), e.text("label"), e.spread("share", 0.001, 1), {},
                              {},           e.text("source")};
        if (e.raw().contains("request_bytes")) protocol.requestBytes = e.spread("request_bytes", 512, 1e9);
        if (e.raw().contains("cap_bps")) protocol.cap = e.rates("cap_bps");
        protocols.push_back(std::move(protocol));
    });
}

} // namespace metrodos::catalog
