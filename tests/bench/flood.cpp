// A thousand strangers a second for a minute at an agent that has a run and a watch: what the run keeps of
// its rate, what the agent's memory does, and whether sixteen controllers in turn are served. Strangers are
// of three kinds: garbage, the true first words of a client with a wrong key, and silence.
#include "probe/watch.h"
#include "support/agents.h"
#include "support/paths.h"

#include <array>
#include <csignal>
#include <cstdio>
#include <fstream>
#include <string>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

namespace {

using namespace metrodos;
using namespace metrodos::testing;
using Clock = std::chrono::steady_clock;

constexpr int perSecond = 1000;
constexpr double calmSeconds = 20; // before and after
constexpr double floodSeconds = 60;
constexpr int controllers = 16;

// The agent as a process of its own: its memory is no one else's.
class AgentProcess {
  public:
    AgentProcess() {
        std::array<char, 32> name{"/tmp/metrodos-flood-XXXXXX"};
        folder = ::mkdtemp(name.data());
        (void)key.save(folder + "/key");
        std::array<int, 2> out{};
        if (::pipe(out.data()) != 0) std::abort();
        const std::string program = programPath("metrodos-agent");
        const std::string keyFile = folder + "/key";
        const std::string pairs = folder + "/pairs";
        pid = ::fork();
        if (pid == 0) {
            ::dup2(out[1], STDOUT_FILENO);
            ::execl(program.c_str(), program.c_str(), "--listen", "127.0.0.1:0", "--key-file",
                    keyFile.c_str(), "--pairs", pairs.c_str(), "--silent", nullptr);
            ::_exit(127);
        }
        ::close(out[1]);
        std::array<char, 500> line{};
        const auto n = ::read(out[0], line.data(), line.size() - 1);
        ::close(out[0]);
        const auto ready = nlohmann::json::parse(
            std::string(line.data(), static_cast<std::size_t>(std::max<ssize_t>(n, 0))));
        address = "127.0.0.1:" + std::to_string(ready.at("port").get<int>());
    }
    ~AgentProcess() {
        ::kill(pid, SIGTERM);
        ::waitpid(pid, nullptr, 0);
        std::filesystem::remove_all(folder);
    }
    [[nodiscard]] double residentMegabytes() const {
        std::ifstream status("/proc/" + std::to_string(pid) + "/status");
        for (std::string line; std::getline(status, line);)
            if (line.starts_with("VmRSS:")) return std::stod(line.substr(6)) / 1024;
        return 0;
    }

    std::string folder;
    Key key = Key::generate();
    pid_t pid = 0;
    std::string address;
};

// What a client with a wrong key says first.
std::vector<char> firstWords() {
    const Fd listener = listenOn(numericAddress("127.0.0.1", 0).value()).value();
    const Address there = localAddress(listener.get());
    std::thread client([&] {
        (void)TlsContext(Key::generate())
            .connect(connectTo(there, std::chrono::seconds(1)).value(), std::chrono::milliseconds(300));
    });
    const Fd peer(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
    std::vector<char> out(4096);
    out.resize(static_cast<std::size_t>(std::max<ssize_t>(::recv(peer.get(), out.data(), out.size(), 0), 0)));
    client.join();
    return out;
}

class Strangers {
  public:
    explicit Strangers(const std::string& address)
        : m_address(resolve(address).value())
        , m_words(firstWords())
        , m_thread([this](const std::stop_token& stop) { come(stop); }) {}
    [[nodiscard]] int count() const { return m_count; }

  private:
    void come(const std::stop_token& stop) {
        auto next = Clock::now();
        std::array<Fd, 256> silent;
        while (!stop.stop_requested()) {
            Fd fd(::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC | SOCK_NONBLOCK, 0));
            (void)::connect(fd.get(), reinterpret_cast<const sockaddr*>(&m_address.storage),
                            m_address.length);
            const int n = m_count++;
            if (n % 3 == 0) (void)!::send(fd.get(), "GET / HTTP/1.1\r\n\r\n", 18, MSG_NOSIGNAL);
            if (n % 3 == 1) (void)!::send(fd.get(), m_words.data(), m_words.size(), MSG_NOSIGNAL);
            resetOnClose(fd.get());
            // They stay for a quarter of a second.
            silent[static_cast<std::size_t>(n) % silent.size()] = std::move(fd);
            next += std::chrono::microseconds(1'000'000 / perSecond);
            std::this_thread::sleep_until(next);
        }
    }
    Address m_address;
    std::vector<char> m_words;
    std::atomic<int> m_count{0};
    std::jthread m_thread;
};

double rateOf(const AgentProcess& agent, double seconds, std::optional<quantity::BitRate> pace) {
    auto here = EndpointLink::here("here").value();
    auto there = EndpointLink::connect(agent.address, agent.key).value();
    benchmark::RunConfig config;
    config.seconds = seconds;
    config.rate = pace;
    return conduct(here, there, config, {}, {}).value().goodput.bps();
}

struct Served {
    int count = 0;
    double slowest = 0; // s
};

// One after the other, over so many seconds.
Served serveInTurn(const AgentProcess& agent, double seconds) {
    Served out;
    for (int i = 0; i < controllers; ++i) {
        std::this_thread::sleep_for(std::chrono::duration<double>(seconds / controllers * 0.9));
        const auto begun = Clock::now();
        auto link = EndpointLink::connect(agent.address, agent.key);
        if (link && link->facts()) ++out.count;
        out.slowest = std::max(out.slowest, std::chrono::duration<double>(Clock::now() - begun).count());
    }
    return out;
}

void flood(const char* what, std::optional<quantity::BitRate> pace) {
    const AgentProcess agent;
    std::stop_source watched;
    std::uint64_t dropouts = 0;
    std::thread watcher([&] {
        WatchConfig config;
        config.from = [](const std::stop_token&) { return EndpointLink::here("here"); };
        config.to = [&](const std::stop_token&) { return EndpointLink::connect(agent.address, agent.key); };
        config.run.protocol = benchmark::Protocol::udp;
        config.run.rate = quantity::BitRate::bitsPerSecond(1e6);
        config.run.seconds = 10;
        config.seconds = 2 * calmSeconds + floodSeconds + 30;
        if (const auto report = watch(config, {}, watched.get_token())) dropouts = report->dropOutCount;
    });
    const double before = rateOf(agent, calmSeconds, pace);
    const double memoryBefore = agent.residentMegabytes();
    double during = 0;
    double memoryBegin = 0;
    double memoryEnd = 0;
    Served served;
    int came = 0;
    {
        const Strangers strangers(agent.address);
        std::thread others([&] { served = serveInTurn(agent, floodSeconds); });
        std::thread looker([&] {
            std::this_thread::sleep_for(std::chrono::seconds(10));
            memoryBegin = agent.residentMegabytes();
        });
        during = rateOf(agent, floodSeconds, pace);
        looker.join();
        memoryEnd = agent.residentMegabytes();
        others.join();
        came = strangers.count();
    }
    const double after = rateOf(agent, calmSeconds, pace);
    watched.request_stop();
    watcher.join();
    std::printf("%s: %.0f Mbit/s before, %.0f during, %.0f after\n", what, before / 1e6, during / 1e6,
                after / 1e6);
    std::printf("%s beside %.0f strangers a second for a minute: keeps %.3f of its rate (wanted 0.9), "
                "%d of %d controllers served, the slowest in %.2f s; memory %.1f MB before, %.1f after ten "
                "seconds, %.1f at the end; the watch saw %llu drop-outs\n",
                what, came / floodSeconds, during / ((before + after) / 2), served.count, controllers,
                served.slowest, memoryBefore, memoryBegin, memoryEnd,
                static_cast<unsigned long long>(dropouts));
}

} // namespace

int main() {
    ignoreBrokenPipes();
    flood("a run paced at 940 Mbit/s", quantity::BitRate::bitsPerSecond(940e6));
    flood("a run as fast as loopback goes", std::nullopt);
}
