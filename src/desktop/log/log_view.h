// Log: every run of the house in time, found by words; and any two sets of them against each other.
#pragma once

#include "benchmark/run_filter.h"
#include "benchmark/set_comparison.h"
#include "desktop/log/log_timeline.h"
#include "desktop/model/job_model.h"
#include "desktop/model/latest_worker.h"

#include <QWidget>
#include <map>

class QLabel;
class QLineEdit;
class QTableWidget;

namespace metrodos::desktop {

class RangeList;

class LogView : public QWidget {
    Q_OBJECT

  public:
    explicit LogView(JobModel& job, QWidget* parent = nullptr);

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

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    using Spread = std::pair<quantity::BitRate, quantity::BitRate>;
    struct Question {
        benchmark::RouteRuns a;
        benchmark::RouteRuns b;
        bool compares = false;
        house::House house;
        benchmark::Rule rule = benchmark::Rule::mean;
    };
    struct Answer {
        std::map<std::string, Spread> spreads; ///< by run
        std::optional<benchmark::SetComparison> comparison;
        std::optional<catalog::RateSpread> figuresA; ///< of the runs' goodput
        std::optional<catalog::RateSpread> figuresB;
    };
    static Answer work(const Question& question);
    void refresh();
    void fill();
    void fillList();
    void fillTimeline();
    void showComparison();
    void take(std::uint64_t number, const Answer& answer);
    [[nodiscard]] std::optional<benchmark::RunFilter> filter(QLineEdit* field);

    JobModel& m_job;
    benchmark::RouteRuns m_a; ///< shown, oldest first
    benchmark::RouteRuns m_b;
    bool m_compares = false;
    Answer m_answer;
    std::uint64_t m_asked = 0;
    std::uint64_t m_answered = 0;
    bool m_isStale = true;
    QLineEdit* m_first;
    QLineEdit* m_second;
    LogTimeline* m_timeline;
    QTableWidget* m_list;
    RangeList* m_ranges;
    QLabel* m_verdict;
    QLabel* m_differs;
    LatestWorker<Question, Answer> m_worker; // last: it answers into the above
};

} // namespace metrodos::desktop
