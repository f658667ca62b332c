// Measure: one press of Space runs between the ends of the route; figures large, plot live, runs kept.
#pragma once

#include "desktop/model/route_model.h"
#include "desktop/model/run_request.h"

#include <QWidget>
#include <optional>

class QLabel;
class QLineEdit;
class QPushButton;

namespace metrodos::desktop {

class AdvancedPanel;
class ConditionsButton;
class PreparedTest;
class RateBand;
class RunControls;
class RunFigures;
class RunList;
class RunPlot;
class TrialBar;

class MeasureView : public QWidget {
    Q_OBJECT

  public:
    explicit MeasureView(RouteModel& model, QWidget* parent = nullptr);

    /// What Space begins: the next step of the trial that is led, or what the controls ask for. Without steps
    /// when there is nothing to do or something could not be read; then `said` was emitted.
    [[nodiscard]] WantedRuns wanted();
    void setStreams(int streams);
    /// Sets up a suggested test; Space then runs it.
    void prepare(const trace::NextTest& test);
    void dropPrepared();
    /// Turns the answer to “do other people use the network?” over.
    void turnOthers();
    /// Chooses these of the runs that are listed; the first of them is shown.
    void chooseRuns(const QStringList& ids);

    /// What is to be put right at the machines of the last run, a sentence each.
    /// Leads through a trial of the house.
    void lead(const house::Id& trial);
    void setMachineRemarks(const QStringList& sentences);
    void showStarting();
    void showRunStarted(const benchmark::Run& run, int index, int count);
    void showSample(benchmark::Direction direction, const benchmark::Sample& sample);
    void showRunFinished(const benchmark::Run& run);
    void showEnded();
    void restyle();
    [[nodiscard]] const RunPlot& plot() const { return *m_plot; }

  Q_SIGNALS:
    /// Everything that was taken of this run is wanted.
    void runOpened(const QString& id);
    void runAsked(); ///< start, or stop while one goes on
    void said(const QString& sentence, bool isProblem);

  protected:
    bool event(QEvent* event) override;

  private:
    void openAdvanced();
    void showDepartures(); ///< how many things are ordered otherwise than usual
    void showFields();
    void fillRuns();
    void showChosenRun(const QString& id);
    void showRemarks(const benchmark::Run* run);
    QStringList m_machineRemarks;
    house::Id m_machinesOf; ///< the route that they are of

    RouteModel& m_model;
    QPushButton* m_run;
    RunControls* m_fields;
    AdvancedPanel* m_advanced;
    QPushButton* m_more; ///< opens it
    ConditionsButton* m_conditions;
    TrialBar* m_trial;
    PreparedTest* m_prepared;
    QLabel* m_remark;
    RunFigures* m_figures;
    QLabel* m_progress;
    QLabel* m_hint;
    RateBand* m_bands[2];
    RunPlot* m_plot;
    RunList* m_runs;
    QLineEdit* m_change;                     ///< what is different from the run before
    std::optional<benchmark::Run> m_live[2]; ///< forward, backward: both at once or one
    bool m_running = false;
    QString m_which;
};

} // namespace metrodos::desktop
