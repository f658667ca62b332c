#include "desktop/job_model.h"

namespace metrodos::desktop {

JobModel::JobModel(catalog::Catalog catalog, QObject* parent)
    : QObject(parent)
    , m_catalog(std::move(catalog)) {}

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
    if (diagnosis() && !diagnosis()->suspects.empty()) select(diagnosis()->suspects.front().element);
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
    m_way = ShownWay{QString::fromStdString(way.label), way.house, way.prediction,
                     trace::diagnose(way.prediction, m_catalog, {})};
    m_selected.clear();
    Q_EMIT wayChanged();
    selectLimiter();
}

void JobModel::clearWay() {
    if (!m_way) return;
    m_way.reset();
    m_selected.clear();
    Q_EMIT wayChanged();
    selectLimiter();
}

QString JobModel::shownLabel() const {
    if (m_way) return m_way->label;
    return route() == nullptr ? QString() : QString::fromStdString(route()->label);
}

void JobModel::select(const house::Id& element) {
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
    if (m_store) {
        auto all = m_store->runs();
        if (!all)
            Q_EMIT problem(QString::fromStdString(all.error().sentence()));
        else
            for (job::RouteRun& r : *all) {
                if (r.route == m_route) m_runs.push_back(r.run);
                m_allRuns.push_back(std::move(r.run));
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
    m_diagnosis.reset();
    m_routeProblem.reset();
    if (const house::Route* chosen = route()) {
        auto prediction = capacity::predict(house(), m_catalog, *chosen);
        if (prediction) {
            m_prediction = std::move(*prediction);
            m_diagnosis = trace::diagnose(*m_prediction, m_catalog, m_runs);
        } else {
            m_routeProblem = prediction.error();
        }
    }
    Q_EMIT changed();
    if (!m_selected.empty() && selected() == nullptr)
        select({});
    else
        Q_EMIT selectionChanged();
}

} // namespace metrodos::desktop
