#include "desktop/log/log_view.h"

#include "benchmark/statistics.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "house/edit.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QShortcut>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int mostRows = 2000; // of the list; the timeline has all

QLineEdit* field(const QString& name, const QString& spoken, const QString& hint) {
    auto* f = new QLineEdit;
    f->setObjectName(name);
    f->setAccessibleName(spoken);
    f->setPlaceholderText(hint);
    f->setMaxLength(1000);
    f->setClearButtonEnabled(true);
    return f;
}

std::optional<catalog::RateSpread> spreadOf(const benchmark::RouteRuns& runs) {
    std::vector<double> rates;
    for (const benchmark::RouteRun& r : runs)
        if (r.run.complete && r.run.goodput.bps() > 0) rates.push_back(r.run.goodput.bps());
    if (rates.empty()) return std::nullopt;
    const auto at = [&](double p) { return quantity::BitRate::bitsPerSecond(benchmark::quantile(rates, p)); };
    return catalog::RateSpread{at(0.1), at(0.5), at(0.9)};
}

} // namespace

LogView::LogView(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_first(field(QStringLiteral("log-first"), tr("Which runs"),
                    tr("Which runs: words, or route=… direction=… from=… hours=18-22 (/)")))
    , m_second(field(QStringLiteral("log-second"), tr("Against which runs"),
                     tr("Against which others: the same (V); empty: none")))
    , m_timeline(new LogTimeline)
    , m_list(plainTable(QStringLiteral("log-list"), tr("Runs"),
                        {tr("When"), tr("Way"), tr("Direction"), tr("Goodput"), tr("Conditions")},
                        {172, 170, 84, 100}))
    , m_ranges(new RangeList)
    , m_verdict(plainLabel())
    , m_differs(plainLabel())
    , m_worker(&LogView::work, [this](std::uint64_t number, Answer answer) {
        QMetaObject::invokeMethod(
            this, [this, number, answer = std::move(answer)] { take(number, answer); }, Qt::QueuedConnection);
    }) {
    setObjectName(QStringLiteral("log"));
    alignFigures(m_list, {3});
    m_ranges->setObjectName(QStringLiteral("log-ranges"));
    m_ranges->setFixedHeight(142); // two rows and their axis
    m_verdict->setObjectName(QStringLiteral("log-verdict"));
    m_verdict->setFont(textFont(13, true));
    m_verdict->setWordWrap(true);
    m_differs->setObjectName(QStringLiteral("log-differs"));
    m_differs->setWordWrap(true);
    auto* filters = new QHBoxLayout;
    filters->addWidget(m_first, 1);
    filters->addWidget(m_second, 1);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->addLayout(filters);
    layout->addWidget(m_verdict);
    layout->addWidget(m_ranges);
    layout->addWidget(m_differs);
    layout->addWidget(m_timeline, 2);
    layout->addWidget(m_list, 3);
    for (QLineEdit* f : {m_first, m_second})
        connect(f, &QLineEdit::editingFinished, this, &LogView::refresh);
    const auto key = [this](Qt::Key k, QLineEdit* f) {
        auto* shortcut = new QShortcut(k, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
        connect(shortcut, &QShortcut::activated, f, [f] {
            f->setFocus();
            f->selectAll();
        });
    };
    key(Qt::Key_Slash, m_first);
    key(Qt::Key_V, m_second);
    connect(m_list, &QTableWidget::currentCellChanged, this, [this](int row) {
        if (row >= 0 && m_list->item(row, 0) != nullptr)
            m_timeline->setCurrent(m_list->item(row, 0)->data(Qt::UserRole).toString());
    });
    connect(m_timeline, &LogTimeline::chosen, this, [this](const QString& id) {
        for (int row = 0; row < m_list->rowCount(); ++row)
            if (m_list->item(row, 0)->data(Qt::UserRole).toString() == id) m_list->setCurrentCell(row, 0);
    });
    connect(&m_job, &JobModel::changed, this, [this] {
        m_isStale = true;
        if (isVisible()) refresh();
    });
    connect(&m_job, &JobModel::opened, this, [this] {
        m_first->clear();
        m_second->clear();
        m_answer = {};
    });
}

void LogView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) refresh();
}

void LogView::takeFocus() {
    m_list->setFocus();
}

// What is typed is kept where it cannot be read, and nothing else changes.
std::optional<benchmark::RunFilter> LogView::filter(QLineEdit* field) {
    const auto parsed = benchmark::parseRunFilter(field->text().toStdString());
    if (parsed) return *parsed;
    Q_EMIT said(QString::fromStdString(parsed.error().sentence()), true);
    return std::nullopt;
}

void LogView::refresh() {
    m_isStale = false;
    const auto first = filter(m_first);
    const auto second = filter(m_second);
    if (!first || !second || !m_job.runs()) return;
    m_a = benchmark::matching(*m_job.runs(), *first, m_job.house());
    m_compares = !m_second->text().trimmed().isEmpty();
    m_b = m_compares ? benchmark::matching(*m_job.runs(), *second, m_job.house()) : benchmark::RouteRuns();
    m_answer.comparison.reset(); // it was of other sets
    m_answer.figuresA.reset();
    m_answer.figuresB.reset();
    fill();
    m_asked = m_worker.ask({m_a, m_b, m_compares, m_job.house(), m_job.house().measuring.summary});
}

// Samples are read here, beside the window.
LogView::Answer LogView::work(const Question& question) {
    Answer out;
    for (const benchmark::RouteRuns* runs : {&question.a, &question.b})
        for (const benchmark::RouteRun& r : *runs) {
            const std::vector<double> seconds = benchmark::wholeSeconds(r.run);
            if (seconds.size() < 2 || out.spreads.contains(r.run.id)) continue;
            const auto at = [&](double p) {
                return quantity::BitRate::bitsPerSecond(benchmark::quantile(seconds, p));
            };
            out.spreads.emplace(r.run.id, Spread(at(0.1), at(0.9)));
        }
    out.figuresA = spreadOf(question.a);
    out.figuresB = spreadOf(question.b);
    if (question.compares)
        out.comparison =
            benchmark::compareSets(question.a, question.b, tr("the first").toStdString(),
                                   tr("the second").toStdString(), question.house, question.rule);
    return out;
}

void LogView::take(std::uint64_t number, const Answer& answer) {
    m_answer = answer;
    m_answered = number;
    fillTimeline();
    showComparison();
    Q_EMIT shown();
}

void LogView::fill() {
    fillTimeline();
    fillList();
    showComparison();
    Q_EMIT shown();
}

void LogView::fillTimeline() {
    std::vector<TimedRun> timed;
    for (const bool isOther : {false, true})
        for (const benchmark::RouteRun& r : isOther ? m_b : m_a) {
            TimedRun t;
            t.id = QString::fromStdString(r.run.id);
            t.at = QDateTime::fromString(QString::fromStdString(r.run.startedAt), Qt::ISODate);
            t.goodput = r.run.goodput;
            t.forward = r.run.config.direction == benchmark::Direction::forward;
            t.isOther = isOther;
            if (const auto spread = m_answer.spreads.find(r.run.id); spread != m_answer.spreads.end())
                t.spread = spread->second;
            timed.push_back(std::move(t));
        }
    std::stable_sort(timed.begin(), timed.end(),
                     [](const TimedRun& a, const TimedRun& b) { return a.at < b.at; });
    m_timeline->setRuns(std::move(timed));
}

// The newest first.
void LogView::fillList() {
    const house::House& house = m_job.house();
    const QSignalBlocker quiet(m_list);
    m_list->setRowCount(std::min<int>(static_cast<int>(m_a.size()), mostRows));
    for (int row = 0; row < m_list->rowCount(); ++row) {
        const benchmark::RouteRun& r = m_a[m_a.size() - 1 - static_cast<std::size_t>(row)];
        const benchmark::Run& run = r.run;
        const house::Route* route = house.route(r.route);
        auto* when = plainCell(momentText(run.startedAt));
        when->setData(Qt::UserRole, QString::fromStdString(run.id));
        m_list->setItem(row, 0, when);
        m_list->setItem(row, 1, plainCell(QString::fromStdString(route == nullptr ? r.route : route->label)));
        m_list->setItem(row, 2,
                        plainCell(run.config.direction == benchmark::Direction::forward ? tr("forward")
                                                                                        : tr("backward")));
        auto* figure = plainCell(rateText(run.goodput));
        figure->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        m_list->setItem(row, 3, figure);
        QStringList notes;
        if (run.simulated) notes << tr("simulated");
        if (!run.complete) notes << tr("cut off");
        if (run.config.arrangement.setup != house::Setup::place)
            notes << (run.config.arrangement.setup == house::Setup::baseline ? tr("baseline") : tr("bench"));
        for (const benchmark::Alteration& a : run.config.arrangement.altered)
            if (!a.place.empty())
                notes << tr("at “%1”").arg(QString::fromStdString(house::labelOfPlace(house, a.place)));
        if (run.conditions.othersActive)
            notes << (*run.conditions.othersActive ? tr("others active") : tr("alone"));
        for (const std::string& appliance : run.conditions.appliances)
            notes << QString::fromStdString(appliance);
        if (!run.conditions.changed.empty()) notes << QString::fromStdString(run.conditions.changed);
        m_list->setItem(row, 4, plainCell(notes.join(QStringLiteral(", "))));
    }
    if (m_list->rowCount() > 0 && m_list->currentRow() < 0) m_list->setCurrentCell(0, 0);
}

void LogView::showComparison() {
    m_ranges->setVisible(m_compares);
    m_differs->setVisible(false);
    m_verdict->setText(sentence());
    m_verdict->setVisible(m_compares || progress().isEmpty()); // else the line at the bottom is enough
    if (!m_compares) return;
    const auto row = [](const QString& title, std::size_t count,
                        const std::optional<catalog::RateSpread>& figures) {
        RangeRow out;
        out.title = title;
        out.detail = counted(static_cast<int>(count), tr("%1 run"), tr("%1 runs"));
        out.forward = figures;
        if (!figures) out.instead = tr("no whole run");
        return out;
    };
    m_ranges->setRows({row(tr("First: %1").arg(m_first->text().isEmpty() ? tr("all runs") : m_first->text()),
                           m_a.size(), m_answer.figuresA),
                       row(tr("Second: %1").arg(m_second->text()), m_b.size(), m_answer.figuresB)});
    if (!m_answer.comparison || m_answer.comparison->differs.empty()) return;
    QStringList differs;
    for (const std::string& one : m_answer.comparison->differs)
        differs << QString::fromStdString(one);
    m_differs->setText(tr("What differs: %1.").arg(differs.join(QStringLiteral("; "))));
    m_differs->show();
}

QString LogView::progress() const {
    const std::size_t count = m_job.runs() ? m_job.runs()->size() : 0;
    return count == 0 ? QString() : counted(static_cast<int>(count), tr("%1 run"), tr("%1 runs"));
}

QString LogView::sentence() const {
    if (!m_job.runs() || m_job.runs()->empty())
        return tr("Nothing was measured yet: Space in Measure starts the first run.");
    if (m_compares)
        return m_answer.comparison ? capitalised(m_answer.comparison->sentence) + QLatin1Char('.')
                                   : tr("Comparing…");
    const QString found = tr("%1 of %2")
                              .arg(counted(static_cast<int>(m_a.size()), tr("%1 run"), tr("%1 runs")))
                              .arg(m_job.runs()->size());
    return m_a.size() <= static_cast<std::size_t>(mostRows)
               ? tr("%1; V sets others against them.").arg(found)
               : tr("%1, the newest %2 of them in the list; V sets others against them.")
                     .arg(found)
                     .arg(mostRows);
}

} // namespace metrodos::desktop
