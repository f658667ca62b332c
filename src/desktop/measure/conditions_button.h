// What else goes on while a run is made: appliances, other people, what was changed. One key or click each.
#pragma once

#include "desktop/model/job_model.h"

#include <QToolButton>

namespace metrodos::desktop {

/// Shows the answers in its text; the menu changes them. What the program can see by itself, the hour, is
/// filled in.
class ConditionsButton : public QToolButton {
    Q_OBJECT

  public:
    explicit ConditionsButton(JobModel& model, QWidget* parent = nullptr);

    /// As of now.
    [[nodiscard]] benchmark::Conditions conditions() const;
    /// Not known, no, yes, and round again.
    void turnOthers();
    /// What was changed holds for one run only.
    void forgetChange();
    void setChange(const QString& what);
    [[nodiscard]] QString change() const;

  Q_SIGNALS:
    void changeAsked(); ///< what was changed is to be typed

  private:
    void fillMenu();
    void showAnswers();

    JobModel& m_model;
    benchmark::Conditions m_conditions;
};

} // namespace metrodos::desktop
