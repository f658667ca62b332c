// The next best test: what to do, what each outcome would mean, and the keys to take it or to have another
// one.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QVBoxLayout;

namespace metrodos::desktop {

class NextTestPanel : public QWidget {
    Q_OBJECT

  public:
    explicit NextTestPanel(RouteModel& model, QWidget* parent = nullptr);
    void fill();
    /// Puts the cursor where the answer of a reading is given.
    void focusReading();

  Q_SIGNALS:
    void taken();
    void refused(const QString& sentence);

  private:
    void showOutcomes(const trace::NextTest& test);
    void fillReading(const trace::NextTest& test);
    void noteReading();
    void notePhyRates(const capacity::ElementPrediction& medium);

    RouteModel& m_model;
    QLabel* m_does;
    QLabel* m_worth;
    QWidget* m_outcomes;
    QVBoxLayout* m_outcomeRows;
    QPushButton* m_take;
    QPushButton* m_decline;
    QPushButton* m_again;
    QComboBox* m_reading;
    QLineEdit* m_phyForward;
    QLineEdit* m_phyBackward;
    QPushButton* m_note;
    QLabel* m_others;
};

} // namespace metrodos::desktop
