#include "desktop/measure/trial_bar.h"

#include "desktop/route/tried_rows.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/tool_button.h"
#include "house/remove.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLocale>
#include <QPushButton>
#include <QSpinBox>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace metrodos::desktop {
namespace {

using benchmark::Direction;

constexpr int placesHeight = 192; // pixels: three places

QString minutes(double seconds) {
    return seconds < 90 ? TrialBar::tr("%1 s").arg(QLocale().toString(std::ceil(seconds), 'f', 0))
                        : TrialBar::tr("%1 min").arg(QLocale().toString(std::ceil(seconds / 60), 'f', 0));
}

QString stepsText(std::size_t count) {
    return count == 1 ? TrialBar::tr("1 step") : TrialBar::tr("%1 steps").arg(count);
}

// By what they are called: the numbers of streams that each place is run with.
std::vector<std::pair<QString, QVariantList>> streamChoices() {
    return {{TrialBar::tr("1 and 4 streams"), {1, 4}},
            {TrialBar::tr("1 stream"), {1}},
            {TrialBar::tr("4 streams"), {4}},
            {TrialBar::tr("8 streams"), {8}},
            {TrialBar::tr("1, 4 and 16 streams"), {1, 4, 16}}};
}

QComboBox* namedBox(const QString& name, const QString& accessible) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->setAccessibleName(accessible);
    return box;
}

// What an arm carried: the interval where there is one.
catalog::RateSpread spreadOf(const benchmark::Summary& summary) {
    return {summary.low.value_or(summary.goodput), summary.goodput, summary.high.value_or(summary.goodput)};
}

} // namespace

TrialBar::TrialBar(RouteModel& model, QWidget* parent)
    : QFrame(parent)
    , m_model(model)
    , m_buttons(new QWidget)
    , m_pages(new QStackedWidget) {
    setObjectName(QStringLiteral("trial"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(m_pages);
    buildButtons();
    m_pages->addWidget(buildPlan());
    m_pages->addWidget(buildLead());
    connect(&m_model, &RouteModel::changed, this, &TrialBar::showTrial);
    showTrial();
}

void TrialBar::showPage(Part page) {
    setVisible(page != none);
    m_buttons->setVisible(page == none);
    if (page == none) {
        Q_EMIT shown();
        return;
    }
    m_pages->setCurrentIndex(page);
    // Only the page that shows takes height.
    for (int i = 0; i < m_pages->count(); ++i)
        m_pages->widget(i)->setSizePolicy(QSizePolicy::Preferred,
                                          i == page ? QSizePolicy::Preferred : QSizePolicy::Ignored);
    m_pages->updateGeometry();
    Q_EMIT shown();
}

void TrialBar::buildButtons() {
    auto* row = new QHBoxLayout(m_buttons);
    row->setContentsMargins(0, 0, 0, 0);
    auto* plan = tool(QStringLiteral("plan-trial"), tr("Plan a &trial…"),
                      tr("Baseline, bench, then each place, repeated in alternating order"));
    m_resume = tool(QStringLiteral("resume-trial"), QString(), tr("Goes on where the trial stopped"));
    row->addWidget(m_resume);
    row->addWidget(plan);
    connect(plan, &QToolButton::clicked, this, &TrialBar::openPlan);
    connect(m_resume, &QToolButton::clicked, this, [this] {
        for (const house::Trial& t : m_model.job().house().trials)
            if (benchmark::nextStep(t, *m_model.job().runs()) != nullptr) {
                lead(t.id);
                return;
            }
    });
}

QWidget* TrialBar::buildPlan() {
    auto* page = new QWidget;
    auto* row = new QHBoxLayout(page);
    row->setContentsMargins(0, 0, 0, 0);
    auto* left = new QVBoxLayout;
    auto* title = plainLabel(tr("Routes of the trial; two or more are compared"));
    title->setFont(textFont(10, true));
    left->addWidget(title);
    m_routeList = new QVBoxLayout;
    m_routeList->setSpacing(2);
    left->addLayout(m_routeList);
    left->addStretch();
    row->addLayout(left, 3);
    auto* middle = new QVBoxLayout;
    m_baseline = new QCheckBox(tr("&Baseline first: one short cable"));
    m_baseline->setObjectName(QStringLiteral("trial-baseline"));
    m_bench = new QCheckBox(tr("Then the adapters on the ben&ch"));
    m_bench->setObjectName(QStringLiteral("trial-bench"));
    for (QCheckBox* box : {m_baseline, m_bench}) {
        box->setChecked(true);
        middle->addWidget(box);
        connect(box, &QCheckBox::toggled, this, &TrialBar::showPlanSize);
    }
    auto* numbers = new QHBoxLayout;
    m_repeats = new QSpinBox;
    m_repeats->setObjectName(QStringLiteral("trial-repeats"));
    m_repeats->setRange(1, 50);
    m_repeats->setValue(5);
    m_seconds = new QComboBox;
    m_seconds->setObjectName(QStringLiteral("trial-seconds"));
    for (const int s : {1, 5, 10, 30})
        m_seconds->addItem(tr("%1 s").arg(s), s);
    m_seconds->setCurrentIndex(2);
    const auto labelled = [&](const QString& text, QWidget* field) {
        auto* label = plainLabel(text);
        label->setBuddy(field);
        numbers->addWidget(label);
        numbers->addWidget(field);
    };
    labelled(tr("R&epeats of each place"), m_repeats);
    labelled(tr("&of"), m_seconds);
    m_pause = namedBox(QStringLiteral("trial-pause"), tr("How long it rests before each run"));
    for (const int s : {0, 5, 10, 30, 60, 300})
        m_pause->addItem(s == 0 ? tr("none") : tr("%1 s").arg(s), s);
    labelled(tr("pa&use"), m_pause);
    numbers->addStretch();
    middle->addLayout(numbers);
    auto* shape = new QHBoxLayout;
    m_order = namedBox(QStringLiteral("trial-order"), tr("In which order the routes take turns"));
    m_order->addItem(tr("There and back: A B C C B A"),
                     static_cast<int>(benchmark::TrialOrder::thereAndBack));
    m_order->addItem(tr("Rotating: A B C, B C A, C A B"), static_cast<int>(benchmark::TrialOrder::rotating));
    m_order->addItem(tr("One by one: A A, B B, C C"), static_cast<int>(benchmark::TrialOrder::oneByOne));
    m_directions = namedBox(QStringLiteral("trial-directions"), tr("Directions"));
    m_directions->addItem(tr("Both ways"), static_cast<int>(house::Directions::both));
    m_directions->addItem(tr("Forward"), static_cast<int>(house::Directions::forward));
    m_directions->addItem(tr("Backward"), static_cast<int>(house::Directions::backward));
    m_directions->addItem(tr("At once"), static_cast<int>(house::Directions::together));
    m_streams = namedBox(QStringLiteral("trial-streams"), tr("Streams"));
    for (const auto& [words, streams] : streamChoices())
        m_streams->addItem(words, streams);
    for (QComboBox* box : {m_order, m_directions, m_streams})
        shape->addWidget(box);
    shape->addStretch();
    middle->addLayout(shape);
    for (QComboBox* box : {m_order, m_directions, m_streams, m_pause})
        connect(box, &QComboBox::currentIndexChanged, this, &TrialBar::showPlanSize);
    connect(m_repeats, &QSpinBox::valueChanged, this, &TrialBar::showPlanSize);
    connect(m_seconds, &QComboBox::currentIndexChanged, this, &TrialBar::showPlanSize);
    m_size = plainLabel();
    m_size->setObjectName(QStringLiteral("trial-size"));
    middle->addWidget(m_size);
    row->addLayout(middle, 3);
    auto* right = new QVBoxLayout;
    auto* begin = new QPushButton(tr("Begin"));
    begin->setObjectName(QStringLiteral("begin-trial"));
    auto* cancel = tool(QStringLiteral("cancel-trial"), tr("Not now"), tr("Leaves the plan"));
    right->addWidget(begin);
    right->addWidget(cancel);
    right->addStretch();
    row->addLayout(right);
    connect(begin, &QPushButton::clicked, this, &TrialBar::begin);
    connect(cancel, &QToolButton::clicked, this, [this] { showPage(none); });
    return page;
}

QWidget* TrialBar::buildLead() {
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    m_instruction = plainLabel();
    m_instruction->setObjectName(QStringLiteral("trial-instruction"));
    m_instruction->setFont(textFont(17, true));
    m_instruction->setWordWrap(true);
    column->addWidget(m_instruction);
    auto* row = new QHBoxLayout;
    m_where = plainLabel();
    m_where->setObjectName(QStringLiteral("trial-where"));
    m_result = plainLabel();
    m_result->setObjectName(QStringLiteral("trial-result"));
    m_result->setFont(textFont(10, true));
    m_result->setWordWrap(true);
    m_skip = tool(QStringLiteral("skip-step"), tr("Skip"), tr("Cannot be done now; comes again next time"));
    m_keep = tool(QStringLiteral("keep-place"), tr("&Keep the best"),
                  tr("It stays where the lower end is highest"));
    m_more = tool(QStringLiteral("more-turns"), QString(), tr("Adds one run of each place to the trial"));
    connect(m_more, &QToolButton::clicked, this, &TrialBar::addTurn);
    auto* leave = tool(QStringLiteral("leave-trial"), tr("Leave"), tr("Goes on later where it stopped"));
    auto* remove = tool(QStringLiteral("remove-trial"), tr("Remove"), tr("Removes the plan; its runs stay"));
    row->addWidget(m_where);
    row->addSpacing(16);
    row->addWidget(m_result, 1);
    for (QToolButton* button : {m_more, m_keep, m_skip, leave, remove})
        row->addWidget(button);
    column->addLayout(row);
    m_tried = new RangeList;
    m_tried->setObjectName(QStringLiteral("trial-places"));
    m_tried->setFixedHeight(placesHeight);
    column->addWidget(m_tried);
    connect(m_keep, &QToolButton::clicked, this, &TrialBar::keepBest);
    connect(m_skip, &QToolButton::clicked, this, &TrialBar::skip);
    connect(leave, &QToolButton::clicked, this, [this] {
        m_trial.clear();
        showTrial();
    });
    connect(remove, &QToolButton::clicked, this, &TrialBar::remove);
    return page;
}

void TrialBar::openPlan() {
    for (QCheckBox* box : m_routes)
        delete box;
    m_routes.clear();
    for (const house::Route& route : m_model.job().house().routes) {
        const house::House& house = m_model.job().house();
        if (house.service && (route.from == house.service->id || route.to == house.service->id)) continue;
        auto* box = new QCheckBox(QString::fromStdString(route.label));
        box->setProperty("route", QString::fromStdString(route.id));
        box->setChecked(m_model.route() != nullptr && m_model.route()->id == route.id);
        connect(box, &QCheckBox::toggled, this, &TrialBar::showPlanSize);
        m_routeList->addWidget(box);
        m_routes.push_back(box);
    }
    showPage(planning);
    showPlanSize();
    if (!m_routes.empty()) m_routes.front()->setFocus();
}

benchmark::TrialPlan TrialBar::plan() const {
    benchmark::TrialPlan out;
    for (const QCheckBox* box : m_routes)
        if (box->isChecked()) out.routes.push_back(box->property("route").toString().toStdString());
    out.baseline = m_baseline->isChecked();
    out.bench = m_bench->isChecked();
    out.repeats = m_repeats->value();
    out.seconds = m_seconds->currentData().toDouble();
    out.pause = m_pause->currentData().toDouble();
    out.order = static_cast<benchmark::TrialOrder>(m_order->currentData().toInt());
    out.directions = static_cast<house::Directions>(m_directions->currentData().toInt());
    out.streams.clear();
    for (const QVariant& n : m_streams->currentData().toList())
        out.streams.push_back(n.toInt());
    const auto* first = out.routes.empty() ? nullptr : m_model.job().house().route(out.routes.front());
    out.label = tr("Trial of %1")
                    .arg(out.routes.size() > 1 ? tr("%1 routes").arg(out.routes.size())
                         : first != nullptr    ? QString::fromStdString(first->label)
                                               : QString())
                    .toStdString();
    return out;
}

void TrialBar::showPlanSize() {
    const auto trial = benchmark::planTrial(m_model.job().house(), plan());
    m_size->setText(
        trial ? tr("%1, about %2")
                    .arg(stepsText(trial->steps.size()), minutes(benchmark::secondsLeft(*trial, {})))
              : QString::fromStdString(trial.error().sentence()));
}

void TrialBar::begin() {
    auto trial = benchmark::planTrial(m_model.job().house(), plan());
    if (!trial) {
        Q_EMIT said(QString::fromStdString(trial.error().sentence()), true);
        return;
    }
    house::House next = m_model.job().house();
    const house::Id id = trial->id;
    next.trials.push_back(std::move(*trial));
    m_trial = id;
    m_model.job().apply(tr("plan a trial"), next);
    lead(id);
}

void TrialBar::lead(const house::Id& trial) {
    m_trial = trial;
    m_skipped.clear();
    showTrial();
    setFocus();
}

const house::Trial* TrialBar::trial() const {
    const auto& trials = m_model.job().house().trials;
    const auto found =
        std::find_if(trials.begin(), trials.end(), [&](const house::Trial& t) { return t.id == m_trial; });
    return found == trials.end() ? nullptr : &*found;
}

void TrialBar::skip() {
    if (!m_step) return;
    m_skipped.push_back(m_step->id);
    showTrial();
}

void TrialBar::remove() {
    const house::Id id = m_trial;
    m_trial.clear();
    m_model.job().apply(tr("remove a trial"), house::without(m_model.job().house(), id));
}

void TrialBar::showTrial() {
    if (m_file != m_model.job().file()) { // another job may have a trial of the same id
        m_trial.clear();
        m_file = m_model.job().file();
    }
    const house::Trial* led = trial();
    const benchmark::RouteRuns& runs = *m_model.job().runs();
    m_step.reset();
    if (led == nullptr) {
        m_trial.clear();
        const auto& trials = m_model.job().house().trials;
        const auto open = std::find_if(trials.begin(), trials.end(), [&](const house::Trial& t) {
            return benchmark::nextStep(t, runs) != nullptr;
        });
        m_resume->setVisible(open != trials.end());
        if (open != trials.end())
            m_resume->setText(tr("Go on, %1 left").arg(minutes(benchmark::secondsLeft(*open, runs))));
        if (isHidden() || m_pages->currentIndex() != planning) showPage(none);
        return;
    }
    // What was skipped comes last.
    const house::TrialStep* next = nullptr;
    std::size_t done = 0;
    for (const house::TrialStep& s : led->steps) {
        if (benchmark::isDone(s, runs)) {
            ++done;
            continue;
        }
        const bool skipped = std::find(m_skipped.begin(), m_skipped.end(), s.id) != m_skipped.end();
        if (next == nullptr && !skipped) next = &s;
    }
    if (next == nullptr) next = benchmark::nextStep(*led, runs);
    showTried(*led);
    if (next != nullptr) {
        m_step = *next;
        m_instruction->setText(QString::fromStdString(next->prepare));
        m_where->setText(tr("step %1 of %2, about %3 left · Space when ready")
                             .arg(done + 1)
                             .arg(led->steps.size())
                             .arg(minutes(benchmark::secondsLeft(*led, runs))));
        if (m_model.route() == nullptr || m_model.route()->id != next->route) m_model.setRoute(next->route);
    } else {
        m_instruction->setText(tr("All is done: %1.").arg(stepsText(led->steps.size())));
        m_where->setText(tr("Trace says what they mean."));
    }
    m_skip->setVisible(next != nullptr);
    showPage(leading);
}

void TrialBar::showTried(const house::Trial& led) {
    const bool tries = fit::triesPlaces(led);
    m_tried->setVisible(tries);
    m_keep->setVisible(false);
    m_more->setVisible(false);
    m_result->clear();
    if (!tries) {
        showRanking(led);
        return;
    }
    const auto tried = fit::triedPlaces(m_model.job().house(), led, *m_model.job().runs());
    m_tried->setRows(triedRows(tried));
    m_result->setText(triedText(tried));
    const auto best = fit::bestOf(tried);
    m_keep->setVisible(best && !tried[*best].isNow);
}

void TrialBar::showRanking(const house::Trial& led) {
    const house::House& house = m_model.job().house();
    const benchmark::RouteRuns& runs = *m_model.job().runs();
    std::vector<RangeRow> rows;
    QStringList words;
    int more = 0;
    for (const Direction d : {Direction::forward, Direction::backward}) {
        const auto ranking = benchmark::rankArms(house, led, runs, d);
        if (!ranking) continue;
        const bool isForward = d == Direction::forward;
        words << (isForward ? tr("Forward: %1.") : tr("Backward: %1."))
                     .arg(QString::fromStdString(ranking->words));
        more = std::max(more, ranking->morePairs);
        for (const benchmark::RankedArm& arm : ranking->arms) {
            const QString id = QString::fromStdString(arm.arm);
            auto row = std::find_if(rows.begin(), rows.end(), [&](const RangeRow& r) { return r.id == id; });
            if (row == rows.end()) {
                rows.push_back({});
                row = rows.end() - 1;
                row->id = id;
                row->title = tr("%1  %2").arg(id, QString::fromStdString(arm.label));
                row->note = counted(arm.summary.runs, tr("%1 run each way"), tr("%1 runs each way"));
            }
            // A trial in one direction only has its bar where that of forward is.
            if (isForward || !row->forward)
                row->forward = spreadOf(arm.summary);
            else
                row->backward = spreadOf(arm.summary);
        }
    }
    m_tried->setVisible(!rows.empty());
    m_tried->setRows(std::move(rows));
    m_result->setText(words.join(QLatin1Char(' ')));
    m_more->setVisible(more > 0 && benchmark::nextStep(led, runs) == nullptr);
    m_more->setText(more == 1 ? tr("One more tu&rn would settle it")
                              : tr("One more tu&rn of about %1").arg(more));
}

void TrialBar::addTurn() {
    const house::Trial* led = trial();
    if (led == nullptr) return;
    house::House next = m_model.job().house();
    for (house::Trial& t : next.trials)
        if (t.id == led->id) t = benchmark::withOneMoreTurn(t);
    m_model.job().apply(tr("one more turn of the trial"), next);
}

void TrialBar::keepBest() {
    const house::Trial* led = trial();
    if (led == nullptr) return;
    const auto kept = desktop::keepBest(m_model.job(), *led);
    Q_EMIT said(kept ? *kept : QString::fromStdString(kept.error().sentence()), !kept);
}

std::vector<std::vector<benchmark::RunConfig>> TrialBar::configsLeft() const {
    return m_step ? benchmark::configsLeft(*m_step, *m_model.job().runs())
                  : std::vector<std::vector<benchmark::RunConfig>>();
}

QString TrialBar::text() const {
    return m_instruction->text() + QLatin1Char('\n') + m_where->text() + QLatin1Char('\n') + m_result->text();
}

} // namespace metrodos::desktop
