// The window: rail, route strip, the stage's work, the sheet, and one sentence at the bottom.
#pragma once

#include "desktop/model/machine_access.h"
#include "desktop/model/machine_reader.h"
#include "desktop/model/route_model.h"
#include "desktop/model/run_controller.h"
#include "desktop/model/schedule_clock.h"
#include "desktop/window/rail.h"
#include "fit/steps.h"
#include "job/starter.h"

#include <QMainWindow>

class QAction;
class QComboBox;
class QLabel;
class QLineEdit;
class QStackedWidget;

namespace metrodos::desktop {

class ElementSheet;
class MeasurePages;
class MeasureView;
class RouteStrip;
class StartPage;
class TraceView;
class WalkView;
class WeighModel;
class KeysPanel;
class FitPages;
class FitView;
class HandoverView;
class LogPages;
class LogView;
class WeighView;

class MainWindow : public QMainWindow {
    Q_OBJECT

  public:
    explicit MainWindow(catalog::Catalog catalog);
    ~MainWindow() override;

    /// Opens a job file, or the interchange form as a new job beside it. False when it cannot be opened; then
    /// the status line says why.
    bool openJob(const std::filesystem::path& file);
    /// Opens the demo job kept in `folder` and starts its stand-ins.
    bool openDemo(const std::filesystem::path& folder);
    void setStage(Stage stage);
    void setPage(Page page);
    /// Shows the ways between two places in Walk, for pictures.
    void showWays(const QString& from, const QString& to);
    /// Measure, page Machines, with the invitation of an endpoint that has only a browser.
    void inviteGuest(const house::Id& endpoint);
    /// Whether what is shown is worked out to the end.
    [[nodiscard]] bool isSettled() const;
    /// Whether the demo's endpoints answer.
    [[nodiscard]] bool standinsReady() const {
        return m_machines.standins() != nullptr && m_machines.standins()->isReady();
    }

  protected:
    void closeEvent(QCloseEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void buildTools();
    void connectRuns();
    void sizeStrip(Stage stage);
    void turnStrip();
    void stepBack();
    void showJob();
    void noteReadings();
    void say(const QString& sentence, bool isProblem);
    void fitStatus();
    void showVerdict();
    void showPlan();
    void toggleRun();
    void takeNextTest();
    void showRuns(const QStringList& ids);
    void prepareStep(const fit::Step& step);
    void leadTrial(const house::Id& trial, const house::Id& route);
    void declineNextTest();
    void lookAtSchedules();
    void chooseJob();
    void newJob();
    void showStart(bool shown);
    bool beginJob(const house::House& house);
    void beginSurvey();
    void beginMeasuring(const QString& address, job::Between between);
    [[nodiscard]] bool isDraft() const;
    void dropDraft();
    void nameHouse();
    void offerRecovery(const std::filesystem::path& file);
    void switchScheme(bool dark);
    QAction* action(const QString& name, const QString& iconName, const QString& text,
                    const QKeySequence& key);

    JobModel m_job;
    RouteModel m_model{m_job};
    MachineAccess m_machines{m_job};
    RunController m_controller;
    MachineReader m_reader;
    bool m_closing = false;   ///< it was asked, and the running test may end
    bool m_asSurveyed = true; ///< the run that goes on passes the route as the survey has it
    std::map<house::Id, MachineReading> m_readings; ///< by endpoint: what the run that goes on has read
    QStringList m_addressRemarks; ///< of that run: a port under test that is not the route's
    QComboBox* m_routes;
    QLineEdit* m_name;     ///< of the house, to be changed
    QLabel* m_nameHint;    ///< it has none yet
    QAction* m_nameAction; // what shows and hides things of the bar
    QAction* m_nameHintAction;
    QAction* m_routesAction;
    QLabel* m_status;
    QLabel* m_rates;           ///< those that the keyboard is on, in the other unit
    QString m_sentence;        ///< what the status line says, whole
    bool m_stripOpen = false;  ///< where it is a line otherwise
    bool m_saysVerdict = true; ///< the status line is the verdict's
    StartPage* m_start;
    Rail* m_rail;
    RouteStrip* m_strip;
    QStackedWidget* m_stages;
    MeasurePages* m_pages = nullptr;
    MeasureView* m_measure;
    TraceView* m_trace;
    WalkView* m_walk;
    WeighModel* m_weighing;
    WeighView* m_weigh;
    FitView* m_fit;
    FitPages* m_fitPages;
    LogView* m_log;
    LogPages* m_logPages;
    HandoverView* m_handover;
    ScheduleClock m_schedules;
    ElementSheet* m_sheet;
    KeysPanel* m_keys;
    QAction* m_undo;
    QAction* m_redo;
    QAction* m_scheme;
};

} // namespace metrodos::desktop
