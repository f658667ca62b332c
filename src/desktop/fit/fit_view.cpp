#include "desktop/fit/fit_view.h"

#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QDateTime>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QShortcut>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int listWidth = 430; // at most
constexpr int leastListWidth = 345;
constexpr int maxWords = 500;

// By shape, as everything that tells states apart.
QString markOf(house::StepState state) {
    switch (state) {
    case house::StepState::done:
        return QStringLiteral("✓");
    case house::StepState::failed:
        return QStringLiteral("✗");
    case house::StepState::skipped:
        return QStringLiteral("–");
    case house::StepState::open:
        break;
    }
    return QStringLiteral("○");
}

std::string now() {
    return QDateTime::currentDateTimeUtc().toString(Qt::ISODate).toStdString();
}

QLineEdit* field(const QString& name, const QString& spoken) {
    auto* f = new QLineEdit;
    f->setObjectName(name);
    f->setAccessibleName(spoken);
    f->setPlaceholderText(spoken);
    f->setMaxLength(maxWords);
    return f;
}

} // namespace

FitView::FitView(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_list(plainTable(QStringLiteral("steps"), tr("Steps of fitting"), {QString(), tr("Step"), tr("Place")},
                        {30, 260}))
    , m_places(plainLabel())
    , m_card(new StepCard)
    , m_reason(field(QStringLiteral("step-reason"), tr("Why? Enter keeps it, Esc leaves the step as it was")))
    , m_note(field(QStringLiteral("step-note"), tr("Note on this step (E); Enter keeps it")))
    , m_row(new QHBoxLayout) {
    setObjectName(QStringLiteral("fit"));
    m_list->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    m_list->setWordWrap(true);
    m_places->setObjectName(QStringLiteral("step-places"));
    m_places->setWordWrap(true);
    auto* left = new QVBoxLayout;
    left->addWidget(m_list, 1);
    left->addWidget(m_places);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(m_card);
    add(QStringLiteral("step-done"), tr("Done  (D)"), tr("It is as it should be; on to the next"), Qt::Key_D,
        [this] { mark(house::StepState::done); });
    add(QStringLiteral("step-failed"), tr("Failed  (F)"), tr("It could not be brought about"), Qt::Key_F,
        [this] { askReason(house::StepState::failed); });
    add(QStringLiteral("step-skipped"), tr("Skip  (S)"), tr("It is not wanted here"), Qt::Key_S,
        [this] { askReason(house::StepState::skipped); });
    add(QStringLiteral("step-open"), tr("Reopen  (U)"), tr("It has to be done after all"), Qt::Key_U,
        [this] { mark(house::StepState::open); });
    m_reopen = m_buttons.back();
    add(QStringLiteral("step-run"), tr("Run it  (M)"), tr("The run that proves it, set up in Measure"),
        Qt::Key_M, [this] { run(); });
    m_run = m_buttons.back();
    m_row->addStretch();
    auto* right = new QVBoxLayout;
    right->addWidget(scroll, 1);
    right->addWidget(m_reason);
    right->addWidget(m_note);
    right->addLayout(m_row);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->setSpacing(12);
    auto* list = new QWidget;
    list->setMaximumWidth(listWidth);
    list->setMinimumWidth(leastListWidth);
    left->setContentsMargins(0, 0, 0, 0);
    list->setLayout(left);
    layout->addWidget(list, 2);
    layout->addLayout(right, 3);
    m_reason->hide();
    const auto key = [this](Qt::Key k, const std::function<void()>& does) {
        auto* shortcut =
            new QShortcut(QKeySequence(k), this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
        connect(shortcut, &QShortcut::activated, this, does);
    };
    key(Qt::Key_E, [this] { m_note->setFocus(); });
    key(Qt::Key_Delete, [this] { takeOut(); });
    connect(m_reason, &QLineEdit::returnPressed, this, &FitView::takeReason);
    connect(m_note, &QLineEdit::returnPressed, this, &FitView::takeNote);
    connect(m_list, &QTableWidget::currentCellChanged, this, [this] {
        if (!m_filling) showChosen();
    });
    connect(&m_job, &JobModel::opened, this, [this] {
        m_wanted.clear();
        m_list->setCurrentCell(-1, -1);
    });
    connect(&m_job, &JobModel::changed, this, &FitView::derive);
    derive();
}

void FitView::add(const QString& name, const QString& text, const QString& tip, const QKeySequence& key,
                  const std::function<void()>& does) {
    auto* b = new QPushButton(text);
    b->setObjectName(name);
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    connect(b, &QPushButton::clicked, this, does);
    auto* shortcut = new QShortcut(key, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
    connect(shortcut, &QShortcut::activated, b, &QPushButton::click);
    m_row->addWidget(b);
    m_buttons.push_back(b);
}

// Escape leaves the reason before it means anything to the window.
bool FitView::event(QEvent* event) {
    const bool isKey = event->type() == QEvent::ShortcutOverride || event->type() == QEvent::KeyPress;
    if (isKey && m_reason->isVisible() &&
        static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) { // NOLINT(*-static-cast-downcast)
        event->accept();
        if (event->type() == QEvent::KeyPress) {
            m_reason->hide();
            m_list->setFocus();
        }
        return true;
    }
    return QWidget::event(event);
}

void FitView::derive() {
    m_steps.clear();
    const auto& house = m_job.house();
    const benchmark::RouteRuns& runs = runsNow();
    const std::vector<fit::Step> steps = fit::stepsOf(house, m_job.catalog());
    m_gone = fit::noLongerNeeded(house, steps);
    for (const fit::Step& s : steps) {
        ShownStep shown;
        shown.step = s;
        shown.place = placeOf(s);
        shown.state = s.state;
        shown.measured = fit::measuredOf(s, runs);
        // What somebody has said of it stands; a run speaks where nobody has.
        if (shown.measured && s.at.empty()) {
            shown.expected = fit::expectedOf(s, house, m_job.catalog(), runs);
            shown.state = fit::provenBy(shown.measured, shown.expected).value_or(s.state);
        }
        m_steps.push_back(std::move(shown));
    }
    // The list is laid out when somebody looks: it takes as long as the rest of a start.
    m_isStale = true;
    if (isVisible()) showSteps();
    Q_EMIT shown();
}

void FitView::showSteps() {
    if (!m_isStale) return;
    m_isStale = false;
    fillList();
    showChosen();
}

void FitView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    showSteps();
}

// None while no job is open.
const benchmark::RouteRuns& FitView::runsNow() const {
    static const benchmark::RouteRuns none;
    return m_job.runs() ? *m_job.runs() : none;
}

QString FitView::placeOf(const fit::Step& step) const {
    const house::Room* room = m_job.house().room(step.room);
    return room == nullptr ? tr("whole house") : QString::fromStdString(room->label);
}

void FitView::fillList() {
    m_filling = true;
    const int before = m_list->currentRow();
    m_list->setRowCount(static_cast<int>(m_steps.size() + m_gone.size()));
    int row = 0;
    int wanted = -1;
    for (const ShownStep& s : m_steps) {
        if (s.step.id == m_wanted) wanted = row;
        auto* mark = plainCell(markOf(s.state));
        mark->setToolTip(stateText(s.state));
        mark->setTextAlignment(Qt::AlignHCenter | Qt::AlignTop);
        m_list->setItem(row, 0, mark);
        auto* what = plainCell(QString::fromStdString(s.step.what) +
                               (s.step.isChanged ? tr(" – it has changed since it was done") : QString()));
        what->setForeground(fit::isClosed(s.state) ? theme().quiet : theme().ink);
        m_list->setItem(row, 1, what);
        auto* place = plainCell(s.place);
        what->setTextAlignment(Qt::AlignLeft | Qt::AlignTop);
        place->setTextAlignment(Qt::AlignLeft | Qt::AlignTop);
        m_list->setItem(row++, 2, place);
    }
    for (const house::StepRecord& r : m_gone) {
        m_list->setItem(row, 0, plainCell(markOf(r.state)));
        auto* what =
            plainCell(tr("No longer needed: %1. Take it out? (Delete)").arg(QString::fromStdString(r.what)));
        what->setForeground(theme().quiet);
        m_list->setItem(row, 1, what);
        m_list->setItem(row++, 2, plainCell({}));
    }
    // The one that was asked for, the one that was shown, or the first that is open.
    if (wanted < 0 && before >= 0 && before < m_list->rowCount()) wanted = before;
    if (wanted < 0)
        for (int i = 0; i < static_cast<int>(m_steps.size()) && wanted < 0; ++i)
            if (!fit::isClosed(m_steps[static_cast<std::size_t>(i)].state)) wanted = i;
    m_list->setCurrentCell(std::clamp(wanted, m_list->rowCount() > 0 ? 0 : -1, m_list->rowCount() - 1), 1);
    m_wanted.clear();
    m_places->setText(places());
    m_filling = false;
}

QString FitView::places() const {
    std::vector<std::pair<QString, std::pair<int, int>>> counts; // closed and all, in the order of the work
    for (const ShownStep& s : m_steps) {
        auto it =
            std::find_if(counts.begin(), counts.end(), [&](const auto& c) { return c.first == s.place; });
        if (it == counts.end()) it = counts.insert(counts.end(), {s.place, {0, 0}});
        it->second.first += fit::isClosed(s.state) ? 1 : 0;
        ++it->second.second;
    }
    QStringList out;
    for (const auto& [place, count] : counts)
        out << tr("%1 %2 of %3").arg(place).arg(count.first).arg(count.second);
    return capitalised(out.join(QStringLiteral(" · ")).toStdString());
}

const ShownStep* FitView::chosen() const {
    const int row = m_list->currentRow();
    return row >= 0 && row < static_cast<int>(m_steps.size()) ? &m_steps[static_cast<std::size_t>(row)]
                                                              : nullptr;
}

void FitView::showChosen() {
    m_reason->hide();
    const ShownStep* s = chosen();
    for (QPushButton* b : m_buttons)
        b->setVisible(s != nullptr);
    m_note->setVisible(s != nullptr);
    m_list->setVisible(m_list->rowCount() > 0);
    if (s == nullptr) {
        const int gone = m_list->currentRow() - static_cast<int>(m_steps.size());
        m_card->showNothing(
            gone >= 0 && gone < static_cast<int>(m_gone.size())
                ? tr("“%1” is no longer needed: what was planned has changed. Delete takes out what was "
                     "recorded of it.")
                      .arg(QString::fromStdString(m_gone[static_cast<std::size_t>(gone)].what))
                : sentence());
        return;
    }
    ShownStep whole = *s;
    if (!whole.expected && !whole.step.route.empty())
        whole.expected = fit::expectedOf(whole.step, m_job.house(), m_job.catalog(), runsNow());
    m_card->showStep(whole);
    m_run->setVisible(!s->step.route.empty());
    m_reopen->setVisible(s->state != house::StepState::open || s->step.isChanged);
    m_note->setText(QString::fromStdString(s->step.note));
}

void FitView::takeFocus() {
    m_list->setFocus();
}

QString FitView::progress() const {
    if (m_steps.empty()) return {};
    const auto closed = std::count_if(m_steps.begin(), m_steps.end(),
                                      [](const ShownStep& s) { return fit::isClosed(s.state); });
    return tr("%1 of %2").arg(closed).arg(m_steps.size());
}

QString FitView::sentence() const {
    if (m_steps.empty())
        return tr(
            "There is nothing to fit yet: choose a plan in Weigh, and make it the house's with Ctrl+Enter.");
    const auto next = std::find_if(m_steps.begin(), m_steps.end(),
                                   [](const ShownStep& s) { return !fit::isClosed(s.state); });
    if (next == m_steps.end()) return tr("All steps are done or skipped.");
    return next->state == house::StepState::failed
               ? tr("Failed: %1. Mend it, or skip it with a reason.")
                     .arg(QString::fromStdString(next->step.what))
               : tr("Next: %1.").arg(QString::fromStdString(next->step.what));
}

// The next one that is open, from the chosen one on; else the first.
void FitView::goOn() {
    const auto from = static_cast<std::size_t>(std::max(0, m_list->currentRow()));
    for (std::size_t i = 1; i <= m_steps.size(); ++i) {
        const ShownStep& s = m_steps[(from + i) % m_steps.size()];
        if (fit::isClosed(s.state)) continue;
        m_wanted = s.step.id;
        return;
    }
}

void FitView::mark(house::StepState state) {
    const ShownStep* s = chosen();
    if (s == nullptr) return;
    const fit::Step step = s->step;
    if (state == house::StepState::done) goOn();
    m_job.apply(tr("%1: %2").arg(stateText(state), QString::fromStdString(step.what)),
                fit::withState(m_job.house(), step, state, state == house::StepState::open ? "" : now()));
    m_list->setFocus();
}

void FitView::askReason(house::StepState state) {
    if (chosen() == nullptr) return;
    m_asked = state;
    m_reason->clear();
    m_reason->show();
    m_reason->setFocus();
}

void FitView::takeReason() {
    const ShownStep* s = chosen();
    const QString reason = m_reason->text().simplified();
    if (s == nullptr) return;
    if (reason.isEmpty()) {
        Q_EMIT said(tr("a step that is %1 has a reason; type it, or press Esc.").arg(stateText(m_asked)),
                    true);
        return;
    }
    const fit::Step step = s->step;
    if (m_asked == house::StepState::skipped) goOn();
    m_job.apply(tr("%1: %2").arg(stateText(m_asked), QString::fromStdString(step.what)),
                fit::withState(m_job.house(), step, m_asked, now(), reason.toStdString()));
    m_list->setFocus();
}

void FitView::takeNote() {
    const ShownStep* s = chosen();
    if (s == nullptr) return;
    const fit::Step step = s->step;
    m_job.apply(tr("note on “%1”").arg(QString::fromStdString(step.what)),
                fit::withNote(m_job.house(), step, m_note->text().simplified().toStdString()));
    m_list->setFocus();
}

void FitView::run() {
    const ShownStep* s = chosen();
    if (s == nullptr || s->step.route.empty()) return;
    const fit::Step step = s->step; // the list may change with what comes of it
    Q_EMIT runAsked(step);
}

void FitView::takeOut() {
    const int gone = m_list->currentRow() - static_cast<int>(m_steps.size());
    if (gone < 0 || gone >= static_cast<int>(m_gone.size())) return;
    const house::StepRecord record = m_gone[static_cast<std::size_t>(gone)];
    m_job.apply(tr("take out “%1”").arg(QString::fromStdString(record.what)),
                fit::withoutRecord(m_job.house(), record.step));
}

} // namespace metrodos::desktop
