// One pass over what the plan has put into the house, from the bench to the labels. Each thing is taken once,
// and what nobody has taken in the end gets a step of its own, so that no part of a plan is without one.
#include "fit/derive_steps.h"

#include "fit/step_list.h"
#include "house/route.h"
#include "weigh/options.h"

#include <algorithm>
#include <map>
#include <set>

namespace metrodos::fit {
namespace {

using namespace house;
using catalog::Catalog;
using catalog::DeviceClass;

// Of one medium: its adapters in the house, new and old.
struct Network {
    std::vector<const Device*> fresh;
    std::vector<const Device*> all;
    std::vector<Id> connections; ///< planned ones
};

class Deriver {
  public:
    Deriver(const House& house, const Catalog& catalog)
        : m_house(house)
        , m_catalog(catalog)
        , m_planned(house.fitting.planned.begin(), house.fitting.planned.end())
        , m_hub(weigh::hubRoomOf(house).value_or(""))
        , m_list(house) {}

    std::vector<Step> all() {
        collect();
        if (m_devices.empty() && m_runs.empty() && m_jacks.empty()) return {};
        const RouteFinder finder(m_house);
        for (const Route& route : m_house.routes)
            if (auto found = finder.find(route)) m_passed.emplace_back(route.id, std::move(*found));
        bench();
        plant();
        for (const Device* device : m_devices)
            if (device->kind == DeviceKind::network_switch || device->kind == DeviceKind::router)
                box(*device);
        for (const Id& room : rooms())
            place(room);
        leftOver();
        networks();
        proofs();
        return m_list.release();
    }

  private:
    // ---- what there is to fit

    void collect() {
        for (const Device& d : m_house.devices)
            if (m_planned.contains(d.id)) m_devices.push_back(&d);
        for (const Jack& j : m_house.jacks)
            if (m_planned.contains(j.id)) m_jacks.push_back(&j);
        for (const Connection& c : m_house.connections) {
            if (m_planned.contains(c.id) && c.medium == Medium::data_cable) m_runs.push_back(&c);
            if (m_planned.contains(c.id) && c.medium != Medium::data_cable && c.medium != Medium::bus)
                m_networks[c.medium].connections.push_back(c.id);
        }
        for (const Device& d : m_house.devices) {
            if (d.kind != DeviceKind::adapter) continue;
            const auto medium = mediumOf(d);
            if (!medium || *medium == Medium::bus) continue;
            m_networks[*medium].all.push_back(&d);
            if (m_planned.contains(d.id)) m_networks[*medium].fresh.push_back(&d);
        }
    }
    [[nodiscard]] static std::optional<Medium> mediumOf(const Device& adapter) {
        for (const Medium medium : {Medium::coax, Medium::mains, Medium::air, Medium::phone, Medium::bus})
            for (const Port& port : adapter.ports)
                if (port.kind != PortKind::ethernet && joins(medium, port.kind)) return medium;
        return std::nullopt;
    }
    // Rooms of the house in its order, the hub first; what lies in none of them is in "".
    [[nodiscard]] std::vector<Id> rooms() const {
        std::vector<Id> out;
        if (!m_hub.empty()) out.push_back(m_hub);
        for (const Room& room : m_house.rooms)
            if (room.id != m_hub) out.push_back(room.id);
        out.emplace_back();
        return out;
    }
    // Where a run is mostly worked on: at the end that is not the hub.
    [[nodiscard]] Id roomOf(const Connection& c) const {
        Id out;
        for (const PortRef& end : c.ends) {
            const Id room = m_house.roomOf(end);
            if (m_house.room(room) != nullptr && (out.empty() || out == m_hub)) out = room;
        }
        return out;
    }
    [[nodiscard]] std::string classLabel(const Device& d) const {
        const DeviceClass* cls = m_catalog.device(d.deviceClass);
        return cls == nullptr ? "box" : cls->label;
    }
    [[nodiscard]] std::string inBrackets(const Device& d) const { return " (" + classLabel(d) + ")"; }
    [[nodiscard]] std::string roomLabel(const Id& room) const {
        const Room* r = m_house.room(room);
        return r == nullptr ? "house" : r->label;
    }
    void addPart(Step& s, const Device& d) const { s.parts.push_back({d.deviceClass, classLabel(d)}); }
    void addCable(Step& s, const Connection& c) const {
        const catalog::CableCategory* cls = m_catalog.cable(c.cableClass);
        s.parts.push_back({c.cableClass, cls == nullptr ? "cable" : cls->label,
                           c.length ? c.length->inMetres() : 1, c.length ? "m" : ""});
    }

    // ---- the bench

    void bench() {
        const Route* route = nullptr;
        for (const Route& r : m_house.routes)
            if (route == nullptr && m_house.endpoint(r.from) != nullptr && m_house.endpoint(r.to) != nullptr)
                route = &r;
        if (route != nullptr) {
            Step s =
                m_list.make(StepKind::baseline, "", "",
                            "Join " + m_house.endLabel(route->from) + " and " + m_house.endLabel(route->to) +
                                " by one short good cable and run both ways",
                            route->from + " " + route->to);
            s.why = "it is the ceiling of the machines: nothing measured later can beat it";
            s.route = route->id;
            s.setup = Setup::baseline;
            s.parts.push_back({"", "short data cable that is known to be good"});
            m_list.add(std::move(s));
        }
        for (const auto& [medium, network] : m_networks) {
            if (network.fresh.empty() || network.all.size() < 2) continue;
            const auto& cls = network.fresh.front()->deviceClass;
            Step s = m_list.make(StepKind::bench, std::string(house::name(medium)), "",
                                 "Join two of the adapters side by side and run over them" +
                                     inBrackets(*network.fresh.front()),
                                 cls);
            s.why = "a pair that is slow side by side is slow in every room";
            s.setup = Setup::bench;
            s.route = routeOver(medium);
            m_list.need(s, "baseline");
            m_list.add(std::move(s));
        }
    }
    // A route between machines that passes adapters of this medium.
    [[nodiscard]] Id routeOver(Medium medium) const {
        for (const auto& [route, elements] : m_passed)
            for (const Element& e : elements) {
                const Connection* c = m_house.connection(e.connection);
                if (c != nullptr && c->medium == medium && m_house.route(route) != nullptr &&
                    m_house.endpoint(m_house.route(route)->from) != nullptr &&
                    m_house.endpoint(m_house.route(route)->to) != nullptr)
                    return route;
            }
        return {};
    }
    // ---- what concerns the whole house

    void plant() {
        if (isUsed(Medium::coax)) coax();
        if (isUsed(Medium::phone)) {
            Step s = m_list.make(StepKind::part_phone, "", "",
                                 "Part the phone pair from the line to the street", "");
            s.why = "or the line carries the signal out of the house";
            m_list.add(std::move(s));
        }
    }
    [[nodiscard]] bool isUsed(Medium medium) const {
        const auto it = m_networks.find(medium);
        return it != m_networks.end() && !it->second.fresh.empty();
    }
    [[nodiscard]] const CoaxPart* partOf(CoaxPartKind kind) const {
        for (const CoaxPart& p : m_house.coaxParts)
            if (p.kind == kind) return &p;
        return nullptr;
    }

    void coax() {
        const auto& fresh = m_networks[Medium::coax].fresh;
        const bool isInTelevisionBand = std::all_of(fresh.begin(), fresh.end(), [&](const Device* d) {
            const catalog::CoaxClass* cls = m_catalog.coax.classOf(d->deviceClass);
            return cls != nullptr && cls->isInTelevisionBand;
        });
        const CoaxPart* entry = partOf(CoaxPartKind::entry);
        const Id room = entry == nullptr ? Id() : entry->room;
        if (isInTelevisionBand) {
            Step s = m_list.make(StepKind::street, "", room,
                                 "Part the coax from the street and see that no television is on it", "");
            s.why = "these adapters send where television and cable internet would be, and no filter keeps "
                    "them in";
            if (entry != nullptr) m_list.caution(s, entry->id);
            m_list.add(std::move(s));
        } else {
            entryFilter(entry, room);
        }
        for (const CoaxPart& p : m_house.coaxParts) {
            const bool isBadSplitter = p.kind == CoaxPartKind::splitter && p.rated == false;
            const bool isWall = p.kind == CoaxPartKind::amplifier && p.bypass == false;
            if (!isBadSplitter && !isWall) continue;
            Step s = m_list.make(
                StepKind::splitter, p.id, p.room,
                isWall ? "Take out the amplifier “" + p.label + "”, or put one with a bypass in its place"
                       : "Put a splitter made for the adapters' band in the place of “" + p.label + "”",
                std::string(house::name(p.kind)) + " " + std::to_string(p.ways));
            s.why = isWall ? "it lets nothing of the adapters' band through"
                           : "one that is not made for the band costs several decibels more, and more "
                             "between its outputs";
            if (isBadSplitter) s.parts.push_back({"", std::to_string(p.ways) + "-way splitter for the band"});
            m_list.caution(s, p.id);
            m_list.add(std::move(s));
        }
        Step s = m_list.make(StepKind::terminate, "", "",
                             "Put terminators onto all ports and ends that stay open", "");
        s.why = "an open end reflects and leaves dips";
        s.parts.push_back({"", "75 Ω terminator, as many as there are open ports"});
        m_list.add(std::move(s));
    }
    void entryFilter(const CoaxPart* entry, const Id& room) {
        const weigh::EntryFilter place = weigh::entryFilterOf(m_house, m_catalog);
        constexpr const char* why =
            "it keeps the neighbours off and lets the adapters hear each other better";
        if (place == weigh::EntryFilter::isThere) {
            const CoaxPart* filter = partOf(CoaxPartKind::filter);
            Step s = m_list.make(StepKind::entry_filter, "", filter->room,
                                 "Leave the entry filter that is there; a second one is not needed", "there");
            s.why = "one filter stops the band, and each costs what passes it";
            s.measures = {"See that nothing of the house is joined before it but a modem."};
            m_list.caution(s, filter->id);
            m_list.add(std::move(s));
            return;
        }
        const bool isBehind = place == weigh::EntryFilter::behindModem;
        if (isBehind) {
            Step modem = m_list.make(StepKind::splitter, "modem", room,
                                     "Split the cable modem off first, directly behind the entry", "");
            modem.why = "its channels go above what an entry filter passes, which would cut it off";
            modem.parts.push_back({"", "2-way splitter for the band"});
            if (entry != nullptr) m_list.caution(modem, entry->id);
            m_list.add(std::move(modem));
        }
        Step s = m_list.make(StepKind::entry_filter, "", room,
                             isBehind ? "Fit the entry filter onto the branch that feeds the house"
                                      : "Fit the entry filter where the coax enters the house",
                             isBehind ? "behind" : "entry");
        s.why = why;
        s.parts.push_back({"", "entry filter"});
        if (isBehind) m_list.need(s, "splitter-modem");
        if (entry != nullptr) m_list.caution(s, entry->id);
        m_list.add(std::move(s));
    }

    void box(const Device& d) {
        Step s = m_list.make(StepKind::switch_box, d.id, d.room,
                             std::string(d.kind == DeviceKind::router ? "Put the router" : "Put the switch") +
                                 " into the " + roomLabel(d.room) + inBrackets(d),
                             d.deviceClass);
        s.where = d.label;
        m_list.take(d.id, s);
        addPart(s, d);
        m_list.caution(s, d.id);
        m_list.add(std::move(s));
    }

    // ---- place by place

    void place(const Id& room) {
        const auto isHere = [&](const Id& other) {
            return other == room || (room.empty() && m_house.room(other) == nullptr);
        };
        for (const Device* d : m_devices)
            if (isHere(d->room) && mediumOf(*d) == Medium::bus) networkCard(*d);
        for (const Connection* c : m_runs)
            if (isHere(roomOf(*c)) && isNewRun(*c)) newRun(*c);
        for (const Device* d : m_devices) {
            if (!isHere(d->room) || d->kind != DeviceKind::adapter) continue;
            const auto medium = mediumOf(*d);
            if (medium && *medium != Medium::bus) adapter(*d, *medium);
        }
        for (const Connection* c : m_runs)
            if (isHere(roomOf(*c)) && !isNewRun(*c)) lead(*c);
    }
    // One that is laid, with a jack of its own; any other joins what is there.
    [[nodiscard]] bool isNewRun(const Connection& c) const {
        return std::any_of(c.ends.begin(), c.ends.end(), [&](const PortRef& end) {
            return m_house.jack(end.device) != nullptr && m_planned.contains(end.device);
        });
    }

    void networkCard(const Device& d) {
        const bool isCard = std::any_of(d.ports.begin(), d.ports.end(),
                                        [](const Port& p) { return p.kind == PortKind::pcie; });
        const Device* host = nullptr;
        Id bus;
        for (const Connection& c : m_house.connections) {
            if (c.medium != Medium::bus) continue;
            const auto mine = std::find_if(c.ends.begin(), c.ends.end(),
                                           [&](const PortRef& e) { return e.device == d.id; });
            if (mine == c.ends.end()) continue;
            bus = c.id;
            for (const PortRef& end : c.ends)
                if (end.device != d.id) host = m_house.device(end.device);
        }
        const std::string machine = host == nullptr ? "the machine" : "“" + host->label + "”";
        Step s = m_list.make(
            isCard ? StepKind::card : StepKind::usb_adapter, d.id, d.room,
            std::string(isCard ? "Put the card into " : "Put the network adapter into a fast socket of ") +
                machine + inBrackets(d),
            d.deviceClass + " " + (host == nullptr ? "" : host->id));
        m_list.take(d.id, s);
        m_list.take(bus, s);
        addPart(s, d);
        m_list.caution(s, d.id);
        if (host != nullptr) m_list.caution(s, host->id);
        m_list.add(std::move(s));
    }

    void newRun(const Connection& c) {
        std::string ends;
        for (const PortRef& end : c.ends)
            ends += (ends.empty() ? "" : " to ") + m_house.labelOf(end);
        std::string of = c.cableClass;
        for (const PortRef& end : c.ends)
            of += " " + end.device + "." + end.port;
        Step s = m_list.make(StepKind::lay, c.id, roomOf(c), "Lay “" + c.label + "”", of);
        s.where = ends;
        m_list.take(c.id, s);
        addCable(s, c);
        for (const PortRef& end : c.ends)
            if (m_house.jack(end.device) != nullptr && m_list.take(end.device, s))
                s.parts.push_back({"", "data jack"});
        for (const Choice& choice : m_house.weighing.plan) {
            const auto spot = std::find_if(m_house.spots.begin(), m_house.spots.end(),
                                           [&](const Spot& one) { return one.id == choice.spot; });
            if (spot != m_house.spots.end() && weigh::roomOf(m_house, *spot) == s.room)
                m_list.caution(s, choice.spot);
        }
        m_list.caution(s, s.room);
        m_list.caution(s, c.id);
        const std::string laid = s.id;
        m_list.add(std::move(s));
        Step made = m_list.make(StepKind::copper_ends, c.id, roomOf(c),
                                "Make both ends of “" + c.label + "” and test its four pairs", of);
        made.where = ends;
        m_list.need(made, laid);
        m_list.add(std::move(made));
    }

    void adapter(const Device& d, Medium medium) {
        const Port* line = nullptr;
        for (const Port& p : d.ports)
            if (p.kind != PortKind::ethernet && joins(medium, p.kind)) line = &p;
        const Jack* jack = line == nullptr ? nullptr : m_house.jack(line->jack);
        std::string ends;
        if (medium == Medium::coax && jack != nullptr) ends = coaxRun(*jack);
        std::string what = "Put an adapter into the " + roomLabel(d.room);
        if (jack != nullptr) what += ", at “" + jack->label + "”";
        what += inBrackets(d);
        Step s = m_list.make(StepKind::adapter, d.id, d.room, std::move(what),
                             d.deviceClass + " " + (jack == nullptr ? "" : jack->id));
        s.where = d.label;
        m_list.take(d.id, s);
        addPart(s, d);
        m_list.need(s, "bench-" + std::string(house::name(medium)));
        if (medium == Medium::coax) {
            m_list.need(s, "terminate");
            m_list.need(s, "entry-filter");
            m_list.need(s, "street");
        }
        if (medium == Medium::phone) m_list.need(s, "part-phone");
        m_list.need(s, ends);
        m_list.caution(s, d.id);
        m_list.caution(s, d.room);
        if (jack != nullptr) m_list.caution(s, jack->id);
        const std::string placed = s.id;
        m_list.add(std::move(s));
        if (medium != Medium::mains) return;
        Step tried =
            m_list.make(StepKind::outlets, d.id, d.room,
                        "Try each outlet of the " + roomLabel(d.room) + " and keep the best", d.deviceClass);
        tried.why = "outlets of one room can differ by half: noise and circuits are local";
        m_list.need(tried, placed);
        m_list.add(std::move(tried));
    }
    // What the run of a coax jack asks for, once for each jack; the id of the last step.
    std::string coaxRun(const Jack& jack) {
        std::string ends = "coax-ends-" + jack.id;
        if (m_list.contains(ends)) return ends;
        Step found = m_list.make(
            StepKind::find_run, jack.id, jack.room,
            "Find the cable of “" + jack.label + "” at the cupboard and join it to the others", "");
        found.where = jack.label;
        found.why = "left-over coax is often cut, or joined to nothing";
        Step made =
            m_list.make(StepKind::coax_ends, jack.id, jack.room,
                        "Make the ends of the run of “" + jack.label + "” where they are not sound", "");
        made.where = jack.label;
        made.parts.push_back({"", "connector of type F", 2});
        m_list.caution(made, jack.id);
        const std::string before = found.id;
        m_list.add(std::move(found));
        m_list.need(made, before);
        std::string out = made.id;
        m_list.add(std::move(made));
        return out;
    }

    // Between two boxes; or, of a run that is in the wall, from each of its jacks to what is plugged in
    // there.
    void lead(const Connection& c) {
        std::string ends;
        std::string of;
        bool isInWall = false;
        for (const PortRef& end : c.ends) {
            PortRef plug = end;
            if (m_house.jack(end.device) != nullptr) {
                isInWall = true;
                plug = pluggedInto(end.device).value_or(end);
            }
            ends += (ends.empty() ? "" : " and ") + m_house.labelOf(plug);
            of += (of.empty() ? "" : " ") + plug.device + "." + plug.port;
        }
        Step s = m_list.make(StepKind::lead, c.id, roomOf(c),
                             isInWall ? "Join " + ends + " to the jacks of “" + c.label + "” by leads"
                                      : "Join " + ends + " by a lead",
                             of);
        m_list.take(c.id, s);
        if (isInWall)
            s.parts.push_back({"", "lead", static_cast<double>(std::max<std::size_t>(c.ends.size(), 1))});
        else
            addCable(s, c);
        for (const PortRef& end : c.ends)
            m_list.needThing(s, end.device);
        m_list.add(std::move(s));
    }
    [[nodiscard]] std::optional<PortRef> pluggedInto(const Id& jack) const {
        for (const Device& d : m_house.devices)
            for (const Port& p : d.ports)
                if (p.jack == jack) return PortRef{d.id, p.id};
        return std::nullopt;
    }

    // What has no kind of its own: a plan of a later version, or a thing that was typed in.
    void leftOver() {
        for (const Device* d : m_devices) {
            if (m_list.isTaken(d->id)) continue;
            Step s = m_list.make(StepKind::switch_box, d->id, d->room,
                                 "Put “" + d->label + "” into its place", d->deviceClass);
            m_list.take(d->id, s);
            addPart(s, *d);
            m_list.caution(s, d->id);
            m_list.add(std::move(s));
        }
        for (const Jack* j : m_jacks) {
            if (m_list.isTaken(j->id)) continue;
            Step s = m_list.make(StepKind::lay, j->id, j->room, "Fit “" + j->label + "”",
                                 std::string(house::name(j->kind)));
            m_list.take(j->id, s);
            s.parts.push_back({"", "jack"});
            m_list.add(std::move(s));
        }
        for (const Connection& c : m_house.connections) {
            if (c.medium != Medium::bus || m_list.isTaken(c.id)) continue;
            Step s = m_list.make(StepKind::lead, c.id, roomOf(c), "Join “" + c.label + "”", "");
            m_list.take(c.id, s);
            m_list.add(std::move(s));
        }
    }

    // ---- the finished house

    void networks() {
        for (auto& [medium, network] : m_networks) {
            if (network.fresh.empty() && network.connections.empty()) continue;
            std::string members;
            for (const Device* d : network.all)
                members += (members.empty() ? "" : " ") + d->id;
            const std::string about(house::name(medium));
            const bool isFirst = network.fresh.size() == network.all.size();
            const std::string kind =
                m_catalog.medium(medium) == nullptr ? about : m_catalog.medium(medium)->label;
            const auto bringIn = [&, medium = medium, &all = network](Step& step) {
                for (const Device* d : all.fresh) {
                    m_list.needThing(step, d->id);
                    if (medium == Medium::mains) m_list.need(step, "outlets-" + d->id);
                }
                for (const Id& connection : all.connections)
                    m_list.take(connection, step);
            };
            const bool isPaired = m_house.practices.pairing == PairingChoice::at_once;
            std::string paired;
            if (isPaired) {
                Step s = m_list.make(StepKind::pair, about, "",
                                     isFirst ? "Pair the adapters over the " + kind +
                                                   ": one, then each other one within two minutes"
                                             : "Pair the new adapters over the " + kind +
                                                   ": press on a member first, then on the new one",
                                     members);
                s.why = medium == Medium::air
                            ? "the key that they came with may be known to others"
                            : "out of the box they join a public network that anybody on the wiring can join";
                bringIn(s);
                paired = s.id;
                m_list.add(std::move(s));
            }
            Step proof = m_list.make(StepKind::privacy, about, "",
                                     isPaired ? "See that no stranger's adapter can join over the " + kind
                                              : "See whether a stranger's adapter can join over the " + kind +
                                                    ", and pair them where one can",
                                     members);
            proof.why = std::string(medium == Medium::coax  ? "neighbours on the same tap"
                                    : medium == Medium::air ? "anybody within reach"
                                                            : "anybody on the same wiring") +
                        " could listen and take part";
            if (isPaired)
                m_list.need(proof, paired);
            else
                bringIn(proof);
            m_list.add(std::move(proof));
        }
    }

    void proofs() {
        Step lights = m_list.make(StepKind::lights, "", "",
                                  "Read the lights and the negotiated rate of every port before any run", "");
        lights.why = "a link at 100 Mbit/s is found faster than measured";
        for (const Step& s : m_list.steps())
            if (s.kind == StepKind::lead || s.kind == StepKind::switch_box || s.kind == StepKind::card ||
                s.kind == StepKind::usb_adapter)
                m_list.need(lights, s.id);
        m_list.add(std::move(lights));
        if (!m_house.endpoints.empty()) {
            Step s = m_list.make(StepKind::addresses, "", "",
                                 "Give the machines that are measured addresses that stay", "");
            s.why = "a run goes to the port whose address it asks for";
            m_list.add(std::move(s));
        }
        std::vector<std::string> checks;
        for (const auto& [id, elements] : m_passed) {
            const Route& route = *m_house.route(id);
            Step s = m_list.make(StepKind::check, id, "", "Run over “" + route.label + "”, both ways",
                                 route.from + " " + route.to);
            bool isNew = false;
            for (const Element& e : elements) {
                for (const Id& thing : {e.device, e.connection}) {
                    if (!m_planned.contains(thing)) continue;
                    isNew = true;
                    m_list.needThing(s, thing);
                    m_list.need(s, "copper-ends-" + thing);
                }
                // New adapters may have joined a network that was there.
                const Connection* c = m_house.connection(e.connection);
                if (c != nullptr && isShared(c->medium))
                    m_list.need(s,
                                (m_house.practices.pairing == PairingChoice::at_once ? "pair-" : "privacy-") +
                                    std::string(house::name(c->medium)));
            }
            if (!isNew) continue;
            const Device* end = m_house.device(m_house.deviceAt(route.to));
            s.room = end != nullptr && m_house.room(end->room) != nullptr ? end->room : Id();
            s.route = id;
            m_list.need(s, "lights");
            checks.push_back(s.id);
            m_list.add(std::move(s));
        }
        Step label =
            m_list.make(StepKind::label, "", "", "Label jacks, cables and adapters at both ends", "");
        label.why = "whoever comes next finds the way";
        for (const std::string& check : checks)
            m_list.need(label, check);
        m_list.add(std::move(label));
    }

    const House& m_house;
    const Catalog& m_catalog;
    const std::set<Id> m_planned;
    Id m_hub;
    std::vector<const Device*> m_devices;
    std::vector<const Connection*> m_runs; ///< of data cable
    std::vector<const Jack*> m_jacks;
    std::map<Medium, Network> m_networks;
    StepList m_list;
    std::vector<std::pair<Id, std::vector<Element>>> m_passed; ///< by each route that joins its ends
};

} // namespace

std::vector<Step> deriveSteps(const House& house, const Catalog& catalog) {
    return Deriver(house, catalog).all();
}

} // namespace metrodos::fit
