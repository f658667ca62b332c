// Pairing: which buttons to press in which order, and the two minutes that an adapter waits, readable from
// where the adapters are.
#pragma once

#include "desktop/model/job_model.h"
#include "fit/pairing.h"

#include <QElapsedTimer>
#include <QFrame>

class QLabel;
class QLineEdit;
class QTimer;

namespace metrodos::desktop {

class PairingPanel : public QFrame {
    Q_OBJECT

  public:
    explicit PairingPanel(JobModel& job, QWidget* parent = nullptr);

    /// Leads through the turns of a medium; `withClock` false: only where the key is kept is asked.
    void showMedium(house::Medium medium, bool withClock);
    /// Begins the two minutes of the turn that is next, or anew.
    void startClock();
    /// The turn of the clock is done, and recorded; undone again by undo.
    void noteJoined();
    /// What the clock shows: "1:58"; empty: it stands.
    [[nodiscard]] QString clockText() const;

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void refresh();
    void tick();
    void keepKeyPlace();
    [[nodiscard]] const fit::PairTurn* next() const;

    JobModel& m_job;
    house::Medium m_medium = house::Medium::mains;
    std::vector<fit::PairTurn> m_turns;
    bool m_hasClock = false;
    QElapsedTimer m_since; ///< the first button of the turn
    QTimer* m_timer;
    QLabel* m_clock;
    QLabel* m_does;
    QLabel* m_turnList;
    QLineEdit* m_keyPlace;
};

} // namespace metrodos::desktop
