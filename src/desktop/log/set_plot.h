// Two sets of runs as distributions on one axis: every run a mark, the band of their tenth to ninetieth
// percentile, and the median in figures.
#pragma once

#include "quantity/quantity.h"

#include <QWidget>
#include <vector>

namespace metrodos::desktop {

class SetPlot : public QWidget {
    Q_OBJECT

  public:
    explicit SetPlot(QWidget* parent = nullptr);

    struct Set {
        QString title;
        std::vector<quantity::BitRate> runs;
    };
    /// The first is drawn solid, the second open.
    void setSets(Set first, Set second);
    /// "First: all runs, 12 runs, median 412 Mbit/s", for screen readers and tests.
    [[nodiscard]] QStringList texts() const;
    [[nodiscard]] QSize sizeHint() const override { return {600, 176}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    Set m_sets[2];
};

} // namespace metrodos::desktop
