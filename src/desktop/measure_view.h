// Measure: one press of Space runs between the ends of the route; figures large, plot live, runs kept.
#pragma once

#include "desktop/job_model.h"

#include <QWidget>
#include <optional>

class QComboBox;
class QLabel;
class QProgressBar;
class QPushButton;
class QSpinBox;
class QTableWidget;

namespace metrodos::desktop {

class RateBand;
class RunPlot;

class MeasureView : public QWidget {
    Q_OBJECT

  public:
    explicit MeasureView(JobModel& model, QWidget* parent = nullptr);

    /// What the controls ask for.
    [[nodiscard]] std::vector<benchmark::RunOrder> orders() const;
    void setStreams(int streams);

    void showStarting();
    void showRunStarted(const benchmark::Run& run, int index, int count);
    void showSample(const benchmark::Sample& sample);
    void showRunFinished(const benchmark::Run& run);
    void showEnded();
    void restyle();
    [[nodiscard]] const RunPlot& plot() const { return *m_plot; }

  Q_SIGNALS:
    void runAsked(); ///< start, or stop while one goes on

  private:
    void fillRuns();
    void showChosenRun();

    JobModel& m_model;
    QPushButton* m_run;
    QWidget* m_fields;
    QComboBox* m_direction;
    QSpinBox* m_streams;
    QComboBox* m_seconds;
    QSpinBox* m_repeat;
    QLabel* m_progress;
    QLabel* m_hint;
    RateBand* m_bands[2];
    RunPlot* m_plot;
    QTableWidget* m_runs;
    std::optional<benchmark::Run> m_live;
    bool m_running = false;
    QString m_which;
};

} // namespace metrodos::desktop
