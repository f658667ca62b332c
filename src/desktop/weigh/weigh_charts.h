// The two plots of Weigh: cost against the tightest headroom, and cost over rooms and years.
#pragma once

#include "weigh/growth.h"

#include <QWidget>

class QCustomPlot;
class QLabel;

namespace metrodos::desktop {

class WeighModel;

/// The front: each point is a plan; a click or the arrow keys open one.
class FrontChart : public QWidget {
    Q_OBJECT

  public:
    explicit FrontChart(WeighModel& model, QWidget* parent = nullptr);
    void fill();
    [[nodiscard]] int pointCount() const { return static_cast<int>(m_points.size()); }

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void openNearest(const QPointF& at);
    struct Point {
        double cost = 0;
        double headroom = 0;
        std::string plan;
    };
    WeighModel& m_model;
    QCustomPlot* m_plot;
    QLabel* m_words;
    std::vector<Point> m_points;
};

/// Cost over rooms, or over years, a line for each way; where the cheapest line changes it is said.
class GrowthChart : public QWidget {
    Q_OBJECT

  public:
    explicit GrowthChart(WeighModel& model, QWidget* parent = nullptr);
    void fill();
    [[nodiscard]] QString words() const;

  private:
    void draw(QCustomPlot* plot, std::vector<weigh::Money> weigh::GrowthLine::*values, const QString& axis);
    WeighModel& m_model;
    QCustomPlot* m_rooms;
    QCustomPlot* m_years;
    QLabel* m_words;
    weigh::Growth m_growth;
};

} // namespace metrodos::desktop
