#include "weigh/apply_plan.h"

#include "benchmark/trial.h"
#include "capacity/ways.h"
#include "house/edit.h"
#include "house/route.h"
#include "weigh/spot_ways.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

namespace metrodos::weigh {
namespace {

using namespace house;
using catalog::Catalog;
using catalog::Family;
using catalog::WayMeans;

std::optional<Family> familyOf(WayMeans means) {
    if (means == WayMeans::coax) return Family::coax;
    if (means == WayMeans::mains) return Family::mains;
    if (means == WayMeans::air || means == WayMeans::mesh) return Family::air;
    return std::nullopt;
}

class PlanApplier {
  public:
    PlanApplier(const House& house, const Catalog& catalog, const Options& options, const Plan& plan)
        : m_catalog(catalog)
        , m_options(options)
        , m_plan(plan) {
        m_out.house = house;
        for (const auto& things : {idsOf(house.devices), idsOf(house.connections), idsOf(house.jacks)})
            m_before.insert(things.begin(), things.end());
    }

    quantity::Result<AppliedPlan> fit() {
        std::size_t own = 0;
        for (const SpotOptions& spot : m_options.spots)
            own += spot.isPeer ? 0 : 1;
        if (m_plan.spots.size() != m_options.spots.size() || own != m_out.house.spots.size())
            return quantity::problem("the plan is not of this house as it is now", "",
                                     "weigh again, then choose a plan");
        if (m_out.house.room(m_options.hub) == nullptr)
            return quantity::problem("the room that everything comes from is gone", "",
                                     "weigh again, then choose a plan");
        m_hub = m_options.hub;
        // Devices that others draw from are reached like spots; they are none of the job.
        for (std::size_t i = own; i < m_options.spots.size(); ++i) {
            const Device* device = m_out.house.device(m_options.spots[i].spot);
            Spot place;
            place.id = place.device = m_options.spots[i].spot;
            place.label = m_options.spots[i].label;
            if (device != nullptr) place.room = device->room;
            m_out.house.spots.push_back(std::move(place));
        }
        if (auto bought = buySwitches(); !bought) return tl::unexpected(bought.error());
        for (std::size_t i = 0; i < m_plan.spots.size(); ++i)
            if (m_plan.spots[i].way >= 0)
                if (auto done = fitSpot(i); !done) return tl::unexpected(done.error());
        m_out.house.weighing.plan.clear();
        for (std::size_t i = 0; i < own; ++i)
            if (const SpotResult& s = m_plan.spots[i]; !s.wayId.empty())
                m_out.house.weighing.plan.push_back({s.spot, s.wayId});
        m_out.house.spots.resize(own);
        notePlanned();
        makeTrial();
        return std::move(m_out);
    }

  private:
    template <typename Thing>
    static std::vector<Id> idsOf(const std::vector<Thing>& things) {
        std::vector<Id> out;
        for (const Thing& thing : things)
            out.push_back(thing.id);
        return out;
    }

    // What is in the house on paper and has still to be fitted: of this plan, and of one before that was not
    // finished.
    void notePlanned() {
        std::vector<Id>& planned = m_out.house.fitting.planned;
        std::set<Id> all(planned.begin(), planned.end());
        all.insert(m_used.begin(), m_used.end());
        std::vector<Id> now;
        for (const auto& things :
             {idsOf(m_out.house.devices), idsOf(m_out.house.connections), idsOf(m_out.house.jacks)})
            for (const Id& id : things)
                if (all.contains(id) || !m_before.contains(id)) now.push_back(id);
        planned = std::move(now);
    }

    // Said of the next cable that is joined.
    void hint(const std::string& text) { m_hints.push_back(text); }

    Device* hubBox() {
        Device* best = nullptr;
        for (Device& device : m_out.house.devices)
            if (device.room == m_hub &&
                (device.kind == DeviceKind::router || device.kind == DeviceKind::network_switch) &&
                (best == nullptr || fastestFree(device) > fastestFree(*best)))
                best = &device;
        return best;
    }
    [[nodiscard]] bool isFree(const PortRef& port) const { return m_out.house.cableAt(port) == nullptr; }
    [[nodiscard]] quantity::BitRate rateOf(const Port& port) const {
        const catalog::Phy* phy = m_catalog.phy(port.phy);
        return phy == nullptr ? quantity::BitRate() : phy->rate;
    }
    [[nodiscard]] quantity::BitRate fastestFree(const Device& device) const {
        quantity::BitRate out;
        for (const Port& port : device.ports)
            if (port.kind == PortKind::ethernet && isFree({device.id, port.id}))
                out = std::max(out, rateOf(port));
        return out;
    }

    // The slowest free port at the hub that is fast enough; the fastest where none is.
    std::optional<PortRef> hubPort(quantity::BitRate needed) {
        std::optional<PortRef> best;
        std::pair<bool, double> least;
        for (const Device& device : m_out.house.devices) {
            if (device.room != m_hub ||
                (device.kind != DeviceKind::router && device.kind != DeviceKind::network_switch))
                continue;
            for (const Port& port : device.ports) {
                if (port.kind != PortKind::ethernet || !isFree({device.id, port.id})) continue;
                const double rate = rateOf(port).bps();
                const bool enough = rate * 0.94 >= needed.bps();
                const std::pair waste(!enough, enough ? rate : -rate);
                if (best && waste >= least) continue;
                best = PortRef{device.id, port.id};
                least = waste;
            }
        }
        return best;
    }

    void giveHints(const Id& thing) {
        for (const std::string& text : m_hints)
            m_out.house.fitting.hints.push_back({thing, text});
        m_hints.clear();
    }
    void cable(const PortRef& a, const PortRef& b, const std::string& label, const std::string& cls,
               quantity::Length length, bool tested) {
        Connection c;
        c.id = m_out.house.freeId("cable");
        c.label = label;
        c.medium = Medium::data_cable;
        c.ends = {a, b};
        c.cableClass = cls;
        c.length = length;
        if (tested) c.goodPairs = 4;
        giveHints(c.id);
        m_out.house.connections.push_back(std::move(c));
    }

    quantity::Result<void> buySwitches() {
        for (const PartLine& part : m_plan.parts)
            for (const catalog::SwitchModel& model : m_catalog.planning.switches) {
                if (model.id != part.item) continue;
                // Those of rooms in between are fitted with their runs.
                int between = 0;
                std::set<std::string> keys;
                for (const SpotResult& s : m_plan.spots)
                    if (s.way >= 0)
                        for (const PartUse& use : wayOf(s).parts)
                            if (use.item == model.id && keys.insert(use.shared).second) ++between;
                for (int n = between; n < static_cast<int>(std::lround(part.count)); ++n)
                    if (auto added = addSwitch(model); !added) return added;
            }
        return {};
    }
    quantity::Result<void> addSwitch(const catalog::SwitchModel& model) {
        Device* box = hubBox();
        const auto uplink = hubPort(quantity::BitRate::bitsPerSecond(1e12));
        if (box == nullptr || (!uplink && box->ports.empty()))
            return quantity::problem("there is no box at the hub that a switch could hang on", "",
                                     "enter the router with its ports in Walk");
        const catalog::DeviceClass* cls = m_catalog.device(model.deviceClass);
        Device device{m_out.house.freeId("switch"),
                      "Switch in the " + m_options.hubLabel,
                      DeviceKind::network_switch,
                      cls->id,
                      m_hub,
                      {}};
        for (int i = 1; i <= model.ports; ++i)
            device.ports.push_back(
                {"p" + std::to_string(i), "port " + std::to_string(i), PortKind::ethernet, cls->ethernetPhy});
        PortRef from;
        if (uplink) {
            from = *uplink;
        } else {
            // No port is free: what is in the first one moves onto the new switch.
            const auto port = std::find_if(box->ports.begin(), box->ports.end(),
                                           [](const Port& p) { return p.kind == PortKind::ethernet; });
            from = {box->id, port->id};
            for (Connection& c : m_out.house.connections)
                for (PortRef& end : c.ends)
                    if (end == from) end = {device.id, "p2"};
            hint("Move the cable from “" + port->label + "” of the " + box->label + " onto the new switch");
        }
        const std::string label = device.label;
        const Id id = device.id;
        m_out.house.devices.push_back(std::move(device));
        cable(from, {id, "p1"}, "lead to the switch in the " + m_options.hubLabel, "cat6a",
              m_catalog.patchLead, true);
        return {};
    }

    [[nodiscard]] const SpotWay& wayOf(const SpotResult& s) const {
        const auto i = static_cast<std::size_t>(&s - m_plan.spots.data());
        return m_options.spots[i].way(s.way);
    }

    quantity::Result<void> fitSpot(std::size_t i) {
        const SpotResult& result = m_plan.spots[i];
        const SpotWay& way = wayOf(result);
        const Spot spot = m_out.house.spots[i]; // a copy: the house is replaced on the way
        const Id room = roomOf(m_out.house, spot);
        if (way.means == WayMeans::as_is) return {};
        addNic(way, spot);
        const std::optional<PortRef> at = spotPort(spot);
        if (const auto family = familyOf(way.means)) return adapters(i, *family, room, at);
        if (way.means == WayMeans::data && room != m_hub) return patch(way, spot);
        const auto from = hubPort(portFor(i));
        if (!from) return quantity::problem("no port is free at the hub", "", "weigh again");
        if (way.means == WayMeans::data) {
            if (!at) return {}; // nothing stands there yet
            unplug(*at);
            cable(*from, *at, "lead to " + spot.label, m_catalog.planning.laying.cable, m_catalog.patchLead,
                  true);
            return {};
        }
        // The run ends in a jack of its own; what stands there is plugged into that.
        Jack jack{m_out.house.freeId("data-jack"), "data jack, " + spot.label, room, JackKind::data};
        const Id id = jack.id;
        m_out.house.jacks.push_back(std::move(jack));
        if (at) unplug(*at);
        cable(*from, {id, ""}, m_catalog.planning.way(way.means)->label + " to " + spot.label,
              m_catalog.planning.laying.cable, m_catalog.planning.laying.base, false);
        if (at) m_out.house.port(*at)->jack = id;
        return {};
    }

    // What the machine at a spot is to have besides.
    void addNic(const SpotWay& way, const Spot& spot) {
        const catalog::DeviceClass* nic = m_catalog.device(way.nicClass);
        const Device* machine = m_out.house.device(spot.device);
        if (nic == nullptr || machine == nullptr) return;
        House next = withNic(m_out.house, m_catalog, *machine, *nic);
        m_out.house = std::move(next);
    }

    // The port that a demand of the spot takes at the hub.
    [[nodiscard]] quantity::BitRate portFor(std::size_t i) const {
        return quantity::BitRate::bitsPerSecond(aloneOf(m_options.spots[i], m_options).larger());
    }

    void unplug(const PortRef& port) {
        if (isFree(port)) return;
        hint("Unplug what is in “" + m_out.house.labelOf(port) + "”");
        m_out.house.port(port)->jack.clear();
        std::erase_if(m_out.house.connections, [&](const Connection& c) {
            return c.medium == Medium::data_cable &&
                   std::find(c.ends.begin(), c.ends.end(), port) != c.ends.end();
        });
    }

    // Leads from the jacks of an existing run to the hub's box and to what stands at the spot.
    quantity::Result<void> patch(const SpotWay& way, const Spot& spot) {
        if (way.route == nullptr) return {}; // a lead in the same room
        for (const auto& e : way.route->prediction.elements) {
            const Connection* run = m_out.house.connection(e.element.connection);
            if (run == nullptr || run->medium != Medium::data_cable) continue;
            for (const PortRef& end : run->ends) {
                const Jack* jack = m_out.house.jack(end.device);
                if (jack == nullptr || isPlugged(jack->id)) continue;
                const bool atHub = jack->room == m_hub;
                const auto port = atHub ? hubPort(quantity::BitRate()) : spotPort(spot);
                if (!port || (!atHub && jack->room != roomOf(m_out.house, spot))) continue;
                unplug(*port);
                m_out.house.port(*port)->jack = jack->id;
                giveHints(run->id);
                m_used.insert(run->id);
            }
        }
        return {};
    }
    [[nodiscard]] bool isPlugged(const Id& jack) const {
        return std::any_of(m_out.house.devices.begin(), m_out.house.devices.end(), [&](const Device& d) {
            return std::any_of(d.ports.begin(), d.ports.end(), [&](const Port& p) { return p.jack == jack; });
        });
    }

    // The port of what stands at the spot that the way was reckoned with.
    std::optional<PortRef> spotPort(const Spot& spot) const {
        const Device* device = m_out.house.device(spot.device);
        return device == nullptr ? std::nullopt : capacity::bestPort(m_out.house, m_catalog, *device);
    }

    Id adapterIn(const Id& room, Family family, const catalog::DeviceClass& cls, const std::string& label) {
        for (const Device& d : m_out.house.devices)
            if (d.room == room && d.deviceClass == cls.id) return d.id;
        Device box{m_out.house.freeId(std::string(name(catalog::mediumOf(family))) + "-adapter"),
                   label,
                   DeviceKind::adapter,
                   cls.id,
                   room,
                   {}};
        box.ports = {{"lan", "LAN", PortKind::ethernet, cls.ethernetPhy},
                     {"line", "line", house::portFor(catalog::mediumOf(family)), ""}};
        box.ports[1].strip = family == Family::mains ? Strip::wall : Strip::unknown;
        Id id = box.id;
        m_out.house.devices.push_back(std::move(box));
        return id;
    }
    [[nodiscard]] std::optional<PortRef> linePort(const Id& adapter, Medium medium) const {
        for (const Port& port : m_out.house.device(adapter)->ports)
            if (joins(medium, port.kind)) return PortRef{adapter, port.id};
        return std::nullopt;
    }
    [[nodiscard]] std::optional<PortRef> lanPort(const Id& adapter) const {
        for (const Port& port : m_out.house.device(adapter)->ports)
            if (port.kind == PortKind::ethernet && isFree({adapter, port.id}))
                return PortRef{adapter, port.id};
        return std::nullopt;
    }

    // Of the adapter that serves the way at the hub: the plan's, or one that is there and fast enough.
    [[nodiscard]] const catalog::DeviceClass* hubClass(const SpotWay& way,
                                                       const catalog::DeviceClass& least) const {
        const auto bought = m_plan.hubBoxes.find(way.hubShare);
        if (!way.hubBox.empty() && bought != m_plan.hubBoxes.end()) return m_catalog.device(bought->second);
        const std::vector<std::string> serving = servingAtHub(m_catalog, least);
        for (const Device& d : m_out.house.devices)
            if (d.room == m_hub && std::find(serving.begin(), serving.end(), d.deviceClass) != serving.end())
                return m_catalog.device(d.deviceClass);
        return &least;
    }

    [[nodiscard]] bool isJoined(const Id& adapter) const {
        const auto& ports = m_out.house.device(adapter)->ports;
        return std::any_of(ports.begin(), ports.end(), [&](const Port& p) {
            return p.kind == PortKind::ethernet && !isFree({adapter, p.id});
        });
    }

    quantity::Result<void> adapters(std::size_t i, Family family, const Id& room,
                                    const std::optional<PortRef>& at) {
        const Spot& spot = m_out.house.spots[i];
        const Medium medium = catalog::mediumOf(family);
        const SpotWay& way = wayOf(m_plan.spots[i]);
        const catalog::DeviceClass* cls = m_catalog.device(way.deviceClass);
        const catalog::DeviceClass* atHub = hubClass(way, *cls);
        const std::size_t first = m_out.house.devices.size();
        const Device* box = boxWithInside(m_out.house, m_catalog, m_hub, servingAtHub(m_catalog, *cls));
        const Id hub = box != nullptr
                           ? box->id
                           : adapterIn(m_hub, family, *atHub, atHub->label + " in the " + m_options.hubLabel);
        const bool isInside = box != nullptr; // devices may move below
        const std::size_t before = m_out.house.devices.size();
        const Id far = adapterIn(room, family, *cls, cls->label + " at " + spot.label);
        const bool there = m_out.house.devices.size() == before;
        if (!isInside && !isJoined(hub)) {
            const auto from = hubPort(portFor(i));
            const auto lan = lanPort(hub);
            if (!from || !lan) return quantity::problem("no port is free at the hub", "", "weigh again");
            cable(*from, *lan, "lead to " + m_out.house.device(hub)->label, "cat6a", m_catalog.patchLead,
                  true);
        }
        // On the network that the hub's adapter is on already, or a new one.
        const auto hubLine = linePort(hub, medium);
        const auto farLine = linePort(far, medium);
        if (!hubLine || !farLine)
            return quantity::problem("an adapter has no port for its medium", "", "enter it in Walk");
        Connection* network = nullptr;
        for (Connection& c : m_out.house.connections)
            if (c.medium == medium && std::find(c.ends.begin(), c.ends.end(), *hubLine) != c.ends.end())
                network = &c;
        if (network == nullptr) {
            Connection c;
            c.id = m_out.house.freeId(std::string(name(medium)));
            c.label = m_catalog.medium(medium)->label;
            c.medium = medium;
            c.ends = {*hubLine};
            m_out.house.connections.push_back(std::move(c));
            network = &m_out.house.connections.back();
        }
        const bool elsewhere = std::any_of(
            m_out.house.connections.begin(), m_out.house.connections.end(), [&](const Connection& c) {
                return std::find(c.ends.begin(), c.ends.end(), *farLine) != c.ends.end();
            });
        if (!elsewhere) network->ends.push_back(*farLine);
        setJacks(way, {before == first ? Id() : hub, there ? Id() : far}, medium);
        if (at)
            if (const auto lan = lanPort(far)) {
                unplug(*at);
                cable(*lan, *at, "lead at " + spot.label, "cat6a", m_catalog.patchLead, true);
            }
        return {};
    }

    // New adapters sit where the way was reckoned with: that at the hub, and that at the spot; empty: not
    // new.
    void setJacks(const SpotWay& way, const std::array<Id, 2>& adapters, Medium medium) {
        if (way.route == nullptr) return;
        std::size_t next = 0;
        for (const Device& d : way.route->house.devices) {
            if (d.kind != DeviceKind::adapter || d.deviceClass != way.deviceClass || next == adapters.size())
                continue;
            const Id& adapter = adapters[next++];
            for (const Port& port : d.ports)
                if (!adapter.empty() && joins(medium, port.kind))
                    if (const auto line = linePort(adapter, medium))
                        m_out.house.port(*line)->jack = port.jack;
        }
    }

    // Runs from a machine at the hub, or from the service, to each machine that a spot has.
    void makeTrial() {
        House& h = m_out.house;
        Id from;
        for (const Device& d : h.devices)
            if (d.kind == DeviceKind::host && d.room == m_hub && from.empty()) from = d.id;
        const Id start = !from.empty() ? endpointOf(from) : h.service ? h.service->id : Id();
        for (std::size_t i = 0; i < h.spots.size() && !start.empty(); ++i) {
            const Device* device = h.device(h.spots[i].device);
            if (device != nullptr && device->kind == DeviceKind::host && device->id != from &&
                m_plan.spots[i].way >= 0)
                addRoute(i, start, endpointOf(device->id));
        }
        benchmark::TrialPlan plan;
        plan.label = "the plan, spot by spot";
        plan.routes = m_out.routes;
        plan.compares = false;
        plan.baseline = plan.bench = !from.empty(); // the service cannot be carried to a bench
        if (auto trial = benchmark::planTrial(h, plan)) {
            m_out.trial = trial->id;
            h.trials.push_back(std::move(*trial));
        }
    }
    Id endpointOf(const Id& device) {
        House& h = m_out.house;
        for (const Endpoint& e : h.endpoints)
            if (e.device == device) return e.id;
        Id id = h.freeId(device + "-end");
        h.endpoints.push_back({id, h.device(device)->label, device, ""});
        return id;
    }
    // The route that is there already, or a new one; none where nothing joins the two yet.
    void addRoute(std::size_t spot, const Id& start, const Id& end) {
        House& h = m_out.house;
        for (const Route& r : h.routes)
            if ((r.from == start && r.to == end) || (r.from == end && r.to == start)) {
                m_out.routes.push_back(r.id);
                return;
            }
        if (!findRoute(h, start, end)) return;
        Route r;
        r.id = h.freeId("route");
        r.label = h.endLabel(start) + " to " + h.spots[spot].label;
        r.from = start;
        r.to = end;
        const Need& need = m_options.spots[spot].need;
        if (need.down.bps() > 0) r.needForward = need.down;
        if (need.up.bps() > 0) r.needBackward = need.up;
        m_out.routes.push_back(r.id);
        h.routes.push_back(std::move(r));
    }

    const Catalog& m_catalog;
    const Options& m_options;
    const Plan& m_plan;
    Id m_hub;
    std::set<Id> m_before;            ///< devices, connections and jacks of the house as it was
    std::set<Id> m_used;              ///< runs that were there
    std::vector<std::string> m_hints; ///< for the next cable
    AppliedPlan m_out;
};

} // namespace

quantity::Result<AppliedPlan> applyPlan(const House& house, const Catalog& catalog, const Options& options,
                                        const Plan& plan) {
    return PlanApplier(house, catalog, options, plan).fit();
}

} // namespace metrodos::weigh
