#include "desktop/model/run_controller.h"

#include "benchmark/remarks.h"
#include "job/store.h"
#include "probe/conduct.h"
#include "probe/service_test.h"

#include <condition_variable>
#include <deque>
#include <mutex>

namespace metrodos::desktop {
namespace {

using Ends = std::pair<probe::EndpointLink, probe::EndpointLink>; // from, to

quantity::Result<Ends> endsOf(const RunRequest& request, const std::stop_token& stop) {
    auto from = openLink(request.from, stop);
    if (!from) return tl::unexpected(from.error());
    auto to = openLink(request.to, stop);
    if (!to) return tl::unexpected(to.error());
    return Ends(std::move(*from), std::move(*to));
}

// False: it was stopped.
bool rest(double seconds, const std::stop_token& stop) {
    std::mutex mutex;
    std::unique_lock lock(mutex);
    std::condition_variable_any wake;
    (void)wake.wait_for(lock, stop, std::chrono::duration<double>(seconds), [] { return false; });
    return !stop.stop_requested();
}

// Asks again each second while there is patience; `waiting` is told once.
quantity::Result<Ends> patientEnds(const RunRequest& request, const std::stop_token& stop,
                                   const std::function<void()>& waiting) {
    const auto until = std::chrono::steady_clock::now() + request.wanted.patience;
    for (bool isFirst = true;; isFirst = false) {
        auto ends = endsOf(request, stop);
        if (ends || std::chrono::steady_clock::now() >= until || stop.stop_requested()) return ends;
        if (isFirst) waiting();
        (void)rest(1, stop);
    }
}

} // namespace

RunController::~RunController() {
    stop();
}

void RunController::start(RunRequest request) {
    if (m_running) return;
    m_running = true;
    Q_EMIT started();
    m_thread = std::jthread([this, request = std::move(request)](const std::stop_token& stop) {
        const quantity::Result<void> outcome = perform(request, stop);
        const QString problem = outcome ? QString() : QString::fromStdString(outcome.error().sentence());
        QMetaObject::invokeMethod(
            this,
            [this, problem] {
                m_running = false;
                Q_EMIT ended(problem);
            },
            Qt::QueuedConnection);
    });
}

quantity::Result<void> RunController::perform(const RunRequest& request, const std::stop_token& stop) {
    if (!request.service.empty()) return performService(request, stop);
    if (request.from.guest || request.to.guest) return performGuest(request, stop);
    std::vector<Ends> ends; // as many pairs as run at once
    std::optional<bool> radioUp;
    const auto read = [](probe::EndpointLink& end) -> MachineReading {
        const auto facts = end.facts(); // a run does not fail for want of them
        return {facts ? probe::readFacts(*facts) : probe::MachineFacts{}, end.remoteHost()};
    };
    for (std::size_t i = 0; i < request.wanted.steps.size() && !stop.stop_requested(); ++i) {
        const auto& step = request.wanted.steps[i];
        while (ends.size() < step.size()) {
            auto more = patientEnds(request, stop, [this] { Q_EMIT waiting(); });
            if (!more) return tl::unexpected(more.error());
            ends.push_back(std::move(*more));
            if (ends.size() > 1) continue;
            const MachineReading here = read(ends[0].first);
            const MachineReading there = read(ends[0].second);
            radioUp = probe::radioUp({&here.facts, &there.facts});
            Q_EMIT machinesRead(here, there);
        }
        if (request.wanted.pause > 0) {
            Q_EMIT resting(request.wanted.pause);
            if (!rest(request.wanted.pause, stop)) return {};
        }
        if (auto done = performStep(request, i, ends, radioUp, stop); !done) return done;
    }
    return {};
}

// Keeps a run in the job while it goes on, and tells the window of it.
class RunController::Record {
  public:
    /// `radioUp`: at one of the two machines; nothing: it is not known.
    Record(RunController& controller, const RunRequest& request, std::size_t index, std::stop_source& end,
           std::optional<bool> radioUp = {})
        : m_controller(controller)
        , m_request(request)
        , m_index(index)
        , m_end(end)
        , m_radioUp(radioUp) {}

    [[nodiscard]] probe::RunObserver observer(benchmark::Direction direction) {
        return {[this](const benchmark::Run& run) { begin(run); },
                [this, direction](const benchmark::Sample& sample) {
                    if (m_recorder) keep(m_recorder->append(sample));
                    Q_EMIT m_controller.sampleArrived(direction, sample);
                }};
    }
    quantity::Result<void> finish(const benchmark::Run& run) {
        const benchmark::Run done = withContext(run);
        if (m_recorder) keep(m_recorder->finish(done));
        Q_EMIT m_controller.runFinished(done);
        if (m_lost) return tl::unexpected(*m_lost);
        return {};
    }

  private:
    void begin(const benchmark::Run& run) {
        const benchmark::Run begun = withContext(run);
        auto recorder = job::RunRecorder::begin(m_request.job, m_request.route, begun);
        if (recorder)
            m_recorder.emplace(std::move(*recorder));
        else
            keep(tl::unexpected(recorder.error()));
        Q_EMIT m_controller.runStarted(begun, static_cast<int>(m_index),
                                       static_cast<int>(m_request.wanted.steps.size()));
    }
    // With what the endpoints do not know of it.
    [[nodiscard]] benchmark::Run withContext(benchmark::Run run) const {
        run.conditions = m_request.wanted.conditions;
        run.conditions.radioUp = m_radioUp;
        // What nobody has said the counters may have seen.
        if (!run.conditions.othersActive && (benchmark::otherTraffic(run, run.interfaceSender) ||
                                             benchmark::otherTraffic(run, run.interfaceReceiver)))
            run.conditions.othersActive = true;
        run.step = m_request.wanted.trialStep;
        auto& bypassed = run.config.arrangement.bypassed;
        if (!run.simulated)
            for (const house::Id& disk : m_request.disks)
                if (std::find(bypassed.begin(), bypassed.end(), disk) == bypassed.end())
                    bypassed.push_back(disk);
        return run;
    }
    // A run that cannot be kept is not worth going on with.
    void keep(const quantity::Result<void>& kept) {
        if (kept || m_lost) return;
        m_lost = kept.error();
        m_end.request_stop();
    }

    RunController& m_controller;
    const RunRequest& m_request;
    std::size_t m_index;
    std::stop_source& m_end;
    std::optional<bool> m_radioUp;
    std::optional<job::RunRecorder> m_recorder;
    std::optional<quantity::Problem> m_lost;
};

quantity::Result<void> RunController::performStep(const RunRequest& request, std::size_t index,
                                                  std::vector<Ends>& ends, std::optional<bool> radioUp,
                                                  const std::stop_token& stop) {
    const auto& step = request.wanted.steps[index];
    std::stop_source own;
    const std::stop_callback passOn(stop, [&] { own.request_stop(); });
    std::deque<Record> records; // each is used by its leg's thread alone
    std::vector<probe::Leg> legs;
    for (std::size_t k = 0; k < step.size(); ++k) {
        records.emplace_back(*this, request, index, own, radioUp);
        legs.push_back({ends[k].first, ends[k].second, step[k], records.back().observer(step[k].direction)});
    }
    auto runs = probe::conductAll(legs, own.get_token());
    if (!runs) return tl::unexpected(runs.error());
    quantity::Result<void> kept;
    for (std::size_t k = 0; k < runs->size(); ++k)
        if (auto finished = records[k].finish((*runs)[k]); !finished) kept = std::move(finished);
    return kept;
}

quantity::Result<void> RunController::performService(const RunRequest& request, const std::stop_token& stop) {
    for (std::size_t i = 0; i < request.wanted.steps.size() && !stop.stop_requested(); ++i) {
        const benchmark::RunConfig& config = request.wanted.steps[i].front();
        std::stop_source own;
        const std::stop_callback passOn(stop, [&] { own.request_stop(); });
        Record record(*this, request, i, own);
        const bool down = (config.direction == benchmark::Direction::forward) == request.fromService;
        const auto run = probe::testService({request.service, down, config},
                                            record.observer(config.direction), own.get_token());
        if (!run) return tl::unexpected(run.error());
        if (auto finished = record.finish(*run); !finished) return finished;
    }
    return {};
}

// A device with a browser, and the machine that serves its page: it has no link that could be told what to
// do.
quantity::Result<void> RunController::performGuest(const RunRequest& request, const std::stop_token& stop) {
    const bool isTo = request.to.guest != nullptr;
    const EndpointAccess& other = isTo ? request.from : request.to;
    probe::GuestEnd& guest = isTo ? *request.to.guest : *request.from.guest;
    if (other.guest || !isSameAgent(other.address, guest.servedBy()))
        return quantity::problem(
            "a device with a browser measures with the machine that serves its page only", "",
            "give the other end of the route the address “" + guest.servedBy() + "”");
    // The guest's forward is towards it.
    const auto turned = [isTo](benchmark::RunConfig config) {
        const bool forward = (config.direction == benchmark::Direction::forward) == isTo;
        config.direction = forward ? benchmark::Direction::forward : benchmark::Direction::backward;
        return config;
    };
    for (std::size_t i = 0; i < request.wanted.steps.size() && !stop.stop_requested(); ++i) {
        const auto& step = request.wanted.steps[i];
        std::stop_source own;
        const std::stop_callback passOn(stop, [&] { own.request_stop(); });
        std::deque<Record> records; // each is used by its leg's thread alone
        std::vector<probe::GuestLeg> legs;
        for (const benchmark::RunConfig& config : step) {
            records.emplace_back(*this, request, i, own);
            probe::RunObserver observer = records.back().observer(config.direction);
            observer.started = [begin = observer.started, direction = config.direction](benchmark::Run run) {
                run.config.direction = direction;
                begin(run);
            };
            legs.push_back({turned(config), std::move(observer)});
        }
        auto runs = guest.runAll(legs, own.get_token());
        if (!runs) return tl::unexpected(runs.error());
        quantity::Result<void> kept;
        for (std::size_t k = 0; k < runs->size(); ++k) {
            (*runs)[k].config.direction = step[k].direction;
            if (auto finished = records[k].finish((*runs)[k]); !finished) kept = std::move(finished);
        }
        if (!kept) return kept;
    }
    return {};
}

void RunController::stop() {
    m_thread.request_stop();
}

} // namespace metrodos::desktop
