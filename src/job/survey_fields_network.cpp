// The fields of what the network is made of: cables and media, machines and boxes with their ports and disks.
#include "job/survey_fields.h"

#include "catalog/catalog.h"

namespace metrodos::job {

using namespace house;
using namespace make;
using catalog::Catalog;

namespace {

using quantity::BadField;

constexpr std::size_t maxPorts = 256;
constexpr std::size_t maxEnds = 256;

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

constexpr const char* notFound = "not found yet";

// Where this run could end: what no other ends in, and any room, where it would be loose.
std::vector<PortRef> possibleEnds(const House& house, const Connection& run) {
    std::vector<PortRef> out;
    const auto add = [&](const PortRef& end) {
        const bool isTaken =
            std::any_of(house.connections.begin(), house.connections.end(), [&](const auto& c) {
                return c.id != run.id && std::find(c.ends.begin(), c.ends.end(), end) != c.ends.end();
            });
        if (!isTaken) out.push_back(end);
    };
    for (const Device& d : house.devices)
        for (const Port& p : d.ports)
            if (joins(run.medium, p.kind) && (run.medium != Medium::data_cable || p.jack.empty()))
                add({d.id, p.id});
    const auto kind = jackOf(run.medium);
    for (const Jack& j : house.jacks)
        if (kind && j.kind == *kind) add({j.id, ""});
    if (run.medium == Medium::coax)
        for (const CoaxPart& part : house.coaxParts)
            for (const Id& port : portsOf(part))
                add({part.id, port});
    if (kind)
        for (const Room& room : house.rooms)
            out.push_back({room.id, ""});
    return out;
}

// One of the first two ends. Its choices are told apart by "thing/port".
Field<Connection> end(const char* title, std::size_t which) {
    Field<Connection> out = derived<Connection>(title, [which](const House& h, const Connection& c) {
        return c.ends.size() > which ? h.labelOf(c.ends[which]) : std::string(notFound);
    });
    out.choices = [which](const House& h, const Connection& c) {
        std::vector<Choice> choices;
        // Its only known end stays the first.
        if (jackOf(c.medium) && (which > 0 || c.ends.size() < 2)) choices.push_back({"", notFound});
        for (const PortRef& end : possibleEnds(h, c))
            if (c.ends.size() <= 1 - which || end != c.ends[1 - which])
                choices.push_back({end.device + "/" + end.port, h.labelOf(end)});
        return choices;
    };
    out.set = [which, choices = out.choices](House& h, Connection& c,
                                             const std::string& typed) -> Result<void> {
        std::vector<std::string> found;
        for (const Choice& choice : choices(h, c)) {
            if (choice.value == typed) {
                found = {choice.value};
                break;
            }
            if (choice.label == typed) found.push_back(choice.value);
        }
        if (found.size() != 1)
            return problem(found.empty() ? inQuotes(typed) + " is no free end for this run"
                                         : inQuotes(typed) + " is the name of several things",
                           "", "choose one of the list");
        c.linkedAt.reset(); // that was between other ends
        c.halfDuplex = false;
        if (found.front().empty()) {
            if (which < c.ends.size()) c.ends.erase(c.ends.begin() + static_cast<std::ptrdiff_t>(which));
            return {};
        }
        const std::size_t slash = found.front().find('/');
        const PortRef end{found.front().substr(0, slash), found.front().substr(slash + 1)};
        if (which < c.ends.size())
            c.ends[which] = end;
        else
            c.ends.push_back(end);
        return {};
    };
    return out;
}

} // namespace

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
                   {"bps", {{"type", "number"}, {"exclusiveMinimum", 0}, {"maximum", 1e12}}},
                   {"at", {{"type", {"string", "null"}}, {"maxLength", 32}}}}},
                 {"required", {"from", "to", "bps"}},
                 {"additionalProperties", false}},
                240),
        [](const House&, const Connection& c) {
            json out = json::array();
            for (const PhyReading& r : c.phyRates)
                out.push_back(
                    {{"from", r.from}, {"to", r.to}, {"bps", r.rate.bps()}, {"at", fields::orNull(r.at)}});
            return out;
        },
        [](Connection& c, const json& o) {
            if (const json* list = fields::list(o, "phy_rates", 240))
                for (const json& one : *list)
                    c.phyRates.push_back(
                        {fields::neededText(one, "from", maxId), fields::neededText(one, "to", maxId),
                         quantity::BitRate::bitsPerSecond(fields::neededNumber(one, "bps", 1, 1e12)),
                         fields::text(one, "at", 32)});
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
        word("found_by", "Found by", &Connection::foundBy, &foundBy,
             {FoundBy::unknown, FoundBy::seen, FoundBy::continuity, FoundBy::tone, FoundBy::flash}, false),
        situation,
        linked,
        halfDuplex,
        phyRates};
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
    Field<Port> strip =
        stripField<Port>("strip", &Port::strip, [](const Port& p) { return p.kind == PortKind::mains; });
    Field<Port> label = text("label", "Port", &Port::label);
    label.write = [](const House&, const Port& p) { return json(p.label); };
    label.schema = {{"type", "string"}, {"maxLength", maxText}};
    // Into a jack of its own kind; a socket goes into none.
    Field<Port> jack = link("jack", "Plugged into", &Port::jack, &House::jacks);
    jack.choices = [all = jack.choices](const House& h, const Port& p) {
        std::vector<Choice> out = all(h, p);
        std::erase_if(out, [&](const Choice& c) {
            const Jack* j = h.jack(c.value);
            const bool fits = j != nullptr && jackOf(p.kind) == j->kind;
            return !c.value.empty() && !fits;
        });
        return out;
    };
    return {id<Port>(),
            label,
            word("kind", "Kind", &Port::kind, &portKind,
                 {PortKind::ethernet, PortKind::usb, PortKind::pcie, PortKind::coax, PortKind::mains,
                  PortKind::radio, PortKind::phone},
                 true, true),
            oneOf<Port>("phy", "Rate", &Port::phy, modes),
            jack,
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
    Field<Device> setUp = special<Device>(
        "set_up", {{"anyOf", {{{"$ref", "#/definitions/set_up"}}, {{"type", "null"}}}}},
        [](const House& h, const Device& d) {
            return d.setUp == AdapterRecord{} ? json(nullptr) : toJson(h, d.setUp);
        },
        [](Device& d, const json& o) {
            if (const json* record = fields::find(o, "set_up")) d.setUp = fromJson<AdapterRecord>(*record);
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
            if (!d.storage && typed.empty()) return {}; // as it is shown
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
    out.push_back(std::move(setUp));
    return out;
}

} // namespace metrodos::job
