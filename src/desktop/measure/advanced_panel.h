// What a run can be ordered to be besides ways, streams, length and repeats: closed as a rule, opened by M.
#pragma once

#include "benchmark/run.h"
#include "desktop/model/run_presets.h"

#include <QFrame>
#include <optional>

class QComboBox;
class QLineEdit;
class QPushButton;
class QSpinBox;

namespace metrodos::desktop {

class AdvancedPanel : public QFrame {
    Q_OBJECT

  public:
    explicit AdvancedPanel(std::filesystem::path presets = RunPresets::usualFile(),
                           QWidget* parent = nullptr);

    /// `base` with what is chosen here. Nothing where a field cannot be read: then `refused` was emitted, and
    /// the field has the focus.
    [[nodiscard]] std::optional<benchmark::RunConfig> ordered(benchmark::RunConfig base);
    [[nodiscard]] benchmark::Protocol protocol() const;
    void setProtocol(benchmark::Protocol protocol);
    /// How many things are ordered otherwise than usual.
    [[nodiscard]] int departures() const;
    /// All as usual.
    void reset();

  Q_SIGNALS:
    void changed();
    void refused(const QString& sentence);
    void said(const QString& sentence, bool isProblem);

  private:
    void show(const benchmark::RunConfig& config);
    void fillPresets(const QString& chosen);
    void takePreset();
    void keepPreset();
    void dropPreset();

    RunPresets m_presets;
    QComboBox* m_protocol;
    QLineEdit* m_pace; ///< of TCP; that of datagrams stands in the run bar
    QComboBox* m_congestion;
    QLineEdit* m_window;
    QSpinBox* m_segment;
    QSpinBox* m_dscp;
    QComboBox* m_ipVersion;
    QComboBox* m_bind;
    QLineEdit* m_bytes;
    QLineEdit* m_warmup;
    QComboBox* m_preset;
    bool m_filling = false;
};

} // namespace metrodos::desktop
