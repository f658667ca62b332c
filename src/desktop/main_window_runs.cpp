// What the window does with runs and tests: Space, the machines they need, and what they leave behind.
#include "desktop/main_window.h"
#include "desktop/rate_text.h"
#include "desktop/trace_view.h"

#include "desktop/measure_pages.h"
#include "desktop/measure_view.h"
#include "desktop/route_strip.h"
#include "desktop/test_page.h"

#include <QComboBox>
#include <utility>

namespace metrodos::desktop {
void MainWindow::connectRuns() {
    connect(&m_controller, &RunController::started, this, [this] {
        m_measure->showStarting();
        m_routes->setEnabled(false);
        say(tr("A run goes on. Space stops it; what was measured is kept."), false);
    });
    connect(&m_controller, &RunController::runStarted, this,
            [this](const benchmark::Run& run, int index, int count) {
                m_measure->showRunStarted(run, index, count);
            });
    connect(&m_controller, &RunController::sampleArrived, m_strip,
            [this](benchmark::Direction direction, const benchmark::Sample& sample) {
                m_strip->setLiveFlow(direction, sample.goodputBps);
            });
    connect(&m_controller, &RunController::sampleArrived, m_measure, &MeasureView::showSample);
    connect(&m_controller, &RunController::runFinished, m_measure, &MeasureView::showRunFinished);
    connect(&m_controller, &RunController::machinesRead, this,
            [this](const MachineReading& from, const MachineReading& to) {
                const house::Route* route = m_model.route();
                if (route == nullptr) return;
                m_readings = {{route->from, from}, {route->to, to}};
            });
    connect(&m_controller, &RunController::ended, this, [this](const QString& problem) {
        m_routes->setEnabled(true);
        m_strip->clearLiveFlow();
        m_measure->showEnded();
        noteReadings();
        m_model.reloadRuns();
        if (!problem.isEmpty()) say(problem, true);
    });
}

// Puts what the machines said into the house, as one step of undo. On the bench they say nothing of it.
void MainWindow::noteReadings() {
    const auto readings = std::exchange(m_readings, {});
    if (readings.empty()) return;
    house::House next = m_model.house();
    QStringList sentences;
    QStringList changes;
    for (const auto& [endpoint, reading] : readings) {
        const std::string label = m_model.house().endLabel(endpoint);
        for (const std::string& remark : probe::remarks(reading.facts, reading.host))
            sentences << QString::fromStdString(label + ": " + remark) + QLatin1Char('.');
        if (!m_asSurveyed) continue;
        auto noted = probe::noteFacts(next, m_model.catalog(), endpoint, reading.facts, reading.host);
        if (!noted) continue; // which port it is cannot be told; the survey stays as it is
        next = std::move(noted->house);
        for (const std::string& change : noted->changes)
            changes << QString::fromStdString(change);
    }
    if (!changes.isEmpty())
        sentences << tr("Read from the machines: %1.").arg(changes.join(QStringLiteral("; ")));
    m_measure->setMachineRemarks(sentences);
    if (!changes.isEmpty()) m_model.apply(tr("Read from the machines"), next);
}

void MainWindow::toggleRun() {
    if (m_controller.isRunning()) {
        m_controller.stop();
        return;
    }
    TestPage* test = m_rail->stage() == Stage::measure ? m_pages->test() : nullptr;
    if (m_pages->isRunning() && (test == nullptr || !test->isRunning())) {
        say(tr("another test goes on; stop it on its page first."), true);
        return;
    }
    if (test != nullptr) {
        test->toggle();
        return;
    }
    const house::Route* route = m_model.route();
    if (route == nullptr || !m_model.prediction()) {
        say(tr("there is no route to measure; open a job and choose one."), true);
        return;
    }
    setStage(Stage::measure);
    MeasureView::Wanted wanted = m_measure->wanted();
    if (wanted.steps.empty()) return;
    RunRequest request;
    request.route = route->id;
    request.job = m_model.file();
    request.steps = std::move(wanted.steps);
    request.conditions = std::move(wanted.conditions);
    request.trialStep = std::move(wanted.trialStep);
    request.setup = wanted.setup;
    request.bypassed = wanted.bypassed;
    request.altered = wanted.altered;
    for (const auto& e : m_model.prediction()->elements)
        if (e.element.kind == house::ElementKind::storage) request.disks.push_back(e.element.id);
    request.swapped = wanted.swapped;
    // What the machines say of their ports then is not what the survey has there.
    for (auto& step : request.steps)
        for (benchmark::RunOrder& order : step) {
            order.setup = wanted.setup;
            order.bypassed = wanted.bypassed;
            order.altered = wanted.altered;
            order.swapped = wanted.swapped;
        }
    m_asSurveyed = wanted.setup == house::Setup::place && wanted.bypassed.empty() && !wanted.swapped &&
                   wanted.altered.empty();
    if (const auto& service = m_model.house().service;
        service && (route->to == service->id || route->from == service->id)) {
        startService(std::move(request), *service, route->from == service->id ? route->to : route->from);
        return;
    }
    const auto from = accessTo(route->from);
    const auto to = accessTo(route->to);
    if (!from || !to) {
        say(QString::fromStdString((from ? to : from).error().sentence()), true);
        return;
    }
    request.from = *from;
    request.to = *to;
    m_controller.start(std::move(request));
}

// Stand-ins speak for the machines of the demo that have no address of their own.
quantity::Result<EndpointAccess> MainWindow::accessTo(const house::Id& id) const {
    EndpointAccess out;
    if (const house::Endpoint* endpoint = m_model.house().endpoint(id)) out.address = endpoint->address;
    if (m_standins != nullptr) {
        if (!m_standins->isReady())
            return quantity::problem("the simulated house is still starting", "", "try again in a moment");
        if (out.address.empty()) out.address = m_standins->address(id);
        out.key = m_standins->key();
    } else if (const auto key = probe::Key::load(keyFile())) {
        out.key = *key;
    }
    return out;
}

// The service has no agent: it is a web address that is loaded from and to, from this machine.
void MainWindow::startService(RunRequest request, const house::Service& service, const house::Id& machine) {
    request.fromService = m_model.route()->from == service.id;
    request.service = service.testUrl;
    if (request.service.empty() && m_standins != nullptr && !m_standins->service().empty())
        request.service = m_standins->service() + "/" + machine;
    if (request.service.empty()) {
        say(tr("the service has no test address; give one in Walk, table “service”, like "
               "http://server/large-file."),
            true);
        return;
    }
    for (const auto& step : request.steps)
        for (const benchmark::RunOrder& order : step)
            if (step.size() > 1 || order.protocol != benchmark::Protocol::tcp || order.rate) {
                say(tr("the service is tested as it is; choose TCP without a pace, one way at a time."),
                    true);
                return;
            }
    m_controller.start(std::move(request));
}

void MainWindow::takeNextTest() {
    const auto& d = m_model.diagnosis();
    if (!d || d->nextTests.empty() || m_controller.isRunning()) return;
    const trace::NextTest& test = d->nextTests.front();
    if (test.kind == trace::TestKind::read) {
        setStage(Stage::trace);
        m_trace->focusReading();
        say(tr("Next: %1, and choose what it says.").arg(localised(test.does)), false);
        return;
    }
    const QString does = localised(test.does);
    setStage(Stage::measure);
    if (test.kind == trace::TestKind::copy) {
        m_pages->setPage(QStringLiteral("copy"));
        say(tr("Next: %1. Choose the folder of the store, then press Space.").arg(does), false);
        return;
    }
    m_measure->prepare(test);
    say(tr("Next: %1. Then press Space.").arg(does), false);
}

void MainWindow::declineNextTest() {
    const auto& d = m_model.diagnosis();
    if (!d || d->nextTests.empty() || m_controller.isRunning()) return;
    m_model.declineTest(d->nextTests.front().id);
}

} // namespace metrodos::desktop
