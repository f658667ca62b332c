#include "desktop/weigh/weigh_model.h"

#include "benchmark/statements.h"
#include "desktop/model/config_file.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/time_text.h"
#include "fit/steps.h"
#include "job/price_book_csv.h"
#include "quantity/moment.h"
#include "weigh/apply_plan.h"

#include <QLocale>

namespace metrodos::desktop {

std::filesystem::path pricesFile() {
    return configFile("METRODOS_PRICES", QStringLiteral("prices.csv"));
}

WeighModel::WeighModel(RouteModel& route, std::filesystem::path prices, QObject* parent)
    : QObject(parent)
    , m_route(route)
    , m_job(route.job())
    , m_pricesFile(std::move(prices))
    , m_worker(
          [](const Question& q) {
              Answer out;
              auto options = weigh::optionsOf(q.house, *q.catalog, *q.runs, q.watches);
              if (!options) {
                  out.problem = options.error();
                  return out;
              }
              auto weighed = weigh::weigh(*options, {*q.catalog, q.book}, q.objective, q.progress, q.stop);
              if (weighed)
                  out.weighed = std::move(*weighed);
              else
                  out.problem = weighed.error();
              out.options = std::move(*options);
              return out;
          },
          [this](std::uint64_t number, Answer answer) {
              QMetaObject::invokeMethod(
                  this, [this, number, a = std::move(answer)]() mutable { take(number, std::move(a)); },
                  Qt::QueuedConnection);
          }) {
    if (auto book = job::loadPriceBook(m_pricesFile, m_job.catalog())) {
        // Amounts are the user's own; only where nobody has said in what is it that of the locale.
        if (const QString own = QLocale().currencySymbol();
            book->currency == weigh::PriceBook().currency && !own.isEmpty())
            book->currency = own.toStdString();
        m_job.setPriceBook(std::move(*book));
    } else
        m_problem = QString::fromStdString(book.error().sentence());
    connect(&m_job, &JobModel::changed, this, [this] {
        m_dirty = true;
        if (m_wanted) ask();
    });
}

WeighModel::~WeighModel() {
    m_stop.request_stop();
}

void WeighModel::setWanted(bool wanted) {
    m_wanted = wanted;
    if (m_wanted && m_dirty) ask();
}

void WeighModel::stop() {
    m_stop.request_stop();
}

std::optional<double> WeighModel::timeLeft() const {
    return isWeighing() ? secondsLeft(m_begun, m_done) : std::nullopt;
}

weigh::Objective WeighModel::objective() const {
    return m_job.house().weighing.objective;
}

void WeighModel::ask() {
    m_dirty = false;
    // Which objective is looked at, what was chosen before, which tests cannot be made and what is noted of
    // runs changes no plan.
    house::House about = m_job.house();
    about.weighing.objective = {};
    about.weighing.plan.clear();
    about.weighing.quote.reset();
    about.setAside.clear();
    about.schedules.clear();
    about.changes.clear();
    for (house::Route& route : about.routes)
        route.declined.clear();
    const auto& runs = m_job.runs();
    const auto& reports = m_job.reports();
    if (m_awaited != 0 && about == m_asked && runs == m_askedRuns &&
        m_askedCatalog == m_job.sharedCatalog() && reports == m_askedReports) {
        Q_EMIT changed();
        return;
    }
    m_asked = about;
    m_askedRuns = runs;
    m_askedCatalog = m_job.sharedCatalog();
    m_askedReports = reports;
    m_stop.request_stop();
    m_stop = {};
    m_done = 0;
    m_begun.start();
    Question question;
    question.house = std::move(about);
    question.book = book();
    question.runs = runs;
    question.watches = job::watchesOf(reports);
    question.objective = objective();
    question.catalog = m_askedCatalog;
    question.stop = m_stop.get_token();
    question.progress = [this](double done, const weigh::Weighed&) {
        QMetaObject::invokeMethod(
            this,
            [this, done] {
                m_done = done;
                Q_EMIT progressed();
            },
            Qt::QueuedConnection);
    };
    m_awaited = m_worker.ask(std::move(question));
    Q_EMIT progressed();
}

void WeighModel::take(std::uint64_t number, Answer answer) {
    if (number != m_awaited) return;
    m_answered = number;
    m_options = std::move(answer.options);
    m_weighed = std::move(answer.weighed);
    m_problem = answer.problem ? QString::fromStdString(answer.problem->sentence()) : QString();
    if (plan(m_opened) == nullptr) m_opened.clear();
    Q_EMIT changed();
    Q_EMIT progressed();
}

const weigh::Plan* WeighModel::plan(const std::string& id) const {
    for (const weigh::Plan& p : m_weighed.plans)
        if (p.id == id) return &p;
    return nullptr;
}

const weigh::Plan* WeighModel::best(weigh::Objective objective) const {
    const auto it = m_weighed.best.find(objective);
    return it == m_weighed.best.end() ? nullptr : plan(it->second);
}

const weigh::Plan* WeighModel::plan() const {
    return m_opened.empty() ? best(objective()) : plan(m_opened);
}

void WeighModel::open(const std::string& plan) {
    m_opened = plan;
    Q_EMIT opened();
    Q_EMIT changed();
}

void WeighModel::edit(const QString& label, house::House next) {
    m_job.apply(label, next);
}

void WeighModel::setObjective(weigh::Objective objective) {
    m_opened.clear();
    house::House next = m_job.house();
    next.weighing.objective = objective;
    if (next.weighing.objective == m_job.house().weighing.objective)
        Q_EMIT changed();
    else
        edit(tr("rank plans: %1").arg(QString::fromLatin1(weigh::label(objective))), std::move(next));
}

void WeighModel::pin(const house::Id& spot, const std::string& way) {
    house::House next = m_job.house();
    for (house::Spot& s : next.spots) {
        if (s.id != spot) continue;
        const bool off = s.pin == way;
        s.pin = off ? std::string() : way;
        m_opened.clear();
        edit((off ? tr("unpin the way to %1") : tr("pin the way to %1")).arg(QString::fromStdString(s.label)),
             std::move(next));
        return;
    }
}

quantity::Result<void> WeighModel::setUses(const house::Id& spot, const QString& text) {
    const auto uses = weigh::parseUses(text.toStdString(), m_job.catalog(), m_job.house());
    if (!uses) return tl::unexpected(uses.error());
    house::House next = m_job.house();
    for (house::Spot& s : next.spots) {
        if (s.id != spot || s.uses == *uses) continue;
        s.uses = *uses;
        // What is said in words now goes before figures of an earlier time.
        s.needDown.reset();
        s.needUp.reset();
        edit(tr("needs of %1").arg(QString::fromStdString(s.label)), std::move(next));
        break;
    }
    return {};
}

quantity::Result<void> WeighModel::setBook(const weigh::PriceBook& book) {
    if (auto saved = job::savePriceBook(m_pricesFile, book, m_job.catalog()); !saved) return saved;
    m_job.setPriceBook(book);
    m_asked = {};
    m_askedRuns.reset();
    if (m_wanted)
        ask();
    else
        m_dirty = true;
    return {};
}

void WeighModel::setShare(double share) {
    house::House next = m_job.house();
    if (next.weighing.share == share) return;
    next.weighing.share = share;
    edit(tr("how sure a need must be carried"), std::move(next));
}

void WeighModel::setAtOnce(double share) {
    house::House next = m_job.house();
    if (next.weighing.atOnce == share) return;
    next.weighing.atOnce = share;
    edit(tr("how much goes on at once"), std::move(next));
}

void WeighModel::setDrilling(bool allowed) {
    house::House next = m_job.house();
    if (next.weighing.drilling == allowed) return;
    next.weighing.drilling = allowed;
    edit(allowed ? tr("allow holes") : tr("allow no holes"), std::move(next));
}

void WeighModel::setQuote(std::optional<house::Quote> quote) {
    house::House next = m_job.house();
    if (next.weighing.quote == quote) return;
    next.weighing.quote = std::move(quote);
    edit(next.weighing.quote ? tr("a contractor's quote") : tr("take the quote back"), std::move(next));
}

void WeighModel::setYears(int years) {
    house::House next = m_job.house();
    if (next.weighing.years == years) return;
    next.weighing.years = years;
    edit(tr("years that a plan is to last"), std::move(next));
}

void WeighModel::applyPlan() {
    const weigh::Plan* chosen = plan();
    if (chosen == nullptr || !m_options || isWeighing()) return;
    auto made = weigh::applyPlan(m_job.house(), m_job.catalog(), *m_options, *chosen);
    if (!made) {
        Q_EMIT said(QString::fromStdString(made.error().sentence()), true);
        return;
    }
    const bool trial = !made->trial.empty();
    const int steps = static_cast<int>(fit::openSteps(made->house, m_job.catalog()).size());
    // What the plan promises is held against the runs after it.
    made->house.changes.push_back({made->house.freeChange("c-plan"),
                                   quantity::utcNow(),
                                   std::string(benchmark::planThing),
                                   "the plan “" + chosen->label + "” was fitted",
                                   chosen->carriedShare,
                                   {}});
    m_job.apply(tr("fit the plan"), std::move(made->house));
    const QString fitting = counted(steps, tr("The plan is in the house now: %1 step in Fit"),
                                    tr("The plan is in the house now: %1 steps in Fit"));
    Q_EMIT said(trial ? tr("%1, and a trial in Measure to prove it.").arg(fitting) : tr("%1.").arg(fitting),
                false);
}

} // namespace metrodos::desktop
