#include "desktop/fit/fit_view.h"

#include "benchmark/trial.h"

#include "desktop/fit/pairing_panel.h"
#include "desktop/fit/photo_strip.h"
#include "desktop/route/tried_rows.h"
#include "desktop/widgets/escape.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
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
    , m_photos(new PhotoStrip(job))
    , m_pairing(new PairingPanel(job))
    , m_tried(new RangeList)
    , m_triedText(plainLabel())
    , m_row(new QHBoxLayout)
    , m_more(new QHBoxLayout) {
    setObjectName(QStringLiteral("fit"));
    // Rows are set once, and anew where the words have another width: a header that does so by itself
    // measures three hundred of them whenever anything beside the list changes.
    connect(m_list->horizontalHeader(), &QHeaderView::sectionResized, this, [this] { m_rowsTimer.start(); });
    m_rowsTimer.setSingleShot(true);
    m_rowsTimer.setInterval(0);
    connect(&m_rowsTimer, &QTimer::timeout, m_list, &QTableWidget::resizeRowsToContents);
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
    add(m_row, QStringLiteral("step-done"), tr("Done  (D)"), tr("It is as it should be; on to the next"),
        Qt::Key_D, [this] { mark(house::StepState::done); });
    add(m_row, QStringLiteral("step-failed"), tr("Failed  (F)"), tr("It could not be brought about"),
        Qt::Key_F, [this] { askReason(house::StepState::failed); });
    add(m_row, QStringLiteral("step-skipped"), tr("Skip  (S)"), tr("It is not wanted here"), Qt::Key_S,
        [this] { askReason(house::StepState::skipped); });
    m_reopen = add(m_row, QStringLiteral("step-open"), tr("Reopen  (U)"), tr("It has to be done after all"),
                   Qt::Key_U, [this] { mark(house::StepState::open); });
    m_row->addStretch();
    m_run = add(m_more, QStringLiteral("step-run"), tr("Run it  (M)"),
                tr("The run that proves it, set up in Measure"), Qt::Key_M, [this] { run(); });
    m_try = add(m_more, QStringLiteral("step-try"), tr("Try places  (T)"),
                tr("Leads through the places where it can be plugged in, five seconds each way"), Qt::Key_T,
                [this] { tryPlaces(); });
    m_keep = add(m_more, QStringLiteral("step-keep"), tr("Keep the best  (B)"),
                 tr("It stays at the place with the highest lower end"), Qt::Key_B, [this] { keepPlace(); });
    m_clock =
        add(m_more, QStringLiteral("pair-start"), tr("Two minutes  (P)"),
            tr("Press when you press the first button"), Qt::Key_P, [this] { m_pairing->startClock(); });
    m_joined = add(m_more, QStringLiteral("pair-joined"), tr("They joined  (J)"), tr("Both show a link"),
                   Qt::Key_J, [this] { m_pairing->noteJoined(); });
    add(m_more, QStringLiteral("step-photo"), tr("Photo…  (A)"), tr("A picture of it, from a file"),
        Qt::Key_A, [this] { m_photos->ask(); });
    m_more->addStretch();
    m_tried->setObjectName(QStringLiteral("tried"));
    m_triedText->setObjectName(QStringLiteral("tried-text"));
    m_triedText->setFont(textFont(12, true));
    m_triedText->setWordWrap(true);
    auto* right = new QVBoxLayout;
    right->addWidget(m_pairing);
    right->addWidget(scroll, 3);
    right->addWidget(m_tried, 2);
    right->addWidget(m_triedText);
    right->addWidget(m_photos);
    right->addWidget(m_reason);
    right->addWidget(m_note);
    right->addLayout(m_more);
    right->addLayout(m_row);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->setSpacing(12);
    m_left = new QWidget;
    left->setContentsMargins(0, 0, 0, 0);
    m_left->setLayout(left);
    layout->addWidget(m_left);
    layout->addLayout(right, 1);
    m_reason->hide();
    const auto key = [this](Qt::Key k, const std::function<void()>& does) {
        auto* shortcut =
            new QShortcut(QKeySequence(k), this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
        connect(shortcut, &QShortcut::activated, this, does);
    };
    key(Qt::Key_E, [this] { m_note->setFocus(); });
    key(Qt::Key_Delete, [this] { takeOut(); });
    key(Qt::Key_K, [this] {
        if (auto* place = m_pairing->findChild<QLineEdit*>(QStringLiteral("key-place"));
            m_pairing->isVisible())
            place->setFocus();
    });
    connect(m_photos, &PhotoStrip::said, this, &FitView::said);
    connect(m_pairing, &PairingPanel::said, this, &FitView::said);
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

QPushButton* FitView::add(QHBoxLayout* row, const QString& name, const QString& text, const QString& tip,
                          const QKeySequence& key, const std::function<void()>& does) {
    QPushButton* b = keyButton(this, name, text, tip, key, does);
    row->addWidget(b);
    m_buttons.push_back(b);
    return b;
}

bool FitView::event(QEvent* event) {
    return leavesField(event, m_reason, m_list) || QWidget::event(event);
}

void FitView::derive() {
    m_steps.clear();
    m_causeOf.clear(); // the house and its runs are others now
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

// The list is as wide whatever stands beside it.
void FitView::resizeEvent(QResizeEvent* event) {
    m_left->setFixedWidth(std::clamp(width() * 36 / 100, leastListWidth, listWidth));
    QWidget::resizeEvent(event);
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
    m_list->resizeRowsToContents();
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
    m_trial.clear();
    for (QWidget* w : {static_cast<QWidget*>(m_photos), static_cast<QWidget*>(m_pairing),
                       static_cast<QWidget*>(m_tried), static_cast<QWidget*>(m_triedText)})
        w->hide();
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
    if (whole.measured && whole.state == house::StepState::failed) {
        if (m_causeOf != whole.step.id)
            m_cause = fit::causeOf(whole.step, m_job.house(), m_job.catalog(), runsNow());
        m_causeOf = whole.step.id;
        whole.cause = m_cause;
    }
    m_card->showStep(whole);
    if (whole.cause) Q_EMIT routeShown(whole.step.route);
    m_run->setVisible(!s->step.route.empty());
    showTrial(s->step);
    showPairing(s->step);
    m_photos->showStep(s->step);
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
    const std::string at = state == house::StepState::open ? "" : utcNow();
    m_job.apply(tr("%1: %2").arg(stateText(state), QString::fromStdString(step.what)),
                fit::withState(withProof(step, state), step, state, at));
    m_list->setFocus();
}

// Whether strangers can join is a fact of the adapters too.
house::House FitView::withProof(const fit::Step& step, house::StepState state) const {
    const auto medium = house::medium(step.about);
    const bool isProof = step.kind == fit::StepKind::privacy && medium &&
                         (state == house::StepState::done || state == house::StepState::failed);
    return isProof ? fit::withPrivacy(m_job.house(), *medium, state == house::StepState::done, utcNow())
                   : m_job.house();
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
                fit::withState(withProof(step, m_asked), step, m_asked, utcNow(), reason.toStdString()));
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

// The latest trial of the step's places, and what it has shown so far.
void FitView::showTrial(const fit::Step& step) {
    const auto places = fit::placesOf(step, m_job.house());
    m_try->setVisible(places.has_value());
    if (places) m_try->setText(tr("Try the %1  (T)").arg(QString::fromStdString(places->kind)));
    const auto& trials = m_job.house().trials;
    for (const house::Trial& t : trials)
        if (places && fit::isTrialOf(t, *places)) m_trial = t.id;
    m_keep->setVisible(false);
    const auto trial =
        std::find_if(trials.begin(), trials.end(), [this](const house::Trial& t) { return t.id == m_trial; });
    if (trial == trials.end()) return;
    const auto tried = fit::triedPlaces(m_job.house(), *trial, runsNow());
    m_tried->setRows(triedRows(tried));
    m_triedText->setText(triedText(tried));
    m_tried->show();
    m_triedText->show();
    const auto best = fit::bestOf(tried);
    m_keep->setVisible(best && !tried[*best].isNow);
}

void FitView::showPairing(const fit::Step& step) {
    const bool isPair = step.kind == fit::StepKind::pair;
    const auto medium = house::medium(step.about);
    const bool isShown = (isPair || step.kind == fit::StepKind::privacy) && medium.has_value();
    if (isShown) m_pairing->showMedium(*medium, isPair);
    m_pairing->setVisible(isShown);
    const bool hasClock = isShown && isPair && !fit::pairingOf(m_job.house(), *medium).empty();
    m_clock->setVisible(hasClock);
    m_joined->setVisible(hasClock);
}

void FitView::tryPlaces() {
    const ShownStep* s = chosen();
    if (s == nullptr) return;
    const auto places = fit::placesOf(s->step, m_job.house());
    if (!places) return;
    house::House next = m_job.house();
    house::Id id = m_trial;
    const auto trial = std::find_if(next.trials.begin(), next.trials.end(),
                                    [&](const house::Trial& t) { return t.id == id; });
    const QString things = QString::fromStdString(places->things);
    const bool isNew = trial == next.trials.end();
    if (isNew) {
        next.trials.push_back(fit::planPlaces(next, *places));
        id = next.trials.back().id;
        m_job.apply(tr("try the %1").arg(things), next);
    }
    if (!isNew && benchmark::nextStep(*trial, runsNow()) == nullptr) { // all of it is done: one round more
        *trial = fit::withRound(*trial);
        m_job.apply(tr("try the %1 once more").arg(things), next);
    }
    Q_EMIT trialAsked(id, places->route);
}

void FitView::keepPlace() {
    const auto& trials = m_job.house().trials;
    const auto trial =
        std::find_if(trials.begin(), trials.end(), [this](const house::Trial& t) { return t.id == m_trial; });
    if (trial == trials.end()) return;
    const auto kept = desktop::keepBest(m_job, *trial);
    Q_EMIT said(kept ? *kept : QString::fromStdString(kept.error().sentence()), !kept);
}

void FitView::takeOut() {
    const QWidget* focused = focusWidget();
    if (focused != nullptr && m_photos->isAncestorOf(focused)) return m_photos->takeOut();
    const int gone = m_list->currentRow() - static_cast<int>(m_steps.size());
    if (gone < 0 || gone >= static_cast<int>(m_gone.size())) return;
    const house::StepRecord record = m_gone[static_cast<std::size_t>(gone)];
    m_job.apply(tr("take out “%1”").arg(QString::fromStdString(record.what)),
                fit::withoutRecord(m_job.house(), record.step));
}

} // namespace metrodos::desktop
