#include "probe/watch.h"

#include "probe/kernel_time.h"
#include "probe/run_stamp.h"
#include "probe/tolerances.h"

#include <algorithm>
#include <condition_variable>
#include <ctime>
#include <mutex>

namespace metrodos::probe {
namespace {

constexpr double minPiece = 1.0; // s: the rest of the time is not worth a run

// Seconds since the start on the clock that counts sleep, and whether there was any since the last call.
class SleepClock {
  public:
    [[nodiscard]] double now() const { return secondsOf(CLOCK_BOOTTIME) - m_start; }
    bool slept() {
        const double ahead = secondsOf(CLOCK_BOOTTIME) - secondsOf(CLOCK_MONOTONIC);
        const bool out = ahead - m_ahead > sleepNoticed;
        m_ahead = ahead;
        return out;
    }

  private:
    double m_start = secondsOf(CLOCK_BOOTTIME);
    double m_ahead = secondsOf(CLOCK_BOOTTIME) - secondsOf(CLOCK_MONOTONIC);
};

void pauseFor(double seconds, const std::stop_token& stop) {
    std::mutex mutex;
    std::condition_variable_any changed;
    std::unique_lock lock(mutex);
    (void)changed.wait_for(lock, stop, std::chrono::duration<double>(seconds), [] { return false; });
}

class Watching {
  public:
    Watching(const WatchConfig& config, const WatchObserver& observer, const std::stop_token& stop)
        : m_config(config)
        , m_observer(observer)
        , m_stop(stop)
        , m_watch(config.run.rate)
        , m_head{false, utcNow()} {}

    quantity::Result<benchmark::WatchReport> perform() {
        if (const auto opened = open(); !opened) return tl::unexpected(opened.error());
        m_head.simulated = m_from->simulated();
        while (!m_stop.stop_requested() && m_config.seconds - now() >= minPiece) {
            if (!m_from || !m_to) {
                if (const auto opened = open(); !opened) {
                    give(opened.error());
                    continue;
                }
            }
            piece();
        }
        m_watch.end(now());
        return report();
    }

  private:
    [[nodiscard]] benchmark::WatchReport report() const {
        return benchmark::reportOf(m_watch, m_head, m_config.run);
    }

    // Simulated ends may be faster than the clock.
    double now() const { return m_head.simulated ? m_simulated : m_clock.now(); }

    quantity::Result<void> open() {
        m_from.reset();
        m_to.reset();
        auto from = m_config.from(m_stop);
        if (!from) return tl::unexpected(from.error());
        auto to = m_config.to(m_stop);
        if (!to) return tl::unexpected(to.error());
        m_from.emplace(std::move(*from));
        m_to.emplace(std::move(*to));
        return {};
    }

    void give(const quantity::Problem& why) {
        m_from.reset();
        m_to.reset();
        if (m_clock.slept())
            m_watch.sleepUntil(now());
        else
            m_watch.lose(now(), why.sentence());
        if (m_observer.lost) m_observer.lost(now(), why);
        if (m_head.simulated) m_simulated += retryAfter;
        pauseFor(retryAfter, m_stop);
    }

    void piece() {
        benchmark::RunConfig run = m_config.run;
        run.seconds = std::min(run.seconds, m_config.seconds - now());
        double offset = now();
        RunObserver observer;
        observer.started = [&](const benchmark::Run&) {
            m_watch.pause();
            offset = now();
        };
        observer.sample = [&](const benchmark::Sample& sample) {
            if (m_clock.slept()) {
                // What came before the sleep was told; the run's own clock stood still meanwhile.
                m_watch.sleepUntil(now() - benchmark::sampleSeconds);
                offset = now() - sample.t;
            }
            m_watch.add(offset + sample.t, sample);
            if (m_observer.sample) m_observer.sample(offset + sample.t, sample);
        };
        const auto done = conduct(*m_from, *m_to, run, observer, m_stop);
        if (!done) return give(done.error());
        if (m_head.simulated) m_simulated += std::max(done->seconds, benchmark::minRun);
        if (m_observer.kept) m_observer.kept(report());
    }

    const WatchConfig& m_config;
    const WatchObserver& m_observer;
    const std::stop_token& m_stop;
    benchmark::Watch m_watch;
    benchmark::ReportHead m_head;
    SleepClock m_clock;
    double m_simulated = 0;
    std::optional<EndpointLink> m_from;
    std::optional<EndpointLink> m_to;
};

} // namespace

quantity::Result<benchmark::WatchReport> watch(const WatchConfig& config, const WatchObserver& observer,
                                               const std::stop_token& stop) {
    return Watching(config, observer, stop).perform();
}

} // namespace metrodos::probe
