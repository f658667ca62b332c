#include "probe/service_test.h"

#include "benchmark/delay_statistics.h"
#include "benchmark/summary.h"
#include "probe/counters.h"
#include "probe/deadline.h"
#include "probe/run_stamp.h"
#include "probe/web_client.h"
#include "quantity/text.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <linux/sockios.h>
#include <mutex>
#include <sys/ioctl.h>
#include <sys/socket.h>
#include <thread>

namespace metrodos::probe {
namespace {

using Clock = std::chrono::steady_clock;
using quantity::problem;
using quantity::Result;

constexpr std::chrono::milliseconds beat{100}; // between two small requests
constexpr int idleRequests = 5;
constexpr int maxTurns = 5; // of redirections
constexpr int uploadBuffer = 128 * 1024;
constexpr std::size_t uploadPiece = 32 * 1024;
constexpr const char* uploadType = "application/octet-stream";
constexpr std::size_t uploadRequest = 256UL * 1024 * 1024; // then the next request begins

// What the kernel still holds of an upload: written, but not acknowledged by the server.
std::uint64_t waiting(int fd) {
    int bytes = 0;
    return fd >= 0 && ::ioctl(fd, SIOCOUTQ, &bytes) == 0 && bytes > 0 ? static_cast<std::uint64_t>(bytes) : 0;
}

class Test {
  public:
    Test(ServiceTestConfig config, const RunObserver& observer, const std::stop_token& stop)
        : m_config(std::move(config))
        , m_observer(observer)
        , m_stop(stop) {
        m_run.id = newRunId();
        m_run.config = m_config.run;
        m_run.startedAt = utcNow();
    }

    Result<benchmark::Run> perform() {
        auto place = webPlace(m_config.url);
        if (!place) return tl::unexpected(place.error());
        m_place = std::move(*place);
        const std::stop_callback wake(m_stop, [this] { m_watch.end(); });
        const auto ready = begin();
        if (m_stop.stop_requested()) return stopped();
        if (!ready) return tl::unexpected(ready.error());
        if (m_observer.started) m_observer.started(m_run);
        std::vector<std::atomic<std::uint64_t>> bytes(static_cast<std::size_t>(m_config.run.streams));
        for (std::size_t i = 0; i < bytes.size(); ++i)
            m_clients.push_back(webClient(m_place, m_config.run, m_watch));
        const double processBefore = processSeconds();
        m_start = Clock::now();
        {
            std::vector<std::jthread> threads;
            for (std::size_t i = 0; i < bytes.size(); ++i)
                threads.emplace_back([this, &bytes, i] { load(*m_clients[i], bytes[i]); });
            threads.emplace_back([this] { askLoaded(); });
            sampleAll(bytes);
            m_done = true;
            m_run.complete = !m_stop.stop_requested() && !m_problem;
            for (const auto& client : m_clients)
                client->stop(); // wakes a thread that waits in the kernel
            m_delayClient->stop();
            m_watch.end();
        }
        if (m_watch.sawTooMuch()) return tooMuch();
        if (m_problem) return tl::unexpected(*m_problem);
        m_run.seconds = m_run.samples.empty() ? 0 : m_run.samples.back().t;
        const double cores = m_run.seconds > 0 ? (processSeconds() - processBefore) / m_run.seconds : 0;
        (m_config.down ? m_run.cpuProcessReceiver : m_run.cpuProcessSender) = cores;
        m_run.rttLoadedUs = m_delay.percentiles();
        m_run.spikes = m_delay.spikes();
        m_run.delayLost = m_delay.lost();
        benchmark::finish(m_run);
        return std::move(m_run);
    }

  private:
    // Before anything was moved.
    Result<benchmark::Run> stopped() {
        m_run.complete = false;
        benchmark::finish(m_run);
        return std::move(m_run);
    }
    double sinceStart() const { return std::chrono::duration<double>(Clock::now() - m_start).count(); }
    bool ending() const { return m_done.load() || m_stop.stop_requested(); }

    // In µs; nothing when it failed.
    std::optional<double> ask(httplib::Result* answer = nullptr) {
        m_watch.asks(m_delayClient.get());
        const auto before = Clock::now();
        auto result = m_delayClient->Head(m_place.path);
        const double us = std::chrono::duration<double, std::micro>(Clock::now() - before).count();
        const bool good = result && result->status < 300;
        if (answer != nullptr) *answer = std::move(result);
        return good ? std::optional(us) : std::nullopt;
    }

    static bool sendsOn(const httplib::Result& answer) {
        return answer && answer->status >= 300 && answer->status < 400 && answer->has_header("Location");
    }
    tl::unexpected<quantity::Problem> tooMuch() const {
        return problem("the server sends more before its answer than an answer has", m_place.text(),
                       "choose another address to load from");
    }

    // Follows the server to where the bytes come from, once: all connections of the test go there.
    Result<void> begin() {
        for (int turn = 0; turn <= maxTurns; ++turn) {
            m_delayClient = webClient(m_place, m_config.run, m_watch);
            std::string location;
            if (auto asked = askIdle(location); !asked) return asked;
            if (location.empty()) return {};
            auto next = sentOnTo(m_place, location);
            if (!next) return tl::unexpected(next.error());
            m_place = std::move(*next);
            m_run.redirectedTo =
                quantity::cutTo(quantity::oneLine(m_place.text()), benchmark::maxAddressBytes);
        }
        return problem("the server sends on again and again", m_config.url,
                       "give the address that the bytes come from");
    }

    Result<void> askIdle(std::string& location) {
        benchmark::DelayStatistics idle;
        for (int i = 0; i <= idleRequests && !m_stop.stop_requested(); ++i) {
            httplib::Result answer(nullptr, httplib::Error::Unknown);
            const auto us = ask(&answer);
            if (m_watch.sawTooMuch()) return tooMuch();
            if (!answer)
                return problem("the server does not answer: " + httplib::to_string(answer.error()),
                               m_place.server, "check the address and whether the service is up");
            if (sendsOn(answer)) {
                location = answer->get_header_value("Location");
                return {};
            }
            if (!us)
                return problem("the server refuses with " + std::to_string(answer->status),
                               m_place.server + m_place.path, "check the path of the address");
            m_run.simulated = answer->has_header(simulatedHeader);
            if (i > 0) idle.add(0, *us); // the first has opened the connection
        }
        m_run.rttIdleUs = idle.percentiles();
        return m_config.down ? Result<void>{} : askUpload();
    }

    // Some servers say only after all of an upload that they do not want it: a small one first.
    Result<void> askUpload() {
        m_watch.asks(m_delayClient.get());
        const auto answer = m_delayClient->Post(m_place.path, std::string(1024, '.'), uploadType);
        if (m_watch.sawTooMuch()) return tooMuch();
        if (!answer || answer->status >= 300)
            return problem("the server refuses uploads" +
                               (answer ? " with " + std::to_string(answer->status) : std::string()),
                           m_config.url, "choose an address that takes uploads");
        return {};
    }

    void askLoaded() {
        while (!ending()) {
            const Deadline next(beat);
            const auto us = ask();
            {
                const std::lock_guard lock(m_mutex);
                if (us)
                    m_delay.add(sinceStart(), *us);
                else if (!ending())
                    m_delay.lose();
            }
            while (!ending() && !next.isOver())
                std::this_thread::sleep_until(next.endOf(std::chrono::milliseconds(10)));
        }
    }

    // One connection: a request after the other until the time is over.
    void load(httplib::Client& client, std::atomic<std::uint64_t>& bytes) {
        std::array<char, uploadPiece> piece{};
        for (std::size_t i = 0; i < piece.size(); ++i) // so that nothing on the way can shrink it
            piece[i] = static_cast<char>((i * 2654435761U) >> 13);
        int fd = -1;
        if (!m_config.down)
            client.set_socket_options([&fd, this, key = &client](socket_t opened) {
                httplib::default_socket_options(opened);
                m_watch.opened(key, opened);
                fd = opened;
                ::setsockopt(fd, SOL_SOCKET, SO_SNDBUF, &uploadBuffer, sizeof uploadBuffer);
            });
        std::uint64_t written = 0;
        while (!ending()) {
            const std::uint64_t before = bytes.load();
            m_watch.asks(&client);
            auto result =
                m_config.down
                    ? client.Get(m_place.path,
                                 [&](const char*, std::size_t n) {
                                     if (bytes.load() == before) m_watch.arrives(&client);
                                     bytes.fetch_add(n, std::memory_order_relaxed);
                                     return !ending();
                                 })
                    : client.Post(
                          m_place.path, uploadRequest,
                          [&](std::size_t, std::size_t left, httplib::DataSink& sink) {
                              const std::size_t n = std::min(left, piece.size());
                              if (ending() || !sink.write(piece.data(), n)) return false;
                              written += n;
                              const std::uint64_t arrived = written - std::min(written, waiting(fd));
                              bytes.store(std::max(arrived, bytes.load()), std::memory_order_relaxed);
                              return true;
                          },
                          uploadType);
            if (ending()) return;
            if (m_watch.sawTooMuch()) return;
            if (sendsOn(result))
                return give(problem("the server sends on to another address each time", m_place.text(),
                                    "give the address that the bytes come from"));
            if (result && result->status >= 400)
                return give(problem("the server refuses with " + std::to_string(result->status), m_config.url,
                                    m_config.down ? "check the path of the address"
                                                  : "choose an address that takes uploads"));
            // A download that broke is taken up again. An upload breaks when the server has had enough of it.
            if (!result && !m_config.down)
                return give(problem("the server breaks the upload off: " + httplib::to_string(result.error()),
                                    m_config.url, "choose an address that takes uploads"));
            if (!result && bytes.load() == before)
                return give(problem("the connection broke: " + httplib::to_string(result.error()),
                                    m_place.server, "check the link and start again"));
            if (result && m_config.down && bytes.load() == before)
                return give(problem("there is nothing to load at this address", m_config.url,
                                    "choose one with a large file"));
        }
    }

    void give(tl::unexpected<quantity::Problem> problem) {
        const std::lock_guard lock(m_mutex);
        if (!m_problem) m_problem = std::move(problem.value());
        m_done = true;
    }

    void sampleAll(const std::vector<std::atomic<std::uint64_t>>& bytes) {
        std::vector<std::uint64_t> last(bytes.size(), 0);
        CpuMeter cpu;
        (void)cpu.busiestCore();
        double lastT = 0;
        const int count = benchmark::sampleCount(m_config.run.seconds);
        for (int n = 1; n <= count; ++n) {
            const Deadline due(m_start + std::chrono::milliseconds(100) * n);
            while (!ending() && !due.isOver())
                std::this_thread::sleep_until(due.endOf(std::chrono::milliseconds(20)));
            if (ending()) return;
            benchmark::Sample s;
            s.t = sinceStart();
            for (std::size_t i = 0; i < bytes.size(); ++i) {
                const std::uint64_t now = bytes[i].load(std::memory_order_relaxed);
                const double bps = static_cast<double>(now - last[i]) * 8 / (s.t - lastT);
                last[i] = now;
                s.goodputBps += bps;
                if (bytes.size() > 1) s.streamBps.push_back(bps);
            }
            lastT = s.t;
            (m_config.down ? s.cpuReceiver : s.cpuSender) = cpu.busiestCore();
            {
                const std::lock_guard lock(m_mutex);
                s.rttUs = m_delay.takeMedian();
            }
            m_run.samples.push_back(s);
            if (m_observer.sample) m_observer.sample(m_run.samples.back());
        }
    }

    ServiceTestConfig m_config;
    const RunObserver& m_observer;
    const std::stop_token& m_stop;
    WebPlace m_place;
    AnswerWatch m_watch;
    std::unique_ptr<httplib::Client> m_delayClient;
    std::vector<std::unique_ptr<httplib::Client>> m_clients;
    std::mutex m_mutex; // of m_delay and m_problem
    benchmark::DelayStatistics m_delay;
    std::optional<quantity::Problem> m_problem;
    benchmark::Run m_run;
    Clock::time_point m_start;
    std::atomic<bool> m_done{false};
};

} // namespace

Result<benchmark::Run> testService(const ServiceTestConfig& config, const RunObserver& observer,
                                   const std::stop_token& stop) {
    return Test(config, observer, stop).perform();
}

} // namespace metrodos::probe
