// Runs in time: each a mark at its goodput with the spread of its seconds, on a logarithmic scale.
#pragma once

#include "benchmark/run.h"
#include "catalog/spread.h"

#include <QDateTime>
#include <QWidget>
#include <optional>
#include <vector>

namespace metrodos::desktop {

struct TimedRun {
    QString id;
    QDateTime at; ///< invalid: not known, and not drawn
    quantity::BitRate goodput;
    bool forward = true;
    bool counts = true;   ///< false: cut off or set aside, and drawn faint
    bool isOther = false; ///< of the second set, where two are compared
    std::optional<std::pair<quantity::BitRate, quantity::BitRate>>
        spread; ///< tenth and ninetieth percentile of its seconds; nothing: not worked out yet
};

/// Where more of them stand beside each other than can be told apart, they are drawn together: column by
/// column the whole range, the middle half of them and their median. Forward runs are marks that point up,
/// backward ones down; those of the second set are open. Left and right go from run to run, a click chooses
/// the nearest.
/// Long stretches without anything are left out, and the line of time is broken there.
class LogTimeline : public QWidget {
    Q_OBJECT

  public:
    explicit LogTimeline(QWidget* parent = nullptr);

    /// Oldest first.
    void setRuns(std::vector<TimedRun> runs);
    void setCurrent(const QString& id);
    [[nodiscard]] const std::vector<TimedRun>& runs() const { return m_runs; }
    [[nodiscard]] QSize sizeHint() const override { return {600, 220}; }

  Q_SIGNALS:
    void chosen(const QString& id);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

  private:
    [[nodiscard]] QRectF plot() const;
    void paintMarks(QPainter& painter) const;
    void paintColumns(QPainter& painter) const;
    [[nodiscard]] double xOf(const QDateTime& at) const;
    [[nodiscard]] double yOf(quantity::BitRate rate) const;

    std::vector<TimedRun> m_runs;
    /// Days on which something was measured, beside each other: what lies between them is left out.
    struct Section {
        qint64 from = 0; ///< s since 1970
        qint64 to = 0;
        double left = 0; ///< share of the width at which it begins, 0–1
        double width = 0;
    };
    void setSections();
    std::vector<Section> m_sections;
    double m_low = 6; ///< powers of ten of bit/s that the scale goes over
    double m_high = 10;
    QString m_current;
};

} // namespace metrodos::desktop
