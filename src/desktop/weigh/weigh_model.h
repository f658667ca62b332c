// The weighing of the house as the views see it: what there is to choose from, the plans, the one that is
// looked at.
#pragma once

#include "desktop/model/route_model.h"
#include "weigh/objectives.h"

#include <QElapsedTimer>
#include <memory>

namespace metrodos::desktop {

class WeighModel : public QObject {
    Q_OBJECT

  public:
    /// `prices`: where the user's price book lies, or will.
    WeighModel(RouteModel& route, std::filesystem::path prices, QObject* parent = nullptr);
    ~WeighModel() override;

    /// Weighs from now on after every change, or no longer.
    void setWanted(bool wanted);
    void stop();
    [[nodiscard]] bool isWeighing() const { return m_awaited != m_answered; }
    [[nodiscard]] double done() const { return m_done; }
    /// Seconds; nothing where it cannot be said yet.
    [[nodiscard]] std::optional<double> timeLeft() const;

    [[nodiscard]] JobModel& job() const { return m_job; }
    [[nodiscard]] RouteModel& route() const { return m_route; }
    /// Nothing while it is not known what there is to choose from; then problemText() says why.
    [[nodiscard]] const weigh::Options* options() const { return m_options ? &*m_options : nullptr; }
    [[nodiscard]] const weigh::Weighed& weighed() const { return m_weighed; }
    [[nodiscard]] const QString& problemText() const { return m_problem; }
    [[nodiscard]] weigh::Objective objective() const;
    /// The best plan of an objective, as soon as it is known.
    [[nodiscard]] const weigh::Plan* best(weigh::Objective objective) const;
    /// The plan that is looked at: the one that was opened, otherwise the best of the chosen objective.
    [[nodiscard]] const weigh::Plan* plan() const;
    [[nodiscard]] const weigh::Plan* plan(const std::string& id) const;
    [[nodiscard]] weigh::Prices prices() const { return {m_job.catalog(), book()}; }
    [[nodiscard]] const weigh::PriceBook& book() const { return m_job.priceBook(); }

    void setObjective(weigh::Objective objective);
    void open(const std::string& plan);
    /// Pins the way of a spot, or takes the pin away where it is that way already.
    void pin(const house::Id& spot, const std::string& way);
    /// What is done at a spot, in words; a Problem says which of them is not understood.
    [[nodiscard]] quantity::Result<void> setUses(const house::Id& spot, const QString& text);
    [[nodiscard]] quantity::Result<void> setBook(const weigh::PriceBook& book);
    /// The share of the houses like this one in which a need must be carried.
    void setShare(double share);
    /// The share of what is not steady that goes on at once.
    void setAtOnce(double share);
    void setDrilling(bool allowed);
    /// What somebody else asks for the cabling; nothing: it is taken back.
    void setQuote(std::optional<house::Quote> quote);
    /// That the plan is to last; behind the cost over rooms.
    void setYears(int years);
    /// Makes the plan that is looked at real, as one step of undo.
    void applyPlan();

  Q_SIGNALS:
    void changed();    ///< options, plans, or which of them is looked at
    void opened();     ///< another plan is looked at, at somebody's wish
    void progressed(); ///< how far the weighing is
    void said(const QString& sentence, bool isProblem);

  private:
    struct Question {
        house::House house;
        weigh::PriceBook book;
        std::shared_ptr<const benchmark::RouteRuns> runs;
        std::vector<benchmark::WatchReport> watches;
        weigh::Objective objective = weigh::Objective::cheapest;
        std::stop_token stop;
        std::function<void(double, const weigh::Weighed&)> progress;
        std::shared_ptr<const catalog::Catalog> catalog = {};
    };
    struct Answer {
        std::optional<weigh::Options> options;
        weigh::Weighed weighed;
        std::optional<quantity::Problem> problem;
    };
    void ask();
    void take(std::uint64_t number, Answer answer);
    void edit(const QString& label, house::House next);

    RouteModel& m_route;
    JobModel& m_job;
    std::filesystem::path m_pricesFile;
    bool m_wanted = false;
    std::stop_source m_stop;
    std::uint64_t m_awaited = 0;
    std::uint64_t m_answered = 0;
    double m_done = 0;
    QElapsedTimer m_begun; ///< when the last question was asked
    std::optional<weigh::Options> m_options;
    weigh::Weighed m_weighed;
    QString m_problem;
    std::string m_opened;
    house::House m_asked; ///< what the last question was about, without what does not matter to it
    std::shared_ptr<const benchmark::RouteRuns> m_askedRuns;
    std::shared_ptr<const catalog::Catalog> m_askedCatalog;
    std::vector<job::Report> m_askedReports;
    bool m_dirty = true;
    LatestWorker<Question, Answer> m_worker; // last: it answers into the above
};

/// Where the price book of this machine lies; METRODOS_PRICES in the environment goes before it.
[[nodiscard]] std::filesystem::path pricesFile();

} // namespace metrodos::desktop
