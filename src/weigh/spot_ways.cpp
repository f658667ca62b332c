#include "weigh/spot_ways.h"

#include "capacity/ways.h"
#include "house/machine_ports.h"
#include "quantity/format.h"

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
        , m_room(roomOf(house, spot)) {}

    std::vector<SpotWay> all() {
        if (m_room.empty() || m_house.room(m_room) == nullptr) {
            for (const catalog::WayClass& cls : m_catalog.planning.ways)
                refuse(*catalog::wayMeans(cls.id), "the room of the spot is not known: give it in Walk");
            return std::move(m_out);
        }
        if (m_room == m_hub) {
            lead();
            for (const catalog::WayClass& cls : m_catalog.planning.ways)
                if (cls.id != idOf(WayMeans::data))
                    refuse(*catalog::wayMeans(cls.id), "a lead in the same room does it");
            return std::move(m_out);
        }
        if (auto ways = capacity::waysBetween(m_house, m_catalog, m_hub, m_room, capacity::Adapters::all))
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

    // What is the spot's own: both directions, and the port of the device that is there.
    void own(SpotWay& way, const Distribution& down, const Distribution& up) const {
        way.passages.push_back({m_spot.id + "/down", way.label, down, true});
        way.passages.push_back({m_spot.id + "/up", way.label, up, false});
        way.down = down.spread();
        way.up = up.spread();
        if (const auto port = devicePort()) {
            for (const bool isDown : {true, false})
                way.passages.push_back({m_spot.id + (isDown ? "/device-down" : "/device-up"),
                                        "the port of " + m_house.device(m_spot.device)->label,
                                        Distribution::certain(*port), isDown});
            for (catalog::RateSpread* s : {&way.down, &way.up})
                *s = {std::min(s->p10, *port), std::min(s->p50, *port), std::min(s->p90, *port)};
        }
    }
    // The fastest Ethernet port of the device, or of the adapter in its socket.
    [[nodiscard]] std::optional<BitRate> devicePort() const {
        const Device* device = m_house.device(m_spot.device);
        if (device == nullptr) return std::nullopt;
        std::optional<BitRate> out;
        for (const MachinePort& p : ethernetPorts(m_house, *device)) {
            const catalog::Phy* phy = m_catalog.phy(m_house.port(p.port)->phy);
            if (phy == nullptr) return std::nullopt; // nobody knows
            out = std::max(out.value_or(BitRate()), capacity::goodput(phy->rate, {}));
        }
        return out;
    }

    [[nodiscard]] const capacity::Way* found(WayKind kind, const std::string& adapterClass = {}) const {
        const auto it = std::find_if(m_found.begin(), m_found.end(), [&](const capacity::Way& w) {
            return w.kind == kind && w.adapterClass == adapterClass;
        });
        return it == m_found.end() ? nullptr : &*it;
    }

    void lead() {
        SpotWay way = begin(WayMeans::data);
        way.label = "a lead in the same room";
        way.minutes = way.minutesOnce = 0;
        const BitRate top = capacity::goodput(m_catalog.phys.back().rate, {});
        own(way, Distribution::certain(top), Distribution::certain(top));
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
        Distribution down = Distribution::of(run->prediction.forward);
        Distribution up = Distribution::of(run->prediction.backward);
        for (const auto& e : run->prediction.elements)
            if (const Measured* m = measuredOn(e.element.connection)) apply(way, *m, down, up);
        own(way, down, up);
        way.rttUs = run->prediction.rttMicroseconds;
        way.parts = {{"patch-lead", 2, ""}};
        // Each room between two runs takes a switch, which all that pass it share.
        for (const Device& d : run->house.devices)
            if (d.kind == DeviceKind::network_switch) {
                const std::string item = switchFor(needOf(m_spot, m_catalog));
                way.parts.push_back({item, 1, item + " in " + d.room});
                for (const bool isDown : {true, false})
                    way.passages.push_back(
                        {"run to " + d.room + (isDown ? " down" : " up"),
                         "the run to the " +
                             (m_house.room(d.room) == nullptr ? d.room : m_house.room(d.room)->label),
                         isDown ? down : up, isDown});
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
        const catalog::Phy* best = &m_catalog.phys.front();
        for (const catalog::Phy& phy : m_catalog.phys)
            if (const auto reach = cable->reach.find(phy.id);
                reach != cable->reach.end() && reach->second.certain >= run)
                best = &phy;
        const Distribution rate = Distribution::certain(capacity::goodput(best->rate, {}));
        own(way, rate, rate);
        way.rttUs = wiredRtt();
        way.promise = best->rate;
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
        const auto jacksIn = [&](const Id& room) {
            return std::any_of(m_house.jacks.begin(), m_house.jacks.end(),
                               [&](const Jack& j) { return j.kind == c.jack && j.room == room; });
        };
        if (c.medium != Medium::air && (!jacksIn(m_hub) || !jacksIn(m_room)))
            return refuse(c.means, "there is no " +
                                       std::string(c.medium == Medium::coax ? "coax jack" : "outlet") +
                                       " in the survey in the " + (jacksIn(m_hub) ? room() : hub()).label);
        if (c.medium == Medium::coax && m_house.coaxUse.satellite.value_or(false))
            return refuse(c.means, "a satellite dish uses the same coax");
        std::string why = "no pair of jacks was found";
        bool any = false;
        for (const catalog::DeviceClass* cls : capacity::byRate(m_catalog, c.family))
            if (const capacity::Way* way = found(c.kind, cls->id)) any = crossBy(c, *cls, *way, why) || any;
        if (!any) refuse(c.means, why);
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
            why = medium->ceiling.because;
            return false;
        }
        SpotWay out = begin(c.means);
        out.deviceClass = cls.id;
        out.label = way->label;
        out.route = std::make_shared<const capacity::Way>(*way);
        Distribution down = medium->ceiling.forward;
        Distribution up = medium->ceiling.backward;
        // What other adapters carried there says little of these. At the hub a faster class serves as well.
        const bool there = isThere(cls.id, m_room);
        std::vector<std::string> serving;
        for (const catalog::DeviceClass* other : capacity::byRate(m_catalog, c.family))
            if (other->goodput.p50 >= cls.goodput.p50) serving.push_back(other->id);
        const bool thereAtHub = std::any_of(serving.begin(), serving.end(),
                                            [&](const std::string& id) { return isThere(id, m_hub); });
        if (const Measured* m = measuredOver(c.medium); m != nullptr && there && thereAtHub)
            apply(out, *m, down, up);
        const std::string resource = name(c.medium).data();
        out.passages = {{resource, m_catalog.medium(c.medium)->label, down, true},
                        {resource, m_catalog.medium(c.medium)->label, up, false}};
        own(out, adapterPort(*way, true).value_or(down), adapterPort(*way, false).value_or(up));
        const auto capped = [](const catalog::RateSpread& a, const catalog::RateSpread& b) {
            return catalog::RateSpread{std::min(a.p10, b.p10), std::min(a.p50, b.p50),
                                       std::min(a.p90, b.p90)};
        };
        out.down = capped(out.down, down.spread());
        out.up = capped(out.up, up.spread());
        out.rttUs = way->prediction.rttMicroseconds;
        out.promise = cls.rated;
        out.hubShare = std::string(catalog::idOf(c.means)) + " at the hub";
        if (!there) out.parts.push_back({cls.id, 1, ""});
        if (!thereAtHub) out.hubBox = serving;
        out.parts.push_back({"patch-lead", 1, ""});
        if (const auto joined = joinedAtHub(serving)) {
            out.takesPort = false;
            for (const bool isDown : {true, false})
                out.passages.push_back({out.hubShare + (isDown ? " down" : " up"), "the port at the hub",
                                        Distribution::certain(*joined), isDown});
        } else {
            out.parts.push_back({"patch-lead", 1, "lead of " + out.hubShare});
        }
        if (c.medium == Medium::coax) {
            out.parts.push_back({"entry-filter", 1, "entry-filter"});
            out.parts.push_back({"terminator", 2, "terminators"});
            out.cautions.emplace_back(
                "Fit the entry filter and turn on link privacy, or the neighbours are on it");
        }
        if (c.medium == Medium::mains)
            out.cautions.emplace_back(
                "Straight into the wall, never on a surge-protected strip; pair at once");
        m_out.push_back(std::move(out));
        return true;
    }

    // What the adapters' own boxes and ports let through: the least of them, without the medium.
    [[nodiscard]] static std::optional<Distribution> adapterPort(const capacity::Way& way, bool forward) {
        std::optional<Distribution> out;
        for (const auto& e : way.prediction.elements) {
            const Device* device = way.house.device(e.element.device);
            if (device == nullptr || device->kind != DeviceKind::adapter) continue;
            const Distribution& d = forward ? e.ceiling.forward : e.ceiling.backward;
            if (!out || d.spread().p50 < out->spread().p50) out = d;
        }
        return out;
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
        const Distribution rate = Distribution::of(m_catalog.planning.phonePair);
        way.passages = {{joined->id, joined->label, rate, true}, {joined->id, joined->label, rate, false}};
        own(way, rate, rate);
        way.rttUs = m_catalog.medium(Medium::coax)->rttMicroseconds; // slots on a wire as well
        way.parts = {{"phone-adapter", 2, ""}, {"patch-lead", 2, ""}};
        m_out.push_back(std::move(way));
    }

    void fibre() {
        if (sameBuilding()) return refuse(WayMeans::fibre, "both rooms are in the same building");
        const catalog::Laying& laying = m_catalog.planning.laying;
        SpotWay way = begin(WayMeans::fibre);
        const Distribution rate = Distribution::certain(capacity::goodput(m_catalog.phys.back().rate, {}));
        own(way, rate, rate);
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
        // Half the walls each: the better half of what the whole way would carry, taken twice.
        const Distribution hop = Distribution::of(m_catalog.device(air.deviceClass)->medium.at("one_wall"));
        const Distribution rate = hop.scaledBy(m_catalog.planning.meshShare);
        for (Passage& p : way.passages)
            if (p.resource == "air") p.rate = rate;
        const auto spread = rate.spread();
        way.down = way.up = spread;
        way.rttUs = {air.rttUs.p10 * 2, air.rttUs.p50 * 2, air.rttUs.p90 * 2};
        way.measuredDown.reset();
        way.route.reset();
        way.measuredUp.reset();
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
    }

    const House& m_house;
    const Catalog& m_catalog;
    const Id& m_hub;
    const Spot& m_spot;
    const std::vector<Measured>& m_measured;
    Id m_room;
    std::vector<capacity::Way> m_found;
    std::vector<SpotWay> m_out;
};

} // namespace

std::vector<SpotWay> waysTo(const House& house, const Catalog& catalog, const Id& hubRoom, const Spot& spot,
                            const std::vector<Measured>& measured) {
    return Maker(house, catalog, hubRoom, spot, measured).all();
}

} // namespace metrodos::weigh
