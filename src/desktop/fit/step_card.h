// One step, large enough to be read standing: what, where, with which parts, how, what to see, what to
// expect.
#pragma once

#include "fit/cause.h"
#include "fit/expect.h"

#include <QFrame>
#include <optional>

class QLabel;

namespace metrodos::desktop {

/// What a step comes to on the screen.
struct ShownStep {
    fit::Step step;
    QString place; ///< "Loft", "whole house"
    std::optional<fit::Expected> expected;
    std::optional<quantity::BitRate> measured;
    std::optional<fit::Cause> cause;                 ///< of a run that fell short
    house::StepState state = house::StepState::open; ///< as recorded, or else as its run has proven
};

class StepCard : public QFrame {
    Q_OBJECT

  public:
    explicit StepCard(QWidget* parent = nullptr);
    void showStep(const ShownStep& shown);
    /// In the place of a step: what to do so that there is one.
    void showNothing(const QString& sentence);

  private:
    QLabel* line(const QString& name, double points, bool bold = false, bool quiet = false);

    QLabel* m_place;
    QLabel* m_what;
    QLabel* m_state;
    QLabel* m_why;
    QLabel* m_how;
    QLabel* m_parts;
    QLabel* m_see;
    QLabel* m_rates;
    QLabel* m_cause;
    QLabel* m_cautions;
};

/// "done", "failed" … in words.
[[nodiscard]] QString stateText(house::StepState state);

} // namespace metrodos::desktop
