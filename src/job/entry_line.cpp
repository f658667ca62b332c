#include "job/entry_line.h"

#include "job/entry_words.h"
#include "job/survey_fields.h"

#include "house/edit.h"
#include "house/findings.h"
#include "house/validate.h"
#include "quantity/parse.h"

#include <algorithm>
#include <map>

namespace metrodos::job {
namespace {

using quantity::problem;
using quantity::Result;

std::optional<JackKind> jackWord(const std::string& field) {
    const std::string word = folded(field);
    if (word == "data" || word == "ethernet" || word == "lan") return JackKind::data;
    if (word == "coax") return JackKind::coax;
    if (word == "outlet" || word == "mains" || word == "outlets") return JackKind::mains;
    if (word == "phone") return JackKind::phone;
    return std::nullopt;
}

std::optional<std::string> coaxType(const catalog::Catalog& catalog, const std::string& field) {
    for (const auto& cable : catalog.coax.cables)
        if (folded(cable.label) == folded(field) || cable.id == folded(field)) return cable.id;
    return std::nullopt;
}

std::optional<std::string> category(const catalog::Catalog& catalog, const std::string& field) {
    std::string word = folded(field);
    for (const char* head : {"category", "cat"})
        if (word.starts_with(head)) {
            word = word.substr(std::string_view(head).size());
            break;
        }
    for (const auto& cable : catalog.cables)
        if (cable.id == "cat" + word) return cable.id;
    return std::nullopt;
}

template <typename Items>
std::optional<std::string> classNamed(const Items& items, const std::string& field) {
    for (const auto& item : items)
        if (folded(item.label) == folded(field) || folded(item.id) == folded(field)) return item.id;
    return std::nullopt;
}

std::optional<std::string> phyNamed(const catalog::Catalog& catalog, const std::string& field) {
    const auto rate = quantity::parseBitRate(field);
    if (!rate) return std::nullopt;
    for (const auto& phy : catalog.phys)
        if (phy.rate == *rate) return phy.id;
    return std::nullopt;
}

// "9-17" or "18 to 23".
std::optional<HourSpan> hoursOf(const std::string& field) {
    const std::size_t dash = field.find_first_of("-t");
    if (dash == std::string::npos) return std::nullopt;
    const std::size_t tail = field.find_first_of("0123456789", dash);
    const auto from = quantity::parseWhole(trimmed(std::string_view(field).substr(0, dash)), 0, 24);
    if (!from || tail == std::string::npos) return std::nullopt;
    const auto to = quantity::parseWhole(trimmed(std::string_view(field).substr(tail)), 0, 24);
    if (!to) return std::nullopt;
    return HourSpan{static_cast<int>(*from), static_cast<int>(*to)};
}

tl::unexpected<quantity::Problem> notUnderstood(const std::string& field, const std::string& could) {
    return problem("“" + field.substr(0, 60) + "” is not understood here", "", could);
}

class Reader {
  public:
    Reader(const House& house, const catalog::Catalog& catalog, std::vector<std::string> fields)
        : m_out{house, {}, {}}
        , m_house(m_out.house)
        , m_catalog(catalog)
        , m_fields(std::move(fields)) {}

    Result<Entered> read() {
        if (m_fields.size() < 2 || m_fields[0].empty() || m_fields[1].empty())
            return problem("a line has at least two fields", "",
                           "write it like “Loft / coax / from Hall / RG-6 / 23 m”");
        for (const std::string& field : m_fields)
            if (field.size() > maxLabel) return problem("a field is too long", "", "shorten it to 200 bytes");
        try {
            if (const auto done = dispatch(); !done) return tl::unexpected(done.error());
        } catch (const Ambiguous& label) {
            return problem("“" + label.label.substr(0, 60) + "” is the name of several things", "",
                           "write " + label.oneId + " or " + label.otherId);
        }
        if (const auto faults = validate(m_house); !faults.empty()) return tl::unexpected(faults.front());
        return std::move(m_out);
    }

  private:
    Result<void> dispatch() {
        const std::string head = folded(m_fields[0]);
        if (head == "service") return service();
        if (head == "panel") return panel();
        if (head == "circuit") return circuit();
        if (const auto kind = coaxPartKind(head)) return coaxPart(*kind);
        if (const auto floor = floorOf(m_fields[1])) return room(*floor);
        const Room* room = labelled(m_house.rooms, m_fields[0]);
        if (room == nullptr)
            return problem("there is no room “" + m_fields[0].substr(0, 60) + "”", "",
                           "enter it first: “" + m_fields[0].substr(0, 60) + " / floor 1”");
        m_room = room->id;
        const std::string what = folded(m_fields[1]);
        if (const auto kind = jackWord(m_fields[1])) return jack(*kind);
        if (const auto several = quantity::parseWhole(m_fields[1].substr(0, m_fields[1].find(' ')), 1, 24);
            several && folded(m_fields[1]).ends_with("outlets")) {
            for (int i = 0; i < static_cast<int>(*several); ++i)
                if (auto one = jack(JackKind::mains); !one) return one;
            return {};
        }
        if (what == "need") return need();
        if (what == "appliance") return appliance();
        return device();
    }

    static std::optional<int> floorOf(const std::string& field) {
        const std::string word = lower(field);
        if (word == "cellar") return -1;
        if (word == "ground floor") return 0;
        const auto tail = valueAfter(field, "floor");
        if (!tail) return std::nullopt;
        const auto n = quantity::parseWhole(*tail, -10, 100);
        return n ? std::optional(static_cast<int>(*n)) : std::nullopt;
    }

    void note(const Id& id, const std::string& label) {
        if (!m_out.thing.empty()) {
            m_out.label += ", " + label;
            return;
        }
        m_out.thing = id;
        m_out.label = label;
    }

    Result<void> room(int floor) {
        if (labelled(m_house.rooms, m_fields[0]) != nullptr)
            return problem("there is a room “" + m_fields[0] + "” already", "", "give it another name");
        Room room{m_house.freeId(stemOf(m_fields[0])), m_fields[0], floor};
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const auto named = setNamed(m_house, room, m_catalog, m_fields[i]);
            if (!named) return notUnderstood(m_fields[i], "a room takes “building NAME” only");
            if (!*named) return *named;
        }
        note(room.id, room.label);
        m_house.rooms.push_back(std::move(room));
        return {};
    }

    Result<void> jack(JackKind kind) {
        const Room* room = m_house.room(m_room);
        int number = 1;
        const auto label = [&] { return room->label + " " + wordOf(kind) + " " + std::to_string(number); };
        while (labelled(m_house.jacks, label()) != nullptr)
            ++number;
        const Jack jack{m_house.freeId(stemOf(label())), label(), m_room, kind};
        m_house.jacks.push_back(jack);
        note(jack.id, jack.label);
        if (kind == JackKind::mains) return onCircuit(jack.id);
        Connection run;
        run.id = m_house.freeId(stemOf(std::string(wordOf(kind)) + "-run-" + m_room));
        run.medium = kind == JackKind::data   ? Medium::data_cable
                     : kind == JackKind::coax ? Medium::coax
                                              : Medium::phone;
        run.label = std::string(wordOf(kind)) + " to " + jack.label;
        run.ends = {{jack.id, ""}};
        bool any = false;
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            if (m_fields[i].empty()) continue;
            any = true;
            if (auto done = runField(run, m_fields[i]); !done) return done;
        }
        if (any) m_house.connections.push_back(std::move(run)); // a jack alone: nobody knows its cable yet
        return {};
    }

    Result<void> runField(Connection& run, const std::string& field) {
        if (const auto place = valueAfter(field, "from")) {
            const auto end = endNamed(*place, run.medium);
            if (!end)
                return problem("there is nothing called “" + place->substr(0, 60) +
                                   "” where this cable could end",
                               "", "name a room, a jack, a splitter or a switch with its port");
            run.ends.push_back(*end);
            return {};
        }
        if (const auto length = quantity::parseLength(field);
            length && std::isdigit(static_cast<unsigned char>(field[0])) &&
            folded(field).find_first_not_of("0123456789") != std::string::npos) {
            run.length = *length;
            return {};
        }
        if (auto named = setNamed(m_house, run, m_catalog, field)) return *named;
        const std::string word = folded(field);
        if (run.medium == Medium::coax) {
            if (const auto type = coaxType(m_catalog, field)) {
                run.cableClass = *type;
                return {};
            }
            if (word == "badconnector" || word == "badconnectors") {
                run.badConnectors = word.ends_with('s') ? 2 : 1;
                return {};
            }
            if (word == "goodconnectors") {
                run.badConnectors = 0;
                return {};
            }
            return notUnderstood(
                field,
                "a coax run takes “from PLACE”, a type like RG-6, a length like 23 m, “bad connector”");
        }
        if (run.medium == Medium::data_cable) {
            if (const auto type = category(m_catalog, field)) {
                run.cableClass = *type;
                return {};
            }
            if (word.ends_with("pairs") || word.ends_with("pair")) {
                if (const auto n = quantity::parseWhole(field.substr(0, field.find(' ')), 0, 4)) {
                    run.goodPairs = static_cast<int>(*n);
                    return {};
                }
            }
            for (const auto& ends : m_catalog.terminations)
                if (word == ends.id) {
                    run.termination = ends.id;
                    return {};
                }
            return notUnderstood(
                field, "a data run takes “from PLACE”, a category like cat 6, a length, “4 pairs”, tested, "
                       "jacks, crimped or poor");
        }
        return notUnderstood(field, "a phone run takes “from PLACE” and a length");
    }

    // A room, a jack, a part's first free port, or "BOX port 3".
    std::optional<PortRef> endNamed(const std::string& place, Medium medium) const {
        if (const Jack* jack = labelled(m_house.jacks, place);
            jack != nullptr && jackOf(medium) == jack->kind)
            return PortRef{jack->id, ""};
        if (const CoaxPart* part = labelled(m_house.coaxParts, place);
            part != nullptr && medium == Medium::coax) {
            std::vector<Id> ports = portsOf(*part);
            if (part->kind == CoaxPartKind::splitter)
                std::rotate(ports.begin(), ports.begin() + 1, ports.end());
            for (const Id& port : ports)
                if (isFree({part->id, port})) return PortRef{part->id, port};
        }
        if (medium == Medium::data_cable)
            for (const Device& device : m_house.devices)
                for (const Port& port : device.ports) {
                    const std::string name =
                        folded(device.label + " " + (port.label.empty() ? port.id : port.label));
                    if (port.kind == PortKind::ethernet && name == folded(place))
                        return PortRef{device.id, port.id};
                }
        if (medium == Medium::data_cable)
            if (const Device* device = labelled(m_house.devices, place))
                for (const Port& port : device->ports)
                    if (port.kind == PortKind::ethernet && isFree({device->id, port.id}) && port.jack.empty())
                        return PortRef{device->id, port.id};
        if (const Room* room = labelled(m_house.rooms, place)) return PortRef{room->id, ""};
        return std::nullopt;
    }

    [[nodiscard]] bool isFree(const PortRef& end) const {
        return std::none_of(m_house.connections.begin(), m_house.connections.end(), [&](const Connection& c) {
            return std::find(c.ends.begin(), c.ends.end(), end) != c.ends.end();
        });
    }

    Result<void> onCircuit(const Id& jack) {
        Circuit* circuit = nullptr;
        std::optional<quantity::Length> step;
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (field.empty()) continue;
            if (const auto name = valueAfter(field, "on")) {
                circuit = labelled(m_house.circuits, *name);
                if (circuit == nullptr)
                    return problem("there is no circuit “" + name->substr(0, 60) + "”", "",
                                   "enter it first: “circuit / " + name->substr(0, 60) + " / PANEL”");
            } else if (const auto length = quantity::parseLength(field)) {
                step = *length;
            } else {
                return notUnderstood(
                    field, "an outlet takes “on CIRCUIT” and the wire from the one before, like 4 m");
            }
        }
        if (circuit != nullptr) circuit->outlets.push_back({jack, step});
        return {};
    }

    Result<void> device() {
        const std::string word = m_fields[1];
        Device device;
        device.room = m_room;
        std::string phy;
        if (folded(word) == "switch" || folded(word) == "router") {
            device.kind = folded(word) == "switch" ? DeviceKind::network_switch : DeviceKind::router;
        } else if (folded(word) == "machine") {
            device.kind = DeviceKind::host;
        } else if (const auto host = classNamed(m_catalog.hosts, word)) {
            device.kind = DeviceKind::host;
            device.deviceClass = *host;
        } else if (const auto box = classNamed(m_catalog.devices, word)) {
            const catalog::DeviceClass* cls = m_catalog.device(*box);
            device.kind = cls->family == catalog::Family::network_switch ? DeviceKind::network_switch
                          : cls->family == catalog::Family::router       ? DeviceKind::router
                                                                         : DeviceKind::adapter;
            device.deviceClass = *box;
            phy = cls->ethernetPhy;
        } else {
            return notUnderstood(
                word, "after a room comes data, coax, outlet, phone, need, appliance, a machine like laptop, "
                      "switch or router");
        }
        int ports = device.kind == DeviceKind::host || device.kind == DeviceKind::adapter ? 1 : 5;
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (field.empty()) continue;
            if (const auto rate = phyNamed(m_catalog, field)) {
                phy = *rate;
            } else if (const auto disk = classNamed(m_catalog.disks, field)) {
                device.storage = Storage{*disk};
            } else if (const auto bus = classNamed(m_catalog.buses, field)) {
                const auto& cls = *m_catalog.bus(*bus);
                const Id id =
                    (cls.kind == PortKind::usb ? "usb-" : "slot-") + std::to_string(device.ports.size() + 1);
                device.ports.push_back({id, cls.label, cls.kind, cls.id});
            } else if (const auto n = quantity::parseWhole(field.substr(0, field.find(' ')), 1, 64);
                       n && folded(field).ends_with("ports")) {
                ports = static_cast<int>(*n);
            } else if (auto named = setNamed(m_house, device, m_catalog, field)) {
                if (!*named) return *named;
            } else if (device.label.empty()) {
                device.label = field;
            } else {
                return notUnderstood(
                    field, "a machine takes a name, a port rate like 2.5G, a socket like USB 2 and a disk");
            }
        }
        if (device.label.empty()) device.label = m_house.room(m_room)->label + " " + lower(word);
        device.id = m_house.freeId(stemOf(device.label));
        for (int i = 1; i <= ports; ++i)
            device.ports.push_back({ports == 1 ? "lan" : "p" + std::to_string(i),
                                    ports == 1 ? "LAN" : "port " + std::to_string(i), PortKind::ethernet,
                                    phy});
        addLine(device);
        if (device.kind == DeviceKind::host)
            m_house.endpoints.push_back({m_house.freeId(device.id + "-end"), device.label, device.id, ""});
        note(device.id, device.label);
        m_house.devices.push_back(std::move(device));
        return {};
    }

    // What an adapter, or one that is built in, joins the coax, the mains or the air with. Its jack is the
    // only one of the room.
    void addLine(Device& device) const {
        for (const Medium medium : {Medium::coax, Medium::mains, Medium::air}) {
            if (m_catalog.adapterOf(device.deviceClass, catalog::familyOf(medium)) == nullptr) continue;
            Port line{"line", "line", house::portFor(medium), ""};
            const JackKind kind = medium == Medium::coax ? JackKind::coax : JackKind::mains;
            std::vector<Id> jacks;
            for (const Jack& jack : m_house.jacks)
                if (jack.room == m_room && jack.kind == kind) jacks.push_back(jack.id);
            if (medium != Medium::air && jacks.size() == 1) line.jack = jacks.front();
            device.ports.push_back(std::move(line));
        }
    }

    // "900M down": the rate and the direction.
    static std::optional<std::pair<quantity::BitRate, bool>> directed(const std::string& field) {
        for (const auto& [word, down] : {std::pair(" down", true), std::pair(" up", false)})
            if (lower(field).ends_with(word))
                if (const auto rate =
                        quantity::parseBitRate(field.substr(0, field.size() - std::string_view(word).size())))
                    return std::pair(*rate, down);
        return std::nullopt;
    }

    Result<void> need() {
        Spot spot;
        spot.room = m_room;
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (field.empty()) continue;
            if (const auto rate = directed(field))
                (rate->second ? spot.needDown : spot.needUp) = rate->first;
            else if (const auto name = valueAfter(field, "at")) {
                const Device* device = labelled(m_house.devices, *name);
                if (device == nullptr) return notUnderstood(field, "name a device that is there");
                spot.device = device->id;
            } else if (auto named = setNamed(m_house, spot, m_catalog, field)) {
                if (!*named) return *named;
            } else if (spot.label.empty())
                spot.label = field;
            else
                return notUnderstood(field, "a need takes “100M down”, “20M up”, “at DEVICE” and a name");
        }
        if (spot.label.empty()) spot.label = "need in the " + m_house.room(m_room)->label;
        spot.id = m_house.freeId(stemOf(spot.label));
        note(spot.id, spot.label);
        m_house.spots.push_back(std::move(spot));
        return {};
    }

    Result<void> appliance() {
        Appliance a;
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (field.empty()) continue;
            if (const auto cls = classNamed(m_catalog.mains.appliances, field);
                cls && a.applianceClass.empty())
                a.applianceClass = *cls;
            else if (const auto hours = hoursOf(field))
                a.hours.push_back(*hours);
            else if (const auto place = valueAfter(field, "at")) {
                const Jack* jack = labelled(m_house.jacks, *place);
                if (jack == nullptr || jack->kind != JackKind::mains)
                    return notUnderstood(field, "name an outlet that is there");
                a.outlet = jack->id;
            } else if (auto named = setNamed(m_house, a, m_catalog, field)) {
                if (!*named) return *named;
            } else if (a.label.empty())
                a.label = field;
            else
                return notUnderstood(
                    field, "an appliance takes a class like motor, “at OUTLET”, hours like 9-17 and a name");
        }
        if (a.outlet.empty())
            for (const Jack& jack : m_house.jacks)
                if (jack.kind == JackKind::mains && jack.room == m_room && a.outlet.empty())
                    a.outlet = jack.id;
        if (a.label.empty())
            a.label = m_house.room(m_room)->label + " " +
                      (a.applianceClass.empty() ? "appliance" : a.applianceClass);
        a.id = m_house.freeId(stemOf(a.label));
        note(a.id, a.label);
        m_house.appliances.push_back(std::move(a));
        return {};
    }

    Result<void> service() {
        Service s =
            m_house.service.value_or(Service{m_house.freeId("service"), "internet service", "", {}, {}});
        for (std::size_t i = 1; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (field.empty()) continue;
            if (const auto rate = directed(field))
                (rate->second ? s.down : s.up) = rate->first;
            else if (const auto name = valueAfter(field, "at")) {
                const Device* device = labelled(m_house.devices, *name);
                if (device == nullptr) return notUnderstood(field, "name the box that the service ends in");
                s.device = device->id;
            } else if (auto named = setNamed(m_house, s, m_catalog, field)) {
                if (!*named) return *named;
            } else
                return notUnderstood(field, "a service takes “900M down”, “300M up” and “at BOX”");
        }
        if (s.device.empty())
            for (const Device& d : m_house.devices)
                if (d.kind == DeviceKind::router && s.device.empty()) s.device = d.id;
        if (s.device.empty())
            return problem("the service ends in no box yet", "", "enter its router first: “Hall / router”");
        note(s.id, s.label);
        m_house.service = std::move(s);
        return {};
    }

    Result<void> coaxPart(CoaxPartKind kind) {
        CoaxPart part;
        part.kind = kind;
        for (std::size_t i = 1; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            const std::string word = folded(field);
            if (field.empty()) continue;
            const auto ways =
                quantity::parseWhole(field.substr(0, field.find_first_not_of("0123456789")), 2, 8);
            if (kind == CoaxPartKind::splitter && ways && word.ends_with("way"))
                part.ways = static_cast<int>(*ways);
            else if (kind == CoaxPartKind::splitter && (word == "rated" || word == "notrated"))
                part.rated = word == "rated";
            else if (kind == CoaxPartKind::splitter && (word == "terminated" || word == "open"))
                part.terminated = word == "terminated";
            else if (kind == CoaxPartKind::amplifier && (word == "bypass" || word == "nobypass"))
                part.bypass = word == "bypass";
            else if (auto named = setNamed(m_house, part, m_catalog, field)) {
                if (!*named) return *named;
            } else if (const Room* room = labelled(m_house.rooms, field))
                part.room = room->id;
            else if (part.label.empty())
                part.label = field;
            else
                return notUnderstood(
                    field,
                    "a splitter takes “3-way”, rated or not rated, terminated or open, a room and a name");
        }
        if (part.label.empty()) {
            const Room* room = m_house.room(part.room);
            part.label = (room == nullptr ? std::string() : room->label + " ") + std::string(name(kind));
        }
        part.id = m_house.freeId(stemOf(part.label));
        note(part.id, part.label);
        m_house.coaxParts.push_back(std::move(part));
        return {};
    }

    Result<void> panel() {
        Panel p;
        p.label = m_fields[1];
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (const auto name = valueAfter(field, "fed by")) {
                const Panel* other = labelled(m_house.panels, *name);
                if (other == nullptr) return notUnderstood(field, "name a panel that is there");
                p.fedBy = other->id;
            } else if (const Room* room = labelled(m_house.rooms, field))
                p.room = room->id;
            else if (auto named = setNamed(m_house, p, m_catalog, field)) {
                if (!*named) return *named;
            } else if (!field.empty())
                return notUnderstood(field, "a panel takes a room and “fed by PANEL”");
        }
        p.id = m_house.freeId(stemOf(p.label));
        note(p.id, p.label);
        m_house.panels.push_back(std::move(p));
        return {};
    }

    Result<void> circuit() {
        Circuit c;
        c.label = m_fields[1];
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            std::string word = lower(field);
            std::replace(word.begin(), word.end(), ' ', '_');
            std::replace(word.begin(), word.end(), '-', '_');
            if (field.empty()) continue;
            if (const auto leg = valueAfter(field, "leg"))
                c.leg = *leg;
            else if (const auto device = protection(word))
                c.protection = *device;
            else if (const auto wiring = classNamed(m_catalog.mains.wirings, field))
                c.wiring = *wiring;
            else if (const Panel* panel = labelled(m_house.panels, field))
                c.panel = panel->id;
            else if (auto named = setNamed(m_house, c, m_catalog, field)) {
                if (!*named) return *named;
            } else
                return notUnderstood(
                    field,
                    "a circuit takes its panel, “leg 1”, breaker, fuse, residual current or arc fault, "
                    "and copper, old or aluminium");
        }
        c.id = m_house.freeId(stemOf(c.label));
        note(c.id, c.label);
        m_house.circuits.push_back(std::move(c));
        return {};
    }

    Entered m_out;
    House& m_house;
    const catalog::Catalog& m_catalog;
    std::vector<std::string> m_fields;
    Id m_room;
};

} // namespace

Result<Entered> enterLine(const House& house, const catalog::Catalog& catalog, std::string_view line) {
    return Reader(house, catalog, fieldsOf(line)).read();
}

Result<Entered> duplicateRoom(const House& house, const std::string& room, const std::string& label) {
    const Room* original = nullptr;
    try {
        original = labelled(house.rooms, room);
    } catch (const Ambiguous& several) {
        return problem("“" + room.substr(0, 60) + "” is the name of several rooms", "",
                       "write " + several.oneId + " or " + several.otherId);
    }
    if (original == nullptr)
        return problem("there is no room “" + room.substr(0, 60) + "”", "", "choose one that is there");
    if (label.empty() || std::any_of(house.rooms.begin(), house.rooms.end(),
                                     [&](const Room& r) { return folded(r.label) == folded(label); }))
        return problem("a room of this name is there already", "", "give the copy another name");
    Entered out{house, label, {}};
    Room copy = *original;
    copy.id = out.thing = house.freeId(stemOf(label));
    copy.label = label;
    out.house.rooms.push_back(copy);
    std::vector<Jack> jacks;
    for (const Jack& jack : house.jacks)
        if (jack.room == original->id) jacks.push_back(jack);
    std::map<JackKind, int> numbers;
    for (Jack jack : jacks) {
        jack.label = label + " " + wordOf(jack.kind) + " " + std::to_string(++numbers[jack.kind]);
        jack.id = out.house.freeId(stemOf(jack.label));
        jack.room = copy.id;
        out.house.jacks.push_back(std::move(jack));
    }
    return out;
}

} // namespace metrodos::job
