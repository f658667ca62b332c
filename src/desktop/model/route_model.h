// The chosen route as the views see it: its prediction, its runs, what limits it, the element that is looked
// at. Worked out again after every change of the job, the slow parts beside the window.
#pragma once

#include "capacity/predict.h"
#include "capacity/ways.h"
#include "desktop/model/job_model.h"
#include "desktop/model/latest_worker.h"
#include "trace/what_if.h"

namespace metrodos::desktop {

/// What is asked about a route in the background, by value; the runs are shared.
struct RouteQuestion {
    house::House house;
    house::Route route;
    std::shared_ptr<const benchmark::RouteRuns> runs;
    house::Id element; ///< of a what-if
    std::shared_ptr<const catalog::Catalog> catalog;
};

class RouteModel : public QObject {
    Q_OBJECT

  public:
    explicit RouteModel(JobModel& job, QObject* parent = nullptr);

    [[nodiscard]] JobModel& job() const { return m_job; }
    /// With which probability the thing, a device, cable or the service, is said to limit the chosen route at
    /// the moment; nothing where it is not the likeliest, or nothing was measured.
    [[nodiscard]] std::optional<std::pair<house::Id, double>> saidOf(const house::Id& thing) const;

    [[nodiscard]] const house::Route* route() const;
    void setRoute(const house::Id& id);
    /// Nothing while no route is chosen or nothing joins its ends; then routeProblem() says why.
    [[nodiscard]] const std::optional<capacity::RoutePrediction>& prediction() const {
        return m_way ? m_way->shown : m_prediction;
    }
    /// The house that the prediction speaks of: that of the way, where one is shown.
    [[nodiscard]] const house::House& shownHouse() const { return m_way ? m_way->house : m_job.house(); }
    [[nodiscard]] const std::optional<quantity::Problem>& routeProblem() const { return m_routeProblem; }
    /// The runs of the chosen route, oldest first.
    [[nodiscard]] const std::vector<benchmark::Run>& runs() const { return m_runs; }

    /// Comes a moment after every change; until then that of before, or nothing for another route.
    [[nodiscard]] const std::optional<trace::Diagnosis>& diagnosis() const {
        return m_way ? m_way->diagnosis : m_diagnosis;
    }
    /// Whether the diagnosis still belongs to what was before the last change.
    [[nodiscard]] bool isDiagnosing() const { return m_awaited != m_answered; }
    /// Has another test suggested on this route; the first one of the diagnosis cannot be made. Part of the
    /// job, and can be undone.
    void declineTest(const std::string& test);
    /// Suggests all tests again.
    void forgetDeclined();
    [[nodiscard]] bool hasDeclined() const;

    /// Shows another way in the strip instead of the chosen route, until it is cleared: a prediction that
    /// does not belong to the job and has no runs.
    void showWay(const capacity::Way& way);
    void clearWay();
    [[nodiscard]] bool showsWay() const { return m_way.has_value(); }
    /// What the strip stands for: the route's label or the way's.
    [[nodiscard]] QString shownLabel() const;

    [[nodiscard]] const capacity::ElementPrediction* element(const house::Id& id) const;
    [[nodiscard]] const capacity::ElementPrediction* selected() const { return element(m_selected); }
    void select(const house::Id& element);
    /// What the route would carry with something else in the place of the selected element; comes a moment
    /// after setWhatIfWanted(true).
    [[nodiscard]] const std::vector<trace::WhatIf>& whatIf() const { return m_whatIf; }
    void setWhatIfWanted(bool wanted);

  Q_SIGNALS:
    void changed();    ///< the job, the route, its prediction or its runs
    void diagnosed();  ///< the diagnosis only
    void wayChanged(); ///< what is shown is a way, or no longer
    void selectionChanged();
    void whatIfChanged();

  private:
    void readJob();
    void analyse();
    void selectLimiter();
    void askForDiagnosis();
    void takeDiagnosis(std::uint64_t number, quantity::Result<trace::Diagnosis> diagnosis);
    void askForWhatIf();
    [[nodiscard]] RouteQuestion question(const house::Route& route) const;
    void setDeclined(const QString& label, std::vector<std::string> tests);

    struct ShownWay {
        QString label;
        house::House house;
        std::optional<capacity::RoutePrediction> shown;
        std::optional<trace::Diagnosis> diagnosis;
    };

    JobModel& m_job;
    house::Id m_route;
    house::Id m_selected;
    std::optional<capacity::RoutePrediction> m_prediction;
    std::optional<quantity::Problem> m_routeProblem;
    std::optional<trace::Diagnosis> m_diagnosis;
    std::vector<benchmark::Run> m_runs;
    std::optional<ShownWay> m_way;
    bool m_selectLimiter = false; // once it is known
    std::uint64_t m_awaited = 0;
    std::uint64_t m_answered = 0;
    bool m_whatIfWanted = false;
    std::uint64_t m_whatIfAwaited = 0;
    std::vector<trace::WhatIf> m_whatIf;
    // Last: they answer into the above.
    LatestWorker<RouteQuestion, quantity::Result<trace::Diagnosis>> m_diagnoser;
    LatestWorker<RouteQuestion, std::vector<trace::WhatIf>> m_whatIfs;
};

} // namespace metrodos::desktop
