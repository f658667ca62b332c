#include "desktop/measure/measure_view.h"

#include "desktop/measure/advanced_panel.h"
#include "desktop/measure/conditions_button.h"
#include "desktop/measure/prepared_test.h"
#include "desktop/measure/run_controls.h"
#include "desktop/measure/run_figures.h"
#include "desktop/measure/run_list.h"
#include "desktop/measure/run_plot.h"
#include "desktop/measure/trial_bar.h"
#include "desktop/route/rate_band.h"
#include "desktop/widgets/answer_field.h"
#include "desktop/widgets/escape.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "trace/signatures.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QLocale>
#include <QPushButton>
#include <QScrollArea>
#include <QShortcut>
#include <QVBoxLayout>

namespace metrodos::desktop {

using benchmark::Direction;

constexpr std::chrono::seconds linkPatience{60}; // adapters take their time to find each other

namespace {

int index(Direction d) {
    return d == Direction::forward ? 0 : 1;
}

} // namespace

MeasureView::MeasureView(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    layout->setSpacing(6);
    auto* controls = new QHBoxLayout;
    m_run = new QPushButton;
    m_run->setObjectName(QStringLiteral("run"));
    showIcon(m_run, QStringLiteral("play"));
    m_run->setText(tr("Run  (Space)"));
    m_run->setFocusPolicy(Qt::TabFocus);
    m_progress = plainLabel();
    m_progress->setFont(figureFont(12));
    m_progress->hide();
    controls->addWidget(m_run);
    m_run->setMinimumWidth(150);
    m_advanced = new AdvancedPanel;
    m_advanced->hide();
    m_fields = new RunControls(*m_advanced);
    controls->addWidget(m_fields);
    m_more = keyButton(this, QStringLiteral("run-more"), {}, tr("What else a run can be ordered to be"),
                       QKeySequence(Qt::Key_M), [this] { openAdvanced(); });
    controls->addWidget(m_more);
    showDepartures();
    controls->addStretch();
    controls->addWidget(m_progress);
    m_conditions = new ConditionsButton(model.job());
    const auto shortcut = [this](Qt::Key key) {
        return new QShortcut(key, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
    };
    connect(shortcut(Qt::Key_A), &QShortcut::activated, m_conditions, [this] {
        if (!m_running) m_conditions->showMenu(); // it would hold the window while a run goes on
    });
    connect(shortcut(Qt::Key_G), &QShortcut::activated, m_conditions, &ConditionsButton::changeAsked);
    m_change = answerField(
        QStringLiteral("run-change"), tr("What is different from the run before"),
        tr("what is different from the run before, one thing only; Enter keeps it, Esc leaves it"));
    connect(m_conditions, &ConditionsButton::changeAsked, this, [this] {
        if (m_running) return;
        m_change->setText(m_conditions->change());
        m_change->show();
        m_change->setFocus();
        m_change->selectAll();
    });
    connect(m_change, &QLineEdit::returnPressed, this, [this] {
        m_conditions->setChange(m_change->text());
        m_change->hide();
        m_run->setFocus();
        Q_EMIT said(m_conditions->change().isEmpty()
                        ? tr("Nothing is changed for the next run.")
                        : tr("The next run has it: %1.").arg(m_conditions->change()),
                    false);
    });
    m_trial = new TrialBar(model);
    controls->addWidget(m_trial->buttons());
    controls->addWidget(m_conditions);
    layout->addLayout(controls);
    layout->addWidget(m_change);
    layout->addWidget(m_advanced);
    layout->addWidget(m_trial);
    m_prepared = new PreparedTest;
    layout->addWidget(m_prepared);

    m_bands[0] = new RateBand(model, Direction::forward);
    m_bands[1] = new RateBand(model, Direction::backward);
    layout->addWidget(m_bands[0]);
    layout->addWidget(m_bands[1]);
    // Where the window is low this part scrolls; what it shows is never pressed together.
    auto* lower = new QWidget;
    auto* results = new QVBoxLayout(lower);
    results->setContentsMargins(0, 0, 0, 0);
    results->setSpacing(6);
    m_plot = new RunPlot;
    results->addWidget(m_plot, 3);
    m_plot->setMinimumHeight(128);
    m_plot->hide();

    m_remark = plainLabel();
    m_remark->setObjectName(QStringLiteral("remark"));
    m_remark->setWordWrap(true);
    m_remark->setContentsMargins(4, 2, 4, 2);
    m_remark->hide();
    results->addWidget(m_remark);
    m_figures = new RunFigures(model);
    m_figures->hide();
    results->addWidget(m_figures);
    m_hint = plainLabel(
        tr("Press Space to measure between the two ends, both ways. Until then the hatched bars above show "
           "what is expected, the circles what is printed on the boxes.\n\nCaution: a run fills the network. "
           "Calls, alarms and telecare on it may suffer: ask first. Space stops it at once."));
    m_hint->setWordWrap(true);
    m_hint->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    m_hint->setFont(textFont(13));
    m_hint->setContentsMargins(120, 18, 60, 0);
    results->addWidget(m_hint, 1);
    m_runs = new RunList(model);
    results->addWidget(m_runs, 1);
    auto* scroll = new QScrollArea;
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(lower);
    layout->addWidget(scroll, 1);

    connect(m_fields, &RunControls::refused, this,
            [this](const QString& sentence) { Q_EMIT said(sentence, true); });
    connect(m_advanced, &AdvancedPanel::refused, this,
            [this](const QString& sentence) { Q_EMIT said(sentence, true); });
    connect(m_advanced, &AdvancedPanel::said, this, &MeasureView::said);
    connect(m_advanced, &AdvancedPanel::changed, this, &MeasureView::showDepartures);
    connect(m_trial, &TrialBar::said, this, &MeasureView::said);
    connect(m_figures, &RunFigures::said, this, &MeasureView::said);
    connect(m_trial, &TrialBar::shown, this, &MeasureView::showFields);
    connect(m_prepared, &PreparedTest::shown, this, &MeasureView::showFields);
    connect(m_run, &QPushButton::clicked, this, &MeasureView::runAsked);
    connect(m_runs, &RunList::chosen, this, &MeasureView::showChosenRun);
    connect(m_runs, &RunList::opened, this, &MeasureView::runOpened);
    connect(m_runs, &RunList::said, this, &MeasureView::said);
    connect(&m_model, &RouteModel::changed, this, [this] {
        m_prepared->keepFor(m_model.route() == nullptr ? house::Id() : m_model.route()->id);
        if (!m_running) fillRuns();
    });
}

WantedRuns MeasureView::wanted() {
    WantedRuns out;
    out.conditions = m_conditions->conditions();
    if (const trace::NextTest* test = m_prepared->test()) {
        out.steps = m_prepared->configs();
        out.arrangement = test->shape.arrangement;
    } else if (const house::TrialStep* step = m_trial->step()) {
        out.steps = m_trial->configsLeft();
        out.trialStep = step->id;
        if (!step->place.empty()) out.patience = linkPatience;
        out.pause = step->pause;
        out.arrangement = benchmark::arrangementOf(*step);
    } else {
        out.steps = m_fields->steps();
    }
    return out;
}

// A step of a trial and a prepared test say themselves what is run.
void MeasureView::showFields() {
    const bool isShown = !m_running && m_trial->step() == nullptr && m_prepared->test() == nullptr;
    m_fields->setVisible(isShown);
    m_more->setVisible(isShown);
    if (!isShown) m_advanced->hide();
}

void MeasureView::openAdvanced() {
    m_advanced->setVisible(!m_advanced->isVisible());
    if (m_advanced->isVisible())
        m_advanced->findChild<QWidget*>(QStringLiteral("protocol"))->setFocus();
    else
        m_more->setFocus();
    showDepartures();
}

void MeasureView::showDepartures() {
    const int n = m_advanced->departures();
    m_more->setText(n == 0 ? tr("More  (M)") : tr("More: %1 set  (M)").arg(n));
}

void MeasureView::prepare(const trace::NextTest& test) {
    m_prepared->prepare(test, m_model.route() == nullptr ? house::Id() : m_model.route()->id);
}

void MeasureView::lead(const house::Id& trial) {
    m_prepared->drop();
    m_trial->lead(trial);
}

void MeasureView::dropPrepared() {
    if (!m_running) m_prepared->drop();
}

void MeasureView::setStreams(int streams) {
    m_fields->setStreams(streams);
}

void MeasureView::turnOthers() {
    m_conditions->turnOthers();
}

void MeasureView::setMachineRemarks(const QStringList& sentences) {
    m_machineRemarks = sentences;
    m_machinesOf = m_model.route() == nullptr ? house::Id() : m_model.route()->id;
}

void MeasureView::showStarting() {
    m_running = true;
    showIcon(m_run, QStringLiteral("square"));
    m_run->setText(tr("Stop  (Space)"));
    // What was asked for cannot be changed now; its place is for how far it is.
    m_fields->hide();
    m_change->hide();
    m_more->hide();
    m_advanced->hide();
    m_conditions->hide();
    m_trial->setEnabled(false);
    m_prepared->setEnabled(false);
    m_trial->buttons()->setEnabled(false);
    m_remark->hide();
    m_figures->hide();
    m_progress->show();
    m_progress->setText(tr("connecting to both ends …"));
    m_plot->clear();
    m_plot->show();
    m_hint->hide();
    m_runs->setLocked(true);
    m_runs->clearChoice();
}

void MeasureView::showRunStarted(const benchmark::Run& run, int number, int count) {
    m_live[index(run.config.direction)] = run;
    m_which = count > 1 ? tr("run %1 of %2").arg(number + 1).arg(count) : tr("run");
    if (run.simulated) m_which += tr(", simulated");
    m_plot->begin(run.config.direction, run.config.seconds);
}

void MeasureView::showSample(Direction direction, const benchmark::Sample& sample) {
    auto& live = m_live[index(direction)];
    if (!live) return;
    live->samples.push_back(sample);
    // The figure that stands large is the mean of the last second: a tenth alone flickers.
    double sum = 0;
    int count = 0;
    for (auto it = live->samples.rbegin(); it != live->samples.rend() && count < 10; ++it, ++count)
        sum += it->goodputBps;
    m_bands[index(direction)]->setLive(
        sum / count, live->rttIdleUs ? std::optional(live->rttIdleUs->p50) : std::nullopt, sample.rttUs);
    m_plot->add(direction, sample);
    m_progress->setText(
        tr("%1, %2 s left")
            .arg(m_which, QLocale().toString(std::max(0.0, live->config.seconds - sample.t), 'f', 0)));
}

void MeasureView::showRunFinished(const benchmark::Run& run) {
    m_plot->showRun(run);
    m_bands[index(run.config.direction)]->setLive(
        run.goodput.bps(), run.rttIdleUs ? std::optional(run.rttIdleUs->p50) : std::nullopt,
        run.rttLoadedUs ? std::optional(run.rttLoadedUs->p50) : std::nullopt);
    m_live[index(run.config.direction)].reset();
    // The last of a prepared test: it is done.
    if (m_prepared->test() != nullptr && run.complete && run.config.direction == Direction::backward)
        m_prepared->drop();
}

void MeasureView::showEnded() {
    m_running = false;
    m_runs->setLocked(false);
    for (auto& live : m_live)
        live.reset();
    m_conditions->show();
    m_conditions->forgetChange();
    m_trial->setEnabled(true);
    m_prepared->setEnabled(true);
    m_trial->buttons()->setEnabled(true);
    showIcon(m_run, QStringLiteral("play"));
    m_run->setText(tr("Run  (Space)"));
    m_progress->hide();
    showFields();
    for (RateBand* band : m_bands)
        band->clearLive();
    fillRuns();
}

void MeasureView::restyle() {
    m_plot->restyle();
}

void MeasureView::fillRuns() {
    const auto& runs = m_model.runs();
    m_runs->fill();
    m_plot->setVisible(!runs.empty());
    m_runs->setVisible(!runs.empty());
    m_hint->setVisible(runs.empty());
    showRemarks(runs.empty() ? nullptr : &runs.back());
    if (runs.empty()) return;
    // The newest run of each direction is on the plot.
    m_plot->clear();
    for (const Direction d : {Direction::backward, Direction::forward})
        for (auto it = runs.rbegin(); it != runs.rend(); ++it)
            if (it->config.direction == d) {
                m_plot->showRun(*it);
                break;
            }
}

bool MeasureView::event(QEvent* event) {
    return leavesField(event, m_change, m_run) || QWidget::event(event);
}

void MeasureView::chooseRuns(const QStringList& ids) {
    m_runs->choose(ids);
}

void MeasureView::showChosenRun(const QString& id) {
    if (m_running) return;
    for (const benchmark::Run& run : m_model.runs())
        if (run.id == id.toStdString()) {
            m_plot->clear();
            m_plot->showRun(run);
            showRemarks(&run);
        }
}

void MeasureView::showRemarks(const benchmark::Run* run) {
    QString text = run == nullptr ? QString() : remarkText(*run);
    if (run != nullptr && m_model.prediction())
        if (const auto why = trace::impossibility(*m_model.prediction(), *run))
            text.prepend(capitalised(*why) + QStringLiteral(". "));
    // The newest run of that route is of the machines as they were read.
    if (run != nullptr && !m_machineRemarks.isEmpty() && m_model.route() != nullptr &&
        m_model.route()->id == m_machinesOf && run->id == m_model.runs().back().id)
        text += (text.isEmpty() ? QString() : QStringLiteral("\n")) + m_machineRemarks.join(QLatin1Char(' '));
    m_figures->showRun(run);
    m_remark->setText(text);
    m_remark->setVisible(!text.isEmpty());
}

} // namespace metrodos::desktop
