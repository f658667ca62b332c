#include "desktop/run_controller.h"

#include "job/store.h"
#include "probe/conduct.h"

namespace metrodos::desktop {
namespace {

quantity::Result<probe::EndpointLink> link(const std::string& where, const std::optional<probe::Key>& key) {
    if (where == "here") return probe::EndpointLink::here("here");
    if (where.empty())
        return quantity::problem("an end of the route has no address", "",
                                 "select the machine and give the address of its agent, or “here”");
    if (!key)
        return quantity::problem("there is no key for the agents", "",
                                 "make one with metrodos-cli key new and copy it to every machine");
    return probe::EndpointLink::connect(where, *key);
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
        quantity::Result<void> outcome;
        const auto run = [&]() -> quantity::Result<void> {
            auto from = link(request.from, request.key);
            if (!from) return tl::unexpected(from.error());
            auto to = link(request.to, request.key);
            if (!to) return tl::unexpected(to.error());
            for (std::size_t i = 0; i < request.orders.size() && !stop.stop_requested(); ++i) {
                std::optional<job::RunRecorder> recorder;
                std::optional<quantity::Problem> lost; // the record could not be kept
                std::stop_source own;
                const std::stop_callback passOn(stop, [&] { own.request_stop(); });
                const auto keep = [&](const quantity::Result<void>& kept) {
                    if (kept || lost) return;
                    lost = kept.error();
                    own.request_stop();
                };
                probe::RunObserver observer;
                observer.started = [&](const benchmark::Run& started) {
                    auto begun = job::RunRecorder::begin(request.job, request.route, started);
                    if (begun)
                        recorder.emplace(std::move(*begun));
                    else
                        keep(tl::unexpected(begun.error()));
                    Q_EMIT runStarted(started, static_cast<int>(i), static_cast<int>(request.orders.size()));
                };
                observer.sample = [&](const benchmark::Sample& sample) {
                    if (recorder) keep(recorder->append(sample));
                    Q_EMIT sampleArrived(sample);
                };
                auto done = probe::conduct(*from, *to, request.orders[i], observer, own.get_token());
                if (!done) return tl::unexpected(done.error());
                if (recorder) keep(recorder->finish(*done));
                Q_EMIT runFinished(*done);
                if (lost) return tl::unexpected(*lost);
            }
            return {};
        };
        outcome = run();
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

void RunController::stop() {
    m_thread.request_stop();
}

} // namespace metrodos::desktop
