// The engine against minimal loops that do nothing but move bytes, in turn within one run on loopback: rate
// and processor time, both directions at once, the pace of datagrams, the floor of the delay
// and of the jitter.
#include "benchmark/statistics.h"
#include "probe/counters.h"
#include "support/agents.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <functional>
#include <thread>

namespace {

using namespace metrodos;
using namespace metrodos::testing;
using benchmark::Direction;
using Clock = std::chrono::steady_clock;

constexpr double runSeconds = 3;
constexpr double warmup = 0.5;
constexpr int rounds = 5;

struct Moved {
    double bps = 0;
    double secondsPerGigabyte = 0; // processor time of both ends
};

void rest(double seconds) {
    std::this_thread::sleep_for(std::chrono::duration<double>(seconds));
}

// As plain as it gets: one thread a side and stream, blocking calls, counted at the receiver, whose kernel
// drops the payload (MSG_TRUNC).
class MinimalLoop {
  public:
    MinimalLoop(int streams, std::size_t buffer) {
        const Fd listener = listenOn(resolve("127.0.0.1:0").value()).value();
        const Address address = localAddress(listener.get());
        for (int i = 0; i < streams; ++i) {
            auto out = std::make_shared<Fd>(connectTo(address, std::chrono::seconds(2)).value());
            auto in = std::make_shared<Fd>(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
            m_threads.emplace_back([this, out, buffer] {
                const std::vector<char> data(buffer, 'x');
                while (!m_stop.load(std::memory_order_relaxed) &&
                       ::send(out->get(), data.data(), data.size(), MSG_NOSIGNAL) > 0) {
                }
                ::shutdown(out->get(), SHUT_WR);
            });
            m_threads.emplace_back([this, in, buffer] {
                std::vector<char> data(buffer);
                for (ssize_t n = 0; (n = ::recv(in->get(), data.data(), data.size(), MSG_TRUNC)) > 0;)
                    m_bytes.fetch_add(static_cast<std::uint64_t>(n), std::memory_order_relaxed);
            });
        }
    }
    ~MinimalLoop() {
        m_stop = true;
        for (std::thread& t : m_threads)
            t.join();
    }
    [[nodiscard]] std::uint64_t bytes() const { return m_bytes; }

  private:
    std::atomic<bool> m_stop{false};
    std::atomic<std::uint64_t> m_bytes{0};
    std::vector<std::thread> m_threads;
};

Moved minimal(int streams, std::size_t buffer, int loops = 1) {
    std::vector<std::unique_ptr<MinimalLoop>> all;
    for (int i = 0; i < loops; ++i)
        all.push_back(std::make_unique<MinimalLoop>(streams, buffer));
    const auto bytes = [&] {
        std::uint64_t sum = 0;
        for (const auto& loop : all)
            sum += loop->bytes();
        return static_cast<double>(sum);
    };
    rest(warmup);
    const double before = bytes();
    const double cpu = processSeconds();
    const auto start = Clock::now();
    rest(runSeconds - warmup);
    const double moved = bytes() - before;
    const double seconds = std::chrono::duration<double>(Clock::now() - start).count();
    return {moved * 8 / seconds, (processSeconds() - cpu) / (moved / 1e9)};
}

benchmark::RunConfig config(int streams) {
    benchmark::RunConfig out;
    out.streams = streams;
    out.seconds = runSeconds;
    out.warmup = warmup;
    return out;
}

struct Pair {
    EndpointLink from;
    EndpointLink to;
};
Pair linkTo(const LoopbackAgent& agent) {
    return {EndpointLink::here("here").value(), EndpointLink::connect(agent.address, agent.key).value()};
}

Moved ours(int streams) {
    const LoopbackAgent agent;
    Pair ends = linkTo(agent);
    const auto run = conduct(ends.from, ends.to, config(streams), {}, {}).value();
    // Each end says what the whole process took, and both are in this one: either figure holds both.
    const double moved = run.goodput.bps() / 8;
    return {run.goodput.bps(), run.cpuProcessReceiver.value_or(0) / (moved / 1e9)};
}

Moved oursBothWays() {
    const LoopbackAgent agent;
    std::vector<Pair> ends;
    ends.push_back(linkTo(agent));
    ends.push_back(linkTo(agent));
    std::vector<Leg> legs;
    for (std::size_t i = 0; i < 2; ++i) {
        benchmark::RunConfig o = config(1);
        o.direction = i == 0 ? Direction::forward : Direction::backward;
        legs.push_back({ends[i].from, ends[i].to, o, {}});
    }
    double bps = 0;
    const auto runs = conductAll(legs, {}).value();
    for (const benchmark::Run& run : runs)
        bps += run.goodput.bps();
    return {bps, 0};
}

// A B B A: a drift of the machine does not decide.
void compare(const char* what, const std::function<Moved()>& engine, const std::function<Moved()>& loop) {
    std::vector<double> rates;
    std::vector<double> costs;
    std::vector<double> gigabits;
    for (int i = 0; i < rounds; ++i) {
        const Moved first = i % 2 == 0 ? loop() : engine();
        const Moved second = i % 2 == 0 ? engine() : loop();
        const Moved& a = i % 2 == 0 ? second : first;
        const Moved& b = i % 2 == 0 ? first : second;
        rates.push_back(a.bps / b.bps);
        costs.push_back(a.secondsPerGigabyte / b.secondsPerGigabyte);
        gigabits.push_back(a.bps / 1e9);
    }
    std::printf("loopback, %s: engine / minimal loop = %.3f (%.3f to %.3f)", what,
                benchmark::quantile(rates, 0.5), benchmark::quantile(rates, 0),
                benchmark::quantile(rates, 1));
    if (std::isfinite(costs[0]) && costs[0] > 0)
        std::printf(", processor time a byte %.3f (%.3f to %.3f)", benchmark::quantile(costs, 0.5),
                    benchmark::quantile(costs, 0), benchmark::quantile(costs, 1));
    std::printf(", engine %.1f Gbit/s\n", benchmark::quantile(gigabits, 0.5));
}

// The buffer with which the minimal loop is fastest here.
std::size_t bestBuffer(int streams) {
    std::size_t best = 0;
    double most = 0;
    for (const std::size_t buffer : {32UL << 10, 64UL << 10, 128UL << 10, 256UL << 10, 1024UL << 10})
        if (const double bps = minimal(streams, buffer).bps; bps > most) {
            most = bps;
            best = buffer;
        }
    std::printf("loopback, %d streams: the minimal loop is fastest with %zu KiB\n", streams, best >> 10);
    return best;
}

void pacing() {
    double worst = 0;
    for (const double bps : {1e6, 10e6, 100e6, 300e6, 1e9}) {
        const LoopbackAgent agent;
        Pair ends = linkTo(agent);
        benchmark::RunConfig o = config(1);
        o.protocol = benchmark::Protocol::udp;
        o.rate = quantity::BitRate::bitsPerSecond(bps);
        o.seconds = 4;
        const auto run = conduct(ends.from, ends.to, o, {}, {}).value();
        const double error = run.goodput.bps() / bps - 1;
        const benchmark::DatagramCount d = run.datagrams.value_or(benchmark::DatagramCount{});
        std::printf("datagrams at %g Mbit/s: %+.3f %%, jitter %.1f us, lost %llu of %llu\n", bps / 1e6,
                    error * 100, d.jitterUs, static_cast<unsigned long long>(d.sent - d.received),
                    static_cast<unsigned long long>(d.sent));
        worst = std::max(worst, std::fabs(error));
    }
    std::printf("pacing: off by at most %.3f %% (wanted 1)\n", worst * 100);
}

Fd datagramSocket() {
    Fd fd(::socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC, 0));
    const Address any = resolve("127.0.0.1:0").value();
    (void)::bind(fd.get(), reinterpret_cast<const sockaddr*>(&any.storage), any.length);
    return fd;
}

void join(const Fd& from, const Fd& to) {
    const Address peer = localAddress(to.get());
    (void)::connect(from.get(), reinterpret_cast<const sockaddr*>(&peer.storage), peer.length);
}

// A datagram there and back between two threads that wait in the kernel, every 20 ms like the engine's.
double minimalEcho() {
    const Fd a = datagramSocket();
    const Fd b = datagramSocket();
    join(a, b);
    join(b, a);
    std::thread echo([&] {
        std::array<char, 64> packet{};
        while (::recv(b.get(), packet.data(), packet.size(), 0) > 1)
            (void)::send(b.get(), packet.data(), packet.size(), 0);
    });
    std::vector<double> times;
    for (int i = 0; i < 100; ++i) {
        rest(0.02);
        std::array<char, 64> packet{};
        const auto start = Clock::now();
        (void)::send(a.get(), packet.data(), packet.size(), 0);
        (void)::recv(a.get(), packet.data(), packet.size(), 0);
        times.push_back(std::chrono::duration<double, std::micro>(Clock::now() - start).count());
    }
    (void)::send(a.get(), "", 1, 0);
    echo.join();
    return benchmark::quantile(times, 0.5);
}

void delayFloor() {
    std::vector<double> ratios;
    double last = 0;
    for (int i = 0; i < rounds; ++i) {
        const double echo = minimalEcho();
        const LoopbackAgent agent;
        Pair ends = linkTo(agent);
        benchmark::RunConfig o = config(1);
        o.protocol = benchmark::Protocol::udp;
        o.rate = quantity::BitRate::bitsPerSecond(10e3);
        o.segmentBytes = 100;
        o.seconds = 2;
        last = conduct(ends.from, ends.to, o, {}, {}).value().rttLoadedUs->p50;
        ratios.push_back(last / echo);
    }
    std::printf("delay floor: engine / minimal echo = %.3f (%.3f to %.3f; wanted below 2), engine %.1f us\n",
                benchmark::quantile(ratios, 0.5), benchmark::quantile(ratios, 0),
                benchmark::quantile(ratios, 1), last);
}

// Interarrival jitter of RFC 3550 between two threads: one sends every millisecond, the other looks at the
// clock when a datagram is there.
double minimalJitter() {
    const Fd a = datagramSocket();
    const Fd b = datagramSocket();
    join(a, b);
    double jitter = 0;
    std::thread receiver([&] {
        std::optional<double> last;
        for (int i = 0; i < 2000; ++i) {
            std::int64_t sent = 0;
            if (::recv(b.get(), &sent, sizeof sent, 0) != sizeof sent) return;
            const double transit = static_cast<double>(Clock::now().time_since_epoch().count() - sent) * 1e-3;
            if (last) jitter += (std::fabs(transit - *last) - jitter) / 16;
            last = transit;
        }
    });
    auto next = Clock::now();
    for (int i = 0; i < 2000; ++i) {
        next += std::chrono::milliseconds(1);
        std::this_thread::sleep_until(next);
        const std::int64_t now = Clock::now().time_since_epoch().count();
        (void)::send(a.get(), &now, sizeof now, 0);
    }
    receiver.join();
    return jitter;
}

void jitterFloor() {
    std::vector<double> ratios;
    double last = 0;
    for (int i = 0; i < rounds; ++i) {
        const double loop = minimalJitter();
        const LoopbackAgent agent;
        Pair ends = linkTo(agent);
        benchmark::RunConfig o = config(1);
        o.protocol = benchmark::Protocol::udp;
        o.segmentBytes = 100;
        o.rate = quantity::BitRate::bitsPerSecond(800e3); // one a millisecond
        o.seconds = 2;
        last = conduct(ends.from, ends.to, o, {}, {}).value().datagrams.value().jitterUs;
        ratios.push_back(last / loop);
    }
    std::printf("jitter floor: engine / minimal loop = %.3f (%.3f to %.3f; wanted below 2), engine %.1f us\n",
                benchmark::quantile(ratios, 0.5), benchmark::quantile(ratios, 0),
                benchmark::quantile(ratios, 1), last);
}

} // namespace

int main() {
    ignoreBrokenPipes();
    for (const int streams : {1, 4, 8}) {
        const std::size_t buffer = bestBuffer(streams);
        const std::string what = std::to_string(streams) + (streams == 1 ? " stream" : " streams");
        compare(
            what.c_str(), [&] { return ours(streams); }, [&] { return minimal(streams, buffer); });
    }
    const std::size_t buffer = bestBuffer(1);
    compare("both directions at once", oursBothWays, [&] { return minimal(1, buffer, 2); });
    pacing();
    delayFloor();
    jitterFloor();
}
