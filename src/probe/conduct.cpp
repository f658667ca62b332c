#include "probe/conduct.h"

#include "benchmark/run_parts.h"
#include "benchmark/summary.h"
#include "probe/deadline.h"
#include "probe/run_events.h"
#include "probe/run_stamp.h"
#include "probe/together.h"
#include "probe/tolerances.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace metrodos::probe {
namespace {

using benchmark::Direction;
using benchmark::Run;
using benchmark::RunConfig;
using benchmark::Sample;
using Clock = std::chrono::steady_clock;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr double overtime = 10; // s beyond what was ordered, until a run is given up
constexpr std::chrono::seconds answerLimit{
    12}; // longer than the endpoints' own limits for opening connections

class Conductor {
  public:
    Conductor(EndpointLink& from, EndpointLink& to, const RunConfig& config, const RunObserver& observer,
              const FileEnds& files = {})
        : m_from(from)
        , m_to(to)
        , m_observer(observer)
        , m_files(files)
        , m_sender(config.direction == Direction::forward ? from : to)
        , m_receiver(config.direction == Direction::forward ? to : from) {
        m_run.id = newRunId();
        m_run.config = config;
        m_run.simulated = from.simulated();
        m_run.startedAt = utcNow();
    }

    // `gate`: of the legs that start with this one; may be nullptr.
    Result<Run> conduct(const std::stop_token& stop, Gate* gate) {
        if (m_from.simulated() != m_to.simulated())
            return problem("one end is simulated and the other is not", m_from.name() + " and " + m_to.name(),
                           "choose two real or two simulated endpoints");
        const auto ready = open(stop);
        if (stop.stop_requested()) return stopped();
        if (!ready) return tl::unexpected(ready.error());
        if (m_observer.started) m_observer.started(m_run);
        // The others fill the same network: without load the delay was, at best, that of none of them.
        if (gate != nullptr && !gate->pass()) return stopped();
        if (stop.stop_requested()) return stopped();
        for (EndpointLink* link : {&m_receiver, &m_sender})
            if (const auto sent = link->channel().send({{"type", "start"}}); !sent)
                return tl::unexpected(link->placed(sent.error()));
        return listen(stop);
    }

    /// What the receiver said of a file that has come.
    [[nodiscard]] FileRun fileOf(Run run) const {
        return {std::move(run), m_received, m_receivedSeconds, m_syncSeconds};
    }

  private:
    json task(const EndpointLink& link) const {
        RunTask t;
        t.run = m_run.id;
        t.role = &link == &m_sender ? Role::send : Role::receive;
        t.config = m_run.config;
        if (&link != &m_from) t.config.bind.clear();
        t.onDisk = t.role == Role::send ? m_files.fromDisk : m_files.toDisk;
        return probe::toJson(t);
    }

    // The data connections always go from `from` to `to`, whichever sends: one firewall to think of.
    Result<void> open(const std::stop_token& stop) {
        json prepare = task(m_to);
        prepare["type"] = "prepare";
        // In-process the listener must know at which address the other machine can reach this one.
        prepare["host"] = m_to.isHere() ? (m_from.isHere() ? "127.0.0.1" : m_from.localHost()) : "";
        const auto prepared = m_to.ask(prepare, "prepared", answerLimit, stop);
        if (!prepared) return tl::unexpected(prepared.error());
        auto target = readTarget(*prepared);
        if (!target) return tl::unexpected(m_to.placed(target.error()));
        // Where this controller reached it, the other endpoint should; what it calls itself may be 0.0.0.0.
        if (!m_to.isHere()) target->host = m_to.remoteHost();
        json join = task(m_from);
        join.update(probe::toJson(*target));
        join["type"] = "join";
        if (const auto joined = m_from.ask(join, "joined", answerLimit, stop); !joined)
            return tl::unexpected(joined.error());
        const auto idle = m_from.ask({{"type", "idle"}}, "idle", answerLimit, stop);
        if (!idle) return tl::unexpected(idle.error());
        const auto rtt = reading([&] { return benchmark::readPercentiles(*idle, "rtt_us"); });
        if (!rtt) return tl::unexpected(m_from.placed(rtt.error()));
        m_run.rttIdleUs = *rtt;
        return {};
    }

    Result<Run> listen(const std::stop_token& stop) {
        m_heard[&m_sender] = m_heard[&m_receiver] = m_alive = Clock::now();
        const Deadline end(m_run.config.seconds + overtime);
        while (!m_finished[&m_receiver] || !m_finished[&m_sender]) {
            if (stop.stop_requested()) return stopped();
            const auto now = Clock::now();
            if (end.isOver()) // whatever else they say
                return failed(m_finished[&m_receiver] ? m_sender : m_receiver,
                              {"the run did not end on time", "", "start it again"});
            if (now - m_alive > std::chrono::seconds(1)) {
                m_alive = now;
                for (EndpointLink* link : {&m_sender, &m_receiver})
                    (void)link->channel().send({{"type", "alive"}, {"run", m_run.id}});
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
    void release(std::chrono::milliseconds patience = std::chrono::seconds(1)) {
        for (EndpointLink* link : {&m_sender, &m_receiver})
            (void)link->channel().send({{"type", "cancel"}});
        const Deadline end(patience);
        for (EndpointLink* link : {&m_sender, &m_receiver})
            while (!end.isOver()) {
                const auto message = link->channel().receive(end.left());
                if (!message || (*message && typeOf(**message).value_or("") == "cancelled")) break;
            }
    }

    Result<void> take(const EndpointLink& link, const json& message) {
        const auto type = typeOf(message);
        if (!type) return tl::unexpected(type.error());
        if (*type == "problem") return tl::unexpected(readProblem(message));
        if (*type == "sample") {
            const auto event = readSampleEvent(message);
            if (!event) return tl::unexpected(event.error());
            return event->run == m_run.id ? takeSample(link, *event) : Result<void>(); // or of a run before
        }
        if (*type == "finished") {
            const auto event = readFinishedEvent(message);
            if (!event) return tl::unexpected(event.error());
            if (event->run != m_run.id) return {};
            m_finished[&link] = true;
            takeEnd(link, *event);
        }
        return {};
    }

    Result<void> takeSample(const EndpointLink& link, const SampleEvent& event) {
        if (&link == &m_from && event.rttUs) m_rtt[event.number] = *event.rttUs;
        if (&link == &m_sender) {
            Sample s;
            s.tcpRttUs = event.tcpRttUs;
            s.windowBytes = event.windowBytes;
            s.retransmits = event.retransmits;
            s.cpuSender = event.cpu;
            m_sent[event.number] = s;
        }
        if (&link == &m_receiver) {
            if (!event.goodputBps) return problem("a sample of the receiver says no goodput");
            if (event.number != m_run.samples.size() + 1)
                return problem("a sample is missing or comes twice");
            Sample s;
            s.t = event.t;
            s.goodputBps = *event.goodputBps;
            s.cpuReceiver = event.cpu;
            s.lossRatio = event.lossRatio;
            s.streamBps = event.streamBps;
            m_run.samples.push_back(s);
            addSenderSide(m_run.samples.change().back(), event.number);
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

    void takeEnd(const EndpointLink& link, const FinishedEvent& event) {
        if (&link == &m_from) {
            m_run.rttLoadedUs = event.rttLoadedUs;
            m_run.delayLost = event.delayLost;
            m_run.spikes = event.spikes;
        }
        if (&link == &m_sender) {
            m_run.cpuSender = event.cpu;
            m_run.cpuProcessSender = event.cpuProcess;
            m_run.interfaceSender = event.interface;
            m_run.retransmits = event.retransmits;
            m_run.senderLimited = event.senderLimited;
            m_sentDatagrams = event.datagramsSent;
            m_unsentDatagrams = event.datagramsUnsent.value_or(0);
        }
        if (&link == &m_receiver) {
            m_run.cpuReceiver = event.cpu;
            m_run.cpuProcessReceiver = event.cpuProcess;
            m_run.interfaceReceiver = event.interface;
            m_run.datagrams = event.datagrams;
            m_received = event.bytes;
            m_receivedSeconds = event.movedSeconds.value_or(event.seconds);
            m_syncSeconds = event.syncSeconds;
        }
    }

    void complete() {
        std::vector<Sample>& samples = m_run.samples.change();
        for (std::size_t i = 0; i < samples.size(); ++i)
            addSenderSide(samples[i], i + 1);
        if (m_run.datagrams && m_sentDatagrams) {
            m_run.datagrams->sent = *m_sentDatagrams;
            m_run.datagrams->unsent = m_unsentDatagrams;
        }
        m_run.seconds = m_run.samples.empty() ? 0 : m_run.samples.back().t;
        benchmark::finish(m_run);
    }

    // Who stopped it does not wait for an end that hangs.
    Result<Run> stopped() {
        constexpr std::chrono::milliseconds patience{120};
        release(patience);
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
    FileEnds m_files;
    std::uint64_t m_received = 0;
    double m_receivedSeconds = 0;
    std::optional<double> m_syncSeconds;
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

Result<Run> conduct(EndpointLink& from, EndpointLink& to, const RunConfig& config,
                    const RunObserver& observer, const std::stop_token& stop) {
    return Conductor(from, to, config, observer).conduct(stop, nullptr);
}

Result<FileRun> conductFile(EndpointLink& from, EndpointLink& to, const RunConfig& config,
                            const FileEnds& ends, const RunObserver& observer, const std::stop_token& stop) {
    Conductor conductor(from, to, config, observer, ends);
    auto run = conductor.conduct(stop, nullptr);
    if (!run) return tl::unexpected(run.error());
    return conductor.fileOf(std::move(*run));
}

Result<std::vector<Run>> conductAll(std::vector<Leg>& legs, const std::stop_token& stop) {
    return runTogether(
        legs.size(), stop,
        [&legs](std::size_t i, const std::string& group, const std::stop_token& own, Gate& gate) {
            legs[i].config.group = group;
            return Conductor(legs[i].from, legs[i].to, legs[i].config, legs[i].observer).conduct(own, &gate);
        });
}

} // namespace metrodos::probe
