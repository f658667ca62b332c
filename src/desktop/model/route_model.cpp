#include "desktop/model/route_model.h"

#include <algorithm>

namespace metrodos::desktop {

RouteModel::RouteModel(JobModel& job, QObject* parent)
    : QObject(parent)
    , m_job(job)
    , m_diagnoser(
          [](const RouteQuestion& q) { return trace::diagnoseRoute(q.house, *q.catalog, q.route, *q.runs); },
          [this](std::uint64_t number, quantity::Result<trace::Diagnosis> diagnosis) {
              QMetaObject::invokeMethod(
                  this,
                  [this, number, d = std::move(diagnosis)]() mutable { takeDiagnosis(number, std::move(d)); },
                  Qt::QueuedConnection);
          })
    , m_whatIfs(
          [](const RouteQuestion& q) {
              return trace::whatIfRoute(q.house, *q.catalog, q.route, *q.runs, q.element);
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
    connect(this, &RouteModel::selectionChanged, this, &RouteModel::askForWhatIf);
    connect(&m_job, &JobModel::opened, this, &RouteModel::readJob);
    connect(&m_job, &JobModel::changed, this, &RouteModel::analyse);
    connect(&m_job, &JobModel::priceBookChanged, this, &RouteModel::whatIfChanged);
    m_job.setJudge([this](const house::Id& thing) { return saidOf(thing); });
}

// A job begins with its first route.
void RouteModel::readJob() {
    m_way.reset();
    m_selected.clear();
    const auto& routes = m_job.house().routes;
    m_route = routes.empty() ? house::Id() : routes.front().id;
    m_selectLimiter = true;
}

// What limits is what is looked at first.
void RouteModel::selectLimiter() {
    m_selectLimiter = isDiagnosing();
    if (!m_selectLimiter && diagnosis() && !diagnosis()->suspects.empty())
        select(diagnosis()->suspects.front().element);
}

bool RouteModel::hasDeclined() const {
    const house::Route* chosen = route();
    return chosen != nullptr && !chosen->declined.empty();
}

void RouteModel::declineTest(const std::string& test) {
    const house::Route* chosen = route();
    if (chosen == nullptr) return;
    std::vector<std::string> declined = chosen->declined;
    declined.push_back(test);
    setDeclined(tr("have another test suggested"), std::move(declined));
}

void RouteModel::forgetDeclined() {
    setDeclined(tr("ask for all tests again"), {});
}

void RouteModel::setDeclined(const QString& label, std::vector<std::string> tests) {
    house::House next = m_job.house();
    house::Route* chosen = next.route(m_route);
    if (chosen == nullptr) return;
    chosen->declined = std::move(tests);
    m_job.apply(label, next);
}

void RouteModel::askForDiagnosis() {
    if (m_way) {
        m_awaited = m_diagnoser.ask({m_way->house,
                                     m_way->shown->route,
                                     std::make_shared<const benchmark::RouteRuns>(),
                                     {},
                                     m_job.sharedCatalog()});
        return;
    }
    const house::Route* chosen = route();
    if (chosen == nullptr || !m_prediction) {
        m_awaited = m_answered;
        return;
    }
    m_awaited = m_diagnoser.ask(question(*chosen));
}

RouteQuestion RouteModel::question(const house::Route& route) const {
    return {m_job.house(), route, m_job.runs(), m_selected, m_job.sharedCatalog()};
}

void RouteModel::setWhatIfWanted(bool wanted) {
    m_whatIfWanted = wanted;
    askForWhatIf();
}

void RouteModel::askForWhatIf() {
    if (!m_whatIfWanted || m_way || route() == nullptr || selected() == nullptr) {
        m_whatIfAwaited = 0;
        if (m_whatIf.empty()) return;
        m_whatIf.clear();
        Q_EMIT whatIfChanged();
        return;
    }
    m_whatIfAwaited = m_whatIfs.ask(question(*route()));
}

void RouteModel::takeDiagnosis(std::uint64_t number, quantity::Result<trace::Diagnosis> diagnosis) {
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

std::optional<std::pair<house::Id, double>> RouteModel::saidOf(const house::Id& thing) const {
    const house::Route* chosen = route();
    if (chosen == nullptr || m_way || isDiagnosing() || !m_diagnosis || m_diagnosis->suspects.empty() ||
        (!m_diagnosis->measuredForward && !m_diagnosis->measuredBackward))
        return std::nullopt;
    const trace::Suspect& first = m_diagnosis->suspects.front();
    const capacity::ElementPrediction* e = element(first.element);
    if (e == nullptr) return std::nullopt;
    // What a medium or a bus carries is decided by what is at its ends.
    const house::Element& limit = e->element;
    if (limit.device != thing && limit.connection != thing && limit.id != thing &&
        limit.entry.device != thing && limit.exit.device != thing)
        return std::nullopt;
    return std::pair(chosen->id, first.probability);
}

const house::Route* RouteModel::route() const {
    return m_job.house().route(m_route);
}

const capacity::ElementPrediction* RouteModel::element(const house::Id& id) const {
    if (prediction())
        for (const auto& e : prediction()->elements)
            if (e.element.id == id) return &e;
    return nullptr;
}

void RouteModel::setRoute(const house::Id& id) {
    if (m_job.house().route(id) == nullptr) return;
    clearWay();
    if (id == m_route) return;
    m_route = id;
    m_selected.clear();
    analyse();
    selectLimiter();
}

void RouteModel::showWay(const capacity::Way& way) {
    m_way = ShownWay{QString::fromStdString(way.label), way.house, way.prediction, std::nullopt};
    m_selected.clear();
    askForDiagnosis();
    Q_EMIT wayChanged();
    selectLimiter();
}

void RouteModel::clearWay() {
    if (!m_way) return;
    m_way.reset();
    m_selected.clear();
    askForDiagnosis(); // an answer about the way would be taken for one about the route
    Q_EMIT wayChanged();
    selectLimiter();
}

QString RouteModel::shownLabel() const {
    if (m_way) return m_way->label;
    return route() == nullptr ? QString() : QString::fromStdString(route()->label);
}

void RouteModel::select(const house::Id& element) {
    m_selectLimiter = false; // whoever chooses has chosen
    if (element == m_selected) return;
    m_selected = element;
    Q_EMIT selectionChanged();
}

void RouteModel::analyse() {
    m_runs = benchmark::runsOf(*m_job.runs(), m_route);
    m_prediction.reset();
    m_routeProblem.reset();
    if (const house::Route* chosen = route()) {
        auto prediction = capacity::predict(m_job.house(), m_job.catalog(), *chosen);
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
