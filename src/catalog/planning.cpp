#include "catalog/planning.h"

#include "catalog/find.h"
#include "catalog/load_planning.h"

#include <map>

namespace metrodos::catalog {
namespace {

constexpr double dearest = 1e6;
constexpr double maxWork = 6000; // minutes

UseClass useOf(const Entry& e) {
    UseClass out;
    out.id = e.text("id");
    out.label = e.text("label");
    if (!e.raw().contains("words") || !e.raw().at("words").is_array() || e.raw().at("words").empty())
        fail(e.where(), "“words” must be a list of texts");
    for (const json& word : e.raw().at("words"))
        out.words.push_back(word.get<std::string>());
    out.down = e.rate("down_bps");
    out.up = e.rate("up_bps");
    if (e.raw().contains("delay_us"))
        out.delay = std::chrono::microseconds(static_cast<long long>(e.number("delay_us", 1, 1e7)));
    out.steady = e.raw().value("steady", false);
    out.buffered = e.raw().value("buffered", false);
    out.volume = e.raw().value("volume", false);
    static const std::map<std::string, PeerKind> peers{{"service", PeerKind::service},
                                                       {"store", PeerKind::store},
                                                       {"recorder", PeerKind::recorder},
                                                       {"house", PeerKind::house}};
    const auto peer = peers.find(e.text("peer"));
    if (peer == peers.end()) fail(e.where(), "“peer” must be service, store, recorder or house");
    out.peer = peer->second;
    out.source = e.text("source");
    return out;
}

WayClass wayOf(const Entry& e) {
    return {e.text("id"),
            e.text("label"),
            e.text("brief"),
            e.number("years", 1, 40),
            e.number("minutes_per_spot", 0, maxWork),
            e.number("minutes_once", 0, maxWork),
            static_cast<int>(e.number("holes", 0, 20)),
            e.number("steadiness", 0, 1),
            e.text("security"),
            e.textOr("rules_out"),
            e.text("source")};
}

} // namespace

namespace {

constexpr std::pair<WayMeans, const char*> wayIds[] = {
    {WayMeans::as_is, "as-is"},     {WayMeans::data, "data"},
    {WayMeans::new_own, "new-own"}, {WayMeans::new_hired, "new-hired"},
    {WayMeans::coax, "coax"},       {WayMeans::mains, "mains"},
    {WayMeans::air, "air"},         {WayMeans::mesh, "mesh"},
    {WayMeans::phone, "phone"},     {WayMeans::fibre, "fibre"}};

} // namespace

std::optional<WayMeans> wayMeans(std::string_view id) {
    for (const auto& [means, name] : wayIds)
        if (id == name) return means;
    return std::nullopt;
}

const char* idOf(WayMeans means) {
    for (const auto& [one, name] : wayIds)
        if (one == means) return name;
    return "";
}

const UseClass* Planning::use(std::string_view id) const {
    return find(uses, id);
}
const WayClass* Planning::way(std::string_view id) const {
    return find(ways, id);
}
const PartClass* Planning::part(std::string_view id) const {
    return find(parts, id);
}

Planning readPlanning(const std::filesystem::path& file) {
    Planning out;
    const json document = read(file);
    each(document, file.string(), "uses", [&](const Entry& e) { out.uses.push_back(useOf(e)); });
    each(document, file.string(), "ways", [&](const Entry& e) { out.ways.push_back(wayOf(e)); });
    each(document, file.string(), "parts", [&](const Entry& e) {
        const std::string unit = e.text("unit");
        if (unit != "piece" && unit != "metre" && unit != "run" && unit != "hour" && unit != "kWh")
            fail(e.where(), "“unit” must be piece, metre, run, hour or kWh");
        out.parts.push_back({e.text("id"), e.text("label"), unit,
                             quantity::Money::units(e.number("price", 0, dearest)), e.text("source")});
    });
    each(document, file.string(), "switches", [&](const Entry& e) {
        out.switches.push_back({e.text("id"), e.text("label"), e.text("class"),
                                static_cast<int>(e.number("ports", 2, 64)),
                                quantity::Money::units(e.number("price", 0, dearest)), e.text("source")});
    });
    for (const char* part :
         {"labour", "electricity", "hired-run", "data-jack", "patch-lead", "splitter", "entry-filter",
          "terminator", "fibre-lead", "fibre-converter", "phone-adapter", "radio-node", "new-cable"})
        if (out.part(part) == nullptr) fail(file.string(), std::string("the part “") + part + "” is missing");
    for (const char* way :
         {"as-is", "data", "new-own", "new-hired", "coax", "mains", "phone", "fibre", "air", "mesh"})
        if (out.way(way) == nullptr) fail(file.string(), std::string("the way “") + way + "” is missing");
    const Entry laying = Entry(document, file.string()).part("laying");
    out.laying = {quantity::Length::metres(laying.number("base_m", 0, 200)),
                  quantity::Length::metres(laying.number("per_floor_m", 0, 50)),
                  quantity::Length::metres(laying.number("between_buildings_m", 0, 500)),
                  laying.number("allowance", 0, 1),
                  laying.number("minutes_per_metre", 0, 60),
                  laying.number("minutes_per_hole", 0, 600),
                  laying.text("cable")};
    out.phonePair = Entry(document, file.string()).part("phone_pair").rates("goodput_bps");
    const Entry running = Entry(document, file.string()).part("running");
    out.running = {running.number("adapter_watts", 0, 100), running.number("switch_watts", 0, 500),
                   running.number("switch_years", 1, 40)};
    out.nicMinutes = sourcedValue(document, file.string(), "nic_minutes", 0, 600);
    out.steadyFrom = sourcedValue(document, file.string(), "steady_from", 0, 1);
    out.meshShare = sourcedValue(document, file.string(), "mesh_share", 0.1, 1);
    return out;
}

} // namespace metrodos::catalog
