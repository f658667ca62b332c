#include "desktop/measure/run_list.h"

#include "benchmark/ordered.h"
#include "benchmark/remarks.h"
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
#include <QLocale>
#include <QTableWidget>
#include <QVBoxLayout>

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
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(m_table, 1);
    layout->addWidget(m_reason);
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

void RunList::fill() {
    const auto& runs = m_model.runs();
    const QSignalBlocker quiet(m_table);
    m_table->setRowCount(static_cast<int>(runs.size()));
    int row = 0;
    for (auto it = runs.rbegin(); it != runs.rend(); ++it, ++row) {
        const benchmark::Run& run = *it;
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
    return leavesField(event, m_reason, m_table) || QWidget::event(event);
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
