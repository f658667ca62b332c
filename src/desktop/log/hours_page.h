// Hours and days of a way: its week, what goes with which appliance, and the schedules that fill it.
#pragma once

#include "desktop/model/endpoint_access.h"
#include "desktop/model/job_model.h"
#include "desktop/model/test_runner.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QSpinBox;
class QCheckBox;
class QTableWidget;

namespace metrodos::desktop {

class WeekGrid;

class HoursPage : public QWidget {
    Q_OBJECT

  public:
    HoursPage(JobModel& job, AccessTo access, QWidget* parent = nullptr);

    [[nodiscard]] QString sentence() const;
    /// Writes the schedules of the job as iCalendar, or takes over those of such a file.
    void exportTo(const QString& file);
    void importFrom(const QString& file);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void refresh();
    void fillRoutes();
    void showWeek();
    void fillSchedules();
    void add();
    void give();
    void collect();
    void takeBack();
    void remove();
    void askForFile(bool isExport);
    [[nodiscard]] const house::Schedule* chosen() const;
    [[nodiscard]] house::Id route() const;

    JobModel& m_job;
    AccessTo m_access;
    TestRunner m_runner;
    bool m_isStale = true;
    QComboBox* m_routes;
    QComboBox* m_direction;
    WeekGrid* m_week;
    QLabel* m_hour;
    QLabel* m_findings;
    QTableWidget* m_schedules;
    QSpinBox* m_every;
    QSpinBox* m_for;
    QSpinBox* m_seconds;
    QCheckBox* m_unattended;
};

} // namespace metrodos::desktop
