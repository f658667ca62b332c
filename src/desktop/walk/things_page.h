// What the survey holds, kind by kind, as tables to fill in.
#pragma once

#include "desktop/model/job_model.h"

#include <QWidget>

class QTableView;

namespace metrodos::desktop {

class SurveyTableModel;

class ThingsPage : public QWidget {
    Q_OBJECT

  public:
    explicit ThingsPage(JobModel& model, QWidget* parent = nullptr);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void removeThing();

    JobModel& m_model;
    SurveyTableModel* m_table;
    QTableView* m_tableView;
};

} // namespace metrodos::desktop
