#include "desktop/log/hours_page.h"

#include "benchmark/schedule.h"
#include "desktop/log/week_grid.h"
#include "desktop/widgets/ask_file.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "house/remove.h"
#include "job/schedule_ics.h"
#include "probe/key_requests.h"
#include "probe/schedule_messages.h"
#include "quantity/moment.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QHBoxLayout>
#include <QLabel>
#include <QSpinBox>
#include <QVBoxLayout>
#include <set>

namespace metrodos::desktop {
namespace {

using quantity::problem;
using quantity::Result;

constexpr int mostFindings = 4;

// An agent makes runs by itself; this machine's own end lives as long as the window.
Result<void> checkAgent(const EndpointAccess& access) {
    if (access.address.empty())
        return problem("an end of the route has no address", "", "give it on the page Machines of Measure");
    if (access.address == "here" || access.guest || servesGuest(access.address))
        return problem("both ends have to be agents", "",
                       "leave “unattended” out: then the window makes the runs while it is open");
    return {};
}

QSpinBox* number(const QString& name, const QString& spoken, int low, int high, int value,
                 const QString& before, const QString& after) {
    auto* box = new QSpinBox;
    box->setObjectName(name);
    box->setAccessibleName(spoken);
    box->setRange(low, high);
    box->setValue(value);
    box->setPrefix(before);
    box->setSuffix(after);
    return box;
}

} // namespace

HoursPage::HoursPage(JobModel& job, AccessTo access, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_access(std::move(access))
    , m_routes(new QComboBox)
    , m_direction(new QComboBox)
    , m_week(new WeekGrid)
    , m_hour(plainLabel())
    , m_findings(plainLabel())
    , m_schedules(plainTable(QStringLiteral("schedules"), tr("Schedules"),
                             {tr("Schedule"), tr("Way"), tr("Runs"), tr("By"), tr("Next")},
                             {190, 160, 190, 110}))
    , m_every(number(QStringLiteral("schedule-every"), tr("Minutes from one to the next"), 1, 1440, 60,
                     tr("every "), tr(" min")))
    , m_for(number(QStringLiteral("schedule-for"), tr("Hours that it goes on"), 1, 744, 168, tr("for "),
                   tr(" h")))
    , m_seconds(number(QStringLiteral("schedule-seconds"), tr("Seconds of one run"), 1, 60, 5, QString(),
                       tr(" s each way")))
    , m_unattended(new QCheckBox(tr("&unattended, by the agent"))) {
    setObjectName(QStringLiteral("hours"));
    m_routes->setObjectName(QStringLiteral("hours-route"));
    m_routes->setAccessibleName(tr("Way"));
    m_direction->setObjectName(QStringLiteral("hours-direction"));
    m_direction->setAccessibleName(tr("Direction"));
    m_direction->addItems({tr("forward"), tr("backward")});
    m_hour->setObjectName(QStringLiteral("hours-hour"));
    m_hour->setFont(textFont(12, true));
    m_findings->setObjectName(QStringLiteral("hours-findings"));
    m_findings->setWordWrap(true);
    m_unattended->setObjectName(QStringLiteral("schedule-unattended"));
    m_unattended->setToolTip(tr("The agent at the first end of the way makes the runs by itself and keeps "
                                "them, for days if need be"));
    auto* chooser = new QHBoxLayout;
    chooser->addWidget(m_routes);
    chooser->addWidget(m_direction);
    chooser->addWidget(m_hour, 1);
    auto* fields = new QHBoxLayout;
    for (QWidget* w : std::initializer_list<QWidget*>{m_every, m_for, m_seconds, m_unattended})
        fields->addWidget(w);
    const auto button = [this](QHBoxLayout* to, const QString& name, const QString& text, const QString& tip,
                               const QKeySequence& key, void (HoursPage::*does)()) {
        to->addWidget(keyButton(this, name, text, tip, key, [this, does] { (this->*does)(); }));
    };
    button(fields, QStringLiteral("schedule-add"), tr("Add  (A)"),
           tr("Runs over the chosen way from now on, both ways in turn"), Qt::Key_A, &HoursPage::add);
    fields->addStretch();
    auto* acts = new QHBoxLayout;
    button(acts, QStringLiteral("schedule-give"), tr("Give to the agent  (G)"),
           tr("It makes the runs from then on, with this window open or not; it gets the key of the other "
              "end for that"),
           Qt::Key_G, &HoursPage::give);
    button(acts, QStringLiteral("schedule-collect"), tr("Collect  (C)"),
           tr("What the agent has measured since comes into the job"), Qt::Key_C, &HoursPage::collect);
    button(acts, QStringLiteral("schedule-back"), tr("Take back  (B)"),
           tr("The agent stops; collect before, since it forgets its records"), Qt::Key_B,
           &HoursPage::takeBack);
    button(acts, QStringLiteral("schedule-remove"), tr("Remove  (Del)"), tr("The runs stay"), Qt::Key_Delete,
           &HoursPage::remove);
    acts->addWidget(keyButton(this, QStringLiteral("schedule-export"), tr("Save as calendar…  (E)"),
                              tr("All schedules as iCalendar"), Qt::Key_E, [this] { askForFile(true); }));
    acts->addWidget(keyButton(this, QStringLiteral("schedule-import"), tr("From a calendar…  (I)"),
                              tr("Events that repeat become schedules over the chosen way"), Qt::Key_I,
                              [this] { askForFile(false); }));
    acts->addStretch();
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->addLayout(chooser);
    layout->addWidget(m_week, 3);
    layout->addWidget(m_findings);
    layout->addLayout(fields);
    layout->addWidget(m_schedules, 2);
    layout->addLayout(acts);
    connect(m_routes, &QComboBox::currentIndexChanged, this, &HoursPage::showWeek);
    connect(m_direction, &QComboBox::currentIndexChanged, this, &HoursPage::showWeek);
    connect(m_week, &WeekGrid::chosen, this, [this] { m_hour->setText(m_week->text()); });
    connect(&m_runner, &TestRunner::failed, this, [this](const QString& text) { Q_EMIT said(text, true); });
    connect(&m_runner, &TestRunner::finished, this, [this](const nlohmann::json& report) {
        const auto id = report.value("schedule", std::string());
        if (const house::Schedule* s = m_job.house().schedule(id);
            s != nullptr && report.contains("newest") && report.at("newest") != s->collected) {
            house::House next = m_job.house();
            for (house::Schedule& mine : next.schedules)
                if (mine.id == id) mine.collected = report.at("newest").get<std::int64_t>();
            m_job.apply(tr("collect the runs of a schedule"), next);
        }
        m_job.reloadRuns();
        Q_EMIT said(QString::fromStdString(report.value("said", std::string())), false);
    });
    connect(&m_job, &JobModel::changed, this, [this] {
        m_isStale = true;
        if (isVisible()) refresh();
    });
}

void HoursPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) refresh();
}

void HoursPage::refresh() {
    m_isStale = false;
    fillRoutes();
    fillSchedules();
    showWeek();
}

// The way with the most runs first chosen.
void HoursPage::fillRoutes() {
    const QSignalBlocker quiet(m_routes);
    const QString before = m_routes->currentData().toString();
    m_routes->clear();
    int most = -1;
    int best = 0;
    for (const house::Route& r : m_job.house().routes) {
        const auto n = std::count_if(m_job.runs()->begin(), m_job.runs()->end(),
                                     [&](const benchmark::RouteRun& run) { return run.route == r.id; });
        if (n > most) {
            most = static_cast<int>(n);
            best = m_routes->count();
        }
        m_routes->addItem(QString::fromStdString(r.label), QString::fromStdString(r.id));
    }
    const int kept = m_routes->findData(before);
    m_routes->setCurrentIndex(kept >= 0 ? kept : best);
}

house::Id HoursPage::route() const {
    return m_routes->currentData().toString().toStdString();
}

void HoursPage::showWeek() {
    const auto direction =
        m_direction->currentIndex() == 1 ? benchmark::Direction::backward : benchmark::Direction::forward;
    const auto week = benchmark::weekOf(*m_job.runs(), job::watchesOf(m_job.reports()), route(), direction);
    m_week->setWeek(week);
    m_hour->setText(m_week->text());
    QStringList lines;
    if (const std::string hours = benchmark::sentenceOf(week); !hours.empty())
        lines << capitalised(hours) + QLatin1Char('.');
    for (const benchmark::Coincidence& c : benchmark::coincidencesOf(m_job.house(), *m_job.runs(), route())) {
        if (lines.size() == mostFindings) break;
        lines << capitalised(c.sentence) + QLatin1Char('.');
    }
    if (lines.isEmpty()) lines << tr("A schedule fills this: choose how often and how long, and press A.");
    m_findings->setText(lines.join(QLatin1Char('\n')));
}

QString HoursPage::sentence() const {
    const auto& schedules = m_job.house().schedules;
    if (schedules.empty()) return tr("No runs are scheduled; A adds a schedule over the chosen way.");
    const std::int64_t now = quantity::utcSeconds(utcNow()).value_or(0);
    std::optional<std::int64_t> next;
    for (const house::Schedule& s : schedules)
        if (const auto at = benchmark::nextSlot(s, now); at && (!next || *at < *next)) next = at;
    const QString count = counted(static_cast<int>(schedules.size()), tr("%1 schedule"), tr("%1 schedules"));
    return next ? tr("%1; the next runs are due at %2.").arg(count, momentText(quantity::utcText(*next)))
                : tr("%1, all of them over.").arg(count);
}

void HoursPage::fillSchedules() {
    const int before = m_schedules->currentRow();
    const auto& all = m_job.house().schedules;
    const std::int64_t now = quantity::utcSeconds(utcNow()).value_or(0);
    m_schedules->setRowCount(static_cast<int>(all.size()));
    for (int row = 0; row < m_schedules->rowCount(); ++row) {
        const house::Schedule& s = all[static_cast<std::size_t>(row)];
        const house::Route* r = m_job.house().route(s.route);
        auto* label = plainCell(QString::fromStdString(s.label));
        label->setData(Qt::UserRole, QString::fromStdString(s.id));
        m_schedules->setItem(row, 0, label);
        m_schedules->setItem(row, 1, plainCell(r == nullptr ? QString() : QString::fromStdString(r->label)));
        m_schedules->setItem(row, 2,
                             plainCell(tr("%1, every %2 min, %3 s each way")
                                           .arg(benchmark::slotCount(s))
                                           .arg(s.everyMinutes)
                                           .arg(QLocale().toString(s.seconds))));
        m_schedules->setItem(row, 3, plainCell(s.unattended ? tr("the agent") : tr("this window")));
        const auto next = benchmark::nextSlot(s, now);
        m_schedules->setItem(row, 4, plainCell(next ? momentText(quantity::utcText(*next)) : tr("over")));
    }
    if (m_schedules->rowCount() > 0)
        m_schedules->setCurrentCell(std::clamp(before, 0, m_schedules->rowCount() - 1), 0);
}

const house::Schedule* HoursPage::chosen() const {
    const auto* item = m_schedules->item(m_schedules->currentRow(), 0);
    return item == nullptr ? nullptr
                           : m_job.house().schedule(item->data(Qt::UserRole).toString().toStdString());
}

void HoursPage::add() {
    const house::Route* r = m_job.house().route(route());
    if (r == nullptr) return Q_EMIT said(tr("choose a way first; Walk has them under Routes."), true);
    house::House next = m_job.house();
    house::Schedule s;
    s.id = next.freeId("schedule");
    s.route = r->id;
    s.label = (tr("Every %1 min").arg(m_every->value())).toStdString();
    // At the next full minute, so that the times can be read.
    constexpr std::int64_t minute = 60;
    const std::int64_t now = quantity::utcSeconds(utcNow()).value_or(0);
    s.from = quantity::utcText((now / minute + 1) * minute);
    s.everyMinutes = m_every->value();
    s.hours = m_for->value();
    s.seconds = m_seconds->value();
    s.unattended = m_unattended->isChecked();
    next.schedules.push_back(s);
    m_job.apply(tr("add a schedule"), next);
    if (m_job.house().schedule(s.id) == nullptr) return;
    for (int row = 0; row < m_schedules->rowCount(); ++row)
        if (m_schedules->item(row, 0)->data(Qt::UserRole).toString().toStdString() == s.id)
            m_schedules->setCurrentCell(row, 0);
    Q_EMIT said(s.unattended ? tr("G gives it to the agent, which makes the runs by itself.")
                             : tr("This window makes the runs while it is open, %1 % of the time.")
                                   .arg(QLocale().toString(100 * benchmark::dutyOf(s), 'f', 1)),
                false);
}

void HoursPage::give() {
    const house::Schedule* s = chosen();
    if (s == nullptr) return Q_EMIT said(tr("choose a schedule; A adds one."), true);
    if (!s->unattended)
        return Q_EMIT said(tr("this schedule is made by the window; add one that is unattended."), true);
    const house::Route* r = m_job.house().route(s->route);
    const auto from = m_access(r->from);
    const auto to = m_access(r->to);
    for (const auto* end : {&from, &to}) {
        const Result<void> fits = *end ? checkAgent(**end) : tl::unexpected(end->error());
        if (!fits) return Q_EMIT said(QString::fromStdString(fits.error().sentence()), true);
    }
    Q_EMIT said(tr("Giving the schedule to the agent …"), false);
    m_runner.start([schedule = *s, from = *from, to = *to](const TestRunner::Progress&,
                                                           const std::stop_token&) -> Result<nlohmann::json> {
        auto peer = openLink(to);
        if (!peer) return tl::unexpected(peer.error());
        auto agent = openLink(from);
        if (!agent) return tl::unexpected(agent.error());
        // Of its own, with which it can be one end of runs there and no more.
        const auto key = probe::askForKey(*peer, probe::Right::takePart, "schedule of " + agent->name());
        if (!key) return tl::unexpected(key.error());
        if (const auto given = probe::giveSchedule(*agent, {schedule, to.address, *key}); !given)
            return tl::unexpected(given.error());
        return nlohmann::json{{"schedule", schedule.id},
                              {"said", "The agent has it, and makes " +
                                           std::to_string(benchmark::slotCount(schedule)) +
                                           " times two runs by itself; C collects them."}};
    });
}

void HoursPage::collect() {
    const house::Schedule* s = chosen();
    if (s == nullptr || !s->unattended) return Q_EMIT said(tr("choose a schedule that an agent has."), true);
    const auto from = m_access(m_job.house().route(s->route)->from);
    if (!from) return Q_EMIT said(QString::fromStdString(from.error().sentence()), true);
    std::set<std::string> known;
    for (const benchmark::RouteRun& r : *m_job.allRuns())
        known.insert(r.run.id);
    Q_EMIT said(tr("Collecting from the agent …"), false);
    m_runner.start([schedule = *s, from = *from, known, file = m_job.file()](
                       const TestRunner::Progress&, const std::stop_token&) -> Result<nlohmann::json> {
        auto agent = openLink(from);
        if (!agent) return tl::unexpected(agent.error());
        auto collected = probe::collectSchedule(*agent, schedule.id, schedule.collected);
        if (!collected) return tl::unexpected(collected.error());
        int runs = 0;
        for (benchmark::Run& run : collected->runs) {
            if (known.contains(run.id)) continue;
            run.step = schedule.id;
            if (const auto at = quantity::utcSeconds(run.startedAt))
                run.conditions.hour = quantity::localTime(*at).hour;
            if (const auto kept = job::keepRun(file, schedule.route, run); !kept)
                return tl::unexpected(kept.error());
            ++runs;
        }
        std::string said = std::to_string(runs) + (runs == 1 ? " run" : " runs") + " collected";
        if (!collected->missed.empty())
            said += "; " + std::to_string(collected->missed.size()) + " could not be made, the last at " +
                    momentText(collected->missed.back().at).toStdString() + ": " +
                    collected->missed.back().why;
        else
            said += ".";
        constexpr double worthSaying = 2; // s
        if (std::fabs(collected->agentAhead) > worthSaying)
            said += " The agent's clock is " + std::to_string(std::lround(std::fabs(collected->agentAhead))) +
                    " s " + (collected->agentAhead > 0 ? "ahead" : "behind") +
                    "; the runs have this machine's times.";
        return nlohmann::json{{"schedule", schedule.id}, {"newest", collected->newest}, {"said", said}};
    });
}

void HoursPage::takeBack() {
    const house::Schedule* s = chosen();
    if (s == nullptr || !s->unattended) return Q_EMIT said(tr("choose a schedule that an agent has."), true);
    const auto from = m_access(m_job.house().route(s->route)->from);
    if (!from) return Q_EMIT said(QString::fromStdString(from.error().sentence()), true);
    const auto to = m_access(m_job.house().route(s->route)->to);
    m_runner.start([id = s->id, from = *from, to = to ? std::optional(*to) : std::nullopt](
                       const TestRunner::Progress&, const std::stop_token&) -> Result<nlohmann::json> {
        auto agent = openLink(from);
        if (!agent) return tl::unexpected(agent.error());
        const auto identity = probe::endSchedule(*agent, id);
        if (!identity) return tl::unexpected(identity.error());
        std::string said = "The agent makes no more runs of this schedule";
        bool isTakenBack = false;
        if (to && !identity->empty())
            if (auto peer = openLink(*to)) isTakenBack = probe::askToForget(*peer, *identity).has_value();
        said += isTakenBack ? ", and its key for the other end is taken back."
                            : "; its key for the other end could not be taken back.";
        return nlohmann::json{{"schedule", id}, {"said", said}};
    });
}

void HoursPage::remove() {
    const house::Schedule* s = chosen();
    if (s == nullptr) return;
    m_job.apply(tr("remove a schedule"), house::without(m_job.house(), s->id));
}

void HoursPage::askForFile(bool isExport) {
    askFile(this, isExport ? tr("Save the schedules") : tr("Schedules from a calendar"),
            isExport ? QStringLiteral("schedules.ics") : QString(), tr("Calendars (*.ics)"),
            [this, isExport](const QString& file) { isExport ? exportTo(file) : importFrom(file); });
}

void HoursPage::exportTo(const QString& file) {
    if (m_job.house().schedules.empty()) return Q_EMIT said(tr("there are no schedules; A adds one."), true);
    const auto written = job::writeText(file.toStdString(), job::schedulesToIcs(m_job.house().schedules));
    Q_EMIT said(written ? tr("The schedules are in %1.").arg(file)
                        : QString::fromStdString(written.error().sentence()),
                !written);
}

void HoursPage::importFrom(const QString& file) {
    QFile source(file);
    if (!source.open(QIODevice::ReadOnly))
        return Q_EMIT said(tr("%1 cannot be read; choose a calendar file.").arg(file), true);
    const QByteArray text = source.read(static_cast<qint64>(job::maxIcsBytes) + 1);
    const auto read = job::schedulesFromIcs({text.constData(), static_cast<std::size_t>(text.size())},
                                            m_job.house(), route());
    if (!read) return Q_EMIT said(QString::fromStdString(read.error().sentence()), true);
    house::House next = m_job.house();
    next.schedules.insert(next.schedules.end(), read->begin(), read->end());
    m_job.apply(tr("take over schedules"), next);
    Q_EMIT said(tr("%1 taken over.")
                    .arg(counted(static_cast<int>(read->size()), tr("%1 schedule"), tr("%1 schedules"))),
                false);
}

} // namespace metrodos::desktop
