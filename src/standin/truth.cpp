#include "standin/truth.h"

#include "house/chain.h"
#include "house/edit.h"
#include "quantity/draw.h"

#include <algorithm>
#include <cmath>

namespace metrodos::standin {
namespace {

constexpr double defaultWindow = 3145728; // a machine of unknown class: Linux with its defaults

// Sockets and machines waver a little; ports and cables do not.
double variationOf(house::ElementKind kind) {
    return kind == house::ElementKind::bus || kind == house::ElementKind::host ? 0.006 : 0.0;
}

const catalog::HostClass* hostClass(const house::House& house, const catalog::Catalog& catalog,
                                    const house::Id& device) {
    const house::Device* found = house.device(device);
    return found == nullptr ? nullptr : catalog.host(found->deviceClass);
}

} // namespace

namespace {

// Draws the elements of one route in one direction.
class Drawing {
  public:
    Drawing(const house::House& house, const catalog::Catalog& catalog, const house::Route& route,
            const std::vector<house::Element>& elements, bool forward, std::uint64_t seed,
            const Situation& situation)
        : m_house(house)
        , m_catalog(catalog)
        , m_route(route)
        , m_elements(elements)
        , m_shape(house::shapeOf(elements))
        , m_forward(forward)
        , m_seed(seed)
        , m_situation(situation) {}

    RouteTruth draw() {
        const std::vector<bool> in =
            house::passed(m_elements, m_situation.arrangement.setup, m_situation.arrangement.bypassed);
        std::vector<house::Element> passed;
        std::size_t narrowest = m_elements.size();
        double least = 1e15;
        for (std::size_t i = 0; i < m_elements.size(); ++i) {
            if (!in[i]) continue;
            passed.push_back(m_elements[i]);
            m_out.elements.push_back(element(i));
            if (m_out.elements.back().capacityBps < least) {
                least = m_out.elements.back().capacityBps;
                narrowest = i;
            }
        }
        if (m_situation.arrangement.setup == house::Setup::place)
            for (const HiddenFault& fault : m_situation.hidden)
                if (fault.element == "unlisted" && fault.bps > 0) {
                    m_out.elements.push_back({fault.bps, fault.variation, "unlisted"});
                    if (fault.bps < least) narrowest = m_elements.size();
                    least = std::min(least, fault.bps);
                }
        // A test machine at the end of a stretch is faster than anything here.
        if (m_out.elements.empty()) {
            m_out.elements.push_back({90e9, 0, "test machines"});
            least = 90e9;
        }
        const catalog::Spread<double> rtt = capacity::idleRtt(m_house, m_catalog, passed);
        const double u = quantity::uniformOf(m_seed, m_route.id + "/rtt");
        m_out.rttUs = rtt.p10 + (rtt.p90 - rtt.p10) * u * 0.5 + 60; // 60 µs for the two stacks
        const bool atTo =
            m_forward != m_situation.arrangement.swapped; // where the receiver stands in the survey
        const std::size_t receiver = atTo ? m_elements.size() - 1 : 0;
        const std::size_t sender = atTo ? 0 : m_elements.size() - 1;
        m_out.windowBytes = windowOf(receiver, in[receiver]);
        // Small boxes hold some milliseconds of traffic; 256 KiB is common, and no less than a few frames.
        m_out.queueBytes = std::clamp(least / 8 * 0.008, 32e3, 256.0 * 1024);
        m_out.senderCpuBps = cpuOf(sender, in[sender]);
        m_out.receiverCpuBps = cpuOf(receiver, in[receiver]);
        if (narrowest < m_elements.size() && house::isMachine(m_elements[narrowest].kind))
            m_out.heldAt = (narrowest < m_elements.size() / 2) == atTo ? HeldAt::sender : HeldAt::receiver;
        return std::move(m_out);
    }

  private:
    // Machines that changed places take their sockets and ports with them.
    [[nodiscard]] bool turned(std::size_t i) const {
        return m_situation.arrangement.swapped && m_shape.isAtEnd(i);
    }

    ElementTruth element(std::size_t i) {
        const house::Element& element = m_elements[i];
        const bool forward = turned(i) ? !m_forward : m_forward;
        const capacity::Ceiling ceiling = capacity::ceilingOn(m_house, m_catalog, m_route, element);
        const house::Connection* connection = m_house.connection(element.connection);
        const catalog::MediumClass* medium =
            connection == nullptr ? nullptr : m_catalog.medium(connection->medium);
        // A medium carries the directions differently, since the noise is local to the receiver; all else is
        // alike.
        const auto altered = [&](house::AlterationKind kind) {
            return std::any_of(m_situation.arrangement.altered.begin(), m_situation.arrangement.altered.end(),
                               [&](const auto& a) { return a.element == element.id && a.kind == kind; });
        };
        // At a place that is known the survey says what there is.
        const bool isElsewhere = std::any_of(m_situation.arrangement.altered.begin(),
                                             m_situation.arrangement.altered.end(), [&](const auto& a) {
                                                 return a.element == element.id &&
                                                        a.kind == house::AlterationKind::other_outlet &&
                                                        a.place.empty();
                                             });
        const double u = quantity::uniformOf(
            m_seed, element.id +
                        (medium != nullptr ? "/" + element.exit.device + (forward ? ">" : "<") : "") +
                        (isElsewhere ? "/other outlet" : ""));
        const capacity::Distribution& belief = forward ? ceiling.forward : ceiling.backward;
        // What lies ahead of a flow tells its direction through an element from the other one.
        const std::size_t ahead = forward ? i + 1 : i - 1; // wraps below 0: the end of the route
        const std::string towards = ahead < m_elements.size() ? m_elements[ahead].id : std::string("end");
        const bool shared = medium != nullptr && connection->medium != house::Medium::data_cable;
        ElementTruth out{belief.quantile(std::clamp(u, 0.02, 0.98)),
                         medium == nullptr ? variationOf(element.kind) : medium->variation,
                         shared ? element.connection : element.id + ">" + towards};
        m_sound.resize(m_elements.size(), 0);
        m_sound[i] = out.capacityBps;
        for (const HiddenFault& fault : m_situation.hidden) {
            if (fault.element != element.id ||
                std::any_of(fault.curedBy.begin(), fault.curedBy.end(), altered))
                continue;
            const double share = forward ? fault.forward : fault.backward;
            out.capacityBps *= share;
            out.variation = std::hypot(out.variation, fault.variation);
            if (fault.fillsCore) m_sound[i] *= share;
            const double loss = forward ? fault.lossForward : fault.lossBackward;
            m_out.loss = 1 - (1 - m_out.loss) * (1 - loss);
            // A machine counts only what its own last hop spoils.
            const bool lastHop = i == (m_forward ? m_shape.lastCable : m_shape.firstCable);
            m_out.errors = m_out.errors || (fault.errors && lastHop && (share < 1 || loss > 0));
        }
        return out;
    }

    [[nodiscard]] double windowOf(std::size_t i, bool passes) const {
        const catalog::HostClass* cls =
            passes ? hostClass(m_house, m_catalog, m_elements[i].device) : nullptr;
        double out = cls == nullptr ? defaultWindow : cls->windowBytes;
        for (const HiddenFault& fault : m_situation.hidden)
            if (passes && house::Id(m_elements[i].device) == fault.element) out *= fault.window;
        return out;
    }
    // What fills one core of a machine.
    [[nodiscard]] double cpuOf(std::size_t i, bool passes) const {
        constexpr double testMachine = 20e9;
        for (std::size_t k = 0; k < m_sound.size(); ++k)
            if (passes && m_elements[k].kind == house::ElementKind::host &&
                m_elements[k].device == m_elements[i].device && m_sound[k] > 0)
                return m_sound[k];
        return testMachine;
    }

    const house::House& m_house;
    const catalog::Catalog& m_catalog;
    const house::Route& m_route;
    const std::vector<house::Element>& m_elements;
    house::RouteShape m_shape;
    bool m_forward;
    std::uint64_t m_seed;
    const Situation& m_situation;
    std::vector<double> m_sound; // by element: its capacity but for faults that leave the processor idle
    RouteTruth m_out;
};

} // namespace

quantity::Result<RouteTruth> truthOf(const house::House& house, const catalog::Catalog& catalog,
                                     const house::Route& route, benchmark::Direction direction,
                                     std::uint64_t seed, const Situation& situation) {
    house::House elsewhere;
    const house::House* now = &house;
    for (const benchmark::Alteration& a : situation.arrangement.altered) {
        if (a.place.empty()) continue;
        auto moved = house::pluggedAt(*now, a.element, a.place);
        if (!moved) return tl::unexpected(moved.error());
        elsewhere = std::move(*moved);
        now = &elsewhere;
    }
    const auto elements = house::RouteFinder(*now).find(route);
    if (!elements) return tl::unexpected(elements.error());
    return Drawing(*now, catalog, route, *elements, direction == benchmark::Direction::forward, seed,
                   situation)
        .draw();
}

} // namespace metrodos::standin
