#include "weigh/spot_ways.h"

#include "capacity/air_channel.h"
#include "capacity/ways.h"
#include "house/machine_ports.h"
#include "quantity/format.h"
#include "weigh/as_practised.h"
#include "weigh/passages.h"
#include "weigh/steadiness.h"

#include <algorithm>
#include <cmath>

namespace metrodos::weigh {
namespace {

using namespace house;
using capacity::Distribution;
using capacity::WayKind;
using catalog::Catalog;
using catalog::Family;
using catalog::WayMeans;
using quantity::Length;

constexpr double minRate = 1e6; // bit/s in the median: below, a way is no way

struct MediumCrossing {
    WayMeans means;
    Medium medium;
    WayKind kind;
    JackKind jack;
    Family family;
};
constexpr MediumCrossing crossings[] = {
    {WayMeans::coax, Medium::coax, WayKind::coax, JackKind::coax, Family::coax},
    {WayMeans::mains, Medium::mains, WayKind::mains, JackKind::mains, Family::mains},
    {WayMeans::air, Medium::air, WayKind::air, JackKind::data, Family::air},
};

// Makes all ways to one spot.
class Maker {
  public:
    Maker(const House& house, const Catalog& catalog, const Id& hubRoom, const Spot& spot,
          const std::vector<Measured>& measured)
        : m_house(house)
        , m_catalog(catalog)
        , m_hub(hubRoom)
        , m_spot(spot)
        , m_measured(measured)
        , m_room(roomOf(house, spot))
        , m_target(targetOf(house, spot, m_room)) {}

    std::vector<SpotWay> all() {
        if (m_room.empty() || m_house.room(m_room) == nullptr) {
            for (const catalog::WayClass& cls : m_catalog.planning.ways)
                refuse(*catalog::wayMeans(cls.id), "the room of the spot is not known: give it in Walk");
            return std::move(m_out);
        }
        asIs();
        if (m_room == m_hub) {
            lead();
            for (const catalog::WayClass& cls : m_catalog.planning.ways)
                if (cls.id != idOf(WayMeans::data) && cls.id != idOf(WayMeans::as_is))
                    refuse(*catalog::wayMeans(cls.id), "a lead in the same room does it");
            return std::move(m_out);
        }
        m_allowed = withAllowedOutlets(m_house, m_hub, m_room).jacks;
        House sockets = m_house;
        sockets.jacks = m_allowed;
        if (auto ways = capacity::waysBetween(sockets, m_catalog, m_hub, m_target, capacity::Adapters::all))
            m_found = std::move(*ways);
        data();
        newCable(WayMeans::new_own);
        newCable(WayMeans::new_hired);
        for (const MediumCrossing& c : crossings)
            cross(c);
        phone();
        fibre();
        mesh();
        return std::move(m_out);
    }

  private:
    [[nodiscard]] const Room& hub() const { return *m_house.room(m_hub); }
    [[nodiscard]] const Room& room() const { return *m_house.room(m_room); }
    [[nodiscard]] bool sameBuilding() const { return hub().building == room().building; }
    [[nodiscard]] int floors() const { return std::abs(hub().floor - room().floor); }

    // All that a way has of its class.
    void describe(SpotWay& way, WayMeans means) const {
        const catalog::WayClass* cls = m_catalog.planning.way(means);
        way.id = cls->id;
        way.means = means;
        way.label = cls->label;
        way.steadiness = cls->steadiness;
        way.minutes = cls->minutesPerSpot;
        way.minutesOnce = cls->minutesOnce;
        way.years = cls->years;
        way.security = cls->security;
        way.rulesOut = cls->rulesOut;
    }
    [[nodiscard]] SpotWay begin(WayMeans means) const {
        SpotWay out;
        describe(out, means);
        return out;
    }
    void refuse(WayMeans means, const std::string& why) {
        SpotWay out = begin(means);
        out.ruledOut = why;
        m_out.push_back(std::move(out));
    }

    // Where the way ends: at the machine of the spot, where it is known and stands there, else in the room.
    static Id targetOf(const House& house, const Spot& spot, const Id& room) {
        const Device* device = house.device(spot.device);
        return device != nullptr && device->kind == DeviceKind::host && device->room == room ? device->id
                                                                                             : room;
    }

    void pass(SpotWay& way, const capacity::RoutePrediction& prediction, const House& house,
              const CeilingUpdate& update = {}) const {
        addPassages(way, m_spot.id, prediction, house, m_catalog, update);
    }
    // For a way that no model of the walls predicts: `rate` each way, and the machine at the spot.
    void pass(SpotWay& way, const Distribution& rate) const {
        const auto end = reach();
        if (!end) return;
        pass(way, end->prediction, end->house,
             [&](const capacity::ElementPrediction& e, Distribution& down, Distribution& up) {
                 if (e.element.kind == ElementKind::cable) down = up = rate;
             });
    }
    // A short lead from the hub to the spot: what the machine there takes.
    [[nodiscard]] std::optional<capacity::Way> reach() const {
        Connection lead;
        lead.id = "lead";
        lead.label = "lead";
        lead.cableClass = m_catalog.planning.laying.cable;
        lead.length = m_catalog.patchLead;
        lead.goodPairs = 4;
        return capacity::wayOverCable(m_house, m_catalog, m_hub, m_target, lead, "a lead");
    }

    [[nodiscard]] const capacity::Way* found(WayKind kind, const std::string& adapterClass = {}) const {
        const auto it = std::find_if(m_found.begin(), m_found.end(), [&](const capacity::Way& w) {
            return w.kind == kind && w.adapterClass == adapterClass;
        });
        return it == m_found.end() ? nullptr : &*it;
    }

    // What joins the machine at the spot to a box at the hub now.
    void asIs() {
        const Device* device = m_house.device(m_target);
        if (device == nullptr) return refuse(WayMeans::as_is, "no machine stands there yet");
        std::optional<capacity::RoutePrediction> best;
        House h = m_house;
        h.endpoints.push_back({h.freeId("hub-end"), hub().label, "", ""});
        const std::size_t from = h.endpoints.size() - 1;
        h.endpoints.push_back({h.freeId("spot-end"), device->label, device->id, ""});
        Route route;
        route.id = h.freeId("as-is");
        route.from = h.endpoints[from].id;
        route.to = h.endpoints.back().id;
        House found;
        for (const Device& box : m_house.devices) {
            if (box.room != m_hub ||
                (box.kind != DeviceKind::router && box.kind != DeviceKind::network_switch))
                continue;
            h.endpoints[from].device = box.id;
            auto prediction = capacity::predict(h, m_catalog, route);
            if (!prediction || (best && std::min(best->forward.p50, best->backward.p50) >=
                                            std::min(prediction->forward.p50, prediction->backward.p50)))
                continue;
            best = std::move(*prediction);
            found = h;
        }
        if (!best) return refuse(WayMeans::as_is, "nothing joins it to the hub yet");
        SpotWay way = begin(WayMeans::as_is);
        way.label = "as it is";
        pass(way, *best, found,
             [&](const capacity::ElementPrediction& e, Distribution& down, Distribution& up) {
                 if (const Measured* m = measuredOn(e.element.connection)) apply(way, *m, down, up);
             });
        way.rttUs = best->rttMicroseconds;
        way.takesPort = false;
        for (const MediumCrossing& c : crossings)
            for (const Passage& p : way.passages)
                if (p.resource == name(c.medium))
                    way.steadiness = std::min(way.steadiness, m_catalog.planning.way(c.means)->steadiness);
        m_out.push_back(std::move(way));
    }

    void lead() {
        SpotWay way = begin(WayMeans::data);
        way.label = "a lead in the same room";
        way.minutes = way.minutesOnce = 0;
        pass(way, Distribution::certain(capacity::goodput(m_catalog.phys.back().rate, {})));
        way.rttUs = wiredRtt();
        way.parts = {{"patch-lead", 1, ""}};
        way.promise = m_catalog.phys.back().rate;
        m_out.push_back(std::move(way));
    }

    [[nodiscard]] catalog::Spread<double> wiredRtt() const {
        const double rtt = m_catalog.wiredRttMicroseconds * 3; // switch and both ends
        return {rtt * 0.7, rtt, rtt * 2};
    }

    void data() {
        const capacity::Way* run = found(WayKind::data);
        if (run == nullptr)
            return refuse(WayMeans::data, "no data run that is known at both ends joins the rooms");
        SpotWay way = begin(WayMeans::data);
        way.label = run->label;
        way.route = std::make_shared<const capacity::Way>(*run);
        pass(way, run->prediction, run->house,
             [&](const capacity::ElementPrediction& e, Distribution& down, Distribution& up) {
                 if (const Measured* m = measuredOn(e.element.connection)) apply(way, *m, down, up);
             });
        way.rttUs = run->prediction.rttMicroseconds;
        way.parts = {{"patch-lead", 2, ""}};
        // Each room between two runs takes a switch, which all that pass it share.
        for (const Device& d : run->house.devices)
            if (d.kind == DeviceKind::network_switch) {
                const std::string item = switchFor(needOf(m_house, m_spot, m_catalog));
                way.parts.push_back({item, 1, item + " in " + d.room});
                for (const bool isDown : {true, false})
                    way.passages.push_back(
                        {"run to " + d.room + (isDown ? " down" : " up"),
                         "the run to the " +
                             (m_house.room(d.room) == nullptr ? d.room : m_house.room(d.room)->label),
                         isDown ? *way.wholeDown : *way.wholeUp, isDown});
            }
        way.promise = m_catalog.phys.back().rate;
        m_out.push_back(std::move(way));
    }

    // The cheapest small switch that carries it; the fastest where none does.
    [[nodiscard]] std::string switchFor(const Need& need) const {
        for (const catalog::SwitchModel& model : m_catalog.planning.switches) {
            const catalog::Phy* phy = m_catalog.phy(m_catalog.device(model.deviceClass)->ethernetPhy);
            if (capacity::goodput(phy->rate, {}) >= std::max(need.down, need.up)) return model.id;
        }
        return m_catalog.planning.switches.back().id;
    }

    void newCable(WayMeans means) {
        const catalog::Laying& laying = m_catalog.planning.laying;
        if (!sameBuilding())
            return refuse(
                means,
                "copper between buildings brings lightning and the difference of the earths: use fibre");
        if (!m_house.weighing.drilling) return refuse(means, "no holes are allowed");
        SpotWay way = begin(means);
        const Length run = Length::metres(laying.base.inMetres() + laying.perFloor.inMetres() * floors());
        way.holes = m_catalog.planning.way(means)->holes + floors();
        const catalog::CableCategory* cable = m_catalog.cable(laying.cable);
        way.label += ", " + quantity::plain(run) + " of " + cable->label;
        Connection cableRun;
        cableRun.id = "new-run";
        cableRun.label = way.label;
        cableRun.cableClass = laying.cable;
        cableRun.length = run;
        cableRun.goodPairs = 4;
        const auto found = capacity::wayOverCable(m_house, m_catalog, m_hub, m_target, cableRun, way.label);
        if (!found) return refuse(means, "no cable joins the rooms");
        pass(way, found->prediction, found->house);
        way.rttUs = wiredRtt();
        for (const catalog::Phy& phy : m_catalog.phys)
            if (const auto reach = cable->reach.find(phy.id);
                reach != cable->reach.end() && reach->second.certain >= run)
                way.promise = phy.rate;
        if (means == WayMeans::new_own) {
            const double metres = std::ceil(run.inMetres() * (1 + laying.allowance));
            way.parts = {{"new-cable", metres, ""}, {"data-jack", 2, ""}, {"patch-lead", 2, ""}};
            way.minutes += run.inMetres() * laying.minutesPerMetre + way.holes * laying.minutesPerHole;
            way.cautions.emplace_back(
                "Look for cables and pipes in the wall before drilling, and keep away from mains");
        } else {
            way.parts = {{"hired-run", 1, ""}, {"patch-lead", 2, ""}};
        }
        m_out.push_back(std::move(way));
    }

    void cross(const MediumCrossing& c) {
        const auto anyIn = [&](const std::vector<Jack>& jacks, const Id& room) {
            return std::any_of(jacks.begin(), jacks.end(),
                               [&](const Jack& j) { return j.kind == c.jack && j.room == room; });
        };
        const auto jacksIn = [&](const Id& room) { return anyIn(m_house.jacks, room); };
        if (c.medium != Medium::air && (!jacksIn(m_hub) || !jacksIn(m_room)))
            return refuse(c.means, "there is no " +
                                       std::string(c.medium == Medium::coax ? "coax jack" : "outlet") +
                                       " in the survey in the " + (jacksIn(m_hub) ? room() : hub()).label);
        if (c.medium == Medium::mains && (!anyIn(m_allowed, m_hub) || !anyIn(m_allowed, m_room)))
            return refuse(c.means,
                          "this job joins outlets of one circuit only, and no circuit of the survey has an "
                          "outlet in both rooms");
        std::string why;
        bool any = false;
        for (const catalog::DeviceClass* cls : capacity::byRate(m_catalog, c.family))
            if (const capacity::Way* way = found(c.kind, cls->id)) any = crossBy(c, *cls, *way, why) || any;
        if (!any) refuse(c.means, why.empty() ? "no pair of jacks was found" : why);
    }

    // With adapters of one class; `why` says what is in the way of the last one that cannot be.
    bool crossBy(const MediumCrossing& c, const catalog::DeviceClass& cls, const capacity::Way& found,
                 std::string& why) {
        const capacity::Way* way = &found;
        const auto medium = std::find_if(
            way->prediction.elements.begin(), way->prediction.elements.end(), [&](const auto& e) {
                const Connection* connection = way->house.connection(e.element.connection);
                return connection != nullptr && connection->medium == c.medium;
            });
        if (medium == way->prediction.elements.end()) return false;
        if (medium->forward.p50.bps() < minRate || medium->backward.p50.bps() < minRate) {
            if (why.empty()) why = medium->ceiling.because;
            return false;
        }
        const catalog::CoaxClass* coax = m_catalog.coax.classOf(cls.id);
        const bool inTelevisionBand = c.medium == Medium::coax && coax != nullptr && coax->isInTelevisionBand;
        if (inTelevisionBand && m_house.coaxUse.television != false) {
            if (why.empty())
                why = "say in Walk that no television uses the coax: only then these adapters may";
            return false;
        }
        SpotWay out = begin(c.means);
        out.deviceClass = cls.id;
        out.label = way->label;
        out.route = std::make_shared<const capacity::Way>(*way);
        // What other adapters carried there says little of these. At the hub a faster class serves as well.
        const bool there = isThere(cls.id, m_room);
        const std::vector<std::string> serving = servingAtHub(m_catalog, cls);
        const bool thereAtHub = std::any_of(serving.begin(), serving.end(),
                                            [&](const std::string& id) { return isThere(id, m_hub); });
        const bool isBuiltIn = boxWithInside(m_house, m_catalog, m_hub, serving) != nullptr;
        const Measured* measured = there && thereAtHub ? measuredOver(c.medium) : nullptr;
        out.hubShare = std::string(catalog::idOf(c.means)) + " at the hub" +
                       (cls.speaks.empty() ? "" : ", " + cls.speaks);
        pass(out, way->prediction, way->house,
             [&](const capacity::ElementPrediction& e, Distribution& down, Distribution& up) {
                 if (measured != nullptr && house::isMedium(e.element.kind)) apply(out, *measured, down, up);
             });
        out.rttUs = way->prediction.rttMicroseconds;
        out.promise = cls.rated;
        // What is built into the box at the hub has no port and no lead.
        if (const auto lan = firstAdapterPort(*way); lan && !isBuiltIn)
            for (const bool isDown : {true, false})
                out.passages.push_back({out.hubShare + (isDown ? " LAN down" : " LAN up"),
                                        "the port of the adapter at the hub", *lan, isDown});
        if (!there) out.parts.push_back({cls.id, 1, ""});
        if (!thereAtHub && !isBuiltIn) out.hubBox = serving;
        out.parts.push_back({"patch-lead", 1, ""});
        if (isBuiltIn) {
            out.takesPort = false;
        } else if (const auto joined = joinedAtHub(serving)) {
            out.takesPort = false;
            for (const bool isDown : {true, false})
                out.passages.push_back({out.hubShare + (isDown ? " down" : " up"), "the port at the hub",
                                        Distribution::certain(*joined), isDown});
        } else {
            out.parts.push_back({"patch-lead", 1, "lead of " + out.hubShare});
        }
        if (inTelevisionBand) {
            out.parts.push_back({"terminator", 2, "terminators"});
            out.cautions.emplace_back(
                "No television and no cable internet may use this coax, and an entry filter "
                "does not stop the band: part the tree from the street and pair at once");
        } else if (c.medium == Medium::coax) {
            const EntryFilter filter = entryFilterOf(m_house, m_catalog);
            if (filter != EntryFilter::isThere) out.parts.push_back({"entry-filter", 1, "entry-filter"});
            if (filter == EntryFilter::behindModem)
                out.parts.push_back({"splitter", 1, "splitter of the modem"});
            out.parts.push_back({"terminator", 2, "terminators"});
            out.cautions.emplace_back(
                filter == EntryFilter::behindModem
                    ? "The cable internet goes above " +
                          quantity::significant(m_catalog.coax.filterPass.inMegahertz(), 4) +
                          " MHz, which an entry filter cuts off: split the modem off first, directly behind "
                          "the entry, and "
                          "fit the filter onto the branch that feeds the house. Where the tree cannot be "
                          "arranged so, fit "
                          "none and rely on link privacy"
                : filter == EntryFilter::isThere
                    ? "Turn on link privacy: the entry filter keeps most of the signal in the house, not all "
                      "of it"
                    : "Fit the entry filter and turn on link privacy, or the neighbours are on it");
        }
        if (c.medium == Medium::mains)
            out.cautions.emplace_back(m_house.practices.strips == StripUse::plain_strip
                                          ? "Straight into the wall where there is a choice, never on a "
                                            "surge-protected strip; pair at once"
                                          : "Straight into the wall, never on a strip; pair at once");
        m_out.push_back(std::move(out));
        return true;
    }

    // The Ethernet port of the adapter at the hub, which everything over it shares.
    [[nodiscard]] static std::optional<Distribution> firstAdapterPort(const capacity::Way& way) {
        for (const auto& e : way.prediction.elements) {
            const Device* device = way.house.device(e.element.device);
            if (device != nullptr && device->kind == DeviceKind::adapter &&
                e.element.kind == ElementKind::port)
                return e.ceiling.forward;
        }
        return std::nullopt;
    }
    // An adapter of this class stands in the room already.
    [[nodiscard]] bool isThere(const std::string& deviceClass, const Id& room) const {
        return std::any_of(m_house.devices.begin(), m_house.devices.end(),
                           [&](const Device& d) { return d.room == room && d.deviceClass == deviceClass; });
    }

    // What the lead carries that joins an adapter of these classes at the hub; nothing: there is none, or it
    // is not joined.
    [[nodiscard]] std::optional<BitRate> joinedAtHub(const std::vector<std::string>& classes) const {
        for (const Device& d : m_house.devices) {
            if (d.room != m_hub || std::find(classes.begin(), classes.end(), d.deviceClass) == classes.end())
                continue;
            for (const Port& port : d.ports) {
                const Connection* lead = m_house.cableAt({d.id, port.id});
                if (port.kind != PortKind::ethernet || lead == nullptr) continue;
                std::optional<BitRate> rate = lead->linkedAt;
                for (const PortRef& end : lead->ends)
                    if (const Port* p = m_house.port(end); p != nullptr && m_catalog.phy(p->phy) != nullptr)
                        rate =
                            std::min(rate.value_or(m_catalog.phys.back().rate), m_catalog.phy(p->phy)->rate);
                if (rate) return capacity::goodput(*rate, {});
            }
        }
        return std::nullopt;
    }

    void phone() {
        const auto joined =
            std::find_if(m_house.connections.begin(), m_house.connections.end(), [&](const Connection& c) {
                if (c.medium != Medium::phone || c.ends.size() != 2) return false;
                const Id a = m_house.roomOf(c.ends[0]);
                const Id b = m_house.roomOf(c.ends[1]);
                return (a == m_hub && b == m_room) || (a == m_room && b == m_hub);
            });
        if (joined == m_house.connections.end())
            return refuse(WayMeans::phone, "no phone pair in the survey joins the rooms");
        SpotWay way = begin(WayMeans::phone);
        way.label = "phone pair, " + joined->label;
        // One total for both directions.
        const Distribution rate = Distribution::of(m_catalog.planning.phonePair);
        pass(way, rate);
        for (const bool isDown : {true, false})
            way.passages.push_back({joined->id, joined->label, rate, isDown});
        way.rttUs = m_catalog.medium(Medium::coax)->rttMicroseconds; // slots on a wire as well
        way.parts = {{"phone-adapter", 2, ""}, {"patch-lead", 2, ""}};
        m_out.push_back(std::move(way));
    }

    void fibre() {
        if (sameBuilding()) return refuse(WayMeans::fibre, "both rooms are in the same building");
        const catalog::Laying& laying = m_catalog.planning.laying;
        SpotWay way = begin(WayMeans::fibre);
        pass(way, Distribution::certain(capacity::goodput(m_catalog.phys.back().rate, {})));
        way.rttUs = wiredRtt();
        way.promise = m_catalog.phys.back().rate;
        way.holes = m_catalog.planning.way(WayMeans::fibre)->holes;
        const Length run = laying.betweenBuildings + laying.base;
        way.parts = {{"fibre-lead", std::ceil(run.inMetres() * (1 + laying.allowance)), ""},
                     {"fibre-converter", 2, ""},
                     {"patch-lead", 2, ""}};
        way.minutes += run.inMetres() * laying.minutesPerMetre;
        if (!m_house.weighing.drilling) way.ruledOut = "no holes are allowed";
        m_out.push_back(std::move(way));
    }

    // The same radio once more between: what is left of it, and twice the time on the air.
    void mesh() {
        std::vector<SpotWay> radio;
        for (const SpotWay& w : m_out)
            if (w.means == WayMeans::air && w.isPossible()) radio.push_back(w);
        if (radio.empty()) return refuse(WayMeans::mesh, "radio does not reach");
        const Room* between = roomBetween();
        if (between == nullptr) return refuse(WayMeans::mesh, "there is no room between for the hop");
        for (const SpotWay& air : radio)
            hopIn(*between, air);
    }
    void hopIn(const Room& between, const SpotWay& air) {
        SpotWay way = air;
        describe(way, WayMeans::mesh);
        // Half the way each, and the same channel taken twice.
        capacity::AirQuestion half = capacity::airBetween(m_catalog.air, hub(), room());
        half.negotiated = m_catalog.device(air.deviceClass)->rated;
        half.distance = *half.distance * 0.5;
        half.walls = (*half.walls + 1) / 2;
        const Distribution rate =
            capacity::airForecast(m_catalog.air, half).rate.scaledBy(m_catalog.planning.meshShare);
        std::erase_if(way.passages, [&](const Passage& p) { return !p.resource.starts_with(air.hubShare); });
        pass(way, air.route->prediction, air.route->house,
             [&](const capacity::ElementPrediction& e, Distribution& down, Distribution& up) {
                 if (house::isMedium(e.element.kind)) down = up = rate;
             });
        way.rttUs = {air.rttUs.p10 * 2, air.rttUs.p50 * 2, air.rttUs.p90 * 2};
        way.route.reset();
        way.measuredDown.reset();
        way.measuredUp.reset();
        way.measuredLoadedUs.reset();
        way.watchedDown.reset();
        way.watchedUp.reset();
        way.label += " in the " + between.label;
        way.parts.push_back({"radio-node", 1, "radio-node in " + between.id});
        m_out.push_back(std::move(way));
    }
    [[nodiscard]] const Room* roomBetween() const {
        const auto [low, high] = std::minmax(hub().floor, room().floor);
        for (const Room& r : m_house.rooms)
            if (r.id != m_hub && r.id != m_room && r.building == hub().building && r.floor >= low &&
                r.floor <= high)
                return &r;
        return nullptr;
    }

    [[nodiscard]] const Measured* measuredOver(Medium medium) const {
        for (const Measured& m : m_measured)
            if (m.medium == medium &&
                ((m.roomA == m_hub && m.roomB == m_room) || (m.roomB == m_hub && m.roomA == m_room)))
                return &m;
        return nullptr;
    }
    [[nodiscard]] const Measured* measuredOn(const Id& connection) const {
        for (const Measured& m : m_measured)
            if (!connection.empty() && m.connection == connection) return &m;
        return nullptr;
    }
    void apply(SpotWay& way, const Measured& m, Distribution& down, Distribution& up) const {
        const bool fromHub = m.roomA == m_hub || m.roomB == m_room;
        const auto& toSpot = fromHub ? m.forward : m.backward;
        const auto& fromSpot = fromHub ? m.backward : m.forward;
        if (toSpot) down = updatedBy(down, *toSpot, m.wasLimit, m.variation);
        if (fromSpot) up = updatedBy(up, *fromSpot, m.wasLimit, m.variation);
        way.measuredDown = toSpot;
        way.measuredUp = fromSpot;
        way.measuredLoadedUs = m.loadedUs;
        way.watchedDown = fromHub ? m.watchedForward : m.watchedBackward;
        way.watchedUp = fromHub ? m.watchedBackward : m.watchedForward;
    }

    const House& m_house;
    const Catalog& m_catalog;
    const Id& m_hub;
    const Spot& m_spot;
    const std::vector<Measured>& m_measured;
    Id m_room;
    Id m_target; // where ways end: the machine, or the room
    std::vector<capacity::Way> m_found;
    std::vector<Jack> m_allowed; // of the survey, those that the job's practices leave
    std::vector<SpotWay> m_out;
};

} // namespace

std::vector<std::string> servingAtHub(const Catalog& catalog, const catalog::DeviceClass& least) {
    std::vector<std::string> out;
    for (const catalog::DeviceClass* cls : capacity::byRate(catalog, least.family))
        if (cls->goodput.p50 >= least.goodput.p50 && cls->speaks == least.speaks) out.push_back(cls->id);
    return out;
}

const Device* boxWithInside(const House& house, const Catalog& catalog, const Id& hubRoom,
                            const std::vector<std::string>& adapters) {
    const auto box = std::find_if(house.devices.begin(), house.devices.end(), [&](const Device& d) {
        return d.room == hubRoom && catalog.hasInside(d, adapters);
    });
    return box != house.devices.end() ? &*box : nullptr;
}

std::vector<SpotWay> waysTo(const House& house, const Catalog& catalog, const Id& hubRoom, const Spot& spot,
                            const std::vector<Measured>& measured, const Rates& alone) {
    std::vector<SpotWay> out = Maker(house, catalog, hubRoom, spot, measured).all();
    for (SpotWay& way : out)
        setSteadiness(way, alone, catalog);
    return out;
}

} // namespace metrodos::weigh
