#include "job/entry_line.h"

#include "house/edit.h"
#include "job/entry_ends.h"
#include "job/entry_grammar.h"
#include "job/entry_words.h"
#include "job/survey_fields.h"

#include "house/findings.h"
#include "house/validate.h"
#include "quantity/parse.h"
#include "quantity/text.h"

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

// A length with its unit; "4" alone is none.
std::optional<quantity::Length> lengthOf(const std::string& field) {
    const auto length = quantity::parseLength(field);
    const bool isOne = length && std::isdigit(static_cast<unsigned char>(field[0])) &&
                       folded(field).find_first_not_of("0123456789") != std::string::npos;
    return isOne ? std::optional(*length) : std::nullopt;
}

tl::unexpected<quantity::Problem> notUnderstood(const std::string& field, const std::string& could) {
    return problem(quantity::inQuotes(field) + " is not understood here", "", could);
}

class Reader {
  public:
    Reader(const House& house, const catalog::Catalog& catalog, std::vector<std::string> fields)
        : m_out{house, {}, {}}
        , m_house(m_out.house)
        , m_catalog(catalog)
        , m_fields(std::move(fields)) {}

    Result<Entered> read() {
        if (m_fields[0].empty() || (m_fields.size() > 1 && m_fields[1].empty()))
            return problem("a field is empty", "", "write it like “Loft / coax / from Hall / RG-6 / 23 m”");
        for (const std::string& field : m_fields)
            if (field.size() > maxLabel) return problem("a field is too long", "", "shorten it to 200 bytes");
        try {
            if (const auto done = dispatch(); !done) return tl::unexpected(done.error());
        } catch (const Ambiguous& label) {
            return problem(quantity::inQuotes(label.label) + " is the name of several things", "",
                           "write " + label.oneId + " or " + label.otherId);
        }
        if (const auto faults = validate(m_house); !faults.empty()) return tl::unexpected(faults.front());
        return std::move(m_out);
    }

  private:
    Result<void> dispatch() {
        const std::string head = folded(m_fields[0]);
        if (m_fields.size() == 1) return bareRoom(head);
        if (head == "service") return service();
        if (head == "panel") return panel();
        if (head == "circuit") return circuit();
        if (head == "cable") return cable();
        if (head == "port") return port();
        if (const auto kind = coaxPartKind(head)) return coaxPart(*kind);
        if (const auto floor = floorOf(m_fields[1])) return room(*floor);
        const Room* room = labelled(m_house.rooms, m_fields[0]);
        if (room == nullptr)
            return problem("there is no room " + quantity::inQuotes(m_fields[0]), "",
                           "enter it first: “" + quantity::shortened(m_fields[0], 60) + " / floor 1”");
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

    // "plain strip", "surge strip", "straight in the wall".
    static std::optional<Strip> stripOf(const std::string& field) {
        const std::string word = folded(field);
        if (word == "plainstrip" || word == "strip" || word == "extension" || word == "extensionlead")
            return Strip::plain;
        if (word == "surgestrip" || word == "surgeprotectedstrip" || word == "surgeprotected")
            return Strip::surge_protected;
        if (word == "wall" || word == "straightinthewall") return Strip::wall;
        return std::nullopt;
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

    // A name alone is a room on the ground floor.
    Result<void> bareRoom(const std::string& head) {
        const bool isWord = head == "service" || head == "panel" || head == "circuit" || head == "cable" ||
                            head == "port" || coaxPartKind(head);
        if (isWord) return problem("it is not said what of it", "", "write it like “" + formOf(head) + "”");
        if (labelled(m_house.rooms, m_fields[0]) != nullptr)
            return problem("there is a room “" + m_fields[0] + "” already", "",
                           "say what is in it, like “" + m_fields[0] + " / coax / RG-6 / 23 m”");
        return room(0);
    }

    // The form that begins with this word.
    static std::string formOf(const std::string& head) {
        for (const LineForm& form : lineForms())
            if (folded(form.line.substr(0, form.line.find('/'))) == head) return form.line;
        return head + " / " + head + " 1 / ROOM";
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
            const auto end = endNamed(m_house, run.medium, *place);
            if (!end)
                return problem("there is nothing called " + quantity::inQuotes(*place) +
                                   " where this cable could end",
                               "", "name a room, a jack, a splitter or a switch with its port");
            run.ends.push_back(*end);
            return {};
        }
        if (const auto length = lengthOf(field)) {
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

    Result<void> onCircuit(const Id& jack) {
        Circuit* circuit = nullptr; // the outlet is the newest jack
        std::optional<quantity::Length> step;
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (field.empty()) continue;
            if (const auto name = valueAfter(field, "on")) {
                circuit = labelled(m_house.circuits, *name);
                if (circuit == nullptr)
                    return problem("there is no circuit " + quantity::inQuotes(*name), "",
                                   "enter it first: “circuit / " + quantity::shortened(*name, 60) +
                                       " / PANEL”");
            } else if (const auto length = quantity::parseLength(field)) {
                step = *length;
            } else if (const auto strip = stripOf(field)) {
                m_house.jacks.back().strip = *strip;
            } else {
                return notUnderstood(field,
                                     "an outlet takes “on CIRCUIT”, the wire from the one before, like "
                                     "4 m, and “plain strip” or “surge strip”");
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
        std::optional<PortRef> socket; // of a machine, that it sits in
        std::optional<Strip> strip;
        Connection lead; // to what its LAN port is joined to; no ends: to nothing
        Id jack;
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (field.empty()) continue;
            if (const auto rate = phyNamed(m_catalog, field)) {
                phy = *rate;
            } else if (const auto machine = valueAfter(field, "in")) {
                const catalog::DeviceClass* cls = m_catalog.device(device.deviceClass);
                const auto found =
                    socketNamed(m_house, m_catalog, cls == nullptr ? catalog::DeviceClass{} : *cls, *machine);
                if (!found) return tl::unexpected(found.error());
                socket = *found;
            } else if (const auto place = valueAfter(field, "at")) {
                const Jack* found = labelled(m_house.jacks, *place);
                if (found == nullptr) return notUnderstood(field, "name a jack or an outlet that is there");
                jack = found->id;
            } else if (const auto from = valueAfter(field, "from")) {
                const auto end = endNamed(m_house, Medium::data_cable, *from);
                if (!end) return notUnderstood(field, "name a data jack or a box with a free port");
                lead.ends = {*end};
            } else if (const auto how = stripOf(field)) {
                strip = *how;
            } else if (const auto type = category(m_catalog, field); type && !lead.ends.empty()) {
                lead.cableClass = *type;
            } else if (const auto length = lengthOf(field); length && !lead.ends.empty()) {
                lead.length = *length;
            } else if (const auto disk = classNamed(m_catalog.disks, field)) {
                device.storage = Storage{*disk};
            } else if (const auto bus = classNamed(m_catalog.buses, field)) {
                device.ports.push_back(busPort(device, *m_catalog.bus(*bus)));
            } else if (const auto n = quantity::parseWhole(field.substr(0, field.find(' ')), 1, 64);
                       n && folded(field).ends_with("ports")) {
                ports = static_cast<int>(*n);
            } else if (auto named = setNamed(m_house, device, m_catalog, field)) {
                if (!*named) return *named;
            } else if (device.label.empty()) {
                device.label = field;
            } else {
                return notUnderstood(
                    field, "it takes a name, a port rate like 2.5G, a socket like USB 2, a disk, “at JACK”, "
                           "“from SWITCH”, and an adapter “in MACHINE SOCKET”");
            }
        }
        if (device.label.empty()) device.label = m_house.room(m_room)->label + " " + lower(word);
        device.id = m_house.freeId(stemOf(device.label));
        for (int i = 1; i <= ports; ++i)
            device.ports.push_back({ports == 1 ? "lan" : "p" + std::to_string(i),
                                    ports == 1 ? "LAN" : "port " + std::to_string(i), PortKind::ethernet,
                                    phy});
        addLine(device, jack, strip);
        if (device.kind == DeviceKind::host)
            m_house.endpoints.push_back({m_house.freeId(device.id + "-end"), device.label, device.id, ""});
        const Id id = device.id;
        note(id, device.label);
        m_house.devices.push_back(std::move(device));
        if (socket) plugInto(id, *socket);
        joinOthers(m_house, m_catalog, id);
        return plugLan(id, jack, std::move(lead));
    }

    static Port busPort(const Device& device, const catalog::Bus& bus) {
        return {freePort(device, bus.kind == PortKind::usb ? "usb" : "slot"), bus.label, bus.kind, bus.id};
    }

    // The plug of a network adapter, in a socket of a machine.
    void plugInto(const Id& adapter, const PortRef& socket) {
        Device& device = *m_house.device(adapter);
        const catalog::Bus& plug = *m_catalog.bus(m_catalog.device(device.deviceClass)->busPhy);
        device.ports.push_back({"plug", "plug", plug.kind, plug.id});
        Connection bus;
        bus.id = m_house.freeId(stemOf(adapter + "-socket"));
        bus.label = m_house.port(socket)->label;
        bus.medium = Medium::bus;
        bus.ends = {{adapter, "plug"}, socket};
        m_house.connections.push_back(std::move(bus));
    }

    // Its first Ethernet port into a data jack, or by a lead to another box.
    Result<void> plugLan(const Id& id, const Id& jack, Connection lead) {
        Device& device = *m_house.device(id);
        const auto lan = std::find_if(device.ports.begin(), device.ports.end(),
                                      [](const Port& p) { return p.kind == PortKind::ethernet; });
        const Jack* at = m_house.jack(jack);
        if (at != nullptr && jackOf(lan->kind) == at->kind) lan->jack = jack;
        const bool isPlugged = at == nullptr || std::any_of(device.ports.begin(), device.ports.end(),
                                                            [&](const Port& p) { return p.jack == jack; });
        if (!isPlugged)
            return problem("nothing of it is plugged into " + quantity::inQuotes(at->label), "",
                           "name a jack of the kind that its ports have, or leave “at” out");
        if (lead.ends.empty()) return {};
        return joinByCable(std::move(lead), {id, lan->id}, "lead to " + device.label);
    }

    // A data cable between two ends; one of them a jack and the other a port: the port is plugged into it.
    Result<void> joinByCable(Connection run, const PortRef& end, const std::string& label) {
        for (const auto& [jack, port] : {std::pair(run.ends.front(), end), std::pair(end, run.ends.front())})
            if (Port* plugged = m_house.port(port);
                plugged != nullptr && m_house.jack(jack.device) != nullptr) {
                plugged->jack = jack.device;
                return {};
            }
        run.ends.push_back(end);
        run.medium = Medium::data_cable;
        if (run.label.empty()) run.label = label;
        run.id = m_house.freeId(stemOf(run.label));
        m_house.connections.push_back(std::move(run));
        return {};
    }

    // "cable / Hall switch port 2 / Study switch / cat 6 / 12 m", or between two parts of the coax tree.
    Result<void> cable() {
        if (m_fields.size() < 3)
            return problem("a cable has two ends", "",
                           "write it like “cable / Hall switch / Loft data 1 / 2 m”");
        Connection run;
        std::string missing; // as a data cable, which two rooms are taken for too
        for (const Medium medium : {Medium::data_cable, Medium::coax}) {
            run.ends.clear();
            run.medium = medium;
            for (const std::size_t i : {1U, 2U}) {
                const auto end = endNamed(m_house, medium, m_fields[i]);
                if (end)
                    run.ends.push_back(*end);
                else if (missing.empty())
                    missing = m_fields[i];
            }
            if (run.ends.size() == 2) break;
        }
        if (run.ends.size() != 2)
            return notUnderstood(missing,
                                 "name a box with its port, a jack, a splitter or a room for each end");
        if (run.ends[0] == run.ends[1])
            return problem("both ends of the cable are the same", "", "name another place for one of them");
        for (std::size_t i = 3; i < m_fields.size(); ++i)
            if (!m_fields[i].empty())
                if (auto done = runField(run, m_fields[i]); !done) return done;
        const std::string label = m_house.labelOf(run.ends[0]) + " to " + m_house.labelOf(run.ends[1]);
        if (run.medium == Medium::data_cable) {
            const PortRef second = run.ends[1];
            run.ends.pop_back();
            const Id first = run.ends[0].device;
            if (auto done = joinByCable(std::move(run), second, quantity::cutTo(label, maxLabel)); !done)
                return done;
            note(first, label);
            return {};
        }
        run.label = quantity::cutTo(label, maxLabel);
        run.id = m_house.freeId(stemOf(label));
        note(run.id, run.label);
        m_house.connections.push_back(std::move(run));
        return {};
    }

    // "port / Stacking workstation / USB 2 / front USB socket": one more of a device that is there.
    Result<void> port() {
        Device* device = labelled(m_house.devices, m_fields[1]);
        if (device == nullptr) return notUnderstood(m_fields[1], "name a device that is there");
        std::optional<Port> added;
        std::string label;
        for (std::size_t i = 2; i < m_fields.size(); ++i) {
            const std::string& field = m_fields[i];
            if (field.empty()) continue;
            if (const auto bus = classNamed(m_catalog.buses, field); bus && !added)
                added = busPort(*device, *m_catalog.bus(*bus));
            else if (const auto rate = phyNamed(m_catalog, field); rate && !added)
                added = Port{freePort(*device, "lan"), "LAN", PortKind::ethernet, *rate};
            else if (label.empty())
                label = field;
            else
                return notUnderstood(field,
                                     "a port takes a rate like 2.5G or a class like USB 2, and a label");
        }
        if (!added)
            return problem("it is not said what port", "", "add a rate like 2.5G or a class like USB 2");
        if (!label.empty()) added->label = label;
        note(device->id, device->label + ", " + added->label);
        device->ports.push_back(std::move(*added));
        return {};
    }

    // What an adapter, or one that is built in, joins the coax, the mains or the air with. Its jack is the
    // one that was named, or the only one of the room.
    void addLine(Device& device, const Id& at, const std::optional<Strip>& strip) const {
        for (const Medium medium : {Medium::coax, Medium::mains, Medium::air}) {
            if (m_catalog.adapterOf(device.deviceClass, catalog::familyOf(medium)) == nullptr) continue;
            Port line{"line", "line", house::portFor(medium), ""};
            const auto kind = jackOf(line.kind); // radio has none
            std::vector<Id> jacks;
            for (const Jack& jack : m_house.jacks)
                if (jack.room == m_room && jack.kind == kind) jacks.push_back(jack.id);
            if (const Jack* named = m_house.jack(at); named != nullptr && named->kind == kind)
                line.jack = at;
            else if (jacks.size() == 1)
                line.jack = jacks.front();
            if (medium == Medium::mains && strip) line.strip = *strip;
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
        Connection run; // from what comes before it in the tree
        run.medium = Medium::coax;
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
            else if (valueAfter(field, "from") || coaxType(m_catalog, field) || lengthOf(field) ||
                     word.starts_with("badconnector") || word == "goodconnectors") {
                if (auto done = runField(run, field); !done) return done;
            } else if (auto named = setNamed(m_house, part, m_catalog, field)) {
                if (!*named) return *named;
            } else if (const Room* room = labelled(m_house.rooms, field))
                part.room = room->id;
            else if (part.label.empty())
                part.label = field;
            else
                return notUnderstood(
                    field,
                    "a splitter takes “3-way”, rated or not rated, terminated or open, a room, a name, and "
                    "what it hangs on: “from ENTRY”, RG-6, 2 m");
        }
        if (kind == CoaxPartKind::entry && !run.ends.empty())
            return problem("the entry is where the coax begins", "", "leave “from” out");
        if (run.ends.empty() && (run.length || !run.cableClass.empty()))
            return problem("it is not said where this cable comes from", "",
                           "add “from ENTRY” or “from SPLITTER”");
        if (part.label.empty()) {
            const Room* room = m_house.room(part.room);
            part.label = (room == nullptr ? std::string() : room->label + " ") + std::string(name(kind));
        }
        part.id = m_house.freeId(stemOf(part.label));
        note(part.id, part.label);
        if (!run.ends.empty()) {
            run.ends.push_back({part.id, "in"});
            run.label = "coax to " + quantity::cutTo(part.label, maxLabel - 8);
            run.id = m_house.freeId(stemOf(run.label));
            m_house.connections.push_back(std::move(run));
        }
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

std::optional<std::size_t> wrongField(const House& house, const catalog::Catalog& catalog,
                                      std::string_view line) {
    const auto whole = enterLine(house, catalog, line);
    if (whole) return std::nullopt;
    // It is quoted, or else the shortest beginning of the line that is wrong for the same reason ends in it.
    const std::vector<std::string> fields = fieldsOf(line);
    for (std::size_t i = 0; i < fields.size(); ++i)
        if (!fields[i].empty() && whole.error().what.find("“" + fields[i] + "”") != std::string::npos)
            return i;
    std::vector<std::string> begun;
    for (std::size_t i = 0; i + 1 < fields.size(); ++i) {
        begun.push_back(fields[i]);
        const auto part = Reader(house, catalog, begun).read();
        if (!part && part.error().what == whole.error().what) return i;
    }
    return fields.size() - 1;
}

EnteredLines enterLines(const House& house, const catalog::Catalog& catalog, std::string_view lines) {
    EnteredLines out{house, 0, {}, {}, {}};
    for (std::size_t from = 0; from < lines.size();) {
        const std::size_t to = std::min(lines.find('\n', from), lines.size());
        const std::string line = trimmed(lines.substr(from, to - from));
        from = to + 1;
        if (line.empty() || line.front() == '#') continue;
        if (!out.problem) {
            auto entered = enterLine(out.house, catalog, line);
            if (entered) {
                out.house = std::move(entered->house);
                out.label = std::move(entered->label);
                ++out.count;
                continue;
            }
            out.problem = entered.error();
        }
        out.rest.push_back(line);
    }
    return out;
}

Result<Entered> duplicateRoom(const House& house, const std::string& room, const std::string& label) {
    const Room* original = nullptr;
    try {
        original = labelled(house.rooms, room);
    } catch (const Ambiguous& several) {
        return problem(quantity::inQuotes(room) + " is the name of several rooms", "",
                       "write " + several.oneId + " or " + several.otherId);
    }
    if (original == nullptr)
        return problem("there is no room " + quantity::inQuotes(room), "", "choose one that is there");
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
