#include "desktop/job_model.h"

#include <algorithm>

namespace metrodos::desktop {

JobModel::JobModel(catalog::Catalog catalog, QObject* parent)
    : QObject(parent)
    , m_catalog(std::move(catalog))
    , m_diagnoser(
          [this](const RouteQuestion& q) {
              return trace::diagnoseRoute(q.house, m_catalog, q.route, q.runs);
          },
          [this](std::uint64_t number, quantity::Result<trace::Diagnosis> diagnosis) {
              QMetaObject::invokeMethod(
                  this,
                  [this, number, d = std::move(diagnosis)]() mutable { takeDiagnosis(number, std::move(d)); },
                  Qt::QueuedConnection);
          })
    , m_whatIfs(
          [this](const RouteQuestion& q) {
              return trace::whatIfRoute(q.house, m_catalog, q.route, q.runs, q.element);
          },
          [this](std::uint64_t number, std::vector<trace::WhatIf> rows) {
              QMetaObject::invokeMethod(
                  this,
                  [this, number, r = std::move(rows)]() mutable {
                      if (number != m_whatIfAwaited) return;
                      m_whatIf = std::move(r);
                      Q_EMIT whatIfChanged();
                  },
                  Qt::QueuedConnection);
          }) {
    connect(this, &JobModel::selectionChanged, this, &JobModel::askForWhatIf);
}

void JobModel::setStore(job::Store store) {
    m_store.emplace(std::move(store));
    m_way.reset();
    m_selected.clear();
    m_route = house().routes.empty() ? house::Id() : house().routes.front().id;
    reloadRuns();
    selectLimiter();
}

// What limits is what is looked at first.
void JobModel::selectLimiter() {
    m_selectLimiter = isDiagnosing();
    if (!m_selectLimiter && diagnosis() && !diagnosis()->suspects.empty())
        select(diagnosis()->suspects.front().element);
}

bool JobModel::hasDeclined() const {
    const house::Route* chosen = route();
    return chosen != nullptr && !chosen->declined.empty();
}

void JobModel::declineTest(const std::string& test) {
    const house::Route* chosen = route();
    if (chosen == nullptr) return;
    std::vector<std::string> declined = chosen->declined;
    declined.push_back(test);
    setDeclined(tr("have another test suggested"), std::move(declined));
}

void JobModel::forgetDeclined() {
    setDeclined(tr("ask for all tests again"), {});
}

void JobModel::setDeclined(const QString& label, std::vector<std::string> tests) {
    house::House next = house();
    const auto chosen = std::find_if(next.routes.begin(), next.routes.end(),
                                     [this](const house::Route& r) { return r.id == m_route; });
    if (chosen == next.routes.end()) return;
    chosen->declined = std::move(tests);
    apply(label, next);
}

void JobModel::askForDiagnosis() {
    if (m_way) {
        m_awaited = m_diagnoser.ask({m_way->house, m_way->shown->route, {}, {}});
        return;
    }
    const house::Route* chosen = route();
    if (chosen == nullptr || !m_prediction) {
        m_awaited = m_answered;
        return;
    }
    m_awaited = m_diagnoser.ask(question(*chosen));
}

RouteQuestion JobModel::question(const house::Route& route) const {
    return {house(), route, runsByRoute(), m_selected};
}

std::vector<std::pair<house::Id, benchmark::Run>> JobModel::runsByRoute() const {
    std::vector<std::pair<house::Id, benchmark::Run>> out;
    for (std::size_t i = 0; i < m_allRuns.size(); ++i)
        out.emplace_back(m_runRoutes[i], m_allRuns[i]);
    return out;
}

void JobModel::setPriceBook(weigh::PriceBook book) {
    m_priceBook = std::move(book);
    Q_EMIT whatIfChanged();
}

void JobModel::setWhatIfWanted(bool wanted) {
    m_whatIfWanted = wanted;
    askForWhatIf();
}

void JobModel::askForWhatIf() {
    if (!m_whatIfWanted || m_way || route() == nullptr || selected() == nullptr) {
        m_whatIfAwaited = 0;
        if (m_whatIf.empty()) return;
        m_whatIf.clear();
        Q_EMIT whatIfChanged();
        return;
    }
    m_whatIfAwaited = m_whatIfs.ask(question(*route()));
}

void JobModel::takeDiagnosis(std::uint64_t number, quantity::Result<trace::Diagnosis> diagnosis) {
    if (number != m_awaited) return; // of what was before
    m_answered = number;
    auto& place = m_way ? m_way->diagnosis : m_diagnosis;
    if (diagnosis)
        place = std::move(*diagnosis);
    else
        place.reset();
    if (m_selectLimiter) selectLimiter();
    Q_EMIT diagnosed();
}

const house::House& JobModel::house() const {
    static const house::House none;
    return m_store ? m_store->house() : none;
}

std::filesystem::path JobModel::file() const {
    return m_store ? m_store->file() : std::filesystem::path();
}

const house::Route* JobModel::route() const {
    return house().route(m_route);
}

const capacity::ElementPrediction* JobModel::element(const house::Id& id) const {
    if (prediction())
        for (const auto& e : prediction()->elements)
            if (e.element.id == id) return &e;
    return nullptr;
}

void JobModel::setRoute(const house::Id& id) {
    if (house().route(id) == nullptr) return;
    clearWay();
    if (id == m_route) return;
    m_route = id;
    m_selected.clear();
    reloadRuns();
    selectLimiter();
}

void JobModel::showWay(const capacity::Way& way) {
    m_way = ShownWay{QString::fromStdString(way.label), way.house, way.prediction, std::nullopt};
    m_selected.clear();
    askForDiagnosis();
    Q_EMIT wayChanged();
    selectLimiter();
}

void JobModel::clearWay() {
    if (!m_way) return;
    m_way.reset();
    m_selected.clear();
    askForDiagnosis(); // an answer about the way would be taken for one about the route
    Q_EMIT wayChanged();
    selectLimiter();
}

QString JobModel::shownLabel() const {
    if (m_way) return m_way->label;
    return route() == nullptr ? QString() : QString::fromStdString(route()->label);
}

void JobModel::select(const house::Id& element) {
    m_selectLimiter = false; // whoever chooses has chosen
    if (element == m_selected) return;
    m_selected = element;
    Q_EMIT selectionChanged();
}

void JobModel::apply(const QString& label, const quantity::Result<house::House>& next) {
    if (!m_store) return;
    if (!next) {
        Q_EMIT problem(QString::fromStdString(next.error().sentence()));
        return;
    }
    report(m_store->change(label.toStdString(), *next));
}

void JobModel::undo() {
    if (m_store) report(m_store->undo());
}

void JobModel::redo() {
    if (m_store) report(m_store->redo());
}

QString JobModel::undoLabel() const {
    return m_store ? QString::fromStdString(m_store->undoLabel()) : QString();
}
QString JobModel::redoLabel() const {
    return m_store ? QString::fromStdString(m_store->redoLabel()) : QString();
}

void JobModel::report(const quantity::Result<void>& outcome) {
    if (!outcome) Q_EMIT problem(QString::fromStdString(outcome.error().sentence()));
    update();
}

void JobModel::reloadRuns() {
    m_runs.clear();
    m_allRuns.clear();
    m_runRoutes.clear();
    if (m_store) {
        auto all = m_store->runs();
        if (!all)
            Q_EMIT problem(QString::fromStdString(all.error().sentence()));
        else
            for (job::RouteRun& r : *all) {
                if (r.route == m_route) m_runs.push_back(r.run);
                m_allRuns.push_back(std::move(r.run));
                m_runRoutes.push_back(r.route);
            }
    }
    readReports();
    update();
}

void JobModel::readReports() {
    m_reports.clear();
    if (!m_store) return;
    if (auto all = m_store->reports())
        m_reports = std::move(*all);
    else
        Q_EMIT problem(QString::fromStdString(all.error().sentence()));
}

void JobModel::addReport(const job::Report& added) {
    if (!m_store) return;
    const auto kept = m_store->addReport(added);
    readReports();
    report(kept);
}

void JobModel::removeReport(std::int64_t number) {
    if (!m_store) return;
    const auto removed = m_store->removeReport(number);
    readReports();
    report(removed);
}

void JobModel::removeRun(const std::string& id) {
    if (!m_store) return;
    if (const auto removed = m_store->removeRun(id); !removed)
        Q_EMIT problem(QString::fromStdString(removed.error().sentence()));
    reloadRuns();
}

void JobModel::update() {
    m_prediction.reset();
    m_routeProblem.reset();
    if (const house::Route* chosen = route()) {
        auto prediction = capacity::predict(house(), m_catalog, *chosen);
        if (prediction) {
            m_prediction = std::move(*prediction);
        } else {
            m_routeProblem = prediction.error();
        }
    }
    // The verdict on another route, or on none, is not that of this one.
    if (m_diagnosis && (!m_prediction || m_diagnosis->route != m_route)) m_diagnosis.reset();
    askForDiagnosis();
    Q_EMIT changed();
    if (!m_selected.empty() && selected() == nullptr)
        select({});
    else
        Q_EMIT selectionChanged();
}

} // namespace metrodos::desktop
