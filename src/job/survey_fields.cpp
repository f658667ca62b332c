// The fields of rooms, jacks and the coax tree; what the schema says of all kinds.
#include "job/survey_fields.h"

namespace metrodos::job {

using namespace house;
using namespace make;
using catalog::Catalog;

template <>
std::vector<Field<Room>> fieldsOf(const Catalog*) {
    return {id<Room>(), text("label", "Room", &Room::label, "label", true),
            whole("floor", "Floor", &Room::floor, -10, 100, "floor"),
            text("building", "Building", &Room::building, "building")};
}

template <>
std::vector<Field<Jack>> fieldsOf(const Catalog*) {
    return {id<Jack>(), text("label", "Jack", &Jack::label, "label", true),
            link("room", "Room", &Jack::room, &House::rooms, "room"),
            word("kind", "Kind", &Jack::kind, &jackKind,
                 {JackKind::data, JackKind::coax, JackKind::mains, JackKind::phone}, true, false, "type"),
            stripField<Jack>(
                "strip", &Jack::strip, [](const Jack& j) { return j.kind == JackKind::mains; }, "strip")};
}

template <>
std::vector<Field<CoaxPart>> fieldsOf(const Catalog*) {
    return {id<CoaxPart>(),
            text("label", "Part", &CoaxPart::label, "", true),
            word("kind", "Kind", &CoaxPart::kind, &coaxPartKind,
                 {CoaxPartKind::entry, CoaxPartKind::splitter, CoaxPartKind::amplifier, CoaxPartKind::filter,
                  CoaxPartKind::joint}),
            link("room", "Room", &CoaxPart::room, &House::rooms),
            whole("ways", "Ways", &CoaxPart::ways, 1, 8),
            yesNo("rated", "Rated for the band", &CoaxPart::rated),
            yesNo("terminated", "Open ports terminated", &CoaxPart::terminated),
            yesNo("bypass", "Bypass", &CoaxPart::bypass)};
}

template <>
std::vector<Field<CoaxUse>> fieldsOf(const Catalog*) {
    using quantity::Frequency;
    return {
        yesNo("television", "Television", &CoaxUse::television),
        yesNo("satellite", "Satellite dish", &CoaxUse::satellite),
        measured<CoaxUse, Frequency>(
            "cable_internet_top_hz", "Cable internet up to, MHz", &CoaxUse::cableInternetTop, 0, 1e11,
            [](const Frequency& f) { return f.inHertz(); }, [](double hz) { return Frequency::hertz(hz); },
            [](const Frequency& f) { return quantity::significant(f.inMegahertz(), 4); },
            [](const std::string& typed) -> Result<Frequency> {
                const auto mhz = quantity::parseWhole(typed, 5, 3000);
                if (!mhz)
                    return problem(inQuotes(typed) + " is not a frequency", "", "write it in MHz, like 1218");
                return Frequency::megahertz(static_cast<double>(*mhz));
            })};
}

json surveySchemas() {
    json out = json::object();
    const auto add = [&]<typename Item>(const char* definition, Item) {
        json& properties = out[definition] = json::object();
        for (const Field<Item>& f : fieldsOf<Item>())
            if (!f.key.empty()) properties[f.key] = f.schema;
    };
    add("room", Room{});
    add("jack", Jack{});
    add("connection", Connection{});
    add("coax_part", CoaxPart{});
    add("panel", Panel{});
    add("circuit", Circuit{});
    add("appliance", Appliance{});
    add("storage", Storage{});
    add("port", Port{});
    add("device", Device{});
    add("spot", Spot{});
    add("service", Service{});
    add("coax_use", CoaxUse{});
    add("route", Route{});
    add("set_up", AdapterRecord{});
    add("network", Network{});
    add("port_address", PortAddress{});
    return out;
}

} // namespace metrodos::job
