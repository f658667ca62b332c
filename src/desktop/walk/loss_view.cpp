#include "desktop/walk/loss_view.h"

#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "quantity/format.h"

#include <QPainter>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int stepHeight = 24;
constexpr int top = 64;
constexpr int hoursHeight = 92;

QString decibels(double db) {
    return QString::fromStdString(quantity::significant(db, db >= 10 ? 3 : 2)) + QStringLiteral(" dB");
}

QString improvementText(const capacity::Improvement& i) {
    return LossView::tr("%1: %2 less, then %3")
        .arg(capitalised(i.does), decibels(i.gainDb), rateText(i.carriesAfter));
}

} // namespace

LossView::LossView(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("losses"));
}

void LossView::setPicture(LossPicture picture) {
    m_picture = std::move(picture);
    setAccessibleDescription(text());
    updateGeometry();
    update();
}

QString LossView::text() const {
    QStringList out{m_picture.title, m_picture.sentence};
    out += m_picture.rulings;
    for (const capacity::Contribution& step : m_picture.steps)
        out << QString::fromStdString(step.label) + QStringLiteral(": ") + decibels(step.lossDb.p50);
    for (const capacity::Improvement& i : m_picture.improvements)
        out << improvementText(i);
    return out.join(QLatin1Char('\n'));
}

QSize LossView::sizeHint() const {
    int height = top + static_cast<int>(m_picture.steps.size() + 2) * stepHeight +
                 static_cast<int>(m_picture.rulings.size()) * 36 +
                 static_cast<int>(m_picture.improvements.size()) * 34 + 40;
    if (!m_picture.byHour.empty()) height += hoursHeight;
    return {420, height};
}

void LossView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    double y = paintHead(p);
    if (!m_picture.steps.empty()) y = paintSteps(p, y);
    if (!m_picture.byHour.empty()) y = paintHours(p, y);
    if (!m_picture.improvements.empty()) paintImprovements(p, y);
}

double LossView::paintHead(QPainter& p) const {
    p.setPen(theme().ink);
    p.setFont(textFont(11, true));
    p.drawText(QRectF(8, 4, width() - 16, 20), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(m_picture.title, Qt::ElideRight, width() - 16));
    p.setFont(textFont(10));
    p.drawText(QRectF(8, 24, width() - 16, 34), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
               m_picture.sentence);
    double y = top;
    p.setPen(theme().warm);
    p.setFont(textFont(10, true));
    for (const QString& ruling : m_picture.rulings) {
        p.drawText(QRectF(8, y, width() - 16, 34), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, ruling);
        y += 36;
    }
    return y;
}

double LossView::paintSteps(QPainter& p, double y) const {
    const bool costs = std::any_of(m_picture.steps.begin(), m_picture.steps.end(),
                                   [](const auto& s) { return s.costBps.has_value(); });
    const double labelWidth = width() * 0.4;
    const double figures = costs ? 138 : 62;
    const double left = labelWidth + 12;
    const double right = width() - figures - 8;
    const double most = std::max({m_picture.totalDb.p90 * 1.05, m_picture.goneAtDb.value_or(0), 10.0});
    const auto x = [&](double db) { return left + (right - left) * std::clamp(db / most, 0.0, 1.0); };
    const double bottom = y + stepHeight * (static_cast<double>(m_picture.steps.size()) + 1);
    for (const auto& [limit, words] : {std::pair(m_picture.fullUpToDb, tr("full rate up to here")),
                                       std::pair(m_picture.goneAtDb, tr("no link"))}) {
        if (!limit) continue;
        p.setPen(QPen(theme().quiet, 1, Qt::DashLine));
        p.drawLine(QPointF(x(*limit), y), QPointF(x(*limit), bottom + 2));
        p.setFont(textFont(8));
        p.drawText(QRectF(x(*limit) - 130, bottom + 2, 126, 14), Qt::AlignRight | Qt::AlignTop, words);
    }
    // The dearest step is the first to look at.
    const auto dearest =
        std::max_element(m_picture.steps.begin(), m_picture.steps.end(),
                         [](const auto& a, const auto& b) { return a.lossDb.p50 < b.lossDb.p50; });
    double sum = 0;
    for (auto step = m_picture.steps.begin(); step != m_picture.steps.end(); ++step) {
        const QRectF line(8, y, labelWidth - 4, stepHeight);
        p.setPen(theme().ink);
        p.setFont(textFont(9.5, step == dearest));
        p.drawText(line, Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(QString::fromStdString(step->label), Qt::ElideRight,
                                              int(line.width())));
        const QRectF box(x(sum), y + 5, std::max(1.5, x(sum + step->lossDb.p50) - x(sum)), stepHeight - 10);
        p.fillRect(box, step == dearest ? theme().ink : theme().quiet);
        const double slack = step->lossDb.p90 - step->lossDb.p50;
        if (slack > 0.05) // what it may be besides
            p.fillRect(QRectF(box.right(), box.top(), x(sum + step->lossDb.p90) - box.right(), box.height()),
                       QBrush(theme().quiet, Qt::BDiagPattern));
        p.setFont(figureFont(9.5, step == dearest));
        p.drawText(QRectF(right + 8, y, 60, stepHeight), Qt::AlignRight | Qt::AlignVCenter,
                   decibels(step->lossDb.p50));
        if (step->costBps && *step->costBps > 5e4) {
            p.setFont(figureFont(8.5));
            p.setPen(theme().quiet);
            p.drawText(QRectF(right + 68, y, 70, stepHeight), Qt::AlignRight | Qt::AlignVCenter,
                       QStringLiteral("−") + shortRate(quantity::BitRate::bitsPerSecond(*step->costBps)));
        }
        sum += step->lossDb.p50;
        y += stepHeight;
    }
    p.setPen(theme().ink);
    p.drawLine(QPointF(8, y), QPointF(width() - 8, y));
    p.setFont(figureFont(10, true));
    p.drawText(QRectF(right + 8, y, 60, stepHeight), Qt::AlignRight | Qt::AlignVCenter,
               decibels(m_picture.totalDb.p50));
    p.setFont(textFont(9.5, true));
    p.drawText(QRectF(8, y, labelWidth, stepHeight), Qt::AlignLeft | Qt::AlignVCenter, tr("Together"));
    y += stepHeight + (m_picture.fullUpToDb ? 18 : 6);
    return y;
}

double LossView::paintHours(QPainter& p, double y) const {
    p.setPen(theme().ink);
    p.setFont(textFont(9.5, true));
    p.drawText(QRectF(8, y, width() - 16, 18), Qt::AlignLeft | Qt::AlignVCenter,
               tr("By the hour, slower direction"));
    const double most = *std::max_element(m_picture.byHour.begin(), m_picture.byHour.end());
    const double step = (width() - 24) / 24.0;
    for (int hour = 0; hour < 24; ++hour) {
        const double share = most > 0 ? m_picture.byHour[static_cast<std::size_t>(hour)] / most : 0;
        p.fillRect(QRectF(12 + hour * step, y + 66 - 42 * share, step - 2, 42 * share), theme().quiet);
        if (hour % 6 == 0) {
            p.setFont(figureFont(8));
            p.drawText(QRectF(12 + hour * step - 4, y + 67, 30, 14), Qt::AlignLeft | Qt::AlignTop,
                       QString::number(hour));
        }
    }
    p.setFont(figureFont(8.5));
    p.drawText(QRectF(8, y, width() - 16, 18), Qt::AlignRight | Qt::AlignVCenter,
               tr("at best %1").arg(rateText(quantity::BitRate::bitsPerSecond(most))));
    y += hoursHeight;
    return y;
}

void LossView::paintImprovements(QPainter& p, double y) const {
    p.setPen(theme().ink);
    p.setFont(textFont(9.5, true));
    p.drawText(QRectF(8, y, width() - 16, 18), Qt::AlignLeft | Qt::AlignVCenter, tr("What would help"));
    y += 20;
    p.setFont(textFont(9.5));
    for (const capacity::Improvement& i : m_picture.improvements) {
        p.drawText(QRectF(8, y, width() - 16, 32), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                   improvementText(i));
        y += 34;
    }
}

} // namespace metrodos::desktop
