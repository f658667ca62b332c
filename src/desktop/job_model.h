// The open job as the views see it: house, chosen route, its prediction, runs and diagnosis; edits with undo.
#pragma once

#include "capacity/predict.h"
#include "capacity/ways.h"
#include "desktop/latest_worker.h"
#include "job/store.h"
#include "trace/what_if.h"
#include "weigh/price_book.h"

#include <QObject>
#include <map>
#include <optional>

namespace metrodos::desktop {

/// What is asked about a route in the background, by value.
struct RouteQuestion {
    house::House house;
    house::Route route;
    std::vector<std::pair<house::Id, benchmark::Run>> runs;
    house::Id element; ///< of a what-if
};

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
    [[nodiscard]] const std::optional<capacity::RoutePrediction>& prediction() const {
        return m_way ? m_way->shown : m_prediction;
    }
    /// The house that the prediction speaks of: that of the way, where one is shown.
    [[nodiscard]] const house::House& shownHouse() const { return m_way ? m_way->house : house(); }
    [[nodiscard]] const std::optional<quantity::Problem>& routeProblem() const { return m_routeProblem; }
    /// Comes a moment after every change; until then that of before, or nothing for another route.
    [[nodiscard]] const std::optional<trace::Diagnosis>& diagnosis() const {
        return m_way ? m_way->diagnosis : m_diagnosis;
    }
    /// Whether the diagnosis still belongs to what was before the last change.
    [[nodiscard]] bool isDiagnosing() const { return m_awaited != m_answered; }
    /// What the route would carry with something else in the place of the selected element; comes a moment
    /// after whatIfWanted was set.
    [[nodiscard]] const std::vector<trace::WhatIf>& whatIf() const { return m_whatIf; }
    void setWhatIfWanted(bool wanted);
    /// Has another test suggested on this route; the first one of the diagnosis cannot be made. Part of the
    /// job, and can be undone.
    void declineTest(const std::string& test);
    /// Suggests all tests again.
    void forgetDeclined();
    [[nodiscard]] bool hasDeclined() const;
    /// The runs of the chosen route, oldest first.
    [[nodiscard]] const std::vector<benchmark::Run>& runs() const { return m_runs; }
    /// The runs of all routes, oldest first.
    [[nodiscard]] const std::vector<benchmark::Run>& allRuns() const { return m_allRuns; }
    /// The same with the route of each.
    [[nodiscard]] std::vector<std::pair<house::Id, benchmark::Run>> runsByRoute() const;
    [[nodiscard]] const capacity::ElementPrediction* element(const house::Id& id) const;
    [[nodiscard]] const capacity::ElementPrediction* selected() const { return element(m_selected); }

    /// What things cost here; of the machine, not of the job.
    [[nodiscard]] const weigh::PriceBook& priceBook() const { return m_priceBook; }
    void setPriceBook(weigh::PriceBook book);

    void setRoute(const house::Id& id);
    /// Shows another way in the strip instead of the chosen route, until it is cleared: a prediction that
    /// does not belong to the job and has no runs.
    void showWay(const capacity::Way& way);
    void clearWay();
    [[nodiscard]] bool showsWay() const { return m_way.has_value(); }
    /// What the strip stands for: the route's label or the way's.
    [[nodiscard]] QString shownLabel() const;
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
    /// What tests other than runs found, oldest first.
    [[nodiscard]] const std::vector<job::Report>& reports() const { return m_reports; }
    void addReport(const job::Report& report);
    void removeReport(std::int64_t number);

  Q_SIGNALS:
    void changed();    ///< house, route, prediction or runs
    void diagnosed();  ///< the diagnosis only
    void wayChanged(); ///< what the strip shows is a way, or no longer
    void selectionChanged();
    void whatIfChanged();
    void problem(const QString& sentence);

  private:
    void readReports();
    void update();
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
    void report(const quantity::Result<void>& outcome);

    catalog::Catalog m_catalog;
    std::optional<job::Store> m_store;
    house::Id m_route;
    house::Id m_selected;
    std::optional<capacity::RoutePrediction> m_prediction;
    std::optional<quantity::Problem> m_routeProblem;
    std::optional<trace::Diagnosis> m_diagnosis;
    std::vector<benchmark::Run> m_runs;
    std::vector<benchmark::Run> m_allRuns;
    std::vector<house::Id> m_runRoutes; // of m_allRuns
    std::optional<ShownWay> m_way;
    weigh::PriceBook m_priceBook;
    std::vector<job::Report> m_reports;
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
