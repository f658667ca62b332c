// The live plot of a run: goodput above, delay below, over the seconds.
#pragma once

#include "benchmark/run.h"

#include <QWidget>

class QCPAxisRect;
class QCPGraph;
class QCPItemRect;
class QCustomPlot;

namespace metrodos::desktop {

/// Forward is a plain line, backward a dashed one; what was left out as warm-up is hatched.
class RunPlot : public QWidget {
    Q_OBJECT

  public:
    explicit RunPlot(QWidget* parent = nullptr);

    /// Empties the lines of one direction for a run of this length.
    void begin(benchmark::Direction direction, double seconds);
    void add(benchmark::Direction direction, const benchmark::Sample& sample);
    /// Shows a finished run whole.
    void showRun(const benchmark::Run& run);
    void clear();
    void restyle();
    [[nodiscard]] QSize sizeHint() const override { return {600, 128}; }
    /// The longest time that one update has taken since begin, in ms.
    [[nodiscard]] double slowestUpdate() const { return m_slowest; }

  private:
    void redraw();
    QCustomPlot* m_plot;
    QCPAxisRect* m_delay = nullptr;
    QCPGraph* m_rate[2] = {};
    QCPGraph* m_rtt[2] = {};
    QCPItemRect* m_warmup = nullptr;
    double m_seconds = 10;
    double m_slowest = 0;
};

} // namespace metrodos::desktop
