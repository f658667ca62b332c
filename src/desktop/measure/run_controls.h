// What a run is asked to be as a rule: ways, streams or the pace of datagrams, length, repeats. The rest
// stands in the advanced panel.
#pragma once

#include "benchmark/run.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QSpinBox;

namespace metrodos::desktop {

class AdvancedPanel;

class RunControls : public QWidget {
    Q_OBJECT

  public:
    /// `advanced` has the last word on each order.
    explicit RunControls(AdvancedPanel& advanced, QWidget* parent = nullptr);

    /// What is asked for, step by step; runs of one step go on at once. Empty when a field cannot be read:
    /// then `refused` was emitted, here or by the panel.
    [[nodiscard]] std::vector<std::vector<benchmark::RunConfig>> steps();
    void setStreams(int streams);

  Q_SIGNALS:
    void refused(const QString& sentence);

  private:
    void showProtocol();

    AdvancedPanel& m_advanced;
    QComboBox* m_direction;
    QSpinBox* m_streams;
    QLabel* m_rateLabel;
    QLineEdit* m_rate;
    QComboBox* m_seconds;
    QSpinBox* m_repeat;
};

} // namespace metrodos::desktop
