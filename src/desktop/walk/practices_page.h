// The matters that can be settled in more than one sound way: what this job goes by, why, and what that
// changes.
#pragma once

#include "desktop/model/job_model.h"

#include <QWidget>
#include <vector>

class QComboBox;
class QLabel;

namespace metrodos::desktop {

/// One choice a row; what is chosen says its reason and its effect below. Each change is a step of undo.
class PracticesPage : public QWidget {
    Q_OBJECT

  public:
    explicit PracticesPage(JobModel& model, QWidget* parent = nullptr);

  private:
    struct Row {
        std::string key; ///< of house::eachPractice, or "summary"
        QComboBox* options = nullptr;
        QLabel* words = nullptr;
    };
    void refresh();
    void choose(std::size_t row, int option);

    JobModel& m_model;
    std::vector<Row> m_rows;
};

} // namespace metrodos::desktop
