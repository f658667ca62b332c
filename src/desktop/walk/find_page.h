// What is still to be found: cables with an unknown end, what the survey contradicts, and the cautions.
#pragma once

#include "desktop/model/job_model.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QListWidget;
class QPushButton;

namespace metrodos::desktop {

/// The walk with a tester: choose the cable that the tone is on, then where it was heard.
class FindPage : public QWidget {
    Q_OBJECT

  public:
    explicit FindPage(JobModel& model, QWidget* parent = nullptr);

  private:
    void refresh();
    void fillPlaces();
    void recordFound();

    JobModel& m_model;
    QListWidget* m_cables;
    QComboBox* m_place;
    QComboBox* m_how;
    QPushButton* m_found;
    QListWidget* m_findings;
    QListWidget* m_cautions;
    QLabel* m_answer;
};

} // namespace metrodos::desktop
