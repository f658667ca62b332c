// What a run is asked to be: ways, protocol, streams or pace, length, repeats.
#pragma once

#include "benchmark/run.h"

#include <QWidget>

class QComboBox;
class QLineEdit;
class QSpinBox;

namespace metrodos::desktop {

class RunControls : public QWidget {
    Q_OBJECT

  public:
    explicit RunControls(QWidget* parent = nullptr);

    /// What is asked for, step by step; runs of one step go on at once. Empty when the pace cannot be read:
    /// then `refused` was emitted.
    [[nodiscard]] std::vector<std::vector<benchmark::RunConfig>> steps();
    void setStreams(int streams);

  Q_SIGNALS:
    void refused(const QString& sentence);

  private:
    void showProtocol();

    QComboBox* m_direction;
    QComboBox* m_protocol;
    QSpinBox* m_streams;
    QLineEdit* m_rate;
    QComboBox* m_seconds;
    QSpinBox* m_repeat;
};

} // namespace metrodos::desktop
