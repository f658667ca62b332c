// Fit: one step large, the rest as a list with how far each place is; worked through by keyboard.
#pragma once

#include "desktop/fit/step_card.h"
#include "desktop/model/job_model.h"

#include <QTimer>
#include <QWidget>
#include <vector>

class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace metrodos::desktop {

class PairingPanel;
class PhotoStrip;
class RangeList;

class FitView : public QWidget {
    Q_OBJECT

  public:
    explicit FitView(JobModel& job, QWidget* parent = nullptr);

    /// "3 of 18"; empty: there is nothing to fit.
    [[nodiscard]] QString progress() const;
    /// What is next, in one sentence.
    [[nodiscard]] QString sentence() const;
    /// To the list, where the keys of the steps are.
    void takeFocus();

  Q_SIGNALS:
    void shown(); ///< steps or what is chosen have changed
    void said(const QString& sentence, bool isProblem);
    /// A step says what holds this route back, and N takes the next test of it.
    void routeShown(const metrodos::house::Id& route);
    /// The run that proves the step is wanted.
    void runAsked(const metrodos::fit::Step& step);
    /// A trial of places is wanted, over this route; it is in the house already.
    void trialAsked(const metrodos::house::Id& trial, const metrodos::house::Id& route);

  protected:
    bool event(QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;

  private:
    void derive();
    void showSteps();
    void fillList();
    void showChosen();
    void mark(house::StepState state);
    [[nodiscard]] house::House withProof(const fit::Step& step, house::StepState state) const;
    void askReason(house::StepState state);
    void takeReason();
    void takeNote();
    void run();
    void tryPlaces();
    void keepPlace();
    void showTrial(const fit::Step& step);
    void showPairing(const fit::Step& step);
    void takeOut();
    void goOn();
    [[nodiscard]] const benchmark::RouteRuns& runsNow() const;
    [[nodiscard]] const ShownStep* chosen() const;
    [[nodiscard]] QString placeOf(const fit::Step& step) const;
    [[nodiscard]] QString places() const;
    QPushButton* add(QHBoxLayout* row, const QString& name, const QString& text, const QString& tip,
                     const QKeySequence& key, const std::function<void()>& does);

    JobModel& m_job;
    std::vector<ShownStep> m_steps;
    std::vector<house::StepRecord>
        m_gone;           ///< records of steps that are no longer needed, below the others in the list
    std::string m_wanted; ///< id of the step to show after the next change
    house::StepState m_asked = house::StepState::failed; ///< what the reason is of
    bool m_filling = false;
    bool m_isStale = false;    ///< the list is of before the last change
    QTimer m_rowsTimer;        ///< sets the heights of the rows
    QWidget* m_left = nullptr; ///< the list and what stands below it
    QTableWidget* m_list;
    QLabel* m_places;
    StepCard* m_card;
    QLineEdit* m_reason;
    QLineEdit* m_note;
    PhotoStrip* m_photos;
    PairingPanel* m_pairing;
    RangeList* m_tried;
    QLabel* m_triedText;
    house::Id m_trial;     ///< of the chosen step; empty: none was begun
    std::string m_causeOf; ///< id of the step that m_cause is of; it takes a while to work out
    std::optional<fit::Cause> m_cause;
    QPushButton* m_run = nullptr;
    QPushButton* m_try = nullptr;
    QPushButton* m_keep = nullptr;
    QPushButton* m_clock = nullptr;
    QPushButton* m_joined = nullptr;
    QPushButton* m_reopen = nullptr;
    std::vector<QPushButton*> m_buttons;
    QHBoxLayout* m_row;  ///< of the buttons that say how far it is
    QHBoxLayout* m_more; ///< of those that do something
};

} // namespace metrodos::desktop
