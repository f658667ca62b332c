// Trace: which element is the limit, why, what the next would allow, and what to test next.
#pragma once

#include "desktop/job_model.h"

#include <QWidget>

class QLabel;
class QVBoxLayout;

namespace metrodos::desktop {

class TraceView : public QWidget {
    Q_OBJECT

  public:
    explicit TraceView(JobModel& model, QWidget* parent = nullptr);
    void restyle() { fill(); }

  Q_SIGNALS:
    void nextTestAsked();

  private:
    void fill();
    JobModel& m_model;
    QLabel* m_verdict;
    QLabel* m_figures;
    QVBoxLayout* m_suspects;
    QVBoxLayout* m_side;
};

} // namespace metrodos::desktop
