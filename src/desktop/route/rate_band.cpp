#include "desktop/route/rate_band.h"

#include "desktop/widgets/rate_axis.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QPainter>
#include <QPainterPath>

namespace metrodos::desktop {

using benchmark::Direction;

RateBand::RateBand(RouteModel& model, Direction direction, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_direction(direction) {
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setObjectName(direction == Direction::forward ? QStringLiteral("forwardBand")
                                                  : QStringLiteral("backwardBand"));
    for (const auto signal : {&RouteModel::changed, &RouteModel::diagnosed})
        connect(&m_model, signal, this, [this] {
            setAccessibleName(figures());
            update();
        });
}

void RateBand::setLive(double bps, std::optional<double> idle, std::optional<double> loaded) {
    m_isLive = true;
    m_live = {bps, idle, loaded, false, {}};
    update();
}

void RateBand::clearLive() {
    m_isLive = false;
    update();
}

// Which runs the figure is of and by what rule: nobody shall take it for the newest one.
QString RateBand::summaryText(const benchmark::Summary& summary) {
    QStringList out;
    if (summary.runs > 1) {
        out << tr("%1 of %2 runs")
                   .arg(QString::fromUtf8(benchmark::appliedRule(summary.rule, summary.runs).data()))
                   .arg(summary.runs);
        if (summary.low && summary.high)
            out << tr("%1 to %2").arg(shortRate(*summary.low), shortRate(*summary.high));
        if (const QString least = shortRate(summary.least), most = shortRate(summary.most); least != most)
            out << tr("single runs %1 to %2").arg(least, most);
    }
    if (summary.leftOut > 0 && summary.streams > 0)
        out << counted(summary.streams, tr("%1 stream"), tr("%1 streams")) +
                   counted(summary.leftOut, tr("; %1 other run left out"), tr("; %1 other runs left out"));
    return out.join(QStringLiteral(", "));
}

RateBand::Shown RateBand::shown() const {
    if (m_isLive) return m_live;
    Shown out;
    // The newest run of this direction speaks for the delay, the diagnosis for the rate.
    for (const benchmark::Run& run : m_model.runs()) {
        if (run.config.direction != m_direction) continue;
        out.simulated = run.simulated;
        if (run.rttIdleUs) out.idle = run.rttIdleUs->p50;
        if (run.rttLoadedUs) out.loaded = run.rttLoadedUs->p50;
    }
    if (const auto& d = m_model.diagnosis()) {
        const auto& measured = m_direction == Direction::forward ? d->measuredForward : d->measuredBackward;
        if (measured) out.bps = measured->bps();
        const auto& summary = m_direction == Direction::forward ? d->summaryForward : d->summaryBackward;
        if (summary) out.of = summaryText(*summary);
        const house::Route* route = m_model.route();
        const auto need = route == nullptr                    ? std::nullopt
                          : m_direction == Direction::forward ? route->needForward
                                                              : route->needBackward;
        const auto more = summary && need ? benchmark::runsToSettle(*summary, *need) : std::nullopt;
        if (more.value_or(0) > 0)
            out.of += counted(*more, tr("; %1 more run is likely to tell whether the need of %2 is met"),
                              tr("; %1 more runs are likely to tell whether the need of %2 is met"))
                          .arg(rateText(*need));
    }
    return out;
}

QString RateBand::figures() const {
    const Shown s = shown();
    if (s.bps <= 0) return tr("not measured");
    const QString both = bothText(quantity::BitRate::bitsPerSecond(s.bps));
    return s.of.isEmpty() ? both : tr("%1, %2").arg(both, s.of);
}

void RateBand::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const auto& prediction = m_model.prediction();
    if (!prediction) return;
    const Shown s = shown();
    const bool forward = m_direction == Direction::forward;
    const house::Id& target = forward ? prediction->route.to : prediction->route.from;

    p.setPen(theme().quiet);
    p.setFont(textFont(10));
    const QString name = QString::fromStdString(m_model.shownHouse().endLabel(target));
    p.drawText(QRectF(0, 0, 116, s.simulated ? 26 : 44), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(forward ? tr("▸ to %1").arg(name) : tr("◂ to %1").arg(name),
                                          Qt::ElideRight, 116));
    if (s.simulated) {
        p.setPen(theme().ink);
        p.setFont(textFont(9, true));
        p.drawText(QRectF(0, 22, 116, 20), Qt::AlignLeft | Qt::AlignVCenter, tr("simulated"));
    }
    if (s.bps > 0) {
        const auto rate = quantity::BitRate::bitsPerSecond(s.bps);
        p.setPen(theme().cool);
        p.setFont(figureFont(26, true));
        p.drawText(QRectF(120, 0, 256, 44), Qt::AlignLeft | Qt::AlignVCenter, rateText(rate));
        p.setPen(theme().ink);
        p.setFont(figureFont(15));
        p.drawText(QRectF(376, 0, 136, 44), Qt::AlignLeft | Qt::AlignVCenter, byteText(rate));
    } else {
        p.setPen(theme().quiet);
        p.setFont(textFont(14));
        p.drawText(QRectF(120, 0, 380, 44), Qt::AlignLeft | Qt::AlignVCenter, tr("not measured yet"));
    }
    p.setFont(textFont(9));
    p.setPen(theme().ink);
    const QRectF notes(512, 0, width() - 514.0, 44);
    QStringList delays;
    if (s.idle) delays << tr("delay %1 idle").arg(delayText(*s.idle));
    if (s.loaded) delays << tr("%1 loaded").arg(delayText(*s.loaded));
    if (!s.of.isEmpty()) delays = {s.of, delays.join(QStringLiteral(", "))};
    p.drawText(notes, Qt::AlignRight | Qt::AlignVCenter, delays.join(QLatin1Char('\n')));

    const QRectF field(120, 48, width() - 124.0, 20);
    const RateAxis axis(field);
    axis.paint(p);
    const auto& spread = forward ? prediction->forward : prediction->backward;
    const QRectF bar(axis.x(spread.p10), field.top() + 5,
                     std::max(3.0, axis.x(spread.p90) - axis.x(spread.p10)), 10);
    p.fillRect(bar, theme().line);
    p.fillRect(bar, QBrush(theme().quiet, Qt::BDiagPattern));
    p.setPen(QPen(theme().ink, 1.5));
    p.drawLine(QPointF(axis.x(spread.p50), bar.top() - 2), QPointF(axis.x(spread.p50), bar.bottom() + 2));
    // The boxes' promise: the least that is printed on an adapter of the route.
    std::optional<quantity::BitRate> promise;
    for (const auto& e : prediction->elements)
        if (const house::Device* device = m_model.shownHouse().device(e.element.device))
            if (const catalog::DeviceClass* cls = m_model.job().catalog().device(device->deviceClass);
                cls != nullptr && cls->rated > quantity::BitRate())
                promise = promise ? std::min(*promise, cls->rated) : cls->rated;
    if (promise) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().ink, 1.4));
        p.drawEllipse(QPointF(axis.x(*promise), field.top() + 10), 4.5, 4.5);
    }
    const auto& need = forward ? prediction->route.needForward : prediction->route.needBackward;
    if (need) {
        p.setPen(QPen(theme().ink, 2));
        p.drawLine(QPointF(axis.x(*need), field.top() - 2), QPointF(axis.x(*need), field.bottom()));
        p.setFont(textFont(7.5, true));
        p.drawText(QRectF(axis.x(*need) - 64, field.top() - 4, 60, 12), Qt::AlignRight, tr("need"));
    }
    if (s.bps > 0) axis.paintMeasured(p, quantity::BitRate::bitsPerSecond(s.bps));
}

} // namespace metrodos::desktop
