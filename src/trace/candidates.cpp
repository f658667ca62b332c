#include "trace/candidates.h"

#include "trace/tolerances.h"

#include <algorithm>

namespace metrodos::trace {
namespace {

using house::ElementKind;
using house::Id;

// Builds the tests of one route.
class Builder {
  public:
    Builder(const Case& asked, const std::vector<Observation>& observations)
        : m_asked(asked)
        , m_observations(observations)
        , m_elements(asked.prediction.elements) {
        std::vector<house::Element> route;
        for (const auto& e : m_elements)
            route.push_back(e.element);
        m_unit = house::shapeOf(route).unit;
    }

    std::vector<NextTest> all() {
        asItIs();
        memory();
        datagrams();
        media();
        benches();
        for (std::size_t i = 0; i < m_elements.size(); ++i)
            exchangeOf(i);
        ends();
        segments();
        readings();
        service();
        return std::move(m_tests);
    }

  private:
    [[nodiscard]] const house::Element& element(std::size_t i) const { return m_elements[i].element; }
    [[nodiscard]] std::string end(bool from) const {
        const auto& route = m_asked.prediction.route;
        return m_asked.house.endLabel(from ? route.from : route.to);
    }
    [[nodiscard]] bool isMachine(bool from) const {
        return house::isMachine(element(from ? 0 : m_elements.size() - 1).kind);
    }

    [[nodiscard]] bool baselineFirst(bool from) const {
        const house::Device* device = m_asked.house.device(element(from ? 0 : m_elements.size() - 1).device);
        const catalog::HostClass* known =
            device == nullptr ? nullptr : m_asked.catalog.host(device->deviceClass);
        return known != nullptr && known->baselineFirst;
    }

    [[nodiscard]] bool done(RunShape how) const {
        std::sort(how.arrangement.bypassed.begin(), how.arrangement.bypassed.end());
        return std::any_of(m_observations.begin(), m_observations.end(), [&](const Observation& o) {
            RunShape made = o.shape;
            std::sort(made.arrangement.bypassed.begin(), made.arrangement.bypassed.end());
            made.streams = std::min(made.streams, how.streams);
            // Datagrams that all arrived have told what they can.
            return o.link.empty() && o.route == m_asked.prediction.route.id &&
                   (!o.atLeast || how.streams == benchmark::maxStreams) && made == how;
        });
    }

    // A run in both directions, or in the one that has not been made yet.
    void run(const std::string& id, const std::string& work, const std::string& does, RunShape how) {
        how.streams = usualStreams;
        how.forward = false;
        const bool back = done(how);
        how.forward = true;
        const bool ahead = done(how);
        if (ahead && back) return;
        how.forward = !ahead;
        NextTest test;
        test.id = id;
        test.does = does;
        test.minutes = minutes(work);
        test.shape = std::move(how);
        add(std::move(test));
    }
    void reading(const std::string& id, const std::string& does, std::vector<Id> elements,
                 std::optional<double> phyShare = {}) {
        NextTest test;
        test.id = id;
        test.does = does;
        test.minutes = minutes("read");
        test.kind = TestKind::read;
        test.reads = std::move(elements);
        test.phyShare = phyShare;
        add(std::move(test));
    }
    void add(NextTest test) {
        if (std::find(m_asked.declined.begin(), m_asked.declined.end(), test.id) == m_asked.declined.end())
            m_tests.push_back(std::move(test));
    }
    [[nodiscard]] double minutes(const std::string& work) const {
        return m_asked.catalog.faults.minutes.at(work);
    }

    // Runs go from memory to memory: disks have a part only when a file is copied.
    void copyFile() {
        RunShape how;
        how.streams = 1;
        const bool ahead = done(how);
        how.forward = false;
        const bool back = done(how);
        if (ahead && back) return;
        how.forward = !ahead;
        NextTest test;
        test.id = "copy-file";
        test.does = "Copy one large file between " + end(true) + " and " + end(false) + ", there and back";
        test.minutes = minutes("copy");
        test.kind = TestKind::copy;
        test.shape = std::move(how);
        add(std::move(test));
    }

    void asItIs() {
        if (m_asked.runsFromMemory && std::any_of(m_elements.begin(), m_elements.end(), [](const auto& e) {
                return e.element.kind == ElementKind::storage;
            }))
            return copyFile();
        const bool any = std::any_of(m_observations.begin(), m_observations.end(), [&](const Observation& o) {
            return o.link.empty() && o.route == m_asked.prediction.route.id &&
                   o.shape.arrangement.setup == house::Setup::place && o.shape.arrangement.bypassed.empty();
        });
        RunShape how;
        how.streams = usualStreams;
        const bool ahead = done(how);
        how.forward = false;
        const bool back = done(how);
        if (!any)
            run("measure", "run", "Run the route as it is with four streams, forward and backward", {});
        else if (ahead != back)
            run(ahead ? "measure-backward" : "measure-forward", "run",
                std::string("Run the route as it is with four streams ") + (ahead ? "backward" : "forward"),
                {});
        else
            run("more-streams", "run",
                "Run again with four streams: more than one carries means that it was its window", {});
    }

    // Files are copied: the same from memory to memory.
    void memory() {
        RunShape how;
        for (const auto& e : m_elements)
            if (e.element.kind == ElementKind::storage) how.arrangement.bypassed.push_back(e.element.id);
        if (!how.arrangement.bypassed.empty())
            run("from-memory", "run", "Run from memory to memory instead of copying a file", how);
    }

    // Datagrams have no window, and their rate does not fall at a loss.
    void datagrams() {
        if (!isMachine(true) || !isMachine(false)) return;
        RunShape how;
        how.streams = benchmark::maxStreams;
        const bool ahead = done(how);
        how.forward = false;
        if (ahead && done(how)) return;
        how.forward = !ahead;
        NextTest test;
        test.id = "datagrams";
        test.does = "Send datagrams faster than the route carries them (UDP): they know no window";
        test.minutes = minutes("run");
        test.shape = std::move(how);
        test.pace = std::max(m_asked.prediction.forward.p90, m_asked.prediction.backward.p90) * 1.2;
        add(std::move(test));
    }

    // What can be done about a shared medium: its adapters' own figures, another outlet, quiet.
    void media() {
        for (std::size_t i = 0; i < m_elements.size(); ++i) {
            const ElementKind kind = element(i).kind;
            if (!house::isMedium(kind)) continue;
            const std::string& label = element(i).label;
            const house::Connection* c = m_asked.house.connection(element(i).connection);
            const catalog::MediumClass* medium = c == nullptr ? nullptr : m_asked.catalog.medium(c->medium);
            if (medium != nullptr && c->phyRates.empty())
                reading("read-phy-" + element(i).id,
                        "Read the PHY rates that the adapters of “" + label + "” show", {element(i).id},
                        medium->phyShare.p50);
            if (kind != ElementKind::mains) continue;
            RunShape how;
            how.arrangement.altered = {{element(i).id, house::AlterationKind::other_outlet}};
            run("other-outlet-" + element(i).id, "outlet",
                "Plug an adapter of “" + label + "” into another outlet of the room and run", how);
            how.arrangement.altered = {{element(i).id, house::AlterationKind::appliances_off}};
            run("appliances-off-" + element(i).id, "off",
                "Switch off what runs near the outlets of “" + label + "” and run", how);
        }
    }

    void benches() {
        if (!isMachine(true) || !isMachine(false)) return;
        RunShape how;
        how.arrangement.setup = house::Setup::baseline;
        run("baseline", "baseline",
            "Join " + end(true) + " and " + end(false) +
                " by one short good cable and run: the ceiling of the machines",
            how);
        if (!m_tests.empty() && m_tests.back().id == "baseline")
            m_tests.back().isFirst = baselineFirst(true) || baselineFirst(false);
        const bool media = std::any_of(m_elements.begin(), m_elements.end(),
                                       [](const auto& e) { return house::isMedium(e.element.kind); });
        how.arrangement.setup = house::Setup::bench;
        if (media)
            run("bench", "bench", "Bring the adapters side by side and run between the machines over them",
                how);
    }

    void exchangeOf(std::size_t i) {
        RunShape how;
        how.arrangement.bypassed = {element(i).id};
        const std::string& label = element(i).label;
        switch (element(i).kind) {
        case ElementKind::cable:
            run("bridge-" + element(i).id, "bridge",
                "Bridge “" + label + "” with a cable known to be good and run", how);
            break;
        case ElementKind::bus:
            run("other-socket-" + element(i).id, "socket",
                "Move the adapter of “" + label + "” to another socket and run", how);
            break;
        case ElementKind::port: {
            const house::Device* device = m_asked.house.device(element(i).device);
            if (device == nullptr || device->ports.size() < 3) break;
            run("other-port-" + element(i).device + "-" + element(i).port, "port",
                "Plug the cable from “" + label + "” into another port and run", how);
            break;
        }
        default:
            break;
        }
    }

    void ends() {
        if (isMachine(true) && isMachine(false)) {
            RunShape how;
            how.arrangement.swapped = true;
            run("swap-ends", "swap",
                "Let " + end(true) + " and " + end(false) +
                    " change places and run: what moves with a machine is the machine's doing",
                how);
        }
        for (const bool from : {true, false}) {
            if (!isMachine(from)) continue;
            RunShape how;
            for (std::size_t i = 0; i < m_elements.size(); ++i)
                if (m_unit[i] == (from ? 0 : m_unit.back()) && element(i).kind != ElementKind::cable)
                    how.arrangement.bypassed.push_back(element(i).id);
            run(std::string("exchange-") + (from ? "from" : "to"), "exchange",
                "Put another fast machine in the place of " + end(from) + " and run", how);
        }
    }

    // A test machine at a box in between: only the part up to there is passed.
    void segments() {
        for (std::size_t i = 0; i < m_elements.size(); ++i) {
            if (element(i).kind != ElementKind::cable) continue;
            for (const bool fromSide : {true, false}) {
                if (!isMachine(fromSide)) continue;
                // The box on the near side of this cable, seen from the machine that stays.
                const std::size_t unit = fromSide ? m_unit[i] - 1 : m_unit[i];
                if (unit == 0 || unit == m_unit.back()) continue;
                RunShape how;
                for (std::size_t k = 0; k < m_elements.size(); ++k)
                    if (fromSide ? k >= i : k <= i) how.arrangement.bypassed.push_back(element(k).id);
                const house::PortRef& box = fromSide ? element(i).entry : element(i).exit;
                const house::Device* device = m_asked.house.device(box.device);
                if (device == nullptr) continue;
                run("segment-" + std::string(fromSide ? "from-" : "to-") + box.device, "segment",
                    "Plug a fast test machine into “" + device->label + "” instead of “" + element(i).label +
                        "” and run to " + end(fromSide),
                    how);
            }
        }
    }

    void readings() {
        for (std::size_t i = 0; i < m_elements.size(); ++i) {
            const house::Connection* connection = m_asked.house.connection(element(i).connection);
            if (connection == nullptr) continue;
            if (element(i).kind == ElementKind::cable && !connection->linkedAt) {
                std::vector<Id> read{element(i).id};
                for (const std::size_t k : {i - 1, i + 1})
                    if (k < m_elements.size() && element(k).kind == ElementKind::port)
                        read.push_back(element(k).id);
                reading("read-rate-" + element(i).id,
                        "Read the negotiated rate at an end of “" + element(i).label + "”", std::move(read));
            }
            if (element(i).kind == ElementKind::bus && !connection->linkedAt)
                reading("read-socket-" + element(i).id, "Read at what speed “" + element(i).label + "” runs",
                        {element(i).id});
        }
    }

    void service() {
        for (std::size_t i : {std::size_t{0}, m_elements.size() - 1}) {
            if (element(i).kind != ElementKind::service) continue;
            RunShape how;
            how.arrangement.setup = house::Setup::place;
            const Id box = i == 0 ? element(i).exit.device : element(i).entry.device;
            for (const auto& e : m_elements)
                if (e.element.kind == ElementKind::port ||
                    (e.element.kind != ElementKind::service && e.element.device != box))
                    how.arrangement.bypassed.push_back(e.element.id);
            const std::size_t before = m_tests.size();
            run("service", "service", "Test the service with a fast machine at its box", how);
            if (m_tests.size() == before) continue;
            m_tests.back().kind = TestKind::service;
            m_tests.back().isFirst = m_asked.house.practices.testPlace == house::TestPlace::service;
        }
    }

    const Case& m_asked;
    const std::vector<Observation>& m_observations;
    const std::vector<capacity::ElementPrediction>& m_elements;
    std::vector<std::size_t> m_unit;
    std::vector<NextTest> m_tests;
};

} // namespace

std::vector<NextTest> candidates(const Case& asked, const std::vector<Observation>& observations) {
    return Builder(asked, observations).all();
}

} // namespace metrodos::trace
