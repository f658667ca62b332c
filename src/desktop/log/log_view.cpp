#include "desktop/log/log_view.h"

#include "desktop/log/set_plot.h"
#include "desktop/widgets/escape.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "quantity/moment.h"

#include <QComboBox>
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

} // namespace

LogView::LogView(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_first(field(QStringLiteral("log-first"), tr("Which runs"),
                    tr("Which: words, or kind=… route=… machine=… from=… hours=18-22 (/)")))
    , m_second(field(QStringLiteral("log-second"), tr("Against which runs"),
                     tr("Against which others: the same (V); empty: none")))
    , m_timeline(new LogTimeline)
    , m_list(plainTable(
          QStringLiteral("log-list"), tr("What was found out"),
          {tr("When"), tr("What"), tr("Way"), tr("Direction"), tr("Figure"), tr("  Conditions and findings")},
          {176, 66, 150, 84, 96}))
    , m_sets(new SetPlot)
    , m_presets(new QComboBox)
    , m_reason(field(QStringLiteral("log-reason"), tr("Why does it not count?"),
                     tr("Why does it not count? Enter keeps it, Esc leaves it as it was")))
    , m_verdict(plainLabel())
    , m_differs(plainLabel())
    , m_worker([this](const Question& q) { return work(q); },
               [this](std::uint64_t number, Answer answer) {
                   QMetaObject::invokeMethod(
                       this, [this, number, answer = std::move(answer)] { take(number, answer); },
                       Qt::QueuedConnection);
               }) {
    setObjectName(QStringLiteral("log"));
    alignFigures(m_list, {4});
    m_presets->setObjectName(QStringLiteral("log-presets"));
    m_presets->setAccessibleName(tr("Comparisons that these runs allow"));
    m_presets->setToolTip(tr("Comparisons that these runs allow (P)"));
    m_presets->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_presets->setMinimumContentsLength(16);
    m_reason->hide();
    m_verdict->setObjectName(QStringLiteral("log-verdict"));
    m_verdict->setFont(textFont(13, true));
    m_verdict->setWordWrap(true);
    m_differs->setObjectName(QStringLiteral("log-differs"));
    m_differs->setWordWrap(true);
    auto* filters = new QHBoxLayout;
    filters->addWidget(m_first, 1);
    filters->addWidget(m_second, 1);
    filters->addWidget(m_presets);
    auto* acts = new QHBoxLayout;
    acts->addWidget(
        keyButton(this, QStringLiteral("log-aside"), tr("Does not count  (X)"),
                  tr("It stays in the log and feeds no verdict, plan or figure; X again takes that back"),
                  Qt::Key_X, [this] { askReason(false); }));
    acts->addWidget(keyButton(this, QStringLiteral("log-aside-all"), tr("All listed do not  (Shift+X)"),
                              tr("Every entry that the filter leaves: those before an exchange, say"),
                              QKeySequence(Qt::SHIFT | Qt::Key_X), [this] { askReason(true); }));
    acts->addWidget(keyButton(this, QStringLiteral("log-revisit"), tr("Repeat that day  (R)"),
                              tr("The runs of the chosen one's day once more, under the same conditions"),
                              Qt::Key_R, [this] { revisit(); }));
    acts->addStretch();
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->addLayout(filters);
    layout->addWidget(m_verdict);
    layout->addWidget(m_sets);
    layout->addWidget(m_differs);
    layout->addWidget(m_timeline, 2);
    layout->addWidget(m_list, 3);
    layout->addWidget(m_reason);
    layout->addLayout(acts);
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
    auto* offer = new QShortcut(Qt::Key_P, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
    connect(offer, &QShortcut::activated, m_presets, [this] {
        m_presets->setFocus();
        m_presets->showPopup();
    });
    connect(m_presets, &QComboBox::activated, this, [this](int index) {
        const auto at = static_cast<std::size_t>(index - 1); // the first is their title
        const bool isOne = index > 0 && at < m_offered.size();
        m_first->setText(isOne ? QString::fromStdString(m_offered[at].first) : QString());
        m_second->setText(isOne ? QString::fromStdString(m_offered[at].second) : QString());
        refresh();
    });
    connect(m_reason, &QLineEdit::returnPressed, this, &LogView::takeReason);
    connect(m_list, &QTableWidget::currentCellChanged, this, [this](int row) {
        if (const job::LogEntry* e = chosen(); e != nullptr && e->route != m_offeredFor) fillPresets();
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

// A field that loses the keyboard when it goes would call what is gone already.
LogView::~LogView() {
    m_first->disconnect(this);
    m_second->disconnect(this);
}

void LogView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) refresh();
}

bool LogView::event(QEvent* event) {
    return leavesField(event, m_reason, m_list) || QWidget::event(event);
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
    if (!first || !second || !m_job.allRuns()) return;
    const house::House& house = m_job.house();
    m_all = m_job.allRuns();
    m_entries = job::logOf(house, *m_all, m_job.allReports(), *first);
    m_a = benchmark::matching(*m_job.countedRuns(), *first, house);
    m_compares = !m_second->text().trimmed().isEmpty();
    m_b = m_compares ? benchmark::matching(*m_job.countedRuns(), *second, house) : benchmark::RouteRuns();
    m_answer.comparison.reset(); // it was of other sets
    fill();
    fillPresets();
    m_asked = m_worker.ask({m_a, m_b, m_compares, m_entries, m_all, house, house.measuring.summary});
}

// Of the chosen entry's way, or of all.
void LogView::fillPresets() {
    const QSignalBlocker quiet(m_presets);
    const job::LogEntry* entry = chosen();
    m_offeredFor = entry == nullptr ? house::Id() : entry->route;
    m_offered = benchmark::presetsOf(m_job.house(), *m_job.countedRuns(), m_offeredFor);
    m_presets->clear();
    m_presets->addItem(m_offered.empty() ? tr("Nothing to compare yet") : tr("Compare …"));
    for (const benchmark::ComparisonPreset& p : m_offered)
        m_presets->addItem(capitalised(p.label));
}

// Samples are read here, beside the window.
LogView::Answer LogView::work(const Question& question) {
    Answer out;
    const auto add = [&](const benchmark::Run& run) {
        auto known = m_known.find(run.id);
        if (known == m_known.end()) {
            const auto spread = job::spreadOf(run);
            if (!spread) return;
            known = m_known.emplace(run.id, *spread).first;
        }
        out.spreads.emplace(run.id, known->second);
    };
    for (const job::LogEntry& e : question.shown)
        if (e.run != nullptr) add(e.run->run);
    for (const benchmark::RouteRun& r : question.b)
        add(r.run);
    if (question.compares)
        out.comparison =
            benchmark::compareSets(question.a, question.b, tr("the first").toStdString(),
                                   tr("the second").toStdString(), question.house, question.rule);
    for (const house::Trial& trial : question.house.trials)
        if (!trial.revisits.empty()) {
            const auto since = benchmark::changedSince(
                question.house, trial, job::counted(*question.all, question.house), question.rule);
            if (!since.empty()) out.since = since;
        }
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
    const auto add = [&](const std::string& id, const std::string& at, quantity::BitRate figure, bool forward,
                         bool isOther) -> TimedRun& {
        TimedRun t;
        t.id = QString::fromStdString(id);
        t.at = QDateTime::fromString(QString::fromStdString(at), Qt::ISODate);
        t.goodput = figure;
        t.forward = forward;
        t.isOther = isOther;
        if (const auto spread = m_answer.spreads.find(id); spread != m_answer.spreads.end())
            t.spread = spread->second;
        timed.push_back(std::move(t));
        return timed.back();
    };
    for (const job::LogEntry& e : m_entries) {
        if (!e.figure) continue;
        TimedRun& t = add(e.id, e.at, *e.figure, e.direction != benchmark::Direction::backward, false);
        if (e.low && e.high) t.spread = Spread(*e.low, *e.high);
        t.counts = e.used;
    }
    for (const benchmark::RouteRun& r : m_b)
        add(r.run.id, r.run.startedAt, r.run.goodput, r.run.config.direction == benchmark::Direction::forward,
            true);
    std::stable_sort(timed.begin(), timed.end(),
                     [](const TimedRun& a, const TimedRun& b) { return a.at < b.at; });
    m_timeline->setRuns(std::move(timed));
}

// The newest first.
void LogView::fillList() {
    const house::House& house = m_job.house();
    const QSignalBlocker quiet(m_list);
    m_list->setRowCount(std::min<int>(static_cast<int>(m_entries.size()), mostRows));
    for (int row = 0; row < m_list->rowCount(); ++row) {
        const job::LogEntry& e = m_entries[m_entries.size() - 1 - static_cast<std::size_t>(row)];
        const house::Route* route = house.route(e.route);
        auto* when = plainCell(momentText(e.at));
        when->setData(Qt::UserRole, QString::fromStdString(e.id));
        QString notes = QString::fromStdString(e.words);
        if (!e.aside.empty())
            notes = tr("does not count: %1").arg(QString::fromStdString(e.aside)) +
                    (notes.isEmpty() ? QString() : QStringLiteral("; ") + notes);
        const QString way = QString::fromStdString(route != nullptr   ? route->label
                                                   : !e.about.empty() ? e.about
                                                                      : e.route);
        auto* figure = plainCell(e.figure ? rateText(*e.figure) : QString());
        figure->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        QTableWidgetItem* cells[] = {
            when,
            plainCell(QString::fromStdString(e.kind)),
            plainCell(way),
            plainCell(e.direction ? QString::fromLatin1(benchmark::name(*e.direction)) : QString()),
            figure,
            plainCell(QStringLiteral("  ") + notes)};
        for (int column = 0; column < 6; ++column) {
            if (!e.aside.empty()) {
                QFont struck = m_list->font();
                struck.setStrikeOut(column != 5);
                cells[column]->setFont(struck);
            }
            m_list->setItem(row, column, cells[column]);
        }
    }
    if (m_list->rowCount() > 0 && m_list->currentRow() < 0) m_list->setCurrentCell(0, 0);
}

const job::LogEntry* LogView::chosen() const {
    const int row = m_list->currentRow();
    const auto n = static_cast<int>(m_entries.size());
    return row < 0 || row >= n ? nullptr : &m_entries[static_cast<std::size_t>(n - 1 - row)];
}

// Who has set a run aside counts it again with the same key.
void LogView::askReason(bool ofAll) {
    const job::LogEntry* e = chosen();
    if (e == nullptr) return Q_EMIT said(tr("choose a run first."), true);
    m_isOfAll = ofAll;
    if (!ofAll && !e->aside.empty()) {
        m_job.apply(tr("count a run again"), job::withSetAside(m_job.house(), e->id, "", utcNow()));
        return Q_EMIT said(tr("It counts again."), false);
    }
    m_reason->clear();
    m_reason->show();
    m_reason->setFocus();
}

void LogView::takeReason() {
    const job::LogEntry* e = chosen();
    const QString reason = m_reason->text().simplified();
    if (e == nullptr || reason.isEmpty())
        return Q_EMIT said(tr("say why, so that the next one knows; Esc leaves it as it was."), true);
    m_reason->hide();
    m_list->setFocus();
    quantity::Result<house::House> next = m_job.house();
    std::vector<house::Id> wanted{e->id};
    if (m_isOfAll) {
        wanted.clear();
        for (const job::LogEntry& one : m_entries)
            if (one.aside.empty() && one.kind != "reading") wanted.push_back(one.id);
    }
    const std::string at = utcNow();
    for (const house::Id& id : wanted)
        if (next) next = job::withSetAside(*next, id, reason.toStdString(), at);
    m_job.apply(m_isOfAll ? tr("leave runs out") : tr("leave a run out"), next);
    if (!next) return;
    Q_EMIT said(m_isOfAll
                    ? tr("They stay in the log and feed no verdict, plan or figure. Ctrl+Z takes that back.")
                    : tr("It stays in the log and feeds no verdict, plan or figure. X takes that back."),
                false);
}

void LogView::revisit() {
    const job::LogEntry* e = chosen();
    const auto at = e == nullptr || e->run == nullptr ? std::nullopt : quantity::utcSeconds(e->at);
    if (!at) return Q_EMIT said(tr("choose a run of the day that is to be repeated."), true);
    const auto trial =
        benchmark::revisitOf(m_job.house(), *m_job.countedRuns(), quantity::localTime(*at).dateText());
    if (!trial) return Q_EMIT said(QString::fromStdString(trial.error().sentence()), true);
    house::House next = m_job.house();
    next.trials.push_back(*trial);
    m_job.apply(tr("repeat the runs of %1").arg(QString::fromStdString(trial->revisits)), next);
    Q_EMIT trialAsked(trial->id, trial->steps.front().route);
}

void LogView::showComparison() {
    m_sets->setVisible(m_compares);
    QStringList lines;
    if (m_compares && m_answer.comparison && !m_answer.comparison->differs.empty()) {
        QStringList differs;
        for (const std::string& one : m_answer.comparison->differs)
            differs << QString::fromStdString(one);
        lines << tr("What differs: %1.").arg(differs.join(QStringLiteral("; ")));
    }
    constexpr std::size_t mostWays = 4;
    if (!m_compares)
        for (std::size_t i = 0; i < std::min(m_answer.since.size(), mostWays); ++i)
            lines << QString::fromStdString(m_answer.since[i].sentence) + QLatin1Char('.');
    m_differs->setText(lines.join(QLatin1Char('\n')));
    m_differs->setVisible(!lines.isEmpty());
    m_verdict->setText(sentence());
    m_verdict->setVisible(m_compares || progress().isEmpty()); // else the line at the bottom is enough
    if (!m_compares) return;
    const auto set = [](const QString& title, const benchmark::RouteRuns& runs) {
        SetPlot::Set out{title, {}};
        for (const benchmark::RouteRun& r : runs)
            if (r.run.complete && r.run.goodput.bps() > 0) out.runs.push_back(r.run.goodput);
        return out;
    };
    m_sets->setSets(
        set(tr("First: %1").arg(m_first->text().isEmpty() ? tr("all runs") : m_first->text()), m_a),
        set(tr("Second: %1").arg(m_second->text()), m_b));
}

QString LogView::progress() const {
    const std::size_t count = m_job.allRuns() ? m_job.allRuns()->size() : 0;
    return count == 0 ? QString() : counted(static_cast<int>(count), tr("%1 run"), tr("%1 runs"));
}

QString LogView::sentence() const {
    const std::size_t all = m_job.allRuns()->size() + m_job.allReports().size();
    if (all == 0 && m_entries.empty())
        return tr("Nothing was measured yet: Space in Measure starts the first run.");
    if (m_compares)
        return m_answer.comparison ? capitalised(m_answer.comparison->sentence) + QLatin1Char('.')
                                   : tr("Comparing…");
    const QString found = counted(static_cast<int>(m_entries.size()), tr("%1 entry"), tr("%1 entries"));
    return m_entries.size() <= static_cast<std::size_t>(mostRows)
               ? tr("%1; P compares, V sets others against them, R repeats a day.").arg(found)
               : tr("%1, the newest %2 of them in the list; V sets others against them.")
                     .arg(found)
                     .arg(mostRows);
}

} // namespace metrodos::desktop
