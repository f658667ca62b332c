#include "desktop/model/job_model.h"

#include "house/dated_changes.h"
#include "job/log.h"
#include "quantity/moment.h"

#include <QTimer>
#include <algorithm>
#include <utility>

namespace metrodos::desktop {
namespace {

// "“Loft adapter” changed from mains-600 to mains-1200" with the labels of the classes.
std::string withLabels(const std::string& text, const catalog::Catalog& catalog) {
    const std::string from = " changed from ";
    const std::string to = " to ";
    const std::size_t first = text.rfind(from);
    const std::size_t second = text.rfind(to);
    if (first == std::string::npos || second == std::string::npos || second < first) return text;
    const auto label = [&](const std::string& id) {
        if (const auto* cls = catalog.device(id)) return cls->label;
        if (const auto* cable = catalog.cable(id)) return cable->label;
        if (const auto* phy = catalog.phy(id)) return phy->label;
        if (const auto* bus = catalog.bus(id)) return bus->label;
        return id;
    };
    const std::size_t begin = first + from.size();
    return text.substr(0, begin) + label(text.substr(begin, second - begin)) + to +
           label(text.substr(second + to.size()));
}

constexpr int lookEveryMs = 1000; // until another program's change shows here

} // namespace

JobModel::JobModel(catalog::Catalog catalog, QObject* parent)
    : QObject(parent)
    , m_catalog(std::make_shared<const catalog::Catalog>(std::move(catalog)))
    , m_runs(std::make_shared<const benchmark::RouteRuns>())
    , m_counted(m_runs)
    , m_allRuns(m_runs)
    , m_look(new QTimer(this)) {
    m_look->setInterval(lookEveryMs);
    connect(m_look, &QTimer::timeout, this, &JobModel::look);
}

void JobModel::setStore(job::Store store) {
    m_store.emplace(std::move(store));
    m_runSteps.clear();
    readRuns();
    readReports();
    m_look->start();
    Q_EMIT opened();
    Q_EMIT changed();
}

void JobModel::closeJob() {
    m_look->stop();
    m_store.reset();
    m_runSteps.clear();
    readRuns();
    readReports();
    Q_EMIT opened();
    Q_EMIT changed();
}

const house::House& JobModel::house() const {
    static const house::House none;
    return m_store ? m_store->house() : none;
}

std::filesystem::path JobModel::file() const {
    return m_store ? m_store->file() : std::filesystem::path();
}

void JobModel::setPriceBook(weigh::PriceBook book) {
    m_priceBook = std::move(book);
    Q_EMIT priceBookChanged();
}

void JobModel::apply(const QString& label, const quantity::Result<house::House>& next) {
    if (!m_store) return;
    if (!next) {
        Q_EMIT problem(QString::fromStdString(next.error().sentence()));
        return;
    }
    report(m_store->change(label.toStdString(), withStatements(*next)));
}

void JobModel::correct(const QString& label, const quantity::Result<house::House>& next) {
    if (!next) return apply(label, next); // which says so
    if (m_store) report(m_store->change(label.toStdString(), *next, true));
}

void JobModel::setCatalog(std::shared_ptr<const catalog::Catalog> catalog) {
    if (catalog == m_catalog) return;
    m_formerCatalogs.push_back(std::exchange(m_catalog, std::move(catalog)));
    Q_EMIT catalogChanged();
    Q_EMIT changed();
}

// What was said of a thing when it is exchanged is noted with that: the runs after it say whether it held.
house::House JobModel::withStatements(const house::House& next) const {
    if (!m_judge) return next;
    house::House out = house::withChangesNoted(house(), next, quantity::utcNow());
    for (house::DatedChange& change : out.changes) {
        const auto& before = house().changes;
        const bool isNew = std::none_of(before.begin(), before.end(),
                                        [&](const house::DatedChange& c) { return c.id == change.id; });
        if (!isNew) continue;
        change.text = withLabels(change.text, *m_catalog);
        if (change.said) continue;
        if (const auto said = m_judge(change.thing)) {
            change.route = said->first;
            change.said = said->second;
        }
    }
    return out;
}

// Runs are no part of the house, whose changes the file keeps; their removals stand between those.
bool JobModel::isRunStepNext() const {
    return m_store && !m_runSteps.empty() && m_runSteps.back().above >= m_store->undoStep();
}

void JobModel::undo() {
    if (!m_store) return;
    if (isRunStepNext()) return undoRunStep();
    report(m_store->undo());
}

void JobModel::redo() {
    if (m_store) report(m_store->redo());
}

QString JobModel::undoLabel() const {
    if (isRunStepNext()) {
        const RunStep& step = m_runSteps.back();
        if (step.places.empty()) return tr("note what went on during a run");
        return step.before.size() == 1 ? tr("remove a run") : tr("remove runs");
    }
    return m_store ? QString::fromStdString(m_store->undoLabel()) : QString();
}
QString JobModel::redoLabel() const {
    return m_store ? QString::fromStdString(m_store->redoLabel()) : QString();
}

void JobModel::report(const quantity::Result<void>& outcome) {
    if (m_setAside != house().setAside || m_changes != house().changes) choose();
    Q_EMIT changed();
    // Last: what the views say of the job would stand in its place.
    if (!outcome) Q_EMIT problem(QString::fromStdString(outcome.error().sentence()));
}

// Who works with the runs asks by the pointer whether they are others.
void JobModel::choose() {
    m_setAside = house().setAside;
    m_changes = house().changes;
    const bool isAll = m_setAside.empty() && m_changes.empty();
    m_counted = m_setAside.empty()
                    ? m_allRuns
                    : std::make_shared<const benchmark::RouteRuns>(job::counted(*m_allRuns, house()));
    m_runs =
        isAll ? m_allRuns : std::make_shared<const benchmark::RouteRuns>(job::evidence(*m_allRuns, house()));
    m_reports = job::counted(m_allReports, house());
}

// Another program may have the job open as well: a command line that saves its runs, a window on another
// screen.
void JobModel::look() {
    if (!m_store) return;
    const auto elsewhere = m_store->changedElsewhere();
    if (!elsewhere || (!elsewhere->house && !elsewhere->runs)) return;
    if (elsewhere->house)
        if (const auto read = m_store->reload(); !read) return; // looked at again in a moment
    if (elsewhere->runs) {
        readRuns();
        readReports();
    }
    if (m_setAside != house().setAside || m_changes != house().changes) choose();
    Q_EMIT changed();
}

void JobModel::reloadRuns() {
    readRuns();
    readReports();
    Q_EMIT changed();
}

void JobModel::readRuns() {
    m_allRuns = std::make_shared<const benchmark::RouteRuns>();
    if (m_store) {
        auto all = m_store->runs();
        if (!all)
            Q_EMIT problem(QString::fromStdString(all.error().sentence()));
        else if (!all->unreadable.empty())
            Q_EMIT problem(tr("%n run(s) of this job cannot be read and are left out: %1.", nullptr,
                              static_cast<int>(all->unreadable.size()))
                               .arg(QString::fromStdString(quantity::oneLine(all->unreadable.front()))));
        if (all) m_allRuns = std::make_shared<const benchmark::RouteRuns>(std::move(all->runs));
    }
    choose();
}

void JobModel::readReports() {
    m_allReports.clear();
    if (m_store) {
        if (auto all = m_store->reports())
            m_allReports = std::move(*all);
        else
            Q_EMIT problem(QString::fromStdString(all.error().sentence()));
    }
    choose();
}

std::optional<std::int64_t> JobModel::keepReport(const job::Report& kept,
                                                 std::optional<std::int64_t> replaces) {
    if (!m_store) return std::nullopt;
    if (replaces && !m_store->replaceReport(*replaces, kept)) replaces.reset();
    if (!replaces) {
        const auto number = m_store->addReport(kept);
        if (number)
            replaces = *number;
        else
            Q_EMIT problem(QString::fromStdString(number.error().sentence()));
    }
    readReports();
    Q_EMIT changed();
    return replaces;
}

std::string JobModel::keepPhoto(const std::string& jpeg) {
    if (!m_store) return {};
    const auto kept = m_store->addPhoto(jpeg);
    if (kept) return *kept;
    Q_EMIT problem(QString::fromStdString(kept.error().sentence()));
    return {};
}

std::string JobModel::photo(const std::string& digest) const {
    return m_store ? m_store->photo(digest).value_or(std::string()) : std::string();
}

void JobModel::removeReport(std::int64_t number) {
    if (!m_store) return;
    const auto removed = m_store->removeReport(number);
    readReports();
    report(removed);
}

void JobModel::removeRuns(const std::vector<std::string>& ids) {
    if (!m_store) return;
    RunStep removed;
    removed.above = m_store->undoStep();
    for (const benchmark::RouteRun& r : *m_allRuns) {
        if (std::find(ids.begin(), ids.end(), r.run.id) == ids.end()) continue;
        const auto place = m_store->placeOfRun(r.run.id);
        if (!place || !*place) continue;
        benchmark::RouteRun kept = r;
        kept.run.samples =
            std::vector<benchmark::Sample>(r.run.samples.begin(), r.run.samples.end()); // read now
        const auto gone = m_store->removeRun(r.run.id);
        if (!gone) {
            Q_EMIT problem(QString::fromStdString(gone.error().sentence()));
            break;
        }
        removed.before.push_back(std::move(kept));
        removed.places.push_back(**place);
    }
    if (!removed.before.empty()) m_runSteps.push_back(std::move(removed));
    reloadRuns();
}

void JobModel::noteConditions(const std::vector<std::string>& ids,
                              const std::function<void(benchmark::Conditions&)>& note) {
    if (!m_store) return;
    RunStep step;
    step.above = m_store->undoStep();
    for (const benchmark::RouteRun& r : *m_allRuns) {
        if (std::find(ids.begin(), ids.end(), r.run.id) == ids.end()) continue;
        benchmark::Conditions next = r.run.conditions;
        note(next);
        if (next == r.run.conditions) continue;
        if (const auto noted = m_store->noteConditions(r.run.id, next); !noted) {
            Q_EMIT problem(QString::fromStdString(noted.error().sentence()));
            break;
        }
        step.before.push_back(r);
    }
    if (!step.before.empty()) m_runSteps.push_back(std::move(step));
    reloadRuns();
}

void JobModel::undoRunStep() {
    const RunStep back = std::move(m_runSteps.back());
    m_runSteps.pop_back();
    for (std::size_t i = 0; i < back.before.size(); ++i) {
        const benchmark::RouteRun& before = back.before[i];
        const auto undone = back.places.empty()
                                ? m_store->noteConditions(before.run.id, before.run.conditions)
                                : m_store->restoreRun(before, back.places[i]);
        if (!undone) Q_EMIT problem(QString::fromStdString(undone.error().sentence()));
    }
    reloadRuns();
}

} // namespace metrodos::desktop
