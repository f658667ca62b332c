#include "probe/conduct.h"

#include "benchmark/summary.h"
#include "probe/run_stamp.h"

#include <algorithm>
#include <cmath>
#include <condition_variable>
#include <map>
#include <mutex>
#include <thread>

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

// An event's figure, or nothing when it is absent or out of bounds.
std::optional<double> figure(const json& event, const char* key, double high) {
    const auto value = numberField(event, key, 0, high);
    return value ? std::optional(*value) : std::nullopt;
}

std::optional<std::uint64_t> count(const json& event, const char* key) {
    const auto value = figure(event, key, 1.8e19);
    return value ? std::optional(static_cast<std::uint64_t>(*value)) : std::nullopt;
}

// Legs that start together: each says when it is open, and none goes on before all have said so.
class Gate {
  public:
    explicit Gate(std::size_t legs)
        : m_missing(legs) {}

    // False when one of the legs could not be opened.
    bool pass() {
        std::unique_lock lock(m_mutex);
        --m_missing;
        m_changed.notify_all();
        m_changed.wait(lock, [&] { return m_missing == 0 || m_broken; });
        return !m_broken;
    }
    void breakDown() {
        const std::lock_guard lock(m_mutex);
        m_broken = true;
        m_changed.notify_all();
    }

  private:
    std::mutex m_mutex;
    std::condition_variable m_changed;
    std::size_t m_missing;
    bool m_broken = false;
};

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

    // `gate`: of the legs that start with this one; may be nullptr.
    Result<Run> conduct(const std::stop_token& stop, Gate* gate) {
        if (m_from.simulated() != m_to.simulated())
            return problem("one end is simulated and the other is not", m_from.name() + " and " + m_to.name(),
                           "choose two real or two simulated endpoints");
        if (const auto ready = open(); !ready) return tl::unexpected(ready.error());
        if (m_observer.started) m_observer.started(m_run);
        // The others fill the same network: without load the delay was, at best, that of none of them.
        if (gate != nullptr && !gate->pass()) return stopped();
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
        t.order = m_run.order;
        if (&link != &m_from) t.order.bind.clear();
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
        m_run.rttIdleUs = readPercentiles(*idle, "rtt_us");
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
            s.lossRatio = figure(event, "loss_ratio", 1);
            s.streamBps = streams(event);
            m_run.samples.push_back(s);
            addSenderSide(m_run.samples.back(), index);
            if (m_observer.sample) m_observer.sample(m_run.samples.back());
        }
        return {};
    }

    static std::vector<double> streams(const json& event) {
        std::vector<double> out;
        const auto it = event.find("streams_bps");
        if (it == event.end() || !it->is_array() || it->size() > benchmark::maximumStreams) return out;
        for (const json& one : *it)
            out.push_back(one.is_number() ? std::clamp(one.get<double>(), 0.0, 1e13) : 0);
        return out;
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
        const auto interface = interfaceOf(event);
        if (&link == &m_from) {
            m_run.rttLoadedUs = readPercentiles(event, "rtt_loaded_us");
            m_run.delayLost = count(event, "delay_lost");
            takeSpikes(event);
        }
        if (&link == &m_sender) {
            m_run.cpuSender = figure(event, "cpu", 1);
            m_run.cpuProcessSender = figure(event, "cpu_process", 1024);
            m_sentDatagrams = count(event, "datagrams_sent");
            m_unsentDatagrams = count(event, "datagrams_unsent").value_or(0);
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
            m_run.cpuProcessReceiver = figure(event, "cpu_process", 1024);
            m_run.interfaceReceiver = interface;
            takeDatagrams(event);
        }
    }

    static std::optional<benchmark::InterfaceCount> interfaceOf(const json& event) {
        const auto it = event.find("interface");
        if (it == event.end() || !it->is_object()) return std::nullopt;
        const auto name = textField(*it, "name", 64);
        const auto bytes = count(*it, "bytes");
        if (!name || !bytes) return std::nullopt;
        const auto flag = [&](const char* key) -> std::optional<bool> {
            return it->contains(key) && it->at(key).is_boolean() ? std::optional(it->at(key).get<bool>())
                                                                 : std::nullopt;
        };
        return benchmark::InterfaceCount{*name,
                                         *bytes,
                                         count(*it, "errors"),
                                         flag("radio"),
                                         flag("cable_too"),
                                         textField(*it, "elsewhere", 64).value_or("")};
    }

    void takeSpikes(const json& event) {
        const auto it = event.find("delay_spikes");
        if (it == event.end() || !it->is_array() || it->size() > 20) return;
        for (const json& spike : *it) {
            const auto t = figure(spike, "t_s", benchmark::longestRun + 1);
            const auto rtt = figure(spike, "rtt_us", 1e10);
            if (t && rtt) m_run.spikes.push_back({*t, *rtt});
        }
    }

    void takeDatagrams(const json& event) {
        const auto it = event.find("datagrams");
        if (it == event.end() || !it->is_object()) return;
        benchmark::DatagramCount out;
        const auto received = count(*it, "received");
        if (!received) return;
        out.received = out.sent = *received; // until the sender has told
        out.duplicates = count(*it, "duplicates").value_or(0);
        out.reordered = count(*it, "reordered").value_or(0);
        out.dropped = count(*it, "dropped").value_or(0);
        out.jitterUs = figure(*it, "jitter_us", 1e9).value_or(0);
        out.variationUs = readPercentiles(*it, "variation_us");
        m_run.datagrams = out;
    }

    void complete() {
        for (std::size_t i = 0; i < m_run.samples.size(); ++i)
            addSenderSide(m_run.samples[i], i + 1);
        if (m_run.datagrams && m_sentDatagrams) {
            m_run.datagrams->sent = *m_sentDatagrams;
            m_run.datagrams->unsent = m_unsentDatagrams;
        }
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
    std::optional<std::uint64_t> m_sentDatagrams;
    std::uint64_t m_unsentDatagrams = 0;
    std::map<const EndpointLink*, bool> m_finished;
    std::map<const EndpointLink*, Clock::time_point> m_heard;
    Clock::time_point m_alive;
};

} // namespace

Result<Run> conduct(EndpointLink& from, EndpointLink& to, const RunOrder& order, const RunObserver& observer,
                    const std::stop_token& stop) {
    return Conductor(from, to, order, observer).conduct(stop, nullptr);
}

Result<std::vector<Run>> conductAll(std::vector<Leg>& legs, const std::stop_token& stop) {
    Gate gate(legs.size());
    std::stop_source own;
    const std::stop_callback passOn(stop, [&] {
        own.request_stop();
        gate.breakDown();
    });
    const std::string group = legs.size() > 1 ? newRunId() : std::string();
    std::vector<Result<Run>> results(legs.size(), problem("the run was not begun"));
    std::mutex mutex;
    std::optional<quantity::Problem> first;
    {
        std::vector<std::jthread> threads;
        for (std::size_t i = 0; i < legs.size(); ++i)
            threads.emplace_back([&, i] {
                legs[i].order.group = group;
                results[i] = Conductor(legs[i].from, legs[i].to, legs[i].order, legs[i].observer)
                                 .conduct(own.get_token(), &gate);
                if (results[i]) return;
                const std::lock_guard lock(mutex);
                if (!first) first = results[i].error();
                own.request_stop();
                gate.breakDown();
            });
    }
    if (first) return tl::unexpected(*first);
    std::vector<Run> runs;
    for (Result<Run>& result : results)
        runs.push_back(std::move(*result));
    return runs;
}

} // namespace metrodos::probe
