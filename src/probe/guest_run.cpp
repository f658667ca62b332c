#include "probe/guest_run.h"

#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "probe/counters.h"
#include "probe/deadline.h"
#include "probe/key.h"
#include "probe/run_stamp.h"

#include <linux/sockios.h>
#include <sys/ioctl.h>

#include <algorithm>
#include <string_view>
#include <thread>

namespace metrodos::probe {
namespace {

using benchmark::Run;
using quantity::problem;
using quantity::Result;
using Clock = std::chrono::steady_clock;

constexpr std::chrono::seconds takeUp{10}; // until the device has opened its streams

// Leads one run through its parts: until the device has opened its streams, its samples, its last figures.
class GuestConduct {
  public:
    GuestConduct(GuestRun& mine, const RunObserver& observer, const std::stop_token& stop)
        : m_mine(mine)
        , m_observer(observer)
        , m_stop(stop) {
        m_run.id = newRunId();
        m_run.startedAt = utcNow();
        m_run.config = mine.config;
    }

    // The device takes the order, sends its small requests for a while, and opens its streams.
    Result<void> awaitStreams() {
        const Deadline patience(takeUp);
        while (open() < m_run.config.streams) {
            if (isStopped()) return problem("the run was stopped before it began", "", "start it again");
            if (patience.isOver())
                return problem("the device did not open its streams", "",
                               "keep the page in front on the device and try again");
            std::this_thread::sleep_for(std::chrono::milliseconds(2));
        }
        const std::lock_guard lock(m_mine.mutex);
        m_run.rttIdleUs = percentiles(m_mine.pingsUs);
        m_mine.pingsUs.clear();
        m_interface = interfaceOf(localAddress(m_mine.streams.front().fd));
        return {};
    }

    void takeSamples() {
        (void)m_cpu.busiestCore();
        m_processBefore = processSeconds();
        m_interfaceBefore = readInterface(m_interface, m_mine.sends());
        if (m_observer.started) m_observer.started(m_run);
        m_mine.go = true;
        const Deadline firstBy(takeUp); // from the first byte on
        while (m_mine.moved() == 0 && !isStopped() && !firstBy.isOver())
            std::this_thread::sleep_for(std::chrono::microseconds(300));
        m_begin = m_moving = Clock::now();
        m_moved = m_mine.moved();
        const auto step = std::chrono::duration_cast<Clock::duration>(
            std::chrono::duration<double>(benchmark::sampleSeconds));
        const int wanted = benchmark::sampleCount(m_run.config.seconds);
        for (int n = 1; n <= wanted; ++n) {
            const Deadline due(m_begin + step * n);
            while (!due.isOver() && !isStopped())
                std::this_thread::sleep_until(due.endOf(std::chrono::milliseconds(20)));
            if (!isStopped()) takeSample();
            // Stopped, or the device has gone to sleep or left the network.
            if (isStopped() || Clock::now() - m_moving > maxSilence) {
                m_run.complete = false;
                break;
            }
        }
        m_seconds = std::chrono::duration<double>(Clock::now() - m_begin).count();
    }

    // The streams close by themselves; their last figures are wanted. `medium`: what the device says of its
    // own side.
    Result<Run> finish(const std::string& medium) {
        const Deadline gone(std::chrono::milliseconds(150));
        while (open() > 0 && !gone.isOver())
            std::this_thread::sleep_for(std::chrono::milliseconds(2));
        if (m_run.samples.empty())
            return problem("nothing was carried", "", "keep the page in front on the device and try again");
        m_run.seconds = m_run.samples.back().t;
        takeLastFigures();
        const bool sends = m_mine.sends();
        (sends ? m_run.cpuSender : m_run.cpuReceiver) = m_busiest;
        (sends ? m_run.cpuProcessSender : m_run.cpuProcessReceiver) =
            (processSeconds() - m_processBefore) / std::max(m_seconds, 0.1);
        const auto after = readInterface(m_interface, sends);
        if (m_interfaceBefore && after)
            (sends ? m_run.interfaceSender : m_run.interfaceReceiver) = benchmark::InterfaceCount{
                m_interface, after->bytes - m_interfaceBefore->bytes,
                after->errors - m_interfaceBefore->errors, isRadio(m_interface), hasCable()};
        // Over radio the run tells of the air (bytes: what was moved).
        if (medium == "radio")
            (sends ? m_run.interfaceReceiver : m_run.interfaceSender) =
                benchmark::InterfaceCount{"the device", m_mine.moved(), {}, true};
        benchmark::finish(m_run);
        return m_run;
    }

  private:
    static constexpr std::chrono::seconds maxSilence{5};

    [[nodiscard]] bool isStopped() const { return m_stop.stop_requested() || m_mine.stopped.load(); }
    [[nodiscard]] int open() const {
        const std::lock_guard lock(m_mine.mutex);
        return static_cast<int>(std::count_if(m_mine.streams.begin(), m_mine.streams.end(),
                                              [](const GuestRun::Stream& s) { return s.fd >= 0; }));
    }
    static std::optional<benchmark::Percentiles> percentiles(const std::vector<double>& us) {
        if (us.size() < 3) return std::nullopt;
        return benchmark::Percentiles{benchmark::quantile(us, 0.5), benchmark::quantile(us, 0.95),
                                      benchmark::quantile(us, 0.99), *std::max_element(us.begin(), us.end())};
    }

    void takeSample() {
        benchmark::Sample s;
        s.t = std::chrono::duration<double>(Clock::now() - m_begin).count();
        const std::uint64_t now = m_mine.moved();
        const double last = m_run.samples.empty() ? 0 : m_run.samples.back().t;
        s.goodputBps = static_cast<double>(now - std::min(now, m_moved)) * 8 / (s.t - last);
        if (now > m_moved) m_moving = Clock::now();
        m_moved = now;
        addKernelFigures(s);
        const auto core = m_cpu.busiestCore();
        (m_mine.sends() ? s.cpuSender : s.cpuReceiver) = core;
        m_busiest = std::max(m_busiest, core.value_or(0));
        m_run.samples.push_back(s);
        if (m_observer.sample) m_observer.sample(s);
    }

    // Of the sockets that send, and of the small requests since the sample before.
    void addKernelFigures(benchmark::Sample& s) {
        const std::lock_guard lock(m_mine.mutex);
        double rtt = 0;
        double window = 0;
        std::uint64_t again = m_mine.retransmits;
        int counted = 0;
        for (const GuestRun::Stream& one : m_mine.streams)
            if (const auto tcp = one.fd >= 0 ? tcpFigures(one.fd) : std::nullopt) {
                rtt += tcp->rttUs;
                window += tcp->windowBytes;
                again += tcp->retransmits;
                ++counted;
            }
        if (m_mine.sends() && counted > 0) {
            s.tcpRttUs = rtt / counted;
            s.windowBytes = window;
            s.retransmits = again;
        }
        if (m_mine.pingsUs.size() > m_pingsSeen) {
            const std::vector<double> fresh(m_mine.pingsUs.begin() + static_cast<std::ptrdiff_t>(m_pingsSeen),
                                            m_mine.pingsUs.end());
            s.rttUs = benchmark::quantile(fresh, 0.5);
            m_pingsSeen = m_mine.pingsUs.size();
        }
    }

    void takeLastFigures() {
        const std::lock_guard lock(m_mine.mutex);
        m_run.rttLoadedUs = percentiles(m_mine.pingsUs);
        if (!m_mine.sends()) return;
        m_run.retransmits = m_mine.retransmits;
        if (m_mine.busyUs <= 0) return;
        const double receiver = std::min(m_mine.receiverUs / m_mine.busyUs, 1.0);
        const double buffer = std::min(m_mine.bufferUs / m_mine.busyUs, 1.0 - receiver);
        m_run.senderLimited = benchmark::SenderLimited{1 - receiver - buffer, receiver, buffer};
    }

    GuestRun& m_mine;
    const RunObserver& m_observer;
    const std::stop_token& m_stop;
    Run m_run;
    CpuMeter m_cpu;
    double m_busiest = 0;
    double m_processBefore = 0;
    double m_seconds = 0;
    std::string m_interface;
    std::optional<InterfaceReading> m_interfaceBefore;
    Clock::time_point m_begin;
    Clock::time_point m_moving; ///< when something last moved
    std::uint64_t m_moved = 0;
    std::size_t m_pingsSeen = 0;
};

} // namespace

std::string randomToken() {
    return randomLetters(32); // 160 bits
}

std::uint64_t GuestRun::moved() {
    const std::lock_guard lock(mutex);
    std::uint64_t out = 0;
    for (Stream& s : streams) {
        if (s.fd >= 0) s.acknowledged = bytesOf(s);
        out += s.acknowledged;
    }
    return out;
}
std::uint64_t GuestRun::bytesOf(const Stream& s) const {
    const std::uint64_t handed = s.bytes.load();
    if (!sends()) return handed;
    int queued = 0;
    if (::ioctl(s.fd, SIOCOUTQ, &queued) != 0) return s.acknowledged;
    return handed - std::min<std::uint64_t>(handed, static_cast<std::uint64_t>(std::max(queued, 0)));
}
void GuestRun::close(Stream& s) {
    const std::lock_guard lock(mutex);
    s.acknowledged = bytesOf(s);
    if (const auto tcp = tcpFigures(s.fd)) {
        retransmits += tcp->retransmits;
        busyUs += static_cast<double>(tcp->busyUs);
        receiverUs += static_cast<double>(tcp->receiverLimitedUs);
        bufferUs += static_cast<double>(tcp->bufferLimitedUs);
    }
    s.fd = -1;
}

Result<Run> leadGuestRun(GuestRun& run, const RunObserver& observer, const std::stop_token& stop, Gate& gate,
                         const std::function<std::string()>& medium) {
    GuestConduct conduct(run, observer, stop);
    auto begun = conduct.awaitStreams();
    // Where the other of the group could not be opened, this one has nothing to measure.
    if (begun && !gate.pass()) begun = problem("the run was stopped before it began", "", "start it again");
    if (begun) conduct.takeSamples();
    run.over = true;
    run.go = true; // what waits for its beginning sees that it is over
    if (!begun) return tl::unexpected(begun.error());
    return conduct.finish(medium());
}

} // namespace metrodos::probe
