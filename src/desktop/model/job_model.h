// The open job as the views see it: house, runs and reports; edits with undo. What is worked out of it for
// one route is the route model's.
#pragma once

#include "catalog/catalog.h"
#include "job/store.h"
#include "weigh/price_book.h"

#include <QObject>
#include <functional>
#include <memory>
#include <optional>

class QTimer;

namespace metrodos::desktop {

class JobModel : public QObject {
    Q_OBJECT

  public:
    explicit JobModel(catalog::Catalog catalog, QObject* parent = nullptr);

    /// Takes over an open job.
    void setStore(job::Store store);
    /// Lets go of the file.
    void closeJob();
    [[nodiscard]] bool hasJob() const { return m_store.has_value(); }

    [[nodiscard]] const catalog::Catalog& catalog() const { return *m_catalog; }
    /// The same for what works beside the window, and may end after the job was let go.
    [[nodiscard]] std::shared_ptr<const catalog::Catalog> sharedCatalog() const { return m_catalog; }
    /// Another one from now on; of the machine, not of the job. Those of before stay as long as this does.
    void setCatalog(std::shared_ptr<const catalog::Catalog> catalog);
    /// Who says with which probability a thing is the limit of a route; asked when it is exchanged.
    using Judge = std::function<std::optional<std::pair<house::Id, double>>(const house::Id& thing)>;
    void setJudge(Judge judge) { m_judge = std::move(judge); }
    [[nodiscard]] const house::House& house() const;
    [[nodiscard]] std::filesystem::path file() const;

    /// The runs of all routes that everything is judged by (job::evidence), oldest first; shared, and never
    /// changed in place.
    [[nodiscard]] const std::shared_ptr<const benchmark::RouteRuns>& runs() const { return m_runs; }
    /// With those of what was exchanged since: for comparing.
    [[nodiscard]] const std::shared_ptr<const benchmark::RouteRuns>& countedRuns() const { return m_counted; }
    /// With those that are set aside.
    [[nodiscard]] const std::shared_ptr<const benchmark::RouteRuns>& allRuns() const { return m_allRuns; }
    /// What tests other than runs found and counts, oldest first.
    [[nodiscard]] const std::vector<job::Report>& reports() const { return m_reports; }
    [[nodiscard]] const std::vector<job::Report>& allReports() const { return m_allReports; }

    /// What things cost here; of the machine, not of the job.
    [[nodiscard]] const weigh::PriceBook& priceBook() const { return m_priceBook; }
    void setPriceBook(weigh::PriceBook book);

    /// Makes the outcome of an edit the house; a Problem is reported and changes nothing.
    void apply(const QString& label, const quantity::Result<house::House>& next);
    /// The same of what was read: nothing was exchanged, it is only known better.
    void correct(const QString& label, const quantity::Result<house::House>& next);
    void undo();
    void redo();
    [[nodiscard]] QString undoLabel() const;
    [[nodiscard]] QString redoLabel() const;
    /// Reads the runs again after one was added or removed.
    void reloadRuns();
    /// All of them, as one step that can be undone while this job is open here.
    void removeRuns(const std::vector<std::string>& ids);
    /// What else went on during these runs, as it is known now: the same step of undo.
    void noteConditions(const std::vector<std::string>& ids,
                        const std::function<void(benchmark::Conditions&)>& note);
    /// Keeps the report, in place of number `replaces` where that is still there; the number that it has
    /// then. Nothing where it could not be kept: that was reported.
    std::optional<std::int64_t> keepReport(const job::Report& report,
                                           std::optional<std::int64_t> replaces = {});
    void removeReport(std::int64_t number);
    /// Keeps a JPEG file for the house to name; its digest. Empty where it could not be kept: that was
    /// reported.
    [[nodiscard]] std::string keepPhoto(const std::string& jpeg);
    /// Empty: it is not there.
    [[nodiscard]] std::string photo(const std::string& digest) const;

  Q_SIGNALS:
    void opened(); ///< another job
    void catalogChanged();
    void changed(); ///< house, runs or reports
    void priceBookChanged();
    void problem(const QString& sentence);

  private:
    void readRuns();
    void readReports();
    void choose();
    [[nodiscard]] house::House withStatements(const house::House& next) const;
    void look();
    void report(const quantity::Result<void>& outcome);

    std::shared_ptr<const catalog::Catalog> m_catalog; ///< never changed
    std::vector<std::shared_ptr<const catalog::Catalog>> m_formerCatalogs;
    Judge m_judge;
    std::optional<job::Store> m_store;
    std::shared_ptr<const benchmark::RouteRuns> m_runs;
    std::shared_ptr<const benchmark::RouteRuns> m_counted;
    std::shared_ptr<const benchmark::RouteRuns> m_allRuns;
    std::vector<job::Report> m_reports;
    std::vector<job::Report> m_allReports;
    /// What was done to runs, which are no part of the house and of its undo.
    struct RunStep {
        benchmark::RouteRuns before;
        std::vector<std::int64_t> places; ///< of runs that were removed; empty: their conditions were noted
        std::int64_t above = 0;           ///< the change of the house that it came after (Store::undoStep)
    };
    [[nodiscard]] bool isRunStepNext() const; ///< to be undone
    void undoRunStep();
    std::vector<RunStep> m_runSteps;         ///< that can be undone
    std::vector<house::SetAside> m_setAside; ///< by which `m_runs` were chosen
    std::vector<house::DatedChange> m_changes;
    weigh::PriceBook m_priceBook;
    QTimer* m_look; ///< for what other programs change
};

} // namespace metrodos::desktop
