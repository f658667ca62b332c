// One pass over what the plan has put into the house, from the bench to the labels. Each thing is taken once
// (take()), and what nobody has taken in the end gets a step of its own, so that no part of a plan is without
// one.
#include "fit/steps.h"

#include "fit/step_texts.h"
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

constexpr std::size_t maxId = 100; // bytes

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
        , m_planned(house.fitting.planned.begin(), house.fitting.planned.end()) {
        m_hub = weigh::hubRoomOf(m_house).value_or("");
    }

    std::vector<Step> all() {
        collect();
        if (m_devices.empty() && m_runs.empty() && m_jacks.empty()) return {};
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
        return std::move(m_steps);
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
    bool take(const Id& thing, Step& step) {
        if (!m_planned.contains(thing) || !m_taken.insert(thing).second) return false;
        step.fits.push_back(thing);
        m_fittedBy[thing] = step.id;
        return true;
    }

    // ---- making a step

    Step make(StepKind kind, const std::string& about, const Id& room, std::string what, std::string of) {
        Step s;
        s.kind = kind;
        s.id = std::string(name(kind));
        if (!about.empty()) s.id += "-" + about;
        s.id.resize(std::min(s.id.size(), maxId));
        s.room = m_house.room(room) == nullptr ? Id() : room;
        s.what = std::move(what);
        s.of = std::move(of);
        const StepText& text = textOf(kind);
        s.measures = text.measures;
        s.before = text.before;
        s.otherwise = text.otherwise;
        return s;
    }
    void add(Step s) {
        // Two things of one name that was cut are two all the same.
        for (int n = 2; !m_ids.insert(s.id).second; ++n) {
            const std::string tail = "-" + std::to_string(n);
            s.id.resize(std::min(s.id.size(), maxId - tail.size()));
            s.id += tail;
        }
        std::vector<std::string> first;
        for (const Id& thing : s.fits) {
            m_fittedBy[thing] = s.id;
            for (const FitHint& hint : m_house.fitting.hints)
                if (hint.thing == thing) first.push_back(hint.text + ".");
        }
        s.measures.insert(s.measures.begin(), first.begin(), first.end());
        m_steps.push_back(std::move(s));
    }
    void need(Step& s, const std::string& id) const {
        if (m_ids.contains(id) && std::find(s.needs.begin(), s.needs.end(), id) == s.needs.end())
            s.needs.push_back(id);
    }
    void needThing(Step& s, const Id& thing) const {
        if (const auto it = m_fittedBy.find(thing); it != m_fittedBy.end() && it->second != s.id)
            need(s, it->second);
    }
    void caution(Step& s, const Id& where) const {
        if (m_cautions.empty())
            for (Caution& c : cautionsOf(m_house))
                m_cautions[c.where].push_back(std::move(c));
        const auto it = m_cautions.find(where);
        if (it != m_cautions.end()) s.cautions.insert(s.cautions.end(), it->second.begin(), it->second.end());
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
            Step s = make(StepKind::baseline, "", "",
                          "Join " + m_house.endLabel(route->from) + " and " + m_house.endLabel(route->to) +
                              " by one short good cable and run both ways",
                          route->from + " " + route->to);
            s.why = "it is the ceiling of the machines: nothing measured later can beat it";
            s.route = route->id;
            s.setup = Setup::baseline;
            s.parts.push_back({"", "short data cable that is known to be good"});
            add(std::move(s));
        }
        for (const auto& [medium, network] : m_networks) {
            if (network.fresh.empty() || network.all.size() < 2) continue;
            const auto& cls = network.fresh.front()->deviceClass;
            Step s = make(StepKind::bench, std::string(house::name(medium)), "",
                          "Join two of the adapters side by side and run over them" +
                              inBrackets(*network.fresh.front()),
                          cls);
            s.why = "a pair that is slow side by side is slow in every room";
            s.setup = Setup::bench;
            s.route = routeOver(medium);
            need(s, "baseline");
            add(std::move(s));
        }
    }
    // A route between machines that passes adapters of this medium.
    [[nodiscard]] Id routeOver(Medium medium) const {
        for (const auto& [route, elements] : passed())
            for (const Element& e : elements) {
                const Connection* c = m_house.connection(e.connection);
                if (c != nullptr && c->medium == medium && m_house.route(route) != nullptr &&
                    m_house.endpoint(m_house.route(route)->from) != nullptr &&
                    m_house.endpoint(m_house.route(route)->to) != nullptr)
                    return route;
            }
        return {};
    }
    // What each route passes, found once.
    [[nodiscard]] const std::vector<std::pair<Id, std::vector<Element>>>& passed() const {
        if (m_isPassedKnown) return m_passed;
        m_isPassedKnown = true;
        const RouteFinder finder(m_house);
        for (const Route& route : m_house.routes)
            if (auto found = finder.find(route)) m_passed.emplace_back(route.id, std::move(*found));
        return m_passed;
    }

    // ---- what concerns the whole house

    void plant() {
        if (isUsed(Medium::coax)) coax();
        if (isUsed(Medium::phone)) {
            Step s =
                make(StepKind::part_phone, "", "", "Part the phone pair from the line to the street", "");
            s.why = "or the line carries the signal out of the house";
            add(std::move(s));
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
            Step s = make(StepKind::street, "", room,
                          "Part the coax from the street and see that no television is on it", "");
            s.why = "these adapters send where television and cable internet would be, and no filter keeps "
                    "them in";
            if (entry != nullptr) caution(s, entry->id);
            add(std::move(s));
        } else {
            entryFilter(entry, room);
        }
        for (const CoaxPart& p : m_house.coaxParts) {
            const bool isBadSplitter = p.kind == CoaxPartKind::splitter && p.rated == false;
            const bool isWall = p.kind == CoaxPartKind::amplifier && p.bypass == false;
            if (!isBadSplitter && !isWall) continue;
            Step s = make(
                StepKind::splitter, p.id, p.room,
                isWall ? "Take out the amplifier “" + p.label + "”, or put one with a bypass in its place"
                       : "Put a splitter made for the adapters' band in the place of “" + p.label + "”",
                std::string(house::name(p.kind)) + " " + std::to_string(p.ways));
            s.why = isWall ? "it lets nothing of the adapters' band through"
                           : "one that is not made for the band costs several decibels more, and more "
                             "between its outputs";
            if (isBadSplitter) s.parts.push_back({"", std::to_string(p.ways) + "-way splitter for the band"});
            caution(s, p.id);
            add(std::move(s));
        }
        Step s =
            make(StepKind::terminate, "", "", "Put terminators onto all ports and ends that stay open", "");
        s.why = "an open end reflects and leaves dips";
        s.parts.push_back({"", "75 Ω terminator, as many as there are open ports"});
        add(std::move(s));
    }
    void entryFilter(const CoaxPart* entry, const Id& room) {
        const weigh::EntryFilter place = weigh::entryFilterOf(m_house, m_catalog);
        constexpr const char* why =
            "it keeps the neighbours off and lets the adapters hear each other better";
        if (place == weigh::EntryFilter::isThere) {
            const CoaxPart* filter = partOf(CoaxPartKind::filter);
            Step s = make(StepKind::entry_filter, "", filter->room,
                          "Leave the entry filter that is there; a second one is not needed", "there");
            s.why = "one filter stops the band, and each costs what passes it";
            s.measures = {"See that nothing of the house is joined before it but a modem."};
            caution(s, filter->id);
            add(std::move(s));
            return;
        }
        const bool isBehind = place == weigh::EntryFilter::behindModem;
        if (isBehind) {
            Step modem = make(StepKind::splitter, "modem", room,
                              "Split the cable modem off first, directly behind the entry", "");
            modem.why = "its channels go above what an entry filter passes, which would cut it off";
            modem.parts.push_back({"", "2-way splitter for the band"});
            if (entry != nullptr) caution(modem, entry->id);
            add(std::move(modem));
        }
        Step s = make(StepKind::entry_filter, "", room,
                      isBehind ? "Fit the entry filter onto the branch that feeds the house"
                               : "Fit the entry filter where the coax enters the house",
                      isBehind ? "behind" : "entry");
        s.why = why;
        s.parts.push_back({"", "entry filter"});
        if (isBehind) need(s, "splitter-modem");
        if (entry != nullptr) caution(s, entry->id);
        add(std::move(s));
    }

    void box(const Device& d) {
        Step s = make(StepKind::switch_box, d.id, d.room,
                      "Put the switch into the " + roomLabel(d.room) + inBrackets(d), d.deviceClass);
        s.where = d.label;
        take(d.id, s);
        addPart(s, d);
        caution(s, d.id);
        add(std::move(s));
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
        Step s = make(
            isCard ? StepKind::card : StepKind::usb_adapter, d.id, d.room,
            std::string(isCard ? "Put the card into " : "Put the network adapter into a fast socket of ") +
                machine + inBrackets(d),
            d.deviceClass + " " + (host == nullptr ? "" : host->id));
        take(d.id, s);
        take(bus, s);
        addPart(s, d);
        caution(s, d.id);
        if (host != nullptr) caution(s, host->id);
        add(std::move(s));
    }

    void newRun(const Connection& c) {
        std::string ends;
        for (const PortRef& end : c.ends)
            ends += (ends.empty() ? "" : " to ") + m_house.labelOf(end);
        std::string of = c.cableClass;
        for (const PortRef& end : c.ends)
            of += " " + end.device + "." + end.port;
        Step s = make(StepKind::lay, c.id, roomOf(c), "Lay “" + c.label + "”", of);
        s.where = ends;
        take(c.id, s);
        addCable(s, c);
        for (const PortRef& end : c.ends)
            if (m_house.jack(end.device) != nullptr && take(end.device, s))
                s.parts.push_back({"", "data jack"});
        for (const Choice& choice : m_house.weighing.plan) {
            const auto spot = std::find_if(m_house.spots.begin(), m_house.spots.end(),
                                           [&](const Spot& one) { return one.id == choice.spot; });
            if (spot != m_house.spots.end() && weigh::roomOf(m_house, *spot) == s.room)
                caution(s, choice.spot);
        }
        caution(s, s.room);
        caution(s, c.id);
        const std::string laid = s.id;
        add(std::move(s));
        Step made = make(StepKind::copper_ends, c.id, roomOf(c),
                         "Make both ends of “" + c.label + "” and test its four pairs", of);
        made.where = ends;
        need(made, laid);
        add(std::move(made));
        m_endsOf[c.id] = "copper-ends-" + c.id;
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
        Step s = make(StepKind::adapter, d.id, d.room, std::move(what),
                      d.deviceClass + " " + (jack == nullptr ? "" : jack->id));
        s.where = d.label;
        take(d.id, s);
        addPart(s, d);
        need(s, "bench-" + std::string(house::name(medium)));
        if (medium == Medium::coax) {
            need(s, "terminate");
            need(s, "entry-filter");
            need(s, "street");
        }
        if (medium == Medium::phone) need(s, "part-phone");
        need(s, ends);
        caution(s, d.id);
        caution(s, d.room);
        if (jack != nullptr) caution(s, jack->id);
        const std::string placed = s.id;
        add(std::move(s));
        if (medium != Medium::mains) return;
        Step tried =
            make(StepKind::outlets, d.id, d.room,
                 "Try each outlet of the " + roomLabel(d.room) + " and keep the best", d.deviceClass);
        tried.why = "outlets of one room can differ by half: noise and circuits are local";
        need(tried, placed);
        add(std::move(tried));
    }
    // What the run of a coax jack asks for, once for each jack; the id of the last step.
    std::string coaxRun(const Jack& jack) {
        std::string ends = "coax-ends-" + jack.id;
        if (m_ids.contains(ends)) return ends;
        Step found =
            make(StepKind::find_run, jack.id, jack.room,
                 "Find the cable of “" + jack.label + "” at the cupboard and join it to the others", "");
        found.where = jack.label;
        found.why = "left-over coax is often cut, or joined to nothing";
        Step made = make(StepKind::coax_ends, jack.id, jack.room,
                         "Make the ends of the run of “" + jack.label + "” where they are not sound", "");
        made.where = jack.label;
        made.parts.push_back({"", "connector of type F", 2});
        caution(made, jack.id);
        const std::string before = found.id;
        add(std::move(found));
        need(made, before);
        std::string out = made.id;
        add(std::move(made));
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
        Step s = make(StepKind::lead, c.id, roomOf(c),
                      isInWall ? "Join " + ends + " to the jacks of “" + c.label + "” by leads"
                               : "Join " + ends + " by a lead",
                      of);
        take(c.id, s);
        if (isInWall)
            s.parts.push_back({"", "lead", static_cast<double>(std::max<std::size_t>(c.ends.size(), 1))});
        else
            addCable(s, c);
        for (const PortRef& end : c.ends)
            needThing(s, end.device);
        add(std::move(s));
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
            if (m_taken.contains(d->id)) continue;
            Step s = make(StepKind::switch_box, d->id, d->room, "Put “" + d->label + "” into its place",
                          d->deviceClass);
            take(d->id, s);
            addPart(s, *d);
            caution(s, d->id);
            add(std::move(s));
        }
        for (const Jack* j : m_jacks) {
            if (m_taken.contains(j->id)) continue;
            Step s = make(StepKind::lay, j->id, j->room, "Fit “" + j->label + "”",
                          std::string(house::name(j->kind)));
            take(j->id, s);
            s.parts.push_back({"", "jack"});
            add(std::move(s));
        }
        for (const Connection& c : m_house.connections) {
            if (c.medium != Medium::bus || !m_planned.contains(c.id) || m_taken.contains(c.id)) continue;
            Step s = make(StepKind::lead, c.id, roomOf(c), "Join “" + c.label + "”", "");
            take(c.id, s);
            add(std::move(s));
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
            Step s = make(StepKind::pair, about, "",
                          isFirst ? "Pair the adapters over the " + kind +
                                        ": one, then each other one within two minutes"
                                  : "Pair the new adapters over the " + kind +
                                        ": press on a member first, then on the new one",
                          members);
            s.why = "out of the box they join a public network that anybody on the wiring can join";
            for (const Device* d : network.fresh) {
                needThing(s, d->id);
                if (medium == Medium::mains) need(s, "outlets-" + d->id);
            }
            for (const Id& connection : network.connections)
                take(connection, s);
            const std::string paired = s.id;
            add(std::move(s));
            Step proof = make(StepKind::privacy, about, "",
                              "See that no stranger's adapter can join over the " + kind, members);
            proof.why = medium == Medium::coax ? "neighbours on the same tap could listen and take part"
                                               : "anybody on the same wiring could listen and take part";
            need(proof, paired);
            add(std::move(proof));
        }
    }

    void proofs() {
        Step lights = make(StepKind::lights, "", "",
                           "Read the lights and the negotiated rate of every port before any run", "");
        lights.why = "a link at 100 Mbit/s is found faster than measured";
        for (const Step& s : m_steps)
            if (s.kind == StepKind::lead || s.kind == StepKind::switch_box || s.kind == StepKind::card ||
                s.kind == StepKind::usb_adapter)
                need(lights, s.id);
        add(std::move(lights));
        if (!m_house.endpoints.empty()) {
            Step s = make(StepKind::addresses, "", "",
                          "Give the machines that are measured addresses that stay", "");
            s.why = "a run goes to the port whose address it asks for";
            add(std::move(s));
        }
        std::vector<std::string> checks;
        for (const auto& [id, elements] : passed()) {
            const Route& route = *m_house.route(id);
            Step s = make(StepKind::check, id, "", "Run over “" + route.label + "”, both ways",
                          route.from + " " + route.to);
            bool isNew = false;
            for (const Element& e : elements)
                for (const Id& thing : {e.device, e.connection}) {
                    if (thing.empty() || !m_planned.contains(thing)) continue;
                    isNew = true;
                    needThing(s, thing);
                    if (const auto ends = m_endsOf.find(thing); ends != m_endsOf.end()) need(s, ends->second);
                }
            if (!isNew) continue;
            const Device* end = m_house.device(m_house.deviceAt(route.to));
            s.room = end != nullptr && m_house.room(end->room) != nullptr ? end->room : Id();
            s.route = id;
            need(s, "lights");
            checks.push_back(s.id);
            add(std::move(s));
        }
        Step label = make(StepKind::label, "", "", "Label jacks, cables and adapters at both ends", "");
        label.why = "whoever comes next finds the way";
        for (const std::string& check : checks)
            need(label, check);
        add(std::move(label));
    }

    const House& m_house;
    const Catalog& m_catalog;
    const std::set<Id> m_planned;
    Id m_hub;
    std::vector<const Device*> m_devices;
    std::vector<const Connection*> m_runs; ///< of data cable
    std::vector<const Jack*> m_jacks;
    std::map<Medium, Network> m_networks;
    std::set<Id> m_taken;
    std::map<Id, std::string> m_fittedBy; ///< step by thing
    std::map<Id, std::string> m_endsOf;   ///< step by run
    std::set<std::string> m_ids;
    std::vector<Step> m_steps;
    mutable std::map<Id, std::vector<Caution>> m_cautions;
    mutable bool m_isPassedKnown = false;
    mutable std::vector<std::pair<Id, std::vector<Element>>> m_passed;
};

StepRecord& recordOf(House& house, const Step& step) {
    for (StepRecord& r : house.fitting.records)
        if (r.step == step.id) return r;
    house.fitting.records.push_back({step.id, StepState::open, ""});
    return house.fitting.records.back();
}

} // namespace

std::string_view name(StepKind kind) {
    switch (kind) {
    case StepKind::baseline:
        return "baseline";
    case StepKind::bench:
        return "bench";
    case StepKind::street:
        return "street";
    case StepKind::entry_filter:
        return "entry-filter";
    case StepKind::splitter:
        return "splitter";
    case StepKind::terminate:
        return "terminate";
    case StepKind::part_phone:
        return "part-phone";
    case StepKind::switch_box:
        return "switch";
    case StepKind::card:
        return "card";
    case StepKind::usb_adapter:
        return "usb-adapter";
    case StepKind::lay:
        return "lay";
    case StepKind::copper_ends:
        return "copper-ends";
    case StepKind::find_run:
        return "find-run";
    case StepKind::coax_ends:
        return "coax-ends";
    case StepKind::adapter:
        return "adapter";
    case StepKind::outlets:
        return "outlets";
    case StepKind::lead:
        return "lead";
    case StepKind::pair:
        return "pair";
    case StepKind::privacy:
        return "privacy";
    case StepKind::addresses:
        return "addresses";
    case StepKind::lights:
        return "lights";
    case StepKind::check:
        return "check";
    case StepKind::label:
        return "label";
    }
    return "";
}

std::vector<Step> stepsOf(const House& house, const Catalog& catalog) {
    std::vector<Step> out = Deriver(house, catalog).all();
    std::map<std::string_view, const StepRecord*> records;
    for (const StepRecord& r : house.fitting.records)
        records[r.step] = &r;
    for (Step& s : out) {
        const auto it = records.find(s.id);
        if (it == records.end()) continue;
        const StepRecord& r = *it->second;
        s.note = r.note;
        s.at = r.at;
        s.isChanged = r.state != StepState::open && r.of != s.of;
        if (s.isChanged) continue;
        s.state = r.state;
        s.reason = r.reason;
    }
    return out;
}

std::vector<StepRecord> noLongerNeeded(const House& house, const std::vector<Step>& steps) {
    std::set<std::string_view> ids;
    for (const Step& s : steps)
        ids.insert(s.id);
    std::vector<StepRecord> out;
    for (const StepRecord& r : house.fitting.records)
        if (!ids.contains(r.step)) out.push_back(r);
    return out;
}

House withState(const House& house, const Step& step, StepState state, const std::string& at,
                const std::string& reason) {
    House out = house;
    StepRecord& r = recordOf(out, step);
    r.state = state;
    r.at = at;
    r.reason = reason;
    r.what = step.what;
    r.of = step.of;
    return out;
}

House withNote(const House& house, const Step& step, const std::string& note) {
    House out = house;
    StepRecord& r = recordOf(out, step);
    r.note = note;
    r.what = step.what;
    if (r.of.empty()) r.of = step.of;
    return out;
}

House withoutRecord(const House& house, const std::string& step) {
    House out = house;
    std::erase_if(out.fitting.records, [&](const StepRecord& r) { return r.step == step; });
    return out;
}

} // namespace metrodos::fit
