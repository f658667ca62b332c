#include "desktop/measure_view.h"

#include "desktop/rate_band.h"
#include "desktop/rate_text.h"
#include "desktop/run_plot.h"
#include "desktop/theme.h"

#include <QAction>
#include <QComboBox>
#include <QDateTime>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLocale>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>
#include <QVBoxLayout>

namespace metrodos::desktop {

using benchmark::Direction;

namespace {

int index(Direction d) {
    return d == Direction::forward ? 0 : 1;
}

QSpinBox* spin(int low, int high, int value, const QString& name, const QString& tip) {
    auto* box = new QSpinBox;
    box->setRange(low, high);
    box->setValue(value);
    box->setObjectName(name);
    box->setToolTip(tip);
    return box;
}

QString timeText(const std::string& iso) {
    const QDateTime time = QDateTime::fromString(QString::fromStdString(iso), Qt::ISODate).toLocalTime();
    return time.date().year() <= 1970 ? QStringLiteral("–") : QLocale().toString(time, QLocale::ShortFormat);
}

} // namespace

MeasureView::MeasureView(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    layout->setSpacing(6);
    auto* controls = new QHBoxLayout;
    m_run = new QPushButton;
    m_run->setObjectName(QStringLiteral("run"));
    m_run->setIcon(icon(QStringLiteral("play")));
    m_run->setText(tr("Run  (Space)"));
    m_run->setFocusPolicy(Qt::TabFocus);
    m_direction = new QComboBox;
    m_direction->setObjectName(QStringLiteral("direction"));
    m_direction->addItem(tr("both ways in turn"), 2);
    m_direction->addItem(tr("forward"), 0);
    m_direction->addItem(tr("backward"), 1);
    m_streams = spin(1, benchmark::maximumStreams, 4, QStringLiteral("streams"), tr("Parallel TCP streams"));
    m_seconds = new QComboBox;
    m_seconds->setObjectName(QStringLiteral("seconds"));
    for (const int s : {1, 5, 10, 30, 60, 300})
        m_seconds->addItem(tr("%1 s").arg(s), s);
    m_seconds->setCurrentIndex(2);
    m_repeat = spin(1, 100, 1, QStringLiteral("repeat"), tr("Runs in each direction"));
    m_progress = new QLabel;
    m_progress->setFont(figureFont(12));
    m_progress->hide();
    controls->addWidget(m_run);
    m_run->setMinimumWidth(150);
    m_direction->setMinimumWidth(138);
    m_fields = new QWidget;
    auto* fields = new QHBoxLayout(m_fields);
    fields->setContentsMargins(8, 0, 0, 0);
    controls->addWidget(m_fields);
    fields->addWidget(m_direction);
    const auto labelled = [&](const QString& text, QWidget* field) {
        auto* label = new QLabel(text);
        label->setBuddy(field);
        fields->addWidget(label);
        fields->addWidget(field);
    };
    labelled(tr("&streams"), m_streams);
    labelled(tr("&length"), m_seconds);
    labelled(tr("re&peat"), m_repeat);
    controls->addStretch();
    controls->addWidget(m_progress);
    layout->addLayout(controls);

    m_bands[0] = new RateBand(model, Direction::forward);
    m_bands[1] = new RateBand(model, Direction::backward);
    layout->addWidget(m_bands[0]);
    layout->addWidget(m_bands[1]);
    m_plot = new RunPlot;
    layout->addWidget(m_plot, 3);
    m_plot->hide();

    m_hint = new QLabel(
        tr("Press Space: the two ends of the route are joined and measured both ways. Until then the hatched "
           "bars above are what physics allows, the circles what the boxes promise."));
    m_hint->setWordWrap(true);
    m_hint->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    m_hint->setFont(textFont(13));
    m_hint->setContentsMargins(120, 18, 60, 0);
    layout->addWidget(m_hint, 1);
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
    m_runs->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft);
    m_runs->setMinimumHeight(64);
    m_runs->setTabKeyNavigation(false);
    auto* remove = new QAction(tr("Remove this run"), m_runs);
    remove->setShortcut(QKeySequence::Delete);
    remove->setShortcutContext(Qt::WidgetShortcut);
    m_runs->addAction(remove);
    m_runs->setContextMenuPolicy(Qt::ActionsContextMenu);
    layout->addWidget(m_runs, 1);

    connect(remove, &QAction::triggered, this, [this] {
        if (const auto* item = m_runs->item(m_runs->currentRow(), 0); item != nullptr && !m_running)
            m_model.removeRun(item->data(Qt::UserRole).toString().toStdString());
    });
    connect(m_run, &QPushButton::clicked, this, &MeasureView::runAsked);
    connect(m_runs, &QTableWidget::itemSelectionChanged, this, &MeasureView::showChosenRun);
    connect(&m_model, &JobModel::changed, this, [this] {
        if (!m_running) fillRuns();
    });
}

std::vector<benchmark::RunOrder> MeasureView::orders() const {
    benchmark::RunOrder order;
    order.streams = m_streams->value();
    order.seconds = m_seconds->currentData().toDouble();
    std::vector<benchmark::RunOrder> out;
    for (int i = 0; i < m_repeat->value(); ++i)
        for (const Direction d : {Direction::forward, Direction::backward}) {
            const int wanted = m_direction->currentData().toInt();
            if (wanted != 2 && wanted != index(d)) continue;
            order.direction = d;
            out.push_back(order);
        }
    return out;
}

void MeasureView::setStreams(int streams) {
    m_streams->setValue(streams);
}

void MeasureView::showStarting() {
    m_running = true;
    m_run->setIcon(icon(QStringLiteral("square")));
    m_run->setText(tr("Stop  (Space)"));
    // What was asked for cannot be changed now; its place is for how far it is.
    m_fields->hide();
    m_progress->show();
    m_progress->setText(tr("joining the two ends …"));
    m_plot->clear();
    m_plot->show();
    m_hint->hide();
    m_runs->clearSelection();
}

void MeasureView::showRunStarted(const benchmark::Run& run, int number, int count) {
    m_live = run;
    m_which = count > 1 ? tr("run %1 of %2").arg(number + 1).arg(count) : tr("run");
    if (run.simulated) m_which += tr(", simulated");
    m_plot->begin(run.order.direction, run.order.seconds);
}

void MeasureView::showSample(const benchmark::Sample& sample) {
    if (!m_live) return;
    m_live->samples.push_back(sample);
    // The figure that stands large is the mean of the last second: a tenth alone flickers.
    double sum = 0;
    int count = 0;
    for (auto it = m_live->samples.rbegin(); it != m_live->samples.rend() && count < 10; ++it, ++count)
        sum += it->goodputBps;
    m_bands[index(m_live->order.direction)]->setLive(
        sum / count, m_live->rttIdleUs ? std::optional(m_live->rttIdleUs->p50) : std::nullopt, sample.rttUs);
    m_plot->add(m_live->order.direction, sample);
    m_progress->setText(
        tr("%1, %2 s left")
            .arg(m_which, QLocale().toString(std::max(0.0, m_live->order.seconds - sample.t), 'f', 0)));
}

void MeasureView::showRunFinished(const benchmark::Run& run) {
    m_plot->showRun(run);
    m_bands[index(run.order.direction)]->setLive(
        run.goodput.bps(), run.rttIdleUs ? std::optional(run.rttIdleUs->p50) : std::nullopt,
        run.rttLoadedUs ? std::optional(run.rttLoadedUs->p50) : std::nullopt);
    m_live.reset();
}

void MeasureView::showEnded() {
    m_running = false;
    m_live.reset();
    m_run->setIcon(icon(QStringLiteral("play")));
    m_run->setText(tr("Run  (Space)"));
    m_progress->hide();
    m_fields->show();
    for (RateBand* band : m_bands)
        band->clearLive();
    fillRuns();
}

void MeasureView::restyle() {
    m_plot->restyle();
    m_run->setIcon(icon(m_running ? QStringLiteral("square") : QStringLiteral("play")));
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
        if (!run.complete) note << tr("cut off after %1 s").arg(QLocale().toString(run.seconds, 'f', 1));
        if (run.warmupSeconds > 0)
            note << tr("first %1 s left out").arg(QLocale().toString(run.warmupSeconds, 'f', 1));
        const QString delay =
            tr("%1 / %2").arg(run.rttIdleUs ? delayText(run.rttIdleUs->p50) : QStringLiteral("–"),
                              run.rttLoadedUs ? delayText(run.rttLoadedUs->p50) : QStringLiteral("–"));
        const QStringList cells{timeText(run.startedAt),
                                run.order.direction == Direction::forward ? tr("▸ forward")
                                                                          : tr("◂ backward"),
                                QLocale().toString(run.order.streams),
                                bothText(run.goodput),
                                delay,
                                note.join(QStringLiteral(", "))};
        for (int column = 0; column < cells.size(); ++column) {
            auto* item = new QTableWidgetItem(cells[column]);
            if (column == 0) item->setData(Qt::UserRole, QString::fromStdString(run.id));
            m_runs->setItem(row, column, item);
        }
    }
    m_plot->setVisible(!runs.empty());
    m_runs->setVisible(!runs.empty());
    m_hint->setVisible(runs.empty());
    if (runs.empty()) return;
    // The newest run of each direction is on the plot.
    m_plot->clear();
    for (const Direction d : {Direction::backward, Direction::forward})
        for (auto it = runs.rbegin(); it != runs.rend(); ++it)
            if (it->order.direction == d) {
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
        }
}

} // namespace metrodos::desktop
