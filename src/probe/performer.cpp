#include "probe/performer.h"
#include "probe/counters.h"
#include "probe/delay_probe.h"
#include "probe/host_facts.h"
#include "probe/stream_set.h"

#include <algorithm>
#include <condition_variable>
#include <nlohmann/json.hpp>

namespace metrodos::probe {
namespace {

using Clock = std::chrono::steady_clock;
using nlohmann::json;
using quantity::problem;

constexpr std::chrono::seconds connectLimit{5};
constexpr std::chrono::milliseconds idleSpan{500};
constexpr std::chrono::milliseconds tail{200}; // for the last bytes in flight

double secondsBetween(Clock::time_point a, Clock::time_point b) {
    return std::chrono::duration<double>(b - a).count();
}

// The sum over the streams; the round-trip time is their mean.
struct SenderFigures {
    double rttUs = 0;
    double windowBytes = 0;
    std::uint64_t retransmits = 0;
    double busyUs = 0;
    double receiverLimitedUs = 0;
    double bufferLimitedUs = 0;
};

std::optional<SenderFigures> senderFigures(const std::vector<Fd>& sockets) {
    SenderFigures sum;
    for (const Fd& fd : sockets) {
        const auto one = tcpFigures(fd.get());
        if (!one) return std::nullopt;
        sum.rttUs += one->rttUs / static_cast<double>(sockets.size());
        sum.windowBytes += one->windowBytes;
        sum.retransmits += one->retransmits;
        sum.busyUs += static_cast<double>(one->busyUs);
        sum.receiverLimitedUs += static_cast<double>(one->receiverLimitedUs);
        sum.bufferLimitedUs += static_cast<double>(one->bufferLimitedUs);
    }
    return sum;
}

class LocalPerformer final : public Performer {
  public:
    LocalPerformer(std::string name, PeerFilter allowed)
        : m_name(std::move(name))
        , m_allowed(std::move(allowed)) {}
    ~LocalPerformer() override { LocalPerformer::cancel(); }

    bool simulated() const override { return false; }
    json facts() override { return hostFacts(m_name); }

    quantity::Result<DataTarget> prepare(const RunTask& task, const std::string& host) override {
        cancel();
        auto port = DataPort::open(host, task.streams, m_allowed);
        if (!port) return tl::unexpected(port.error());
        begin(task);
        const DataTarget target{host, port->port(), port->token()};
        m_thread = std::thread([this, port = std::make_shared<DataPort>(std::move(*port))] {
            auto sockets = port->accept(connectLimit * 2, m_stop);
            if (sockets) {
                m_echo.emplace(std::move(sockets->delay));
                m_streams.emplace(std::move(sockets->streams), m_task.role == Role::send,
                                  m_task.maximumBytes);
            } else {
                m_problem = sockets.error();
            }
            if (waitForStart()) perform();
        });
        return target;
    }

    quantity::Result<void> join(const RunTask& task, const DataTarget& target) override {
        cancel();
        auto sockets = joinDataPort(target, task.streams, task.bind, connectLimit);
        if (!sockets) return tl::unexpected(sockets.error());
        begin(task);
        m_probe.emplace(std::move(sockets->delay));
        m_streams.emplace(std::move(sockets->streams), task.role == Role::send, task.maximumBytes);
        m_thread = std::thread([this] {
            if (waitForStart()) perform();
        });
        return {};
    }

    std::optional<benchmark::Percentiles> idleDelay() override {
        if (!m_probe) return std::nullopt;
        m_probe->mark();
        pause(Clock::now() + idleSpan);
        auto result = m_probe->percentiles();
        m_probe->mark();
        return result;
    }

    quantity::Result<void> start(Emit emit) override {
        const std::lock_guard lock(m_mutex);
        if (!m_thread.joinable() || m_started) return problem("no run is waiting to start");
        m_emit = std::move(emit);
        m_started = true;
        m_changed.notify_all();
        return {};
    }

    void cancel() override {
        {
            const std::lock_guard lock(m_mutex);
            m_stop = true;
            m_changed.notify_all();
        }
        if (m_thread.joinable()) m_thread.join();
        m_streams.reset();
        m_probe.reset();
        m_echo.reset();
    }

  private:
    void begin(const RunTask& task) {
        m_task = task;
        m_stop = false;
        m_started = false;
        m_problem.reset();
    }

    // False when the run was cancelled first.
    bool waitForStart() {
        std::unique_lock lock(m_mutex);
        m_changed.wait(lock, [&] { return m_started || m_stop.load(); });
        return !m_stop;
    }

    // Sleeps until `until`; false when cancelled.
    bool pause(Clock::time_point until) {
        std::unique_lock lock(m_mutex);
        return !m_changed.wait_until(lock, until, [&] { return m_stop.load(); });
    }

    void perform() {
        if (m_problem) {
            json message = problemMessage(*m_problem);
            message["run"] = m_task.run;
            (void)m_emit(message);
            return;
        }
        const bool sending = m_task.role == Role::send;
        m_interface = interfaceOf(localAddress(m_streams->sockets().front().get()));
        const auto countedBefore = interfaceBytes(m_interface, sending);
        CpuMeter cpu;
        (void)cpu.busiestCore();
        if (m_probe) m_probe->mark();
        m_streams->start();
        if (!sending && !waitForData()) {
            if (m_stop) return;
            (void)m_emit({{"type", "problem"},
                          {"run", m_task.run},
                          {"what", "no byte arrived"},
                          {"where", m_name},
                          {"advice", "check the link between the two machines"}});
            return;
        }
        const auto start = Clock::now();
        auto last = start;
        std::uint64_t lastBytes = 0; // bytes before `start` belong to the first sample
        double cpuSum = 0;
        int cpuCount = 0;
        const int count = benchmark::sampleCount(m_task.seconds);
        for (int n = 1; n <= count; ++n) {
            const auto due = start + std::chrono::duration_cast<Clock::duration>(
                                         std::chrono::duration<double>(n * benchmark::sampleSeconds));
            if (!pause(due)) break;
            const auto now = Clock::now();
            const std::uint64_t bytes = m_streams->bytes();
            const bool ended = m_streams->ended();
            json sample{
                {"type", "sample"}, {"run", m_task.run}, {"n", n}, {"t_s", secondsBetween(start, now)}};
            if (!sending)
                sample["goodput_bps"] =
                    static_cast<double>(bytes - lastBytes) * 8 / secondsBetween(last, now);
            else if (const auto f = senderFigures(m_streams->sockets()))
                sample.update({{"tcp_rtt_us", f->rttUs},
                               {"window_bytes", f->windowBytes},
                               {"retransmits", f->retransmits}});
            if (const auto share = cpu.busiestCore()) {
                sample["cpu"] = *share;
                cpuSum += *share;
                ++cpuCount;
            }
            if (m_probe)
                if (const auto rtt = m_probe->takeMedian()) sample["rtt_us"] = *rtt;
            last = now;
            lastBytes = bytes;
            if (!m_emit(sample)) break;
            if (ended) break;
        }
        if (m_stop) return; // who stopped it does not wait for the end
        json finished{{"type", "finished"},
                      {"run", m_task.run},
                      {"seconds", secondsBetween(start, last)},
                      {"bytes", m_streams->bytes()}};
        if (cpuCount > 0) finished["cpu"] = cpuSum / cpuCount;
        if (sending) addSenderFigures(finished);
        if (m_probe)
            if (const auto p = m_probe->percentiles())
                finished["rtt_loaded_us"] = {{"p50", p->p50}, {"p95", p->p95}};
        m_streams->stop(false);
        const auto countedAfter = interfaceBytes(m_interface, sending);
        if (countedBefore && countedAfter)
            finished["interface"] = {{"name", m_interface}, {"bytes", *countedAfter - *countedBefore}};
        (void)m_emit(finished);
        if (sending) pause(Clock::now() + tail);
    }

    bool waitForData() {
        const auto end = Clock::now() + connectLimit;
        while (!m_stop && Clock::now() < end)
            if (m_streams->waitForFirstByte(std::chrono::milliseconds(50))) return true;
        return false;
    }

    void addSenderFigures(json& finished) const {
        const auto f = senderFigures(m_streams->sockets());
        if (!f) return;
        finished["retransmits"] = f->retransmits;
        if (f->busyUs <= 0) return;
        const double receiver = std::clamp(f->receiverLimitedUs / f->busyUs, 0.0, 1.0);
        const double buffer = std::clamp(f->bufferLimitedUs / f->busyUs, 0.0, 1.0 - receiver);
        finished["sender_limited"] = {
            {"network", 1 - receiver - buffer}, {"receiver_window", receiver}, {"send_buffer", buffer}};
    }

    std::string m_name;
    PeerFilter m_allowed;
    RunTask m_task;
    std::string m_interface;
    std::optional<StreamSet> m_streams;
    std::optional<DelayProbe> m_probe;
    std::optional<DelayEcho> m_echo;
    std::optional<quantity::Problem> m_problem;
    Emit m_emit;
    std::mutex m_mutex;
    std::condition_variable m_changed;
    bool m_started = false;
    std::atomic<bool> m_stop{false};
    std::thread m_thread;
};

} // namespace

std::unique_ptr<Performer> makePerformer(const std::string& name, PeerFilter allowed) {
    return std::make_unique<LocalPerformer>(name, std::move(allowed));
}

} // namespace metrodos::probe
