#include "standin/simulated_service.h"

#include "probe/service_test.h"
#include "standin/truth.h"

#include <algorithm>
#include <atomic>
#include <httplib.h>
#include <map>
#include <mutex>
#include <thread>

namespace metrodos::standin {
namespace {

using Clock = std::chrono::steady_clock;
using quantity::problem;
using quantity::Result;

constexpr std::size_t pieceBytes = 16 * 1024;
constexpr std::size_t maxThreads = 40; // 32 streams and their delay
constexpr double burstSeconds = 0.02;

/// Lets bytes through at a rate, whoever asks.
class Pace {
  public:
    explicit Pace(double bps)
        : m_bytesPerSecond(bps / 8) {}
    /// Waits for its turn; false when told to stop.
    bool pass(std::size_t bytes, const std::atomic<bool>& stop) {
        Clock::time_point turn;
        {
            const std::lock_guard lock(m_mutex);
            const auto now = Clock::now();
            const auto burst =
                std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(burstSeconds));
            m_next = std::max(m_next, now - burst);
            turn = m_next;
            m_next += std::chrono::duration_cast<Clock::duration>(
                std::chrono::duration<double>(static_cast<double>(bytes) / m_bytesPerSecond));
        }
        while (Clock::now() < turn && !stop)
            std::this_thread::sleep_until(std::min(turn, Clock::now() + std::chrono::milliseconds(50)));
        return !stop;
    }

  private:
    double m_bytesPerSecond;
    std::mutex m_mutex;
    Clock::time_point m_next{};
};

} // namespace

struct SimulatedService::Server {
    SimulationSettings settings;
    httplib::Server http;
    int port = 0;
    std::thread thread;
    std::atomic<bool> stop{false};
    std::mutex mutex;
    std::map<std::string, std::shared_ptr<Pace>> paces; // by endpoint and direction
    std::string piece = std::string(pieceBytes, 'm');

    // Nothing when the house has no such route.
    std::shared_ptr<Pace> paceOf(const std::string& endpoint, bool down) {
        const auto house = settings.house();
        if (!house || !house->service || house->endpoint(endpoint) == nullptr) return nullptr;
        house::Route route;
        route.id = "service/" + endpoint;
        route.from = house->service->id;
        route.to = endpoint;
        const auto truth =
            truthOf(*house, settings.catalog, route,
                    down ? benchmark::Direction::forward : benchmark::Direction::backward, settings.seed);
        if (!truth) return nullptr;
        double least = 1e12;
        for (const ElementTruth& element : truth->elements)
            least = std::min(least, element.capacityBps);
        const std::lock_guard lock(mutex);
        // A house that was changed meanwhile has another rate.
        auto& pace = paces[endpoint + (down ? "<" : ">") + std::to_string(least)];
        if (!pace) pace = std::make_shared<Pace>(least);
        return pace;
    }

    void answer() {
        http.new_task_queue = [] { return new httplib::ThreadPool(maxThreads); };
        http.set_default_headers({{probe::simulatedHeader, "yes"}});
        http.set_keep_alive_max_count(1'000'000);
        http.set_payload_max_length(1UL << 40);
        http.set_tcp_nodelay(true);
        http.Get("/load/([a-z0-9-]{1,64})",
                 [this](const httplib::Request& request, httplib::Response& response) {
                     const auto pace = paceOf(request.matches[1], true);
                     if (!pace) {
                         response.status = 404;
                         return;
                     }
                     if (request.method == "HEAD") return;
                     response.set_chunked_content_provider(
                         "application/octet-stream", [this, pace](std::size_t, httplib::DataSink& sink) {
                             return pace->pass(piece.size(), stop) && sink.write(piece.data(), piece.size());
                         });
                 });
        http.Post("/load/([a-z0-9-]{1,64})",
                  [this](const httplib::Request& request, httplib::Response& response,
                         const httplib::ContentReader& reader) {
                      const auto pace = paceOf(request.matches[1], false);
                      if (!pace) {
                          response.status = 404;
                          return;
                      }
                      reader([&](const char*, std::size_t n) { return pace->pass(n, stop); });
                  });
    }
};

Result<std::unique_ptr<SimulatedService>> SimulatedService::start(SimulationSettings settings) {
    const auto house = settings.house();
    if (!house) return tl::unexpected(house.error());
    if (!house->service)
        return problem("the house has no internet service", "", "enter it where the house is surveyed");
    auto out = std::unique_ptr<SimulatedService>(new SimulatedService);
    out->m_server = std::make_unique<Server>();
    Server& server = *out->m_server;
    server.settings = std::move(settings);
    server.answer();
    server.port = server.http.bind_to_any_port("127.0.0.1");
    if (server.port <= 0) return problem("no port of this machine is free for the simulated service");
    server.thread = std::thread([&server] { server.http.listen_after_bind(); });
    // Before it listens it cannot be stopped.
    while (!server.http.is_running())
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    return out;
}

SimulatedService::~SimulatedService() {
    m_server->stop = true;
    m_server->http.stop();
    m_server->thread.join();
}

std::string SimulatedService::url() const {
    return "http://127.0.0.1:" + std::to_string(m_server->port) + "/load";
}

} // namespace metrodos::standin
