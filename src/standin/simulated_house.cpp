#include "standin/simulated_house.h"

#include "benchmark/delay_statistics.h"
#include "benchmark/statistics.h"
#include "house/machine_ports.h"
#include "probe/run_events.h"
#include "standin/competition.h"
#include "standin/simulate.h"

#include <algorithm>
#include <condition_variable>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <openssl/rand.h>
#include <thread>

namespace metrodos::standin {
namespace {

using benchmark::Direction;
using nlohmann::json;
using probe::DataTarget;
using probe::Role;
using probe::RunTask;
using quantity::problem;
using quantity::Result;

class SharedRun;

/// The runs that go on in one simulated house, which take from one another where their ways meet.
class Traffic {
  public:
    void enter(SharedRun* run);
    void leave(SharedRun* run);
    /// The next tenth of a second of one of them, beside all the others.
    FlowModel::Tenth next(SharedRun& run);

  private:
    std::mutex m_mutex;
    std::vector<SharedRun*> m_runs;
};

/// One run between two simulated endpoints; both performers read the same tenths of seconds from it.
class SharedRun {
  public:
    SharedRun(RouteTruth truth, const benchmark::RunConfig& config, std::uint64_t seed, Traffic& traffic)
        : m_model(std::move(truth), config, seed)
        , m_traffic(traffic) {}
    ~SharedRun() { m_traffic.leave(this); }

    void begin() { m_traffic.enter(this); }
    void end() { m_traffic.leave(this); }
    FlowModel::Tenth tenth(std::size_t n) { // from 1
        const std::lock_guard lock(m_mutex);
        while (m_tenths.size() < n)
            m_tenths.push_back(m_traffic.next(*this));
        return m_tenths[n - 1];
    }
    std::optional<benchmark::Percentiles> idle() {
        const std::lock_guard lock(m_mutex);
        std::vector<double> times;
        for (int i = 0; i < 25; ++i)
            times.push_back(m_model.idleRttUs());
        return benchmark::percentilesOf(times);
    }
    benchmark::SenderLimited limited() {
        const std::lock_guard lock(m_mutex);
        return m_model.limited();
    }
    benchmark::DatagramCount datagrams() {
        const std::lock_guard lock(m_mutex);
        return m_model.datagrams();
    }
    /// Under the lock of the traffic.
    FlowModel& model() { return m_model; }

  private:
    std::mutex m_mutex;
    FlowModel m_model;
    Traffic& m_traffic;
    std::vector<FlowModel::Tenth> m_tenths;
};

void Traffic::enter(SharedRun* run) {
    const std::lock_guard lock(m_mutex);
    if (std::find(m_runs.begin(), m_runs.end(), run) == m_runs.end()) m_runs.push_back(run);
}

void Traffic::leave(SharedRun* run) {
    const std::lock_guard lock(m_mutex);
    std::erase(m_runs, run);
}

FlowModel::Tenth Traffic::next(SharedRun& run) {
    const std::lock_guard lock(m_mutex);
    std::vector<const FlowModel*> others;
    for (SharedRun* other : m_runs)
        if (other != &run) others.push_back(&other->model());
    return run.model().next(others.empty() ? std::vector<double>() : sharesLeft(run.model(), others));
}

// The receiver waits for the sender to join: filled in by then.
struct Meeting {
    house::Id to;
    RunTask task;
    std::shared_ptr<SharedRun> run;
};

} // namespace

struct SimulatedHouse::Shared {
    SimulationSettings settings;
    std::mutex mutex;
    Traffic traffic; // outlives the runs in the meetings
    std::map<probe::Token, Meeting> meetings;
    std::uint64_t runs = 0;
    std::uint16_t port = 1; // said as the data port; nothing listens there
};

namespace {

// What the machine would say of a port: its link runs at the slower of the two ports.
json portFacts(const house::House& house, const catalog::Catalog& catalog, const house::MachinePort& at) {
    const auto rateOf = [&](const house::PortRef& ref) -> std::optional<double> {
        const house::Port* port = house.port(ref);
        const catalog::Phy* phy = port == nullptr ? nullptr : catalog.phy(port->phy);
        return phy == nullptr ? std::nullopt : std::optional(phy->rate.bps());
    };
    const auto orNull = [](const std::optional<double>& bps) { return bps ? json(*bps) : json(nullptr); };
    const house::Connection& cable = *house.cableAt(at.port);
    std::optional<double> partner;
    for (const house::PortRef& ref : house::portsAt(house, cable))
        if (ref != at.port) partner = rateOf(ref);
    const std::optional<double> own = rateOf(at.port);
    json link = cable.linkedAt ? json(cable.linkedAt->bps()) : json(nullptr);
    if (!cable.linkedAt && own && partner) link = std::min(*own, *partner);
    json bus{{"kind", nullptr}, {"rate_bps", nullptr}, {"lanes", nullptr}};
    if (const house::Port* socket = house.port(at.socket)) {
        // Plug and socket agree on the slower.
        const catalog::Bus* known = catalog.bus(socket->phy);
        const catalog::Bus* plug = nullptr;
        for (const house::Port& p : house.device(at.port.device)->ports)
            if (p.kind == socket->kind) plug = catalog.bus(p.phy);
        bus["kind"] = socket->kind == house::PortKind::usb ? "usb" : "pci";
        if (known != nullptr && plug != nullptr) {
            bus["rate_bps"] = std::min(known->raw, plug->raw).bps();
            bus["possible_rate_bps"] = plug->raw.bps();
        }
    }
    return {{"name", at.port.port},
            {"up", true},
            {"rate_bps", std::move(link)},
            {"duplex", cable.halfDuplex ? "half" : "full"},
            {"supported_bps", orNull(own)},
            {"partner_bps", orNull(partner)},
            {"radio", false},
            {"driver", "simulated"},
            {"addresses", json::array()},
            {"bus", std::move(bus)}};
}

class SimulatedPerformer final : public probe::Performer {
  public:
    SimulatedPerformer(std::shared_ptr<SimulatedHouse::Shared> shared, house::Id endpoint)
        : m_shared(std::move(shared))
        , m_endpoint(std::move(endpoint)) {}
    ~SimulatedPerformer() override { SimulatedPerformer::cancel(); }

    bool simulated() const override { return true; }

    json facts() override {
        const auto house = m_shared->settings.house();
        const house::Endpoint* endpoint = house ? house->endpoint(m_endpoint) : nullptr;
        const house::Device* device = endpoint == nullptr ? nullptr : house->device(endpoint->device);
        json ports = json::array();
        if (device != nullptr)
            for (const house::MachinePort& port : house::machinePorts(*house, *device))
                ports.push_back(portFacts(*house, m_shared->settings.catalog, port));
        return {{"name", device == nullptr ? m_endpoint : device->label},
                {"simulated", true},
                {"kernel", "simulated"},
                {"cpu", {{"model", "simulated"}, {"cores", 1}, {"governor", nullptr}}},
                {"memory_bytes", nullptr},
                {"on_battery", nullptr},
                {"ports", std::move(ports)}};
    }

    Result<DataTarget> prepare(const RunTask& task, const std::string& host) override {
        cancel();
        DataTarget target{host, m_shared->port, 0, {}};
        RAND_bytes(target.token.data(), static_cast<int>(target.token.size()));
        const std::lock_guard lock(m_shared->mutex);
        if (m_shared->meetings.size() > 64) m_shared->meetings.clear(); // runs that nobody joined
        m_shared->meetings[target.token] = {m_endpoint, task, nullptr};
        begin(task, target.token, false);
        return target;
    }

    Result<void> join(const RunTask& task, const DataTarget& target, const probe::Interrupted&) override {
        cancel();
        const auto house = m_shared->settings.house();
        if (!house) return tl::unexpected(house.error());
        const std::lock_guard lock(m_shared->mutex);
        const auto meeting = m_shared->meetings.find(target.token);
        if (meeting == m_shared->meetings.end() || meeting->second.task.run != task.run)
            return problem("the other endpoint does not wait for this run", m_endpoint,
                           "start the run again");
        house::Route route = routeBetween(*house, m_endpoint, meeting->second.to);
        const Direction direction = task.role == Role::send ? Direction::forward : Direction::backward;
        auto truth = truthOf(*house, m_shared->settings.catalog, route, direction, m_shared->settings.seed,
                             {{}, task.config.arrangement});
        if (!truth) return tl::unexpected(truth.error());
        meeting->second.run = std::make_shared<SharedRun>(
            std::move(*truth), task.config, m_shared->settings.seed * 1000003 + ++m_shared->runs,
            m_shared->traffic);
        begin(task, target.token, true);
        return {};
    }

    std::optional<benchmark::Percentiles> idleDelay(const probe::Interrupted&) override {
        const auto run = meet();
        return run ? run->idle() : std::nullopt;
    }

    Result<void> start(probe::Emit emit) override {
        auto run = meet();
        if (!run || m_thread.joinable()) return problem("no run is waiting to start", m_endpoint);
        m_thread = std::thread([this, run = std::move(run), emit = std::move(emit)] {
            run->begin();
            perform(*run, emit);
            run->end();
        });
        return {};
    }

    void cancel() override {
        {
            const std::lock_guard lock(m_mutex);
            m_stop = true;
            m_changed.notify_all();
        }
        if (m_thread.joinable()) m_thread.join();
        m_stop = false;
    }

  private:
    // A route of the job between the two, for its framing; otherwise one with the usual framing.
    static house::Route routeBetween(const house::House& house, const house::Id& from, const house::Id& to) {
        for (const house::Route& route : house.routes)
            if (route.from == from && route.to == to) return route;
        house::Route route;
        route.id = from + "-" + to;
        route.from = from;
        route.to = to;
        return route;
    }

    void begin(const RunTask& task, const probe::Token& token, bool joined) {
        m_task = task;
        m_token = token;
        m_joined = joined;
    }

    std::shared_ptr<SharedRun> meet() {
        const std::lock_guard lock(m_shared->mutex);
        const auto meeting = m_shared->meetings.find(m_token);
        return meeting == m_shared->meetings.end() ? nullptr : meeting->second.run;
    }

    void perform(SharedRun& run, const probe::Emit& emit) {
        const bool sending = m_task.role == Role::send;
        const bool tcp = m_task.config.protocol == benchmark::Protocol::tcp;
        const auto count = static_cast<std::size_t>(benchmark::sampleCount(m_task.config.seconds));
        const auto start = std::chrono::steady_clock::now();
        double bytes = 0;
        double cpu = 0;
        std::vector<double> rtts;
        FlowModel::Tenth tenth;
        std::size_t n = 0;
        while (n < count &&
               (m_task.config.maxBytes == 0 || bytes < static_cast<double>(m_task.config.maxBytes))) {
            ++n;
            const auto due = start + std::chrono::milliseconds(100 * static_cast<std::int64_t>(n));
            if (!pause(m_shared->settings.realTime ? due : start)) return;
            tenth = run.tenth(n);
            bytes += tenth.goodputBps * benchmark::sampleSeconds / 8;
            cpu += sending ? tenth.senderCpu : tenth.receiverCpu;
            rtts.push_back(tenth.rttUs);
            probe::SampleEvent sample{m_task.run, n, static_cast<double>(n) * benchmark::sampleSeconds,
                                      sending ? tenth.senderCpu : tenth.receiverCpu};
            if (!sending) sample.goodputBps = tenth.goodputBps;
            if (tcp && sending) {
                sample.tcpRttUs = tenth.rttUs;
                sample.windowBytes = tenth.windowBytes;
                sample.retransmits = tenth.retransmits;
            } else if (!tcp && !sending) {
                sample.lossRatio = tenth.lossRatio;
            }
            if (m_joined) sample.rttUs = tenth.rttUs;
            if (!emit(toJson(sample))) return;
        }
        probe::FinishedEvent finished{m_task.run, static_cast<double>(n) * benchmark::sampleSeconds,
                                      static_cast<std::uint64_t>(bytes), cpu / static_cast<double>(n)};
        finished.interface = benchmark::InterfaceCount{"simulated", countedBytes(bytes)};
        if (!tcp && sending) finished.datagramsSent = run.datagrams().sent;
        if (!tcp && !sending) finished.datagrams = run.datagrams();
        if (tcp && sending) {
            finished.retransmits = tenth.retransmits;
            finished.senderLimited = run.limited();
        }
        if (m_joined) finished.rttLoadedUs = benchmark::percentilesOf(rtts);
        (void)emit(toJson(finished));
    }

    bool pause(std::chrono::steady_clock::time_point until) {
        std::unique_lock lock(m_mutex);
        return !m_changed.wait_until(lock, until, [&] { return m_stop; });
    }

    std::shared_ptr<SimulatedHouse::Shared> m_shared;
    house::Id m_endpoint;
    RunTask m_task;
    probe::Token m_token{};
    bool m_joined = false;
    std::mutex m_mutex;
    std::condition_variable m_changed;
    bool m_stop = false;
    std::thread m_thread;
};

} // namespace

Result<std::unique_ptr<SimulatedHouse>> SimulatedHouse::start(SimulationSettings settings) {
    const auto house = settings.house();
    if (!house) return tl::unexpected(house.error());
    if (house->endpoints.empty())
        return problem("the job has no endpoints", "", "add the machines that take part in runs");
    auto out = std::unique_ptr<SimulatedHouse>(new SimulatedHouse);
    out->m_shared = std::make_shared<Shared>();
    out->m_shared->settings = std::move(settings);
    for (const house::Endpoint& endpoint : house->endpoints) {
        const auto keys = probe::AgentKeys::ofKey(out->m_shared->settings.key);
        probe::AgentSettings agent{"127.0.0.1:0", endpoint.label, keys->ring(), {}};
        agent.kept = keys;
        // Its own end is simulated as well, and reached as by others.
        const auto own = std::make_shared<std::string>();
        probe::KeeperSettings keeper;
        keeper.own = [own, key = out->m_shared->settings.key] {
            return probe::EndpointLink::connect(*own, key);
        };
        auto schedules = probe::ScheduleKeeper::start(std::move(keeper));
        if (!schedules) return tl::unexpected(schedules.error());
        agent.schedules = std::move(*schedules);
        auto started =
            probe::Agent::start(agent, [shared = out->m_shared, id = endpoint.id](const probe::PeerFilter&) {
                return std::make_unique<SimulatedPerformer>(shared, id);
            });
        if (!started) return tl::unexpected(started.error());
        const probe::Address address = (*started)->address();
        *own = address.text(); // before anybody can have given it a schedule
        out->m_endpoints.push_back({endpoint.id, address.host(), address.port()});
        out->m_agents.push_back(std::move(*started));
    }
    return out;
}

SimulatedHouse::~SimulatedHouse() = default;

} // namespace metrodos::standin
