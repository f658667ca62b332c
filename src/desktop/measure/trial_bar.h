// Leads through a trial: what to plug where in large type, Space when ready, then the next. Or plans one.
#pragma once

#include "benchmark/trial_ranking.h"
#include "desktop/model/route_model.h"

#include <QFrame>

class QCheckBox;
class QComboBox;
class QLabel;
class QSpinBox;
class QStackedWidget;
class QToolButton;
class QVBoxLayout;

namespace metrodos::desktop {

class RangeList;

class TrialBar : public QFrame {
    Q_OBJECT

  public:
    explicit TrialBar(RouteModel& model, QWidget* parent = nullptr);

    /// The buttons that plan a trial or go on with one, for the row of controls. The bar itself shows only
    /// while it is needed.
    [[nodiscard]] QWidget* buttons() { return m_buttons; }

    /// Leads through this trial of the house.
    void lead(const house::Id& trial);
    /// What Space begins while a trial is led: the next step that is not done. nullptr: no trial is led, or
    /// all of it is done.
    [[nodiscard]] const house::TrialStep* step() const { return m_step ? &*m_step : nullptr; }
    /// Orders of the step that have no complete run yet.
    [[nodiscard]] std::vector<std::vector<benchmark::RunConfig>> configsLeft() const;
    /// The whole instruction with where it stands, for screen readers and tests.
    [[nodiscard]] QString text() const;

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);
    void shown(); ///< the bar leads, plans or has gone

  private:
    enum Part { planning, leading, none };
    void buildButtons();
    QWidget* buildPlan();
    QWidget* buildLead();
    void showPage(Part page);
    void openPlan();
    [[nodiscard]] benchmark::TrialPlan plan() const;
    void showPlanSize();
    void begin();
    void skip();
    void remove();
    void showTrial();
    void showTried(const house::Trial& led);
    void showRanking(const house::Trial& led);
    void addTurn();
    void keepBest();
    [[nodiscard]] const house::Trial* trial() const;

    RouteModel& m_model;
    QWidget* m_buttons;
    QStackedWidget* m_pages;
    QToolButton* m_resume = nullptr;
    QToolButton* m_skip = nullptr;
    QVBoxLayout* m_routeList = nullptr;
    std::vector<QCheckBox*> m_routes;
    QCheckBox* m_baseline = nullptr;
    QCheckBox* m_bench = nullptr;
    QSpinBox* m_repeats = nullptr;
    QComboBox* m_seconds = nullptr;
    QComboBox* m_pause = nullptr;
    QComboBox* m_order = nullptr;
    QComboBox* m_directions = nullptr;
    QComboBox* m_streams = nullptr;
    QLabel* m_size = nullptr;
    QLabel* m_instruction = nullptr;
    QLabel* m_where = nullptr;
    QLabel* m_result = nullptr;
    RangeList* m_tried = nullptr; ///< places, or the arms of a comparison, side by side
    QToolButton* m_keep = nullptr;
    QToolButton* m_more = nullptr; ///< one more turn
    house::Id m_trial;             ///< empty: none is led
    std::filesystem::path m_file;  ///< of the job that it belongs to
    std::optional<house::TrialStep> m_step;
    std::vector<house::Id> m_skipped;
};

} // namespace metrodos::desktop
