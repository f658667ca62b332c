#include "desktop/measure/measure_view.h"

#include "benchmark/remarks.h"
#include "desktop/measure/conditions_button.h"
#include "desktop/measure/prepared_test.h"
#include "desktop/measure/run_controls.h"
#include "desktop/measure/run_figures.h"
#include "desktop/measure/run_plot.h"
#include "desktop/measure/trial_bar.h"
#include "desktop/route/rate_band.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "house/edit.h"
#include "trace/signatures.h"

#include <QAction>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLocale>
#include <QPushButton>
#include <QScrollArea>
#include <QTableWidget>
#include <QVBoxLayout>

namespace metrodos::desktop {

using benchmark::Direction;

constexpr std::chrono::seconds linkPatience{60}; // adapters take their time to find each other

namespace {

int index(Direction d) {
    return d == Direction::forward ? 0 : 1;
}

// What a run says about itself, a sentence each.
QString remarkText(const benchmark::Run& run) {
    QStringList out;
    for (const std::string& line : benchmark::remarks(run))
        out << capitalised(line) + QLatin1Char('.');
    if (out.isEmpty()) return {};
    const QString which = run.config.direction == Direction::forward ? MeasureView::tr("▸ forward")
                                                                     : MeasureView::tr("◂ backward");
    return which + QStringLiteral(": ") + out.join(QLatin1Char(' '));
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
    m_fields = new RunControls;
    controls->addWidget(m_fields);
    controls->addStretch();
    controls->addWidget(m_progress);
    m_conditions = new ConditionsButton(model.job());
    m_trial = new TrialBar(model);
    controls->addWidget(m_trial->buttons());
    controls->addWidget(m_conditions);
    layout->addLayout(controls);
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
    m_runs = new QTableWidget(0, 6);
    m_runs->setObjectName(QStringLiteral("runs"));
    m_runs->setHorizontalHeaderLabels(
        {tr("When"), tr("Direction"), tr("Streams"), tr("Goodput"), tr("Delay idle / loaded"), tr("Note")});
    m_runs->verticalHeader()->hide();
    m_runs->verticalHeader()->setDefaultSectionSize(24);
    m_runs->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_runs->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_runs->setSelectionMode(QAbstractItemView::SingleSelection);
    m_runs->setShowGrid(false);
    m_runs->horizontalHeader()->setSectionResizeMode(5, QHeaderView::Stretch);
    const int widths[] = {126, 92, 64, 186, 146};
    for (int column = 0; column < 5; ++column)
        m_runs->setColumnWidth(column, widths[column]);
    m_runs->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    for (int column = 2; column <= 4; ++column)
        m_runs->horizontalHeaderItem(column)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    m_runs->setMinimumHeight(72);
    m_runs->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Ignored); // takes what is left
    m_runs->setTabKeyNavigation(false);
    auto* remove = new QAction(tr("Remove this run"), m_runs);
    remove->setShortcut(QKeySequence::Delete);
    remove->setShortcutContext(Qt::WidgetShortcut);
    m_runs->addAction(remove);
    m_runs->setContextMenuPolicy(Qt::ActionsContextMenu);
    results->addWidget(m_runs, 1);
    auto* scroll = new QScrollArea;
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(lower);
    layout->addWidget(scroll, 1);

    connect(remove, &QAction::triggered, this, [this] {
        if (const auto* item = m_runs->item(m_runs->currentRow(), 0); item != nullptr && !m_running)
            m_model.job().removeRun(item->data(Qt::UserRole).toString().toStdString());
    });
    connect(m_fields, &RunControls::refused, this,
            [this](const QString& sentence) { Q_EMIT said(sentence, true); });
    connect(m_trial, &TrialBar::said, this, &MeasureView::said);
    connect(m_figures, &RunFigures::said, this, &MeasureView::said);
    connect(m_trial, &TrialBar::shown, this, &MeasureView::showFields);
    connect(m_prepared, &PreparedTest::shown, this, &MeasureView::showFields);
    connect(m_run, &QPushButton::clicked, this, &MeasureView::runAsked);
    connect(m_runs, &QTableWidget::itemSelectionChanged, this, &MeasureView::showChosenRun);
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
        out.arrangement = benchmark::arrangementOf(*step);
    } else {
        out.steps = m_fields->steps();
    }
    return out;
}

// A step of a trial and a prepared test say themselves what is run.
void MeasureView::showFields() {
    m_fields->setVisible(!m_running && m_trial->step() == nullptr && m_prepared->test() == nullptr);
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
    m_runs->clearSelection();
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

QString MeasureView::partText(const house::Id& element) const {
    const auto* found = m_model.element(element);
    return QString::fromStdString(found == nullptr ? element : found->element.label);
}

void MeasureView::restyle() {
    m_plot->restyle();
}

void MeasureView::fillRuns() {
    const auto& runs = m_model.runs();
    const QSignalBlocker quiet(m_runs);
    m_runs->setRowCount(static_cast<int>(runs.size()));
    int row = 0;
    for (auto it = runs.rbegin(); it != runs.rend(); ++it, ++row) {
        const benchmark::Run& run = *it;
        QStringList note;
        if (run.simulated) note << tr("simulated");
        const benchmark::Arrangement& how = run.config.arrangement;
        if (how.swapped) note << tr("ends swapped");
        for (const benchmark::Alteration& a : how.altered)
            note << (a.kind != house::AlterationKind::other_outlet ? tr("appliances off")
                     : a.place.empty()                             ? tr("at another outlet")
                                       : tr("at “%1”").arg(QString::fromStdString(
                                             house::labelOfPlace(m_model.job().house(), a.place))));
        if (how.bypassed.size() == 1)
            note << tr("without %1").arg(partText(how.bypassed.front()));
        else if (!how.bypassed.empty())
            note << tr("a part of the route");
        if (how.setup != house::Setup::place)
            note << (how.setup == house::Setup::baseline ? tr("baseline") : tr("bench"));
        if (!run.config.group.empty()) note << tr("both ways at once");
        if (run.datagrams)
            note << tr("%1 % lost").arg(QLocale().toString(run.datagrams->lossRatio() * 100, 'g', 2));
        if (!run.complete) note << tr("stopped after %1 s").arg(QLocale().toString(run.seconds, 'f', 1));
        const auto impossible =
            m_model.prediction() ? trace::impossibility(*m_model.prediction(), run) : std::nullopt;
        if (impossible) note.prepend(tr("not physically possible"));
        if (run.warmupSeconds > 0)
            note << tr("first %1 s left out").arg(QLocale().toString(run.warmupSeconds, 'f', 1));
        const QString delay =
            tr("%1 / %2").arg(run.rttIdleUs ? delayText(run.rttIdleUs->p50) : QStringLiteral("–"),
                              run.rttLoadedUs ? delayText(run.rttLoadedUs->p50) : QStringLiteral("–"));
        const QStringList cells{momentText(run.startedAt),
                                run.config.direction == Direction::forward ? tr("▸ forward")
                                                                           : tr("◂ backward"),
                                run.config.protocol == benchmark::Protocol::udp
                                    ? tr("at %1").arg(shortRate(run.config.rate.value_or(run.goodput)))
                                    : QLocale().toString(run.config.streams),
                                bothText(run.goodput),
                                delay,
                                note.join(QStringLiteral(", "))};
        for (int column = 0; column < cells.size(); ++column) {
            auto* item = new QTableWidgetItem(cells[column]);
            item->setToolTip(
                plainTip(impossible ? capitalised(*impossible) + QLatin1Char('.') : remarkText(run)));
            if (column == 0) item->setData(Qt::UserRole, QString::fromStdString(run.id));
            // Figures stand under one another, the heads of their columns over them.
            if (column >= 2 && column <= 4) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            m_runs->setItem(row, column, item);
        }
    }
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

void MeasureView::showChosenRun() {
    const auto* item = m_runs->item(m_runs->currentRow(), 0);
    if (item == nullptr || m_running) return;
    const std::string id = item->data(Qt::UserRole).toString().toStdString();
    for (const benchmark::Run& run : m_model.runs())
        if (run.id == id) {
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
