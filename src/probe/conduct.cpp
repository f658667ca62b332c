#include "probe/conduct.h"
#include "benchmark/summary.h"

#include <array>
#include <cmath>
#include <ctime>
#include <map>
#include <openssl/rand.h>

namespace metrodos::probe {
namespace {

using benchmark::Direction;
using benchmark::Run;
using benchmark::RunOrder;
using benchmark::Sample;
using Clock = std::chrono::steady_clock;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::chrono::seconds answerLimit{
    12};                           // longer than the endpoints' own limits for opening connections
constexpr double silenceLimit = 5; // s without an event from an endpoint that should send ten a second

std::string newRunId() {
    std::array<unsigned char, 8> bytes{};
    RAND_bytes(bytes.data(), static_cast<int>(bytes.size()));
    Token padded{};
    std::copy(bytes.begin(), bytes.end(), padded.begin());
    return "run-" + toHex(padded).substr(0, 2 * bytes.size());
}

std::string utcNow() {
    const std::time_t now = std::time(nullptr);
    std::tm parts{};
    ::gmtime_r(&now, &parts);
    std::array<char, 32> text{};
    std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M:%SZ", &parts);
    return text.data();
}

// An event's figure, or nothing when it is absent or out of bounds.
std::optional<double> figure(const json& event, const char* key, double high) {
    const auto value = numberField(event, key, 0, high);
    return value ? std::optional(*value) : std::nullopt;
}

std::optional<std::uint64_t> count(const json& event, const char* key) {
    const auto value = figure(event, key, 1.8e19);
    return value ? std::optional(static_cast<std::uint64_t>(*value)) : std::nullopt;
}

std::optional<benchmark::Percentiles> percentiles(const json& event, const char* key) {
    if (!event.contains(key) || !event.at(key).is_object()) return std::nullopt;
    const auto p50 = figure(event.at(key), "p50", 1e9);
    const auto p95 = figure(event.at(key), "p95", 1e9);
    if (!p50 || !p95) return std::nullopt;
    return benchmark::Percentiles{*p50, *p95};
}

class Conductor {
  public:
    Conductor(EndpointLink& from, EndpointLink& to, const RunOrder& order, const RunObserver& observer)
        : m_from(from)
        , m_to(to)
        , m_observer(observer)
        , m_sender(order.direction == Direction::forward ? from : to)
        , m_receiver(order.direction == Direction::forward ? to : from) {
        m_run.id = newRunId();
        m_run.order = order;
        m_run.simulated = from.simulated();
        m_run.startedAt = utcNow();
    }

    Result<Run> conduct(const std::stop_token& stop) {
        if (m_from.simulated() != m_to.simulated())
            return problem("one end is simulated and the other is not", m_from.name() + " and " + m_to.name(),
                           "choose two real or two simulated endpoints");
        if (const auto ready = open(); !ready) return tl::unexpected(ready.error());
        if (m_observer.started) m_observer.started(m_run);
        if (stop.stop_requested()) return stopped();
        for (EndpointLink* link : {&m_receiver, &m_sender})
            if (const auto sent = link->channel().send({{"type", "start"}}); !sent)
                return tl::unexpected(link->placed(sent.error()));
        return listen(stop);
    }

  private:
    json task(const EndpointLink& link) const {
        RunTask t;
        t.run = m_run.id;
        t.role = &link == &m_sender ? Role::send : Role::receive;
        t.streams = m_run.order.streams;
        t.seconds = m_run.order.seconds;
        t.maximumBytes = m_run.order.maximumBytes;
        t.bind = &link == &m_from ? m_run.order.bind : "";
        return probe::toJson(t);
    }

    // The data connections always go from `from` to `to`, whichever sends: one firewall to think of.
    Result<void> open() {
        json prepare = task(m_to);
        prepare["type"] = "prepare";
        // In-process the listener must know at which address the other machine can reach this one.
        prepare["host"] = m_to.isHere() ? (m_from.isHere() ? "127.0.0.1" : m_from.localHost()) : "";
        const auto prepared = m_to.ask(prepare, "prepared", answerLimit);
        if (!prepared) return tl::unexpected(prepared.error());
        auto target = readTarget(*prepared);
        if (!target) return tl::unexpected(m_to.placed(target.error()));
        // Where this controller reached it, the other endpoint should; what it calls itself may be 0.0.0.0.
        if (!m_to.isHere()) target->host = m_to.remoteHost();
        json join = task(m_from);
        join.update(probe::toJson(*target));
        join["type"] = "join";
        if (const auto joined = m_from.ask(join, "joined", answerLimit); !joined)
            return tl::unexpected(joined.error());
        const auto idle = m_from.ask({{"type", "idle"}}, "idle", answerLimit);
        if (!idle) return tl::unexpected(idle.error());
        m_run.rttIdleUs = percentiles(*idle, "rtt_us");
        return {};
    }

    Result<Run> listen(const std::stop_token& stop) {
        m_heard[&m_sender] = m_heard[&m_receiver] = m_alive = Clock::now();
        while (!m_finished[&m_receiver] || !m_finished[&m_sender]) {
            if (stop.stop_requested()) return stopped();
            const auto now = Clock::now();
            if (now - m_alive > std::chrono::seconds(1)) {
                m_alive = now;
                for (EndpointLink* link : {&m_sender, &m_receiver})
                    (void)link->channel().send({{"type", "alive"}});
            }
            for (EndpointLink* link : {&m_receiver, &m_sender}) {
                if (m_finished[link]) continue;
                auto message = link->channel().receive(std::chrono::milliseconds(10));
                if (!message) return failed(*link, message.error());
                if (!*message) {
                    if (std::chrono::duration<double>(Clock::now() - m_heard[link]).count() > silenceLimit)
                        return failed(*link, {"it has fallen silent in the middle of the run", "",
                                              "check that it still runs and is connected"});
                    continue;
                }
                m_heard[link] = Clock::now();
                if (const auto taken = take(*link, **message); !taken) return failed(*link, taken.error());
            }
        }
        release();
        complete();
        return std::move(m_run);
    }

    // Both ends let go of the run: no thread or socket of it stays behind.
    void release() {
        for (EndpointLink* link : {&m_sender, &m_receiver})
            (void)link->ask({{"type", "cancel"}}, "cancelled", std::chrono::seconds(1));
    }

    Result<void> take(const EndpointLink& link, const json& event) {
        const auto type = textField(event, "type", 32);
        if (!type) return tl::unexpected(type.error());
        if (*type == "problem") return tl::unexpected(readProblem(event));
        if (textField(event, "run", 64).value_or("") != m_run.id) return {}; // of a run before
        if (*type == "sample") return takeSample(link, event);
        if (*type == "finished") {
            m_finished[&link] = true;
            takeEnd(link, event);
        }
        return {};
    }

    Result<void> takeSample(const EndpointLink& link, const json& event) {
        const auto n = numberField(event, "n", 1, benchmark::longestRun / benchmark::sampleSeconds + 1);
        if (!n) return tl::unexpected(n.error());
        const auto index = static_cast<std::size_t>(*n);
        if (&link == &m_from) {
            if (const auto rtt = figure(event, "rtt_us", 1e9)) m_rtt[index] = *rtt;
        }
        if (&link == &m_sender) {
            Sample s;
            s.tcpRttUs = figure(event, "tcp_rtt_us", 1e9);
            s.windowBytes = figure(event, "window_bytes", 1e13);
            s.retransmits = count(event, "retransmits");
            s.cpuSender = figure(event, "cpu", 1);
            m_sent[index] = s;
        }
        if (&link == &m_receiver) {
            const auto t = numberField(event, "t_s", 0, benchmark::longestRun + 1);
            const auto goodput = numberField(event, "goodput_bps", 0, 1e13);
            if (!t) return tl::unexpected(t.error());
            if (!goodput) return tl::unexpected(goodput.error());
            if (index != m_run.samples.size() + 1) return problem("a sample is missing or comes twice");
            Sample s;
            s.t = *t;
            s.goodputBps = *goodput;
            s.cpuReceiver = figure(event, "cpu", 1);
            m_run.samples.push_back(s);
            addSenderSide(m_run.samples.back(), index);
            if (m_observer.sample) m_observer.sample(m_run.samples.back());
        }
        return {};
    }

    // What the other events said of the same tenth of a second, or at most two before while it is live.
    void addSenderSide(Sample& sample, std::size_t index) const {
        const auto latest = [&](const auto& map) {
            auto it = map.upper_bound(index);
            if (it == map.begin()) return map.end();
            --it;
            return index - it->first <= 2 ? it : map.end();
        };
        if (const auto it = latest(m_rtt); it != m_rtt.end()) sample.rttUs = it->second;
        if (const auto it = latest(m_sent); it != m_sent.end()) {
            sample.tcpRttUs = it->second.tcpRttUs;
            sample.windowBytes = it->second.windowBytes;
            sample.retransmits = it->second.retransmits;
            sample.cpuSender = it->second.cpuSender;
        }
    }

    void takeEnd(const EndpointLink& link, const json& event) {
        std::optional<benchmark::InterfaceCount> interface;
        if (event.contains("interface") && event.at("interface").is_object()) {
            const auto name = textField(event.at("interface"), "name", 64);
            const auto bytes = count(event.at("interface"), "bytes");
            if (name && bytes) interface = benchmark::InterfaceCount{*name, *bytes};
        }
        if (&link == &m_from) m_run.rttLoadedUs = percentiles(event, "rtt_loaded_us");
        if (&link == &m_sender) {
            m_run.cpuSender = figure(event, "cpu", 1);
            m_run.interfaceSender = interface;
            m_run.retransmits = count(event, "retransmits");
            if (event.contains("sender_limited") && event.at("sender_limited").is_object()) {
                const json& limited = event.at("sender_limited");
                const auto network = figure(limited, "network", 1);
                const auto window = figure(limited, "receiver_window", 1);
                const auto buffer = figure(limited, "send_buffer", 1);
                if (network && window && buffer)
                    m_run.senderLimited = benchmark::SenderLimited{*network, *window, *buffer};
            }
        }
        if (&link == &m_receiver) {
            m_run.cpuReceiver = figure(event, "cpu", 1);
            m_run.interfaceReceiver = interface;
        }
    }

    void complete() {
        for (std::size_t i = 0; i < m_run.samples.size(); ++i)
            addSenderSide(m_run.samples[i], i + 1);
        m_run.seconds = m_run.samples.empty() ? 0 : m_run.samples.back().t;
        benchmark::finish(m_run);
    }

    Result<Run> stopped() {
        release();
        m_run.complete = false;
        complete();
        return std::move(m_run);
    }

    Result<Run> failed(const EndpointLink& link, const quantity::Problem& why) {
        for (EndpointLink* other : {&m_sender, &m_receiver})
            (void)other->channel().send({{"type", "cancel"}});
        return tl::unexpected(link.placed(why));
    }

    EndpointLink& m_from;
    EndpointLink& m_to;
    const RunObserver& m_observer;
    EndpointLink& m_sender;
    EndpointLink& m_receiver;
    Run m_run;
    std::map<std::size_t, double> m_rtt;
    std::map<std::size_t, Sample> m_sent;
    std::map<const EndpointLink*, bool> m_finished;
    std::map<const EndpointLink*, Clock::time_point> m_heard;
    Clock::time_point m_alive;
};

} // namespace

Result<Run> conduct(EndpointLink& from, EndpointLink& to, const RunOrder& order, const RunObserver& observer,
                    const std::stop_token& stop) {
    return Conductor(from, to, order, observer).conduct(stop);
}

} // namespace metrodos::probe
