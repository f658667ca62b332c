// A week by its hours: of each hour of each weekday the range of what was measured, all on one scale, and the
// drop-outs as crosses.
#pragma once

#include "benchmark/week.h"

#include <QWidget>

namespace metrodos::desktop {

/// One hour is chosen; the arrows go from hour to hour.
class WeekGrid : public QWidget {
    Q_OBJECT

  public:
    explicit WeekGrid(QWidget* parent = nullptr);

    void setWeek(const benchmark::Week& week);
    [[nodiscard]] int day() const { return m_day; }
    [[nodiscard]] int hour() const { return m_hour; }
    /// "Tuesday, 18 to 19 h: 4 runs, 210 to 340 Mbit/s; 2 drop-outs of 1.4 s".
    [[nodiscard]] QString text() const;
    [[nodiscard]] QSize sizeHint() const override { return {700, 240}; }

  Q_SIGNALS:
    void chosen();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

  private:
    [[nodiscard]] QRectF cell(int day, int hour) const;
    void choose(int day, int hour);

    benchmark::Week m_week{};
    double m_low = 1e6; ///< of the scale, bit/s
    double m_high = 1e9;
    bool m_isEmpty = true;
    int m_day = 0;
    int m_hour = 12;
};

} // namespace metrodos::desktop
