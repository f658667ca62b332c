#include "job/survey_fields.h"

#include "catalog/catalog.h"
#include "weigh/need.h"

namespace metrodos::job {
namespace {

json idSchema() {
    return {{"type", "string"}, {"pattern", "^[a-z0-9-]{1,64}$"}};
}

using namespace house;
using namespace make;
using catalog::Catalog;
using quantity::BadField;

constexpr std::size_t maxPorts = 256;
constexpr std::size_t maxEnds = 256;

template <typename Classes>
const Classes* in(const Catalog* catalog, Classes Catalog::*list) {
    return catalog == nullptr ? nullptr : &(catalog->*list);
}

template <typename Item>
Field<Item> id() {
    return special<Item>(
        "id", idSchema(), [](const House&, const Item& i) { return json(i.id); },
        [](Item& i, const json& o) { i.id = fields::neededText(o, "id", maxId); });
}

// "9-17, 18-23"; over midnight where the second is less.
Result<std::vector<HourSpan>> parseHours(const std::string& typed) {
    std::vector<HourSpan> out;
    std::string text;
    for (std::size_t i = 0; i < typed.size(); ++i)
        if (typed.compare(i, 3, "\xe2\x80\x93") == 0) { // an en dash
            text += '-';
            i += 2;
        } else if (typed[i] != ' ') {
            text += typed[i];
        }
    std::size_t from = 0;
    while (from < text.size()) {
        const std::size_t to = std::min(text.find(',', from), text.size());
        const std::string part = text.substr(from, to - from);
        from = to + 1;
        if (part.empty()) continue;
        const std::size_t dash = part.find('-');
        const auto a = quantity::parseWhole(part.substr(0, dash), 0, 24);
        const auto b =
            dash == std::string::npos ? std::nullopt : quantity::parseWhole(part.substr(dash + 1), 0, 24);
        if (!a || !b)
            return problem(asQuote(part) + " is not a span of hours", "", "write them like 9-12, 18-23");
        out.push_back({static_cast<int>(*a), static_cast<int>(*b)});
    }
    return out;
}

std::string hoursText(const std::vector<HourSpan>& hours) {
    std::string out;
    for (const HourSpan& span : hours)
        out += (out.empty() ? "" : ", ") + std::to_string(span.from) + "–" + std::to_string(span.to);
    return out;
}

// "Loft outlet 1 4 m; Loft outlet 2": each a label, and the wire from the outlet before.
std::string outletsText(const House& house, const std::vector<CircuitOutlet>& outlets) {
    std::string out;
    for (const CircuitOutlet& o : outlets) {
        const Jack* jack = house.jack(o.jack);
        out += (out.empty() ? "" : "; ") + (jack == nullptr ? o.jack : jack->label) +
               (o.fromPrevious ? " " + quantity::plain(*o.fromPrevious) : std::string());
    }
    return out;
}

bool beginsWith(const std::string& text, const std::string& label) {
    return text.size() >= label.size() &&
           std::equal(label.begin(), label.end(), text.begin(), [](char a, char b) {
               return std::tolower(static_cast<unsigned char>(a)) ==
                      std::tolower(static_cast<unsigned char>(b));
           });
}

Result<std::vector<CircuitOutlet>> parseOutlets(const House& house, const std::string& typed) {
    std::vector<CircuitOutlet> out;
    std::size_t from = 0;
    while (from < typed.size()) {
        const std::size_t to = std::min(typed.find(';', from), typed.size());
        std::string one = typed.substr(from, to - from);
        from = to + 1;
        one.erase(0, std::min(one.find_first_not_of(' '), one.size()));
        if (one.empty()) continue;
        const Jack* outlet = nullptr; // the longest label that begins it
        for (const Jack& jack : house.jacks)
            if (jack.kind == JackKind::mains && beginsWith(one, jack.label) &&
                (outlet == nullptr || jack.label.size() > outlet->label.size()))
                outlet = &jack;
        if (outlet == nullptr)
            return problem("there is no outlet " + asQuote(one), "",
                           "write outlets like “Loft outlet 1 4 m; Loft outlet 2”");
        CircuitOutlet o{outlet->id, {}};
        const std::string tail = one.substr(outlet->label.size());
        if (const std::size_t begin = tail.find_first_not_of(' '); begin != std::string::npos) {
            const auto length = quantity::parseLength(tail.substr(begin));
            if (!length) return tl::unexpected(length.error());
            o.fromPrevious = *length;
        }
        out.push_back(std::move(o));
    }
    return out;
}

std::string portsText(const House& house, const Device& device, const Catalog* catalog) {
    std::string out;
    for (const Port& port : device.ports) {
        std::string rate;
        if (catalog != nullptr) {
            if (const auto* phy = catalog->phy(port.phy)) rate = " " + phy->label;
            if (const auto* bus = catalog->bus(port.phy)) rate = " " + bus->label;
        }
        const Jack* jack = house.jack(port.jack);
        out += (out.empty() ? "" : "; ") + (port.label.empty() ? port.id : port.label) + rate +
               (jack == nullptr ? std::string() : " → " + jack->label);
    }
    return out;
}

json endToJson(const House& house, const PortRef& end) {
    if (house.jack(end.device) != nullptr) return {{"jack", end.device}};
    if (house.room(end.device) != nullptr) return {{"room", end.device}};
    return {{house.coaxPart(end.device) != nullptr ? "part" : "device", end.device}, {"port", end.port}};
}

PortRef endFromJson(const json& end) {
    for (const char* what : {"device", "jack", "part", "room"})
        if (fields::find(end, what) != nullptr)
            return {fields::text(end, what, maxId), fields::text(end, "port", maxId)};
    throw BadField{"ends"};
}

Field<Connection> end(const char* title, std::size_t which) {
    return derived<Connection>(title, [which](const House& h, const Connection& c) {
        return c.ends.size() > which ? h.labelOf(c.ends[which]) : std::string("not found yet");
    });
}

json arrayOf(json items, std::size_t maxItems) {
    return {{"type", "array"}, {"maxItems", maxItems}, {"items", std::move(items)}};
}

} // namespace

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
                 {JackKind::data, JackKind::coax, JackKind::mains, JackKind::phone}, true, false, "type")};
}

template <>
std::vector<Field<Connection>> fieldsOf(const Catalog* catalog) {
    Field<Connection> ends = special<Connection>(
        "ends", arrayOf({{"$ref", "#/definitions/end"}}, maxEnds),
        [](const House& h, const Connection& c) {
            json out = json::array();
            for (const PortRef& end : c.ends)
                out.push_back(endToJson(h, end));
            return out;
        },
        [](Connection& c, const json& o) {
            const json* list = fields::list(o, "ends", maxEnds);
            if (list == nullptr) throw BadField{"ends"};
            for (const json& end : *list)
                c.ends.push_back(endFromJson(end));
        });
    Field<Connection> phyRates = special<Connection>(
        "phy_rates",
        arrayOf({{"type", "object"},
                 {"properties",
                  {{"from", {{"type", "string"}, {"maxLength", maxId}}},
                   {"to", {{"type", "string"}, {"maxLength", maxId}}},
                   {"bps", {{"type", "number"}, {"exclusiveMinimum", 0}, {"maximum", 1e12}}}}},
                 {"required", {"from", "to", "bps"}},
                 {"additionalProperties", false}},
                240),
        [](const House&, const Connection& c) {
            json out = json::array();
            for (const PhyReading& r : c.phyRates)
                out.push_back({{"from", r.from}, {"to", r.to}, {"bps", r.rate.bps()}});
            return out;
        },
        [](Connection& c, const json& o) {
            if (const json* list = fields::list(o, "phy_rates", 240))
                for (const json& one : *list)
                    c.phyRates.push_back(
                        {fields::neededText(one, "from", maxId), fields::neededText(one, "to", maxId),
                         quantity::BitRate::bitsPerSecond(fields::neededNumber(one, "bps", 1, 1e12))});
        });
    Field<Connection> linked = rate("linked_bps", "", &Connection::linkedAt);
    Field<Connection> halfDuplex = special<Connection>(
        "half_duplex", {{"type", "boolean"}},
        [](const House&, const Connection& c) { return json(c.halfDuplex); },
        [](Connection& c, const json& o) { c.halfDuplex = fields::flag(o, "half_duplex").value_or(false); });
    Field<Connection> situation = text("situation", "", &Connection::situation, "", false, maxId);
    // Categories for data cable, types for coax: which, the run decides.
    const auto cables = [catalog](const House&, const Connection& c) {
        std::vector<Choice> out;
        if (catalog == nullptr) return out;
        if (c.medium == Medium::coax)
            for (const auto& type : catalog->coax.cables)
                out.push_back({type.id, type.label});
        else
            for (const auto& category : catalog->cables)
                out.push_back({category.id, category.label});
        return out;
    };
    return {
        id<Connection>(),
        text("label", "Run", &Connection::label, "label", true),
        word("medium", "Medium", &Connection::medium, &medium,
             {Medium::data_cable, Medium::coax, Medium::mains, Medium::air, Medium::bus, Medium::phone}, true,
             true, "type"),
        end("From", 0),
        end("To", 1),
        ends,
        oneOf<Connection>("class", "Type", &Connection::cableClass, cables, "class"),
        metres("length_m", "Length", &Connection::length, 1000, "length_m"),
        whole("good_pairs", "Sound pairs", &Connection::goodPairs, 0, 4, "good_pairs"),
        classOf("termination", "Ends made", &Connection::termination, in(catalog, &Catalog::terminations)),
        whole("bad_connectors", "Bad connectors", &Connection::badConnectors, 0, 2, "bad_connectors"),
        yesNo("end_terminated", "Loose end terminated", &Connection::endTerminated),
        whole("walls", "Walls", &Connection::walls, 0, 20),
        whole("stations", "Stations", &Connection::stations, 1, 256),
        situation,
        linked,
        halfDuplex,
        phyRates};
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
std::vector<Field<Panel>> fieldsOf(const Catalog*) {
    return {id<Panel>(), text("label", "Panel", &Panel::label, "", true),
            link("room", "Room", &Panel::room, &House::rooms),
            link("fed_by", "Fed by", &Panel::fedBy, &House::panels)};
}

template <>
std::vector<Field<Circuit>> fieldsOf(const Catalog* catalog) {
    Field<Circuit> outlets = special<Circuit>(
        "outlets",
        arrayOf({{"type", "object"},
                 {"properties",
                  {{"jack", idSchema()},
                   {"from_previous_m", {{"type", {"number", "null"}}, {"minimum", 0}, {"maximum", 1000}}}}},
                 {"required", {"jack"}},
                 {"additionalProperties", false}},
                256),
        [](const House&, const Circuit& c) {
            json out = json::array();
            for (const CircuitOutlet& o : c.outlets)
                out.push_back(
                    {{"jack", o.jack},
                     {"from_previous_m", o.fromPrevious ? json(o.fromPrevious->inMetres()) : json(nullptr)}});
            return out;
        },
        [](Circuit& c, const json& o) {
            if (const json* list = fields::list(o, "outlets", 256))
                for (const json& one : *list) {
                    c.outlets.push_back({fields::neededText(one, "jack", maxId), {}});
                    if (const auto m = fields::number(one, "from_previous_m", 0, 1000))
                        c.outlets.back().fromPrevious = quantity::Length::metres(*m);
                }
        });
    outlets.title = "Outlets in order, wire before each";
    outlets.show = [](const House& h, const Circuit& c) { return outletsText(h, c.outlets); };
    outlets.set = [](House& h, Circuit& c, const std::string& typed) -> Result<void> {
        auto parsed = parseOutlets(h, typed);
        if (!parsed) return tl::unexpected(parsed.error());
        c.outlets = std::move(*parsed);
        return {};
    };
    return {
        id<Circuit>(),
        text("label", "Circuit", &Circuit::label, "", true),
        link("panel", "Panel", &Circuit::panel, &House::panels),
        text("leg", "Leg", &Circuit::leg, "", false, 16),
        word("protection", "Device", &Circuit::protection, &protection,
             {Protection::unknown, Protection::breaker, Protection::fuse, Protection::residual_current,
              Protection::arc_fault},
             false),
        classOf("wiring", "Wiring", &Circuit::wiring, catalog == nullptr ? nullptr : &catalog->mains.wirings),
        outlets};
}

template <>
std::vector<Field<Appliance>> fieldsOf(const Catalog* catalog) {
    Field<Appliance> hours = special<Appliance>(
        "hours",
        arrayOf({{"type", "array"},
                 {"minItems", 2},
                 {"maxItems", 2},
                 {"items", {{"type", "integer"}, {"minimum", 0}, {"maximum", 24}}}},
                24),
        [](const House&, const Appliance& a) {
            json out = json::array();
            for (const HourSpan& span : a.hours)
                out.push_back({span.from, span.to});
            return out;
        },
        [](Appliance& a, const json& o) {
            const json* list = fields::list(o, "hours", 24);
            if (list == nullptr) return;
            for (const json& span : *list) {
                const auto both = fields::numbers({{"hours", span}}, "hours", 2, 0, 24);
                if (both.size() != 2) throw BadField{"hours"};
                a.hours.push_back({static_cast<int>(both[0]), static_cast<int>(both[1])});
            }
        });
    hours.title = "Hours";
    hours.show = [](const House&, const Appliance& a) { return hoursText(a.hours); };
    hours.set = [](House&, Appliance& a, const std::string& typed) -> Result<void> {
        auto parsed = parseHours(typed);
        if (!parsed) return tl::unexpected(parsed.error());
        a.hours = std::move(*parsed);
        return {};
    };
    const std::function<bool(const Jack&)> isOutlet = [](const Jack& j) { return j.kind == JackKind::mains; };
    return {id<Appliance>(), text("label", "Appliance", &Appliance::label, "", true),
            classOf("class", "Class", &Appliance::applianceClass,
                    catalog == nullptr ? nullptr : &catalog->mains.appliances),
            link("outlet", "Outlet", &Appliance::outlet, &House::jacks, "", isOutlet), hours};
}

template <>
std::vector<Field<Storage>> fieldsOf(const Catalog* catalog) {
    return {classOf("class", "Disks", &Storage::diskClass, in(catalog, &Catalog::disks)),
            whole("disks", "How many", &Storage::disks, 1, 64),
            word("layout", "Together", &Storage::layout, &diskLayout,
                 {DiskLayout::single, DiskLayout::stripe, DiskLayout::mirror, DiskLayout::parity}, false)};
}

template <>
std::vector<Field<Port>> fieldsOf(const Catalog* catalog) {
    // Of the port's own kind: rates of Ethernet, generations of sockets and slots.
    const auto modes = [catalog](const House&, const Port& port) {
        std::vector<Choice> out;
        if (catalog == nullptr) return out;
        if (port.kind == PortKind::ethernet)
            for (const auto& phy : catalog->phys)
                out.push_back({phy.id, phy.label});
        for (const auto& bus : catalog->buses)
            if (bus.kind == port.kind) out.push_back({bus.id, bus.label});
        return out;
    };
    Field<Port> strip = word("strip", "Strip", &Port::strip, &house::strip,
                             {Strip::unknown, Strip::wall, Strip::plain, Strip::surge_protected}, false);
    const auto shown = strip.show;
    strip.show = [shown](const House& h, const Port& p) {
        return p.kind == PortKind::mains ? shown(h, p) : std::string();
    };
    Field<Port> label = text("label", "Port", &Port::label);
    label.write = [](const House&, const Port& p) { return json(p.label); };
    label.schema = {{"type", "string"}, {"maxLength", maxText}};
    return {id<Port>(),
            label,
            word("kind", "Kind", &Port::kind, &portKind,
                 {PortKind::ethernet, PortKind::usb, PortKind::pcie, PortKind::coax, PortKind::mains,
                  PortKind::radio, PortKind::phone},
                 true, true),
            oneOf<Port>("phy", "Rate", &Port::phy, modes),
            link("jack", "Plugged into", &Port::jack, &House::jacks),
            strip};
}

template <>
std::vector<Field<Device>> fieldsOf(const Catalog* catalog) {
    Field<Device> ports = special<Device>(
        "ports", arrayOf({{"$ref", "#/definitions/port"}}, maxPorts),
        [](const House& h, const Device& d) {
            json out = json::array();
            for (const Port& p : d.ports)
                out.push_back(toJson(h, p));
            return out;
        },
        [](Device& d, const json& o) {
            const json* list = fields::list(o, "ports", maxPorts);
            if (list == nullptr) throw BadField{"ports"};
            for (const json& p : *list)
                d.ports.push_back(fromJson<Port>(p));
        });
    ports.title = "Ports";
    ports.show = [catalog](const House& h, const Device& d) { return portsText(h, d, catalog); };
    Field<Device> storage = special<Device>(
        "storage", {{"anyOf", {{{"$ref", "#/definitions/storage"}}, {{"type", "null"}}}}},
        [](const House& h, const Device& d) { return d.storage ? toJson(h, *d.storage) : json(nullptr); },
        [](Device& d, const json& o) {
            if (const json* disks = fields::find(o, "storage")) d.storage = fromJson<Storage>(*disks);
        });
    const auto classes = [catalog](const House&, const Device& d) {
        std::vector<Choice> out;
        if (catalog == nullptr) return out;
        if (d.kind == DeviceKind::host)
            for (const auto& c : catalog->hosts)
                out.push_back({c.id, c.label});
        else
            for (const auto& c : catalog->devices)
                out.push_back({c.id, c.label});
        return out;
    };
    std::vector<Field<Device>> out{
        id<Device>(), text("label", "Device", &Device::label, "label", true),
        link("room", "Room", &Device::room, &House::rooms, "room"),
        word("kind", "Kind", &Device::kind, &deviceKind,
             {DeviceKind::host, DeviceKind::network_switch, DeviceKind::router, DeviceKind::adapter}, true,
             true, "type"),
        oneOf<Device>("class", "Class", &Device::deviceClass, classes, "class")};
    // The disks of a machine as fields of the machine: the first, their class, says whether there are any.
    for (const Field<Storage>& f : fieldsOf<Storage>(catalog)) {
        Field<Device> own;
        own.title = f.title;
        const bool isClass = f.key == "class";
        own.show = [f](const House& h, const Device& d) {
            return d.storage ? f.show(h, *d.storage) : std::string();
        };
        own.set = [f, isClass](House& h, Device& d, const std::string& typed) -> Result<void> {
            if (d.kind != DeviceKind::host)
                return problem("only a machine has disks", "", "choose a machine");
            if (isClass && typed.empty()) {
                d.storage.reset();
                return {};
            }
            Storage disks = d.storage.value_or(Storage{});
            if (!d.storage && !isClass) return problem("it has no disks yet", "", "choose their class first");
            if (auto done = f.set(h, disks, typed); !done) return done;
            d.storage = disks;
            return {};
        };
        if (f.choices)
            own.choices = [f](const House& h, const Device& d) {
                return f.choices(h, d.storage.value_or(Storage{}));
            };
        out.push_back(std::move(own));
    }
    out.push_back(std::move(storage));
    out.push_back(std::move(ports));
    return out;
}

template <>
std::vector<Field<Spot>> fieldsOf(const Catalog* catalog) {
    Field<Spot> uses = special<Spot>(
        "uses",
        arrayOf({{"type", "object"},
                 {"properties",
                  {{"use", {{"type", "string"}, {"maxLength", maxId}}},
                   {"count", {{"type", "integer"}, {"minimum", 1}, {"maximum", 999}}},
                   {"rate_bps", {{"type", {"number", "null"}}, {"exclusiveMinimum", 0}, {"maximum", 1e12}}},
                   {"volume_bytes",
                    {{"type", {"integer", "null"}}, {"minimum", 1}, {"maximum", 1'000'000'000'000'000}}},
                   {"hours", {{"type", {"number", "null"}}, {"exclusiveMinimum", 0}, {"maximum", 1000}}},
                   {"peer", {{"type", {"string", "null"}}, {"maxLength", maxId}}}}},
                 {"required", {"use", "count"}},
                 {"additionalProperties", false}},
                32),
        [](const House&, const Spot& s) {
            json out = json::array();
            for (const Use& use : s.uses)
                out.push_back({{"use", use.useClass},
                               {"count", use.count},
                               {"rate_bps", use.rate ? json(use.rate->bps()) : json(nullptr)},
                               {"volume_bytes", use.volume ? json(use.volume->bytes) : json(nullptr)},
                               {"hours", fields::orNull(use.hours)},
                               {"peer", fields::orNull(use.peer)}});
            return out;
        },
        [](Spot& s, const json& o) {
            const json* list = fields::list(o, "uses", 32);
            if (list == nullptr) return;
            for (const json& one : *list) {
                Use use{fields::neededText(one, "use", maxId),
                        static_cast<int>(fields::neededNumber(one, "count", 1, 999)),
                        {},
                        {},
                        fields::number(one, "hours", 0, 1000),
                        fields::text(one, "peer", maxId)};
                if (const auto bps = fields::number(one, "rate_bps", 0, 1e12))
                    use.rate = quantity::BitRate::bitsPerSecond(*bps);
                if (const auto bytes = fields::count(one, "volume_bytes"))
                    use.volume = quantity::ByteCount{*bytes};
                s.uses.push_back(std::move(use));
            }
        });
    uses.title = "Uses";
    uses.show = [catalog](const House& h, const Spot& s) {
        return catalog == nullptr ? std::string() : weigh::usesText(s.uses, *catalog, h);
    };
    uses.set = [catalog](House& h, Spot& s, const std::string& typed) -> Result<void> {
        if (catalog == nullptr) return problem("without a catalog no use is known");
        auto parsed = weigh::parseUses(typed, *catalog, h);
        if (!parsed) return tl::unexpected(parsed.error());
        s.uses = std::move(*parsed);
        return {};
    };
    using Microseconds = std::chrono::microseconds;
    constexpr double maxDelay = 10e6; // µs
    Field<Spot> delay = measured<Spot, Microseconds>(
        "need_delay_us", "Delay at most", &Spot::needDelay, 1, maxDelay,
        [](const Microseconds& t) { return static_cast<double>(t.count()); },
        [](double us) { return Microseconds(static_cast<std::int64_t>(us)); },
        [](const Microseconds& t) { return quantity::plainMicroseconds(static_cast<double>(t.count())); },
        [](const std::string& typed) -> Result<Microseconds> {
            const auto time = quantity::parseDuration(typed);
            if (!time || time->count() * 1e6 > maxDelay)
                return problem(asQuote(typed) + " is no delay", "", "write it like 50 ms");
            return std::chrono::duration_cast<Microseconds>(*time);
        });
    delay.write = [](const House&, const Spot& s) {
        return s.needDelay ? json(s.needDelay->count()) : json(nullptr);
    };
    delay.schema["type"] = {"integer", "null"};
    const auto ends = [](const House& h, const Spot&) {
        std::vector<Choice> out{{std::string(house::servicePeer), "the service"}};
        for (const Device& d : h.devices)
            out.push_back({d.id, d.label});
        return out;
    };
    Field<Spot> peer = oneOf<Spot>("need_peer", "From", &Spot::peer, ends);
    peer.set = [set = peer.set](House& h, Spot& s, const std::string& typed) -> Result<void> {
        if (set(h, s, typed)) return {};
        return problem("there is no " + asQuote(typed), "", "name a device that is there, or “the service”");
    };
    return {id<Spot>(),
            text("label", "Spot", &Spot::label, "", true),
            link("room", "Room", &Spot::room, &House::rooms),
            link("device", "Device", &Spot::device, &House::devices),
            uses,
            rate("need_down_bps", "Needs towards it", &Spot::needDown),
            rate("need_up_bps", "Needs from it", &Spot::needUp),
            delay,
            yesNo("need_steady", "Steady", &Spot::needSteady),
            peer,
            text("pin", "", &Spot::pin, "", false, maxId)};
}

template <>
std::vector<Field<Service>> fieldsOf(const Catalog* catalog) {
    Field<Service> url = text("test_url", "Test address", &Service::testUrl, "", false, 300);
    const auto set = url.set;
    url.set = [set](House& h, Service& s, const std::string& typed) -> Result<void> {
        if (!typed.empty() && !typed.starts_with("http://") && !typed.starts_with("https://"))
            return problem(asQuote(typed) + " is not a web address", "",
                           "write it like http://server/large-file");
        return set(h, s, typed);
    };
    Field<Service> box = text("device", "", &Service::device, "", true, maxId);
    box.schema = idSchema();
    return {id<Service>(),
            text("label", "Service", &Service::label, "", true),
            derived<Service>("Ends in",
                             [](const House& h, const Service& s) {
                                 const Device* device = h.device(s.device);
                                 return device == nullptr ? std::string() : device->label;
                             }),
            box,
            rate("down_bps", "Down", &Service::down),
            rate("up_bps", "Up", &Service::up),
            classOf("uplink_phy", "Its port towards the operator", &Service::uplink,
                    catalog == nullptr ? nullptr : &catalog->phys),
            url};
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
                    return problem(asQuote(typed) + " is not a frequency", "", "write it in MHz, like 1218");
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
    return out;
}

} // namespace metrodos::job
