#include "desktop/measure/run_list.h"

#include "benchmark/ordered.h"
#include "benchmark/remarks.h"
#include "benchmark/run_filter.h"
#include "desktop/widgets/answer_field.h"
#include "desktop/widgets/escape.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/time_text.h"
#include "house/edit.h"
#include "job/log.h"
#include "quantity/moment.h"
#include "trace/signatures.h"

#include <QAction>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLocale>
#include <QMenu>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

namespace metrodos::desktop {
namespace {

using benchmark::Direction;

QString directionText(Direction d) {
    return d == Direction::forward ? RunList::tr("▸ forward") : RunList::tr("◂ backward");
}

} // namespace

QString remarkText(const benchmark::Run& run) {
    QStringList out;
    for (const std::string& line : benchmark::remarks(run))
        out << capitalised(line) + QLatin1Char('.');
    if (out.isEmpty()) return {};
    return directionText(run.config.direction) + QStringLiteral(": ") + out.join(QLatin1Char(' '));
}

RunList::RunList(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_table(new QTableWidget(0, 6)) {
    m_table->setObjectName(QStringLiteral("runs"));
    m_table->setHorizontalHeaderLabels(
        {tr("When"), tr("Direction"), tr("Streams"), tr("Goodput"), tr("Delay idle / loaded"), tr("Note")});
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setDefaultSectionSize(24);
    m_table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_table->setShowGrid(false);
    m_table->horizontalHeader()->setSectionResizeMode(5, QHeaderView::Stretch);
    const int widths[] = {126, 92, 64, 186, 146};
    for (int column = 0; column < 5; ++column)
        m_table->setColumnWidth(column, widths[column]);
    m_table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    for (int column = 2; column <= 4; ++column)
        m_table->horizontalHeaderItem(column)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    m_table->setTabKeyNavigation(false);
    m_table->setContextMenuPolicy(Qt::ActionsContextMenu);
    const auto action = [this](const QString& text, const QKeySequence& key, void (RunList::*does)()) {
        auto* a = new QAction(text, m_table);
        a->setShortcut(key);
        a->setShortcutContext(Qt::WidgetShortcut);
        m_table->addAction(a);
        connect(a, &QAction::triggered, this, does);
    };
    action(tr("Remove this run"), QKeySequence::Delete, &RunList::remove);
    action(tr("This run does not count …"), Qt::Key_X, &RunList::askReason);
    m_reason = answerField(QStringLiteral("run-reason"), tr("Why the run does not count"),
                           tr("why it does not count; Enter keeps that, Esc leaves it as it was"));
    connect(m_reason, &QLineEdit::returnPressed, this, &RunList::takeReason);
    action(tr("Other people used the network: no, yes, not known (O)"), {}, &RunList::turnOthers);
    action(tr("What ran (A) …"), {}, &RunList::askAppliances);
    action(tr("What was different (G) …"), {}, &RunList::askChange);
    action(tr("Newest, fastest, slowest, longest delay first"), Qt::Key_S, &RunList::nextOrder);
    action(tr("Which runs …"), Qt::Key_Slash, &RunList::askFilter);
    m_changed = answerField(
        QStringLiteral("run-changed"), tr("What was different during the chosen runs"),
        tr("what was different during these runs, one thing only; Enter keeps it, Esc leaves it"));
    connect(m_changed, &QLineEdit::returnPressed, this, &RunList::takeChange);
    m_filter = answerField(QStringLiteral("run-filter"), tr("Which runs are listed"),
                           tr("direction=forward streams=4 hours=18-22, or words; empty: all"));
    connect(m_filter, &QLineEdit::returnPressed, this, [this] {
        const auto wanted = benchmark::parseRunFilter(m_filter->text().toStdString());
        if (!wanted) return Q_EMIT said(QString::fromStdString(wanted.error().sentence()), true);
        if (m_filter->text().trimmed().isEmpty()) m_filter->hide();
        fill();
        m_table->setFocus();
    });
    connect(&m_model.job(), &JobModel::opened, this, [this] {
        m_filter->clear();
        m_filter->hide();
        m_order = Order::newest;
    });
    m_table->installEventFilter(this);
    connect(m_table->horizontalHeader(), &QHeaderView::sectionClicked, this, [this](int column) {
        constexpr int goodput = 3;
        constexpr int delay = 4;
        m_order = column == goodput ? (m_order == Order::fastest ? Order::slowest : Order::fastest)
                  : column == delay ? Order::longestDelay
                                    : Order::newest;
        fill();
    });
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(m_filter);
    layout->addWidget(m_table, 1);
    layout->addWidget(m_reason);
    layout->addWidget(m_changed);
    m_table->setMinimumHeight(72);
    m_table->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Ignored); // takes what is left
    connect(m_table, &QTableWidget::itemSelectionChanged, this,
            [this] { Q_EMIT chosen(idAt(m_table->currentRow())); });
    connect(m_table, &QTableWidget::itemActivated, this,
            [this](const QTableWidgetItem* item) { Q_EMIT opened(idAt(item->row())); });
}

QString RunList::idAt(int row) const {
    const auto* item = m_table->item(row, 0);
    return item == nullptr ? QString() : item->data(Qt::UserRole).toString();
}

QString RunList::partText(const house::Id& element) const {
    const auto* found = m_model.element(element);
    return QString::fromStdString(found == nullptr ? element : found->element.label);
}

// How it was made, as far as that was not as usual, and what became of it.
QString RunList::noteOf(const benchmark::Run& run) const {
    QStringList note;
    if (run.simulated) note << tr("simulated");
    for (const std::string& one : benchmark::orderedOtherwise(run.config))
        note << QString::fromStdString(one);
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
    if (run.warmupSeconds > 0)
        note << tr("first %1 s left out").arg(QLocale().toString(run.warmupSeconds, 'f', 1));
    return note.join(QStringLiteral(", "));
}

std::vector<const benchmark::Run*> RunList::shownRuns() const {
    const auto filter =
        benchmark::parseRunFilter(m_filter->text().toStdString()).value_or(benchmark::RunFilter{});
    const house::Route* route = m_model.route();
    std::vector<const benchmark::Run*> out;
    const auto& runs = m_model.runs();
    for (auto it = runs.rbegin(); it != runs.rend(); ++it)
        if (m_filter->text().trimmed().isEmpty() ||
            filter.matches({route == nullptr ? house::Id() : route->id, *it}, m_model.job().house()))
            out.push_back(&*it);
    const auto sortBy = [&](const auto& figure) {
        std::stable_sort(out.begin(), out.end(), [&](const benchmark::Run* a, const benchmark::Run* b) {
            return figure(*a) < figure(*b);
        });
    };
    if (m_order == Order::fastest) sortBy([](const benchmark::Run& r) { return -r.goodput.bps(); });
    if (m_order == Order::slowest) sortBy([](const benchmark::Run& r) { return r.goodput.bps(); });
    if (m_order == Order::longestDelay)
        sortBy([](const benchmark::Run& r) { return r.rttLoadedUs ? -r.rttLoadedUs->p50 : 0.0; });
    return out;
}

void RunList::nextOrder() {
    m_order = m_order == Order::newest    ? Order::fastest
              : m_order == Order::fastest ? Order::slowest
              : m_order == Order::slowest ? Order::longestDelay
                                          : Order::newest;
    fill();
    Q_EMIT said(m_order == Order::newest    ? tr("The newest run first.")
                : m_order == Order::fastest ? tr("The fastest run first.")
                : m_order == Order::slowest ? tr("The slowest run first.")
                                            : tr("The run with the longest delay under load first."),
                false);
}

void RunList::askFilter() {
    m_filter->show();
    m_filter->setFocus();
    m_filter->selectAll();
}

const benchmark::Run* RunList::chosenRun() const {
    const std::string id = idAt(m_table->currentRow()).toStdString();
    for (const benchmark::Run& run : m_model.runs())
        if (run.id == id) return &run;
    return nullptr;
}

bool RunList::eventFilter(QObject* watched, QEvent* event) {
    if (watched != m_table ||
        (event->type() != QEvent::ShortcutOverride && event->type() != QEvent::KeyPress) ||
        chosenIds().empty() || m_isLocked)
        return QWidget::eventFilter(watched, event);
    auto* key = static_cast<QKeyEvent*>(event);
    const std::map<int, void (RunList::*)()> keys{{Qt::Key_O, &RunList::turnOthers},
                                                  {Qt::Key_A, &RunList::askAppliances},
                                                  {Qt::Key_G, &RunList::askChange}};
    const auto does = keys.find(key->key());
    if (does == keys.end() || key->modifiers() != Qt::NoModifier) return QWidget::eventFilter(watched, event);
    key->accept(); // not the key of the run that comes next
    if (event->type() == QEvent::KeyPress) (this->*does->second)();
    return true;
}

void RunList::note(const std::function<void(benchmark::Conditions&)>& note, const QString& sentence) {
    const auto ids = chosenIds();
    if (m_isLocked || ids.empty()) return;
    QStringList chosen;
    for (const std::string& id : ids)
        chosen << QString::fromStdString(id);
    m_model.job().noteConditions(ids, note);
    choose(chosen);
    Q_EMIT said(sentence, false);
}

void RunList::turnOthers() {
    const benchmark::Run* run = chosenRun();
    if (run == nullptr) return Q_EMIT said(tr("Choose a run first."), true);
    // No, yes, not known, and round again.
    enum class Answer { no, yes, unknown };
    const auto& before = run->conditions.othersActive;
    const Answer next = !before ? Answer::no : *before ? Answer::unknown : Answer::yes;
    note(
        [next](benchmark::Conditions& c) {
            if (next == Answer::unknown)
                c.othersActive.reset();
            else
                c.othersActive = next == Answer::yes;
        },
        next == Answer::unknown
            ? tr("Whether other people used the network is not known of it. Ctrl+Z takes that back.")
        : next == Answer::yes ? tr("Other people used the network during it. Ctrl+Z takes that back.")
                              : tr("Nobody else used the network during it. Ctrl+Z takes that back."));
}

void RunList::askAppliances() {
    const benchmark::Run* run = chosenRun();
    if (run == nullptr) return Q_EMIT said(tr("Choose a run first."), true);
    const auto& known = m_model.job().house().appliances;
    if (known.empty())
        return Q_EMIT said(tr("there are no appliances in the survey: enter them in Walk."), true);
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("run-appliances"));
    for (const house::Appliance& a : known) {
        auto* one =
            menu->addAction(QString::fromStdString(a.label).replace(QLatin1Char('&'), QStringLiteral("&&")));
        one->setCheckable(true);
        const auto& ran = run->conditions.appliances;
        one->setChecked(std::find(ran.begin(), ran.end(), a.label) != ran.end());
        connect(one, &QAction::toggled, this, [this, label = a.label](bool on) {
            note(
                [&](benchmark::Conditions& c) {
                    std::erase(c.appliances, label);
                    if (on) c.appliances.push_back(label);
                },
                (on ? tr("%1 ran during it. Ctrl+Z takes that back.")
                    : tr("%1 did not run during it. Ctrl+Z takes that back."))
                    .arg(QString::fromStdString(label)));
        });
    }
    menu->popup(m_table->viewport()->mapToGlobal(
        m_table->visualRect(m_table->model()->index(m_table->currentRow(), 0)).bottomLeft()));
}

void RunList::askChange() {
    const benchmark::Run* run = chosenRun();
    if (run == nullptr) return Q_EMIT said(tr("Choose a run first."), true);
    m_changed->setText(QString::fromStdString(run->conditions.changed));
    m_changed->show();
    m_changed->setFocus();
    m_changed->selectAll();
}

void RunList::takeChange() {
    const std::string what = m_changed->text().simplified().toStdString();
    m_changed->hide();
    m_table->setFocus();
    note([&](benchmark::Conditions& c) { c.changed = what; },
         what.empty() ? tr("Nothing was different during it. Ctrl+Z takes that back.")
                      : tr("Noted with the run. Ctrl+Z takes that back."));
}

void RunList::fill() {
    const std::vector<const benchmark::Run*> runs = shownRuns();
    const QSignalBlocker quiet(m_table);
    m_table->setRowCount(static_cast<int>(runs.size()));
    int row = -1;
    for (const benchmark::Run* one : runs) {
        ++row;
        const benchmark::Run& run = *one;
        const auto impossible =
            m_model.prediction() ? trace::impossibility(*m_model.prediction(), run) : std::nullopt;
        QString note = noteOf(run);
        if (impossible)
            note.prepend(note.isEmpty() ? tr("not physically possible") : tr("not physically possible, "));
        const QString delay =
            tr("%1 / %2").arg(run.rttIdleUs ? delayText(run.rttIdleUs->p50) : QStringLiteral("–"),
                              run.rttLoadedUs ? delayText(run.rttLoadedUs->p50) : QStringLiteral("–"));
        const QStringList cells{momentText(run.startedAt),
                                directionText(run.config.direction),
                                run.config.protocol == benchmark::Protocol::udp
                                    ? tr("at %1").arg(shortRate(run.config.rate.value_or(run.goodput)))
                                    : QLocale().toString(run.config.streams),
                                bothText(run.goodput),
                                delay,
                                note};
        for (int column = 0; column < cells.size(); ++column) {
            auto* item = new QTableWidgetItem(cells[column]);
            item->setToolTip(
                plainTip(impossible ? capitalised(*impossible) + QLatin1Char('.') : remarkText(run)));
            if (column == 0) item->setData(Qt::UserRole, QString::fromStdString(run.id));
            // Figures stand under one another, the heads of their columns over them.
            if (column >= 2 && column <= 4) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            m_table->setItem(row, column, item);
        }
    }
}

void RunList::clearChoice() {
    m_table->clearSelection();
}

void RunList::choose(const QStringList& ids) {
    m_table->clearSelection();
    bool isFirst = true;
    for (int row = m_table->rowCount() - 1; row >= 0; --row) { // the oldest first
        if (!ids.contains(idAt(row))) continue;
        const auto how = QItemSelectionModel::Select | QItemSelectionModel::Rows;
        if (isFirst) m_table->selectionModel()->setCurrentIndex(m_table->model()->index(row, 0), how);
        m_table->selectionModel()->select(m_table->model()->index(row, 0), how);
        isFirst = false;
    }
    if (isFirst) return;
    m_table->scrollToItem(m_table->item(m_table->currentRow(), 0));
    m_table->setFocus();
}

std::vector<std::string> RunList::chosenIds() const {
    std::vector<std::string> out;
    for (const QModelIndex& row : m_table->selectionModel()->selectedRows())
        out.push_back(idAt(row.row()).toStdString());
    return out;
}

bool RunList::event(QEvent* event) {
    return leavesField(event, m_reason, m_table) || leavesField(event, m_changed, m_table) ||
           leavesField(event, m_filter, m_table) || QWidget::event(event);
}

void RunList::remove() {
    const auto ids = chosenIds();
    if (m_isLocked || ids.empty()) return;
    m_model.job().removeRuns(ids);
    Q_EMIT said(ids.size() == 1 ? tr("The run is removed; Ctrl+Z brings it back.")
                                : tr("The runs are removed; Ctrl+Z brings them back."),
                false);
}

void RunList::askReason() {
    if (m_isLocked || chosenIds().empty()) return Q_EMIT said(tr("Choose a run first."), true);
    m_reason->clear();
    m_reason->show();
    m_reason->setFocus();
}

void RunList::takeReason() {
    const QString reason = m_reason->text().simplified();
    const auto ids = chosenIds();
    if (ids.empty() || reason.isEmpty())
        return Q_EMIT said(tr("Say why, so that the next one knows; Esc leaves it as it was."), true);
    m_reason->hide();
    m_table->setFocus();
    quantity::Result<house::House> next = m_model.job().house();
    const std::string at = quantity::utcNow();
    for (const std::string& id : ids)
        if (next) next = job::withSetAside(*next, id, reason.toStdString(), at);
    m_model.job().apply(ids.size() == 1 ? tr("leave a run out") : tr("leave runs out"), next);
    if (next)
        Q_EMIT said(
            ids.size() == 1
                ? tr("It stays in the log and feeds no verdict, plan or figure. Ctrl+Z takes that back.")
                : tr("They stay in the log and feed no verdict, plan or figure. Ctrl+Z takes that back."),
            false);
}

} // namespace metrodos::desktop
