#include "standin/simulated_house.h"

#include "benchmark/statistics.h"
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

/// One run between two simulated endpoints; both performers read the same tenths of seconds from it.
class SharedRun {
  public:
    SharedRun(RouteTruth truth, int streams, std::uint64_t seed)
        : m_model(std::move(truth), streams, seed) {}

    FlowModel::Tenth tenth(std::size_t n) { // from 1
        const std::lock_guard lock(m_mutex);
        while (m_tenths.size() < n)
            m_tenths.push_back(m_model.next());
        return m_tenths[n - 1];
    }
    benchmark::Percentiles idle() {
        const std::lock_guard lock(m_mutex);
        std::vector<double> times;
        for (int i = 0; i < 25; ++i)
            times.push_back(m_model.idleRttUs());
        return {benchmark::quantile(times, 0.5), benchmark::quantile(times, 0.95)};
    }
    benchmark::SenderLimited limited() {
        const std::lock_guard lock(m_mutex);
        return m_model.limited();
    }

  private:
    std::mutex m_mutex;
    FlowModel m_model;
    std::vector<FlowModel::Tenth> m_tenths;
};

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
    std::map<probe::Token, Meeting> meetings;
    std::uint64_t runs = 0;
    std::uint16_t port = 1; // said as the data port; nothing listens there
};

namespace {

class SimulatedPerformer final : public probe::Performer {
  public:
    SimulatedPerformer(std::shared_ptr<SimulatedHouse::Shared> shared, house::Id endpoint)
        : m_shared(std::move(shared))
        , m_endpoint(std::move(endpoint)) {}
    ~SimulatedPerformer() override { SimulatedPerformer::cancel(); }

    bool simulated() const override { return true; }

    json facts() override {
        json ports = json::array();
        const auto house = m_shared->settings.house();
        const house::Endpoint* endpoint = house ? house->endpoint(m_endpoint) : nullptr;
        const house::Device* device = endpoint == nullptr ? nullptr : house->device(endpoint->device);
        if (device != nullptr)
            for (const house::Port& port : device->ports) {
                const catalog::Phy* phy = m_shared->settings.catalog.phy(port.phy);
                if (port.kind != house::PortKind::ethernet) continue;
                ports.push_back({{"name", port.id},
                                 {"up", true},
                                 {"rate_bps", phy == nullptr ? json(nullptr) : json(phy->rate.bps())},
                                 {"duplex", "full"},
                                 {"radio", false},
                                 {"driver", "simulated"},
                                 {"addresses", json::array()},
                                 {"bus", {{"kind", nullptr}, {"rate_bps", nullptr}, {"lanes", nullptr}}}});
            }
        return {{"name", device == nullptr ? m_endpoint : device->label},
                {"simulated", true},
                {"kernel", "simulated"},
                {"cpu", {{"model", "simulated"}, {"cores", 1}}},
                {"ports", std::move(ports)}};
    }

    Result<DataTarget> prepare(const RunTask& task, const std::string& host) override {
        cancel();
        DataTarget target{host, m_shared->port, {}};
        RAND_bytes(target.token.data(), static_cast<int>(target.token.size()));
        const std::lock_guard lock(m_shared->mutex);
        if (m_shared->meetings.size() > 64) m_shared->meetings.clear(); // runs that nobody joined
        m_shared->meetings[target.token] = {m_endpoint, task, nullptr};
        begin(task, target.token, false);
        return target;
    }

    Result<void> join(const RunTask& task, const DataTarget& target) override {
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
        auto truth = truthOf(*house, m_shared->settings.catalog, route, direction, m_shared->settings.seed);
        if (!truth) return tl::unexpected(truth.error());
        meeting->second.run = std::make_shared<SharedRun>(
            std::move(*truth), task.streams, m_shared->settings.seed * 1000003 + ++m_shared->runs);
        begin(task, target.token, true);
        return {};
    }

    std::optional<benchmark::Percentiles> idleDelay() override {
        const auto run = meet();
        return run ? std::optional(run->idle()) : std::nullopt;
    }

    Result<void> start(probe::Emit emit) override {
        auto run = meet();
        if (!run || m_thread.joinable()) return problem("no run is waiting to start", m_endpoint);
        m_thread = std::thread([this, run = std::move(run), emit = std::move(emit)] { perform(*run, emit); });
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
        const auto count = static_cast<std::size_t>(benchmark::sampleCount(m_task.seconds));
        const auto start = std::chrono::steady_clock::now();
        double bytes = 0;
        double cpu = 0;
        std::vector<double> rtts;
        FlowModel::Tenth tenth;
        std::size_t n = 0;
        while (n < count && (m_task.maximumBytes == 0 || bytes < static_cast<double>(m_task.maximumBytes))) {
            ++n;
            const auto due = start + std::chrono::milliseconds(100 * static_cast<std::int64_t>(n));
            if (!pause(m_shared->settings.realTime ? due : start)) return;
            tenth = run.tenth(n);
            bytes += tenth.goodputBps * benchmark::sampleSeconds / 8;
            cpu += sending ? tenth.senderCpu : tenth.receiverCpu;
            rtts.push_back(tenth.rttUs);
            json sample{{"type", "sample"},
                        {"run", m_task.run},
                        {"n", n},
                        {"t_s", static_cast<double>(n) * benchmark::sampleSeconds},
                        {"cpu", sending ? tenth.senderCpu : tenth.receiverCpu}};
            if (sending)
                sample.update({{"tcp_rtt_us", tenth.rttUs},
                               {"window_bytes", tenth.windowBytes},
                               {"retransmits", tenth.retransmits}});
            else
                sample["goodput_bps"] = tenth.goodputBps;
            if (m_joined) sample["rtt_us"] = tenth.rttUs;
            if (!emit(sample)) return;
        }
        json finished{{"type", "finished"},
                      {"run", m_task.run},
                      {"seconds", static_cast<double>(n) * benchmark::sampleSeconds},
                      {"bytes", bytes},
                      {"cpu", cpu / static_cast<double>(n)},
                      {"interface", {{"name", "simulated"}, {"bytes", countedBytes(bytes)}}}};
        if (sending) {
            const benchmark::SenderLimited limited = run.limited();
            finished["retransmits"] = tenth.retransmits;
            finished["sender_limited"] = {{"network", limited.network},
                                          {"receiver_window", limited.receiverWindow},
                                          {"send_buffer", limited.sendBuffer}};
        }
        if (m_joined && rtts.size() >= 3)
            finished["rtt_loaded_us"] = {{"p50", benchmark::quantile(rtts, 0.5)},
                                         {"p95", benchmark::quantile(rtts, 0.95)}};
        (void)emit(finished);
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
        const probe::AgentSettings agent{"127.0.0.1:0", endpoint.label, out->m_shared->settings.key, {}};
        auto started =
            probe::Agent::start(agent, [shared = out->m_shared, id = endpoint.id](const probe::PeerFilter&) {
                return std::make_unique<SimulatedPerformer>(shared, id);
            });
        if (!started) return tl::unexpected(started.error());
        const probe::Address address = (*started)->address();
        out->m_endpoints.push_back({endpoint.id, address.host(), address.port()});
        out->m_agents.push_back(std::move(*started));
    }
    return out;
}

SimulatedHouse::~SimulatedHouse() = default;

} // namespace metrodos::standin
