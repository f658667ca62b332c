// One direction of the route on a logarithmic axis: what is expected, promised, needed and measured.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>

namespace metrodos::desktop {

/// Large figures readable from two metres, and below them the range as a bar, the need as a tick, the boxes'
/// promise as an open mark, the measurement as a solid one.
class RateBand : public QWidget {
    Q_OBJECT

  public:
    RateBand(RouteModel& model, benchmark::Direction direction, QWidget* parent = nullptr);

    /// While a run goes on: its latest figures. An infinite wait shows as a dash.
    void setLive(double bps, std::optional<double> rttIdleUs, std::optional<double> rttLoadedUs);
    void clearLive();

    [[nodiscard]] QSize sizeHint() const override { return {760, 84}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {420, 84}; }
    /// The figures as text, for screen readers and tests.
    [[nodiscard]] QString figures() const;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    struct Shown {
        double bps = 0;
        std::optional<double> idle;
        std::optional<double> loaded;
        bool simulated = false;
        QString of; ///< how many runs, and their interval; empty: one
    };
    [[nodiscard]] Shown shown() const;
    [[nodiscard]] static QString summaryText(const benchmark::Summary& summary);

    RouteModel& m_model;
    benchmark::Direction m_direction;
    bool m_isLive = false;
    Shown m_live;
};

} // namespace metrodos::desktop
