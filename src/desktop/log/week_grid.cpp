#include "desktop/log/week_grid.h"

#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QKeyEvent>
#include <QLocale>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace metrodos::desktop {
namespace {

constexpr double gridLeft = 44; // for the names of the days
constexpr double gridTop = 4;
constexpr double gridBottom = 18; // for the hours
constexpr double gridRight = 56;  // for the scale

} // namespace

WeekGrid::WeekGrid(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("week"));
    setAccessibleName(tr("Hours of the week; the arrows go from hour to hour"));
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(190);
}

void WeekGrid::setWeek(const benchmark::Week& week) {
    m_week = week;
    m_isEmpty = true;
    double low = 1e12;
    double high = 0;
    for (const auto& day : week)
        for (const benchmark::WeekHour& h : day) {
            m_isEmpty = m_isEmpty && h.runs == 0 && h.watchedSeconds == 0;
            if (!h.p10 || !h.p90) continue;
            low = std::min(low, h.p10->bps());
            high = std::max(high, h.p90->bps());
        }
    if (high > 0) {
        // At least from half to twice, so that noise does not look like a difference.
        const double middle = std::sqrt(low * high);
        m_low = std::min(low * 0.9, middle / 2);
        m_high = std::max(high * 1.1, middle * 2);
    }
    setAccessibleDescription(text());
    update();
}

QRectF WeekGrid::cell(int day, int hour) const {
    const double w = (width() - gridLeft - gridRight) / benchmark::dayHours;
    const double h = (height() - gridTop - gridBottom) / benchmark::weekdays;
    return {gridLeft + hour * w, gridTop + day * h, w, h};
}

QString WeekGrid::text() const {
    const benchmark::WeekHour& h = m_week[static_cast<std::size_t>(m_day)][static_cast<std::size_t>(m_hour)];
    const QString when =
        tr("%1, %2 to %3 h").arg(QLocale().standaloneDayName(m_day + 1)).arg(m_hour).arg(m_hour + 1);
    QStringList parts;
    if (h.runs > 0 && h.p10 && h.p50 && h.p90)
        parts << counted(h.runs, tr("%1 run"), tr("%1 runs")) + QStringLiteral(", ") +
                     rangeText({*h.p10, *h.p50, *h.p90});
    if (h.watchedSeconds > 0) parts << tr("watched for %1 min").arg(std::lround(h.watchedSeconds / 60));
    if (h.dropOuts > 0)
        parts << counted(h.dropOuts, tr("%1 drop-out"), tr("%1 drop-outs")) +
                     tr(" of %1 s in all").arg(QLocale().toString(h.dropOutSeconds, 'f', 1));
    return when + QStringLiteral(": ") +
           (parts.isEmpty() ? tr("nothing was measured") : parts.join(QStringLiteral("; ")));
}

void WeekGrid::choose(int day, int hour) {
    m_day = std::clamp(day, 0, benchmark::weekdays - 1);
    m_hour = std::clamp(hour, 0, benchmark::dayHours - 1);
    setAccessibleDescription(text());
    update();
    Q_EMIT chosen();
}

void WeekGrid::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(figureFont(9));
    const QLocale locale;
    for (int day = 0; day < benchmark::weekdays; ++day) {
        const QRectF row(cell(day, 0).topLeft(), cell(day, benchmark::dayHours - 1).bottomRight());
        p.fillRect(row.adjusted(0, 1, 0, -1), theme().panel);
        p.setPen(theme().quiet);
        p.drawText(QRectF(0, row.top(), gridLeft - 6, row.height()), Qt::AlignRight | Qt::AlignVCenter,
                   locale.standaloneDayName(day + 1, QLocale::ShortFormat));
        for (int hour = 0; hour < benchmark::dayHours; ++hour) {
            const QRectF box = cell(day, hour);
            const benchmark::WeekHour& h =
                m_week[static_cast<std::size_t>(day)][static_cast<std::size_t>(hour)];
            const auto y = [&](quantity::BitRate rate) {
                const double share = std::log(std::max(rate.bps(), 1.0) / m_low) / std::log(m_high / m_low);
                return box.bottom() - 3 - std::clamp(share, 0.0, 1.0) * (box.height() - 6);
            };
            if (h.p10 && h.p90) {
                // As high as the median, with the range across its top.
                QColor faint = theme().cool;
                faint.setAlpha(46);
                const double middle = y(*h.p50);
                p.fillRect(QRectF(box.left() + 3, middle, box.width() - 6, box.bottom() - 2 - middle), faint);
                p.setPen(QPen(theme().cool, 2));
                p.drawLine(QPointF(box.left() + 3, middle), QPointF(box.right() - 3, middle));
                if (y(*h.p10) - y(*h.p90) > 3)
                    p.fillRect(QRectF(box.center().x() - 2.5, y(*h.p90), 5, y(*h.p10) - y(*h.p90)),
                               theme().cool);
            }
            if (h.dropOuts > 0) {
                p.setPen(QPen(theme().ink, 1.6));
                const QPointF c(box.center().x(), box.top() + 6);
                p.drawLine(c + QPointF(-3, -3), c + QPointF(3, 3));
                p.drawLine(c + QPointF(-3, 3), c + QPointF(3, -3));
            }
        }
    }
    p.setPen(theme().quiet);
    for (int hour = 0; hour < benchmark::dayHours; hour += 3)
        p.drawText(QRectF(cell(0, hour).left() - 20, height() - gridBottom, 40, gridBottom), Qt::AlignCenter,
                   QString::number(hour));
    if (!m_isEmpty) {
        // The scale of every row, said once beside the first.
        const QRectF row = cell(0, benchmark::dayHours - 1);
        const auto figure = [&](double bps, Qt::Alignment where) {
            p.drawText(QRectF(row.right() + 6, row.top(), gridRight - 6, std::max(row.height(), 26.0)), where,
                       shortRate(quantity::BitRate::bitsPerSecond(bps)));
        };
        figure(m_high, Qt::AlignLeft | Qt::AlignTop);
        figure(m_low, Qt::AlignLeft | Qt::AlignBottom);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(hasFocus() ? theme().ink : theme().quiet, 1.5));
    p.drawRect(cell(m_day, m_hour).adjusted(0.5, 0.5, -0.5, -0.5));
}

void WeekGrid::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Left:
        return choose(m_day, m_hour - 1);
    case Qt::Key_Right:
        return choose(m_day, m_hour + 1);
    case Qt::Key_Up:
        return choose(m_day - 1, m_hour);
    case Qt::Key_Down:
        return choose(m_day + 1, m_hour);
    default:
        QWidget::keyPressEvent(event);
    }
}

void WeekGrid::mousePressEvent(QMouseEvent* event) {
    const double w = (width() - gridLeft - gridRight) / benchmark::dayHours;
    const double h = (height() - gridTop - gridBottom) / benchmark::weekdays;
    choose(static_cast<int>((event->position().y() - gridTop) / h),
           static_cast<int>((event->position().x() - gridLeft) / w));
}

} // namespace metrodos::desktop
