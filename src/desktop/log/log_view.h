// Log, its timeline: everything that was found out in time, found by words; any two sets of runs against each
// other; an earlier day once more.
#pragma once

#include "benchmark/comparison_presets.h"
#include "benchmark/revisit.h"
#include "benchmark/run_filter.h"
#include "benchmark/set_comparison.h"
#include "desktop/log/log_timeline.h"
#include "desktop/model/job_model.h"
#include "desktop/model/latest_worker.h"
#include "job/log.h"

#include <QWidget>
#include <map>

class QComboBox;
class QLabel;
class QLineEdit;
class QTableWidget;

namespace metrodos::desktop {

class SetPlot;

class LogView : public QWidget {
    Q_OBJECT

  public:
    explicit LogView(JobModel& job, QWidget* parent = nullptr);
    ~LogView() override;

    /// "128 runs"; empty: none.
    [[nodiscard]] QString progress() const;
    /// What the log says now, in one sentence.
    [[nodiscard]] QString sentence() const;
    void takeFocus();
    /// What is worked out beside the window is there.
    [[nodiscard]] bool isSettled() const { return m_asked == m_answered; }

  Q_SIGNALS:
    void shown(); ///< the sentence is another one
    void said(const QString& sentence, bool isProblem);
    /// The runs of an earlier day are to be made again; the trial is in the house already.
    void trialAsked(const metrodos::house::Id& trial, const metrodos::house::Id& route);

  protected:
    bool event(QEvent* event) override;
    void showEvent(QShowEvent* event) override;

  private:
    using Spread = std::pair<quantity::BitRate, quantity::BitRate>;
    struct Question {
        benchmark::RouteRuns a;
        benchmark::RouteRuns b;
        bool compares = false;
        std::vector<job::LogEntry> shown; ///< their runs are those of `all`
        std::shared_ptr<const benchmark::RouteRuns> all;
        house::House house;
        benchmark::Rule rule = benchmark::Rule::mean;
    };
    struct Answer {
        std::map<std::string, Spread> spreads; ///< by run
        std::optional<benchmark::SetComparison> comparison;
        std::vector<benchmark::Since> since; ///< of the newest revisit
    };
    [[nodiscard]] Answer work(const Question& question); ///< in the worker's thread
    void refresh();
    void fill();
    void fillList();
    void fillTimeline();
    void fillPresets();
    void showComparison();
    void askReason(bool ofAll);
    void takeReason();
    void revisit();
    [[nodiscard]] const job::LogEntry* chosen() const;
    void take(std::uint64_t number, const Answer& answer);
    [[nodiscard]] std::optional<benchmark::RunFilter> filter(QLineEdit* field);

    JobModel& m_job;
    std::shared_ptr<const benchmark::RouteRuns> m_all; ///< what the entries point into
    std::vector<job::LogEntry> m_entries;              ///< shown, oldest first
    benchmark::RouteRuns m_a;                          ///< the runs among them that count
    benchmark::RouteRuns m_b;
    bool m_compares = false;
    Answer m_answer;
    std::map<std::string, Spread> m_known; ///< spreads that were worked out; the worker's own
    std::uint64_t m_asked = 0;
    std::uint64_t m_answered = 0;
    bool m_isStale = true;
    QLineEdit* m_first;
    QLineEdit* m_second;
    LogTimeline* m_timeline;
    QTableWidget* m_list;
    SetPlot* m_sets;
    QComboBox* m_presets;
    std::vector<benchmark::ComparisonPreset> m_offered;
    house::Id m_offeredFor; ///< route
    QLineEdit* m_reason;
    bool m_isOfAll = false; ///< the reason is of all that are listed
    QLabel* m_verdict;
    QLabel* m_differs;
    LatestWorker<Question, Answer> m_worker; // last: it answers into the above
};

} // namespace metrodos::desktop
