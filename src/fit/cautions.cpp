#include "fit/cautions.h"

#include <algorithm>

namespace metrodos::fit {
namespace {

using namespace house;

class Look {
  public:
    explicit Look(const House& house)
        : m_house(house) {}

    std::vector<Caution> all() {
        rooms();
        betweenBuildings();
        coax();
        mains();
        drilling();
        devices();
        return std::move(m_found);
    }

  private:
    void say(const Id& where, std::string what, std::string why) {
        m_found.push_back({where, std::move(what), std::move(why)});
    }

    [[nodiscard]] std::string buildingOf(const PortRef& end) const {
        const Room* room = m_house.room(m_house.roomOf(end));
        return room == nullptr ? "?" : room->building;
    }

    void rooms() {
        int top = 0;
        for (const Room& r : m_house.rooms)
            if (r.building.empty()) top = std::max(top, r.floor);
        for (const Room& r : m_house.rooms) {
            const bool isTop = r.building.empty() && r.floor == top && top >= 2;
            if (isTop)
                say(r.id,
                    "Step on the joists only, wear a mask, and have old insulation looked at before you move "
                    "it.",
                    "under a roof there is heat, ceilings that do not bear, fibres, and in older houses "
                    "asbestos");
            if (isTop)
                say(r.id, "Stand the ladder on firm ground and have somebody hold it.",
                    "most accidents on this work are falls");
            if (r.floor < 0)
                say(r.id, "Put no adapter where it is damp.", "moisture lets current creep over its housing");
        }
    }

    // New holes are part of a plan that lays cable.
    void drilling() {
        for (const Choice& choice : m_house.weighing.plan) {
            if (!choice.way.starts_with("new-") && choice.way != "fibre") continue;
            say(choice.spot, "Ask the landlord or owner before a hole is drilled.",
                "walls are not always the client's, and some are listed or bear the house");
            say(choice.spot, "Look for cables, pipes and structure in the wall before drilling.",
                "a drill finds them otherwise; keep data cable away from mains as well");
        }
    }

    void betweenBuildings() {
        for (const Connection& c : m_house.connections) {
            if (c.medium != Medium::data_cable && c.medium != Medium::coax) continue;
            if (c.ends.size() != 2) continue;
            const std::string a = buildingOf(c.ends[0]);
            const std::string b = buildingOf(c.ends[1]);
            if (a != "?" && b != "?" && a != b)
                say(c.id, "Lay fibre between the two buildings instead of this copper run.",
                    "lightning and a difference of earth potential would come in over the copper");
        }
    }

    void coax() {
        for (const CoaxPart& p : m_house.coaxParts)
            if (p.kind == CoaxPartKind::entry)
                say(p.id,
                    "Leave the bonding to earth at the entry as it is; the outside line is a technician's.",
                    "it protects the house from surges on the line");
        for (const CoaxPart& p : m_house.coaxParts)
            if (p.kind == CoaxPartKind::entry)
                say(p.id, "Ask the operator before anything is screwed onto the line.",
                    "the line up to its transfer point is the operator's, and a service may run over it");
        if (m_house.coaxUse.satellite == true)
            for (const CoaxPart& p : m_house.coaxParts)
                say(p.id, "Do not short the centre to the braid while the dish is fed.",
                    "satellite feeds carry direct current");
    }

    void mains() {
        for (const Panel& p : m_house.panels)
            say(p.id, "Leave the panel shut: read its labels only.",
                "behind its cover and behind every plate is a licensed electrician's work under local code");
        for (const Circuit& c : m_house.circuits)
            if (c.wiring == "old" || c.wiring == "aluminium")
                say(c.id, "Have an electrician look at this wiring before more is plugged in.",
                    "old joints and aluminium heat up under load");
    }

    void devices() {
        for (const Device& d : m_house.devices) {
            for (const Port& p : d.ports) {
                const Strip strip = m_house.stripOf(p);
                if (p.kind == PortKind::mains && strip == Strip::plain &&
                    m_house.practices.strips == StripUse::plain_strip)
                    say(d.id, "Measure this adapter at the wall as well, and keep the better of the two.",
                        "every joint before the adapter costs signal");
                else if (p.kind == PortKind::mains &&
                         (strip == Strip::plain || strip == Strip::surge_protected))
                    say(d.id,
                        "Plug this adapter straight into the wall and the strip into its pass-through "
                        "outlet.",
                        strip == Strip::surge_protected ? "a surge-protected strip shorts the signal"
                                                        : "every joint before the adapter costs signal");
                if (p.kind == PortKind::mains || p.kind == PortKind::coax) {
                    say(d.id,
                        m_house.practices.pairing == PairingChoice::at_once
                            ? "Pair the adapters at once and see that the network is private."
                            : "See whether a stranger's adapter can join; pair them where one can.",
                        "out of the box they join a public network: anyone on the same wiring can come in");
                    break;
                }
            }
            for (const Port& p : d.ports)
                if (p.kind == PortKind::ethernet && (p.phy == "10gbase-t" || p.phy == "5gbase-t")) {
                    say(d.id, "Leave air around it.", "multi-gigabit ports over copper run hot");
                    break;
                }
            if (std::any_of(d.ports.begin(), d.ports.end(),
                            [](const Port& p) { return p.kind == PortKind::pcie; }))
                say(d.id, "Shut it down, unplug it and touch bare metal before you open it.",
                    "a charge on your hands destroys cards; the supply stays live while plugged in");
        }
    }

    const House& m_house;
    std::vector<Caution> m_found;
};

} // namespace

std::vector<Caution> cautionsOf(const House& house) {
    return Look(house).all();
}

std::vector<Caution> cautionsAt(const House& house, const Id& where) {
    std::vector<Caution> out = cautionsOf(house);
    std::erase_if(out, [&](const Caution& c) { return c.where != where; });
    return out;
}

} // namespace metrodos::fit
