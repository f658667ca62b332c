// Under the runs' picture: the figures of one run beside its rate, and by which rule repeated runs become one
// figure.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>

class QComboBox;
class QLabel;

namespace metrodos::desktop {

class RunFigures : public QWidget {
    Q_OBJECT

  public:
    explicit RunFigures(RouteModel& model, QWidget* parent = nullptr);

    /// nullptr: none was made.
    void showRun(const benchmark::Run* run);

  Q_SIGNALS:
    /// What the chosen rule means, in one sentence.
    void said(const QString& sentence, bool isProblem);

  private:
    void chooseRule();

    RouteModel& m_model;
    QLabel* m_figures;
    QComboBox* m_rule;
};

} // namespace metrodos::desktop
