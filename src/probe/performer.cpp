#include "probe/performer.h"

#include "probe/counters.h"
#include "probe/datagram_flow.h"
#include "probe/deadline.h"
#include "probe/delay_probe.h"
#include "probe/file_load.h"
#include "probe/guarded.h"
#include "probe/host_facts.h"
#include "probe/run_events.h"
#include "probe/stream_set.h"

#include <algorithm>
#include <cerrno>
#include <condition_variable>
#include <cstring>
#include <nlohmann/json.hpp>
#include <unistd.h>

namespace metrodos::probe {
namespace {

using Clock = std::chrono::steady_clock;
using nlohmann::json;
using quantity::problem;

constexpr std::chrono::seconds connectLimit{5};
constexpr std::chrono::seconds startLimit{60}; // from opened to started
constexpr std::chrono::milliseconds delayConnectLimit{1500};
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
    LocalPerformer(std::string name, PeerFilter allowed, bool dialsAnyone, std::filesystem::path folder)
        : m_name(std::move(name))
        , m_allowed(std::move(allowed))
        , m_dialsAnyone(dialsAnyone)
        , m_folder(std::move(folder)) {}
    ~LocalPerformer() override { LocalPerformer::cancel(); }

    bool simulated() const override { return false; }
    json facts() override { return hostFacts(m_name); }

    quantity::Result<FileMade> makeFile(const FileOrder& order, const Interrupted& interrupted) override {
        cancel();
        m_file.reset();
        if (m_folder.empty()) return Performer::makeFile(order, interrupted);
        auto file = ScratchFile::make(m_folder, order.bytes);
        if (!file) return tl::unexpected(file.error());
        const auto held = std::make_shared<ScratchFile>(std::move(*file));
        if (auto filled = fill(*held, order, interrupted); !filled) return tl::unexpected(filled.error());
        m_file = held;
        return FileMade{held->cachedShare(order.bytes)};
    }

    void dropFile() override { m_file.reset(); }

    quantity::Result<DataTarget> prepare(const RunTask& task, const std::string& host) override {
        cancel();
        if (auto ready = readyFile(task); !ready) return tl::unexpected(ready.error());
        const auto secret = newToken();
        if (!secret) return tl::unexpected(secret.error());
        const auto joiner = std::make_shared<Joiner>();
        auto delay = DatagramPort::open(host, streamToken(*secret, StreamKind::delay), {}, m_allowed, joiner);
        if (!delay) return tl::unexpected(delay.error());
        DataTarget target{host, 0, delay->port(), *secret};
        if (task.config.protocol == benchmark::Protocol::udp) {
            auto port = DatagramPort::open(host, streamToken(*secret, StreamKind::datagrams), task.config,
                                           m_allowed, joiner);
            if (!port) return tl::unexpected(port.error());
            target.port = port->port();
            begin(task, *secret);
            startThread([this, port = std::make_shared<DatagramPort>(std::move(*port))] { await(*port); });
        } else {
            auto port = DataPort::open(host, *secret, task.config, m_allowed, joiner);
            if (!port) return tl::unexpected(port.error());
            target.port = port->port();
            begin(task, *secret);
            startThread([this, port = std::make_shared<DataPort>(std::move(*port))] { await(*port); });
        }
        m_echo.emplace(std::move(*delay));
        return target;
    }

    quantity::Result<void> join(const RunTask& task, const DataTarget& target,
                                const Interrupted& interrupted) override {
        cancel();
        if (auto ready = readyFile(task); !ready) return ready;
        const auto peer = numericAddress(target.host, 0);
        if (!peer) return tl::unexpected(peer.error());
        if (!m_dialsAnyone && m_allowed && !m_allowed(*peer))
            return problem("this agent opens connections to nearby machines only", target.host,
                           "name that range with --allow when it is started");
        if (task.config.protocol == benchmark::Protocol::udp) {
            auto socket =
                joinDatagramPort(target.host, target.port, streamToken(target.token, StreamKind::datagrams),
                                 task.config, connectLimit, interrupted);
            if (!socket) return tl::unexpected(m_dialsAnyone ? socket.error() : notOpened(task, target));
            begin(task, target.token);
            take(std::move(*socket));
        } else {
            auto sockets = joinDataPort(target, task.config, connectLimit, interrupted);
            if (!sockets) return tl::unexpected(m_dialsAnyone ? sockets.error() : notOpened(task, target));
            begin(task, target.token);
            take(std::move(*sockets));
        }
        // Where datagrams are not let through the run goes on without delay figures.
        benchmark::RunConfig probing;
        probing.bind = task.config.bind;
        probing.protocol = benchmark::Protocol::udp;
        if (auto delay =
                joinDatagramPort(target.host, target.delayPort, streamToken(target.token, StreamKind::delay),
                                 probing, delayConnectLimit, interrupted))
            m_probe.emplace(std::move(*delay));
        startThread([this] {
            if (waitForStart()) perform();
        });
        return {};
    }

    std::optional<benchmark::Percentiles> idleDelay(const Interrupted& interrupted) override {
        if (!m_probe) return std::nullopt;
        m_probe->mark();
        constexpr std::chrono::milliseconds slice{20};
        for (const Deadline end(idleSpan); !end.isOver() && !(interrupted && interrupted());)
            pause(end.endOf(slice));
        auto result = m_probe->statistics().percentiles();
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
        m_load.reset();
        m_probe.reset();
        m_echo.reset();
        m_target.reset();
    }

  private:
    // The same for a port that is closed, filtered or another program's: who commands learns nothing of them.
    static quantity::Problem notOpened(const RunTask& task, const DataTarget& target) {
        const bool isTcp = task.config.protocol == benchmark::Protocol::tcp;
        return {std::string("the ") + (isTcp ? "data connections" : "flow of datagrams") +
                    " to the other endpoint could not be opened",
                target.host, "check that no firewall is between the two machines"};
    }

    void begin(const RunTask& task, const Token& secret) {
        m_task = task;
        m_flowToken = streamToken(secret, StreamKind::datagrams);
        m_stop = false;
        m_started = false;
        m_problem.reset();
    }

    // Of the run. Where it breaks for want of memory or threads, the controller is told.
    template <typename Work>
    void startThread(Work work) {
        m_thread = std::thread(guarded(std::move(work), [this](const std::string& why) {
            Emit told;
            {
                const std::lock_guard lock(m_mutex);
                told = m_emit;
            }
            json message = problemMessage({"the machine there could not do it: " + why, m_name,
                                           "look at its memory and its limits, and try again"});
            message["run"] = m_task.run;
            if (told) (void)told(message);
        }));
    }

    // Lets the other endpoint in, then waits for the start.
    template <typename Port>
    void await(Port& port) {
        auto sockets = port.accept(connectLimit * 2, m_stop);
        if (sockets)
            take(std::move(*sockets));
        else
            m_problem = sockets.error();
        if (waitForStart()) perform();
    }

    // The file of this end: the one that was made, to be sent, or a new one to be written.
    quantity::Result<void> readyFile(const RunTask& task) {
        m_target.reset();
        if (!task.onDisk) return {};
        if (task.role == Role::send) {
            if (m_file) return {};
            return problem("there is no file to be sent yet", m_name, "order one first");
        }
        if (m_folder.empty()) return tl::unexpected(Performer::makeFile({}, {}).error());
        auto file = ScratchFile::make(m_folder, task.config.maxBytes);
        if (!file) return tl::unexpected(file.error());
        m_target = std::make_shared<ScratchFile>(std::move(*file));
        return {};
    }

    // No two pieces alike: some file systems keep the same block once only.
    static quantity::Result<void> fill(const ScratchFile& file, const FileOrder& order,
                                       const Interrupted& interrupted) {
        constexpr std::size_t pieceBytes = 1024 * 1024;
        std::vector<unsigned char> piece(pieceBytes);
        fillPayload(piece, 3);
        const auto pieces = [&](const auto& move) -> quantity::Result<void> {
            for (std::uint64_t at = 0; at < order.bytes;) {
                if (interrupted && interrupted()) return problem("the order was taken back");
                const auto size =
                    static_cast<std::size_t>(std::min<std::uint64_t>(pieceBytes, order.bytes - at));
                const auto n = TEMP_FAILURE_RETRY(move(size, static_cast<off_t>(at)));
                if (n <= 0)
                    return problem("the file cannot be made: " +
                                       std::string(std::strerror(n < 0 ? errno : EIO)),
                                   "", "check the space of the folder");
                at += static_cast<std::uint64_t>(n);
            }
            return {};
        };
        auto written = pieces([&](std::size_t size, off_t at) {
            std::memcpy(piece.data(), &at, sizeof at);
            return ::pwrite(file.fd(), piece.data(), size, at);
        });
        if (!written) return written;
        if (::fdatasync(file.fd()) != 0)
            return problem("the file does not reach the disk: " + std::string(std::strerror(errno)), "",
                           "check the disk of the folder");
        if (order.isCold) {
            file.dropCache();
            return {};
        }
        return pieces([&](std::size_t size, off_t at) { return ::pread(file.fd(), piece.data(), size, at); });
    }

    void take(std::vector<Fd> streams) {
        if (m_task.onDisk) {
            const bool sends = m_task.role == Role::send;
            m_load = std::make_unique<FileLoad>(std::move(streams.front()), sends ? m_file : m_target, sends,
                                                m_task.config.maxBytes);
            return;
        }
        m_load = std::make_unique<StreamSet>(std::move(streams), m_task.role == Role::send,
                                             m_task.config.maxBytes);
    }
    void take(Fd flow) {
        if (m_task.role == Role::send)
            m_load = std::make_unique<DatagramSender>(std::move(flow), m_task.config, m_flowToken);
        else
            m_load = std::make_unique<DatagramReceiver>(std::move(flow), m_flowToken);
    }

    // False when the run was cancelled first.
    bool waitForStart() {
        std::unique_lock lock(m_mutex);
        // Messages that keep the session do not keep what was opened for a run.
        if (!m_changed.wait_for(lock, startLimit, [&] { return m_started || m_stop.load(); })) {
            m_load.reset();
            return false;
        }
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
        const int firstSocket = m_load->sockets().front().get();
        const Address peer = peerAddress(firstSocket);
        m_interface = interfaceOf(localAddress(firstSocket));
        const auto countedBefore = readInterface(m_interface, sending);
        CpuMeter cpu;
        (void)cpu.busiestCore();
        const double processBefore = processSeconds();
        if (m_probe) m_probe->mark();
        m_load->start();
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
        // Bytes before `start` belong to the first sample.
        std::vector<std::uint64_t> lastBytes(m_load->bytesByStream().size(), 0);
        double cpuSum = 0;
        int cpuCount = 0;
        const int count = benchmark::sampleCount(m_task.config.seconds);
        for (int n = 1; n <= count; ++n) {
            const auto due = start + std::chrono::duration_cast<Clock::duration>(
                                         std::chrono::duration<double>(n * benchmark::sampleSeconds));
            if (!pause(due)) break;
            const auto now = Clock::now();
            const bool ended = m_load->ended();
            SampleEvent sample{m_task.run, static_cast<std::size_t>(n), secondsBetween(start, now)};
            if (!sending) {
                addReceived(sample, lastBytes, secondsBetween(last, now));
            } else if (const auto f = streamFigures()) {
                sample.tcpRttUs = f->rttUs;
                sample.windowBytes = f->windowBytes;
                sample.retransmits = f->retransmits;
            }
            sample.cpu = cpu.busiestCore();
            if (sample.cpu) {
                cpuSum += *sample.cpu;
                ++cpuCount;
            }
            if (m_probe) sample.rttUs = m_probe->takeMedian();
            last = now;
            if (!m_emit(toJson(sample))) break;
            if (ended) break;
        }
        if (m_stop) return; // who stopped it does not wait for the end
        const double lasted = secondsBetween(start, last);
        FinishedEvent finished{m_task.run, lasted, m_load->bytes()};
        if (cpuCount > 0) finished.cpu = cpuSum / cpuCount;
        if (lasted > 0) finished.cpuProcess = (processSeconds() - processBefore) / lasted;
        if (sending) addSenderFigures(finished);
        if (m_probe) addDelay(finished);
        if (!sending) addDatagrams(finished);
        if (!sending) finished.movedSeconds = m_load->movedSeconds();
        if (const auto* file = dynamic_cast<const FileLoad*>(m_load.get()))
            finished.syncSeconds = file->syncSeconds();
        m_load->stop(false);
        if (const auto* sender = dynamic_cast<const DatagramSender*>(m_load.get())) {
            finished.datagramsSent = sender->sent();
            finished.datagramsUnsent = sender->givenUp();
        }
        const auto countedAfter = readInterface(m_interface, sending);
        if (countedBefore && countedAfter)
            finished.interface = interfaceCount(*countedBefore, *countedAfter, peer);
        (void)m_emit(toJson(finished));
        if (sending) pause(Clock::now() + tail);
    }

    // The receiver's part of a sample; `last` holds what each stream had moved by the sample before.
    void addReceived(SampleEvent& sample, std::vector<std::uint64_t>& last, double seconds) {
        const std::vector<std::uint64_t> now = m_load->bytesByStream();
        std::vector<double> streams;
        double sum = 0;
        for (std::size_t i = 0; i < now.size(); ++i) {
            const double bps = static_cast<double>(now[i] - last[i]) * 8 / seconds;
            streams.push_back(bps);
            sum += bps;
        }
        last = now;
        sample.goodputBps = sum;
        if (now.size() > 1) sample.streamBps = std::move(streams);
        if (auto* flow = dynamic_cast<DatagramReceiver*>(m_load.get())) sample.lossRatio = flow->takeLoss();
    }

    benchmark::InterfaceCount interfaceCount(const InterfaceReading& before, const InterfaceReading& after,
                                             const Address& peer) const {
        const std::string towards = interfaceTowards(peer);
        return {m_interface,
                after.bytes - before.bytes,
                after.errors - before.errors,
                isRadio(m_interface),
                hasCable(),
                towards == m_interface ? std::string() : towards};
    }

    void addDelay(FinishedEvent& finished) const {
        const benchmark::DelayStatistics delay = m_probe->statistics();
        finished.rttLoadedUs = delay.percentiles();
        finished.delayLost = delay.lost();
        finished.spikes = delay.spikes();
    }

    // Datagrams still on their way when the last sample was taken are waited for.
    void addDatagrams(FinishedEvent& finished) {
        const auto* flow = dynamic_cast<const DatagramReceiver*>(m_load.get());
        if (flow == nullptr) return;
        pause(Clock::now() + tail);
        finished.datagrams = flow->count();
        finished.datagrams->sent = finished.datagrams->received; // until the sender has told
    }

    bool waitForData() {
        const Deadline end(connectLimit);
        while (!m_stop && !end.isOver())
            if (m_load->waitForFirstByte(std::chrono::milliseconds(50))) return true;
        return false;
    }

    // Of TCP only.
    [[nodiscard]] std::optional<SenderFigures> streamFigures() const {
        if (m_task.config.protocol != benchmark::Protocol::tcp) return std::nullopt;
        return senderFigures(m_load->sockets());
    }

    void addSenderFigures(FinishedEvent& finished) const {
        const auto f = streamFigures();
        if (!f) return;
        finished.retransmits = f->retransmits;
        if (f->busyUs <= 0) return;
        const double receiver = std::clamp(f->receiverLimitedUs / f->busyUs, 0.0, 1.0);
        const double buffer = std::clamp(f->bufferLimitedUs / f->busyUs, 0.0, 1.0 - receiver);
        finished.senderLimited = benchmark::SenderLimited{1 - receiver - buffer, receiver, buffer};
    }

    std::string m_name;
    PeerFilter m_allowed;
    bool m_dialsAnyone;
    std::filesystem::path m_folder;        // for files of transfers; empty: none
    std::shared_ptr<ScratchFile> m_file;   // to be sent
    std::shared_ptr<ScratchFile> m_target; // of the run, to be written
    RunTask m_task;
    std::string m_interface;
    Token m_flowToken{};
    std::unique_ptr<Load> m_load;
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

quantity::Result<FileMade> Performer::makeFile(const FileOrder&, const Interrupted&) {
    return problem("this machine takes part in no file copies", "",
                   "start its agent with --folder and a folder for them");
}

std::unique_ptr<Performer> makePerformer(const std::string& name, PeerFilter allowed, bool dialsAnyone,
                                         const std::filesystem::path& folder) {
    return std::make_unique<LocalPerformer>(name, std::move(allowed), dialsAnyone, folder);
}

} // namespace metrodos::probe
