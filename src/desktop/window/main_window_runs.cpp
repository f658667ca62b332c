// What the window does with runs and tests: Space, the machines they need, and what they leave behind.
#include "desktop/trace/trace_view.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/window/main_window.h"

#include "desktop/measure/measure_pages.h"
#include "desktop/measure/measure_view.h"
#include "desktop/measure/test_page.h"
#include "desktop/route/route_strip.h"

#include "benchmark/schedule.h"
#include "house/addressing.h"
#include "quantity/moment.h"

#include <QComboBox>
#include <QTime>
#include <QTimer>
#include <utility>

namespace metrodos::desktop {
void MainWindow::connectRuns() {
    constexpr int lookEveryMs = 1000;
    auto* look = new QTimer(this);
    connect(look, &QTimer::timeout, this, &MainWindow::lookAtSchedules);
    look->start(lookEveryMs);
    connect(&m_job, &JobModel::opened, this, [this] { m_schedules.forget(); });
    connect(&m_controller, &RunController::started, this, [this] {
        m_measure->showStarting();
        m_routes->setEnabled(false);
        say(tr("A run is in progress. Space stops it; what was measured is kept."), false);
    });
    connect(&m_controller, &RunController::waiting, this, [this] {
        say(tr("A machine does not answer yet: waiting for the link, a minute at most. Space stops it."),
            false);
    });
    connect(&m_controller, &RunController::resting, this, [this](double seconds) {
        say(tr("Quiet for %1 s before the next run, as its trial asks. Space stops it.")
                .arg(QLocale().toString(seconds, 'f', 0)),
            false);
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
        m_job.reloadRuns();
        if (!problem.isEmpty()) say(problem, true);
    });
}

// Puts what the machines said into the house, as one step of undo. On the bench they say nothing of it.
void MainWindow::noteReadings() {
    const auto readings = std::exchange(m_readings, {});
    if (readings.empty() && m_addressRemarks.isEmpty()) return;
    house::House next = m_job.house();
    QStringList sentences = std::exchange(m_addressRemarks, {});
    QStringList changes;
    for (const auto& [endpoint, reading] : readings) {
        const std::string label = m_job.house().endLabel(endpoint);
        for (const std::string& remark : probe::remarks(reading.facts, reading.host))
            sentences << QString::fromStdString(label + ": " + remark) + QLatin1Char('.');
        if (!m_asSurveyed) continue;
        auto noted = probe::noteFacts(next, m_job.catalog(), endpoint, reading.facts, reading.host);
        if (!noted) continue; // which port it is cannot be told; the survey stays as it is
        next = std::move(noted->house);
        for (const std::string& change : noted->changes)
            changes << QString::fromStdString(change);
    }
    if (!changes.isEmpty())
        sentences << tr("Read from the machines: %1.").arg(changes.join(QStringLiteral("; ")));
    m_measure->setMachineRemarks(sentences);
    if (!changes.isEmpty()) m_job.correct(tr("Read from the machines"), next);
}

void MainWindow::toggleRun() {
    if (m_controller.isRunning()) {
        m_controller.stop();
        return;
    }
    TestPage* test = m_rail->stage() == Stage::measure ? m_pages->test() : nullptr;
    if (m_pages->isRunning() && (test == nullptr || !test->isRunning())) {
        say(tr("another test is running; stop it on its page first."), true);
        return;
    }
    if (test != nullptr) {
        test->toggle();
        return;
    }
    if (m_model.route() != nullptr && m_model.prediction()) setStage(Stage::measure);
    WantedRuns wanted = m_measure->wanted();
    if (wanted.steps.empty()) return;
    // What the machines say of their ports then is not what the survey has there.
    m_asSurveyed = wanted.arrangement.isAsSurveyed();
    auto request = prepareRuns(m_model, m_machines, std::move(wanted));
    if (!request) {
        say(QString::fromStdString(request.error().sentence()), true);
        return;
    }
    if (m_rail->stage() == Stage::measure) setPage(Page::runs); // where it shows
    // By the address plan the run may go to another port than the route's.
    QStringList elsewhere;
    if (m_asSurveyed)
        for (const std::string& sentence : house::wrongPorts(m_job.house(), *m_model.route()))
            elsewhere << QString::fromStdString(sentence) + QLatin1Char('.');
    m_addressRemarks = elsewhere;
    m_controller.start(std::move(*request));
}

// Those that a piece of evidence stands on: they may be of a way that shares a part with this one.
void MainWindow::showRuns(const QStringList& ids) {
    const auto& all = *m_job.allRuns();
    const auto first = std::find_if(all.begin(), all.end(), [&](const benchmark::RouteRun& r) {
        return ids.contains(QString::fromStdString(r.run.id));
    });
    if (first == all.end()) return say(tr("These runs are not in the job any more."), true);
    m_model.setRoute(first->route);
    setStage(Stage::measure);
    setPage(Page::runs);
    m_measure->chooseRuns(ids);
    say(counted(static_cast<int>(ids.size()), tr("%1 run stands behind it."), tr("%1 runs stand behind it.")),
        false);
}

// Whatever else is going on goes first: a schedule waits for a quarter of its time.
void MainWindow::lookAtSchedules() {
    if (!m_job.hasJob() || m_controller.isRunning() || m_pages->isRunning()) return;
    const std::int64_t now = quantity::utcSeconds(quantity::utcNow()).value_or(0);
    const auto due = m_schedules.take(m_job.house(), *m_job.allRuns(), now);
    if (!due) return;
    m_model.setRoute(due->route);
    WantedRuns wanted;
    for (const benchmark::RunConfig& config : benchmark::configsOf(*due))
        wanted.steps.push_back({config});
    wanted.trialStep = due->id;
    wanted.conditions.hour = QTime::currentTime().hour();
    auto request = prepareRuns(m_model, m_machines, std::move(wanted));
    if (!request) {
        m_schedules.postpone(due->id, now); // the machines may be starting yet
        say(tr("a scheduled run: %1").arg(QString::fromStdString(request.error().sentence())), true);
        return;
    }
    m_asSurveyed = true;
    m_addressRemarks.clear();
    m_controller.start(std::move(*request));
    say(tr("The scheduled run “%1” is in progress. Space in Measure stops it.")
            .arg(QString::fromStdString(due->label)),
        false);
}

void MainWindow::takeNextTest() {
    const auto& d = m_model.diagnosis();
    if (!d || d->nextTests.empty() || m_controller.isRunning()) return;
    const trace::NextTest& test = d->nextTests.front();
    if (test.kind == trace::TestKind::read) {
        setStage(Stage::trace);
        m_trace->focusReading();
        say(tr("Next: %1, and choose what it says.").arg(QString::fromStdString(test.does)), false);
        return;
    }
    const QString does = QString::fromStdString(test.does);
    setStage(Stage::measure);
    if (test.kind == trace::TestKind::copy) {
        setPage(Page::copy);
        say(tr("Next: %1. Choose the folder of the store, then press Space.").arg(does), false);
        return;
    }
    if (test.kind == trace::TestKind::together) {
        setPage(Page::matrix);
        const house::Route* mine = m_model.route();
        const house::Route* other = m_model.job().house().route(test.beside);
        const bool isSet = mine != nullptr && other != nullptr &&
                           m_pages->chooseTogether({{mine->from, mine->to}, {other->from, other->to}});
        say(isSet ? tr("Next: %1. Both are chosen: press Space.").arg(does)
                  : tr("Next: %1. A machine of one of them has no address: give it in Machines.").arg(does),
            false);
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
