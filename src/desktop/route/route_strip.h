// The route strip: the chosen route as a channel whose bore at each element is its ceiling.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>

namespace metrodos::desktop {

/// Above the centre line the forward direction, below it the backward one; the scale is logarithmic. Soft
/// edges are uncertain ceilings, the ribbon is the flow measured, the wedge is where it touches the walls:
/// the limiter. Keys: left and right choose an element, Delete takes its box out, Alt with left or right
/// moves it. Slim, it is one line: the bores, the wedge and the verdict; a click or Enter asks to open it.
class RouteStrip : public QWidget {
    Q_OBJECT

  public:
    explicit RouteStrip(RouteModel& model, QWidget* parent = nullptr);

    /// The flow of a run that goes on; 0 shows what the finished runs say.
    void setLiveFlow(benchmark::Direction direction, double bps);
    void clearLiveFlow();

    void setSlim(bool slim);
    [[nodiscard]] bool isSlim() const { return m_slim; }
    /// What the slim line says, for screen readers and tests.
    [[nodiscard]] QString verdict() const;

    [[nodiscard]] QSize sizeHint() const override { return {1100, m_slim ? slimHeight : 252}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {600, m_slim ? slimHeight : 226}; }

  Q_SIGNALS:
    void removeAsked();
    void moveAsked(int step);
    void insertAsked();
    void elementPressed(); ///< by mouse or key
    void openAsked();      ///< while it is slim

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

  private:
    struct Slot {
        QRectF area; ///< of the channel
        const capacity::ElementPrediction* element = nullptr;
    };
    [[nodiscard]] QRectF channel() const;
    [[nodiscard]] std::vector<Slot> slotsOf() const;
    [[nodiscard]] double bore(quantity::BitRate rate) const;
    [[nodiscard]] double flow(benchmark::Direction direction) const;
    void paintScale(QPainter& p) const;
    void paintWalls(QPainter& p, const std::vector<Slot>& slots_) const;
    void paintFlow(QPainter& p, const std::vector<Slot>& slots_) const;
    void paintNeed(QPainter& p) const;
    void paintLabels(QPainter& p, const std::vector<Slot>& slots_) const;
    void paintLimiter(QPainter& p, const std::vector<Slot>& slots_) const;
    void paintSlim(QPainter& p, const std::vector<Slot>& slots_) const;
    void step(int by);
    static constexpr int slimHeight = 38;

    RouteModel& m_model;
    double m_live[2] = {0, 0};
    bool m_slim = false;
};

} // namespace metrodos::desktop
