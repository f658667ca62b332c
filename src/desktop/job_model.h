// The open job as the views see it: house, chosen route, its prediction, runs and diagnosis; edits with undo.
#pragma once

#include "capacity/predict.h"
#include "job/store.h"
#include "trace/diagnose.h"

#include <QObject>
#include <optional>

namespace metrodos::desktop {

class JobModel : public QObject {
    Q_OBJECT

  public:
    JobModel(catalog::Catalog catalog, QObject* parent = nullptr);

    /// Takes over an open job and chooses its first route.
    void setStore(job::Store store);
    [[nodiscard]] bool hasJob() const { return m_store.has_value(); }

    [[nodiscard]] const catalog::Catalog& catalog() const { return m_catalog; }
    [[nodiscard]] const house::House& house() const;
    [[nodiscard]] std::filesystem::path file() const;
    [[nodiscard]] const house::Route* route() const;
    /// Nothing while no route is chosen or nothing joins its ends; then routeProblem() says why.
    [[nodiscard]] const std::optional<capacity::RoutePrediction>& prediction() const { return m_prediction; }
    [[nodiscard]] const std::optional<quantity::Problem>& routeProblem() const { return m_routeProblem; }
    [[nodiscard]] const std::optional<trace::Diagnosis>& diagnosis() const { return m_diagnosis; }
    /// The runs of the chosen route, oldest first.
    [[nodiscard]] const std::vector<benchmark::Run>& runs() const { return m_runs; }
    [[nodiscard]] const capacity::ElementPrediction* element(const house::Id& id) const;
    [[nodiscard]] const capacity::ElementPrediction* selected() const { return element(m_selected); }

    void setRoute(const house::Id& id);
    void select(const house::Id& element);
    /// Makes the outcome of an edit the house; a Problem is reported and changes nothing.
    void apply(const QString& label, const quantity::Result<house::House>& next);
    void undo();
    void redo();
    [[nodiscard]] QString undoLabel() const;
    [[nodiscard]] QString redoLabel() const;
    /// Reads the runs again after one was added or removed.
    void reloadRuns();
    void removeRun(const std::string& id);

  Q_SIGNALS:
    void changed(); ///< house, route, prediction or runs
    void selectionChanged();
    void problem(const QString& sentence);

  private:
    void update();
    void selectLimiter();
    void report(const quantity::Result<void>& outcome);

    catalog::Catalog m_catalog;
    std::optional<job::Store> m_store;
    house::Id m_route;
    house::Id m_selected;
    std::optional<capacity::RoutePrediction> m_prediction;
    std::optional<quantity::Problem> m_routeProblem;
    std::optional<trace::Diagnosis> m_diagnosis;
    std::vector<benchmark::Run> m_runs;
};

} // namespace metrodos::desktop
