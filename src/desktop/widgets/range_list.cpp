#include "desktop/widgets/range_list.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QToolTip>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int barHeight = 30; // what a row takes besides its texts
constexpr int figureWidth = 118;
constexpr int left = 10;
constexpr int maxLines = 3; // of a title

QFont titleFont(bool bold) {
    return textFont(9.5, bold);
}
QFont detailFont() {
    return textFont(8.5);
}

struct Marks {
    std::optional<quantity::BitRate> need;
    std::optional<quantity::BitRate> promise;
    std::optional<quantity::BitRate> measured;
    bool isShort = false;
    double reach = 10; // of the tick, to both sides
};

// The need as a tick, the box's promise as an open mark, what was measured as a solid one.
template <typename X>
void paintMarks(QPainter& p, const Marks& row, const X& x, double axis) {
    const double size = row.reach / 2;
    const auto diamond = [&](double at) {
        return QPolygonF({QPointF(at, axis - size), QPointF(at + size, axis), QPointF(at, axis + size),
                          QPointF(at - size, axis)});
    };
    p.setBrush(Qt::NoBrush);
    if (row.promise) {
        p.setPen(QPen(theme().ink, 1.4));
        p.drawPolygon(diamond(x(*row.promise)));
    }
    if (row.measured) {
        p.setPen(QPen(theme().panel, 1));
        p.setBrush(theme().cool);
        p.drawPolygon(diamond(x(*row.measured)));
    }
    if (row.need) {
        // A need that is met stands on a foot; one that is not hangs broken.
        const double at = x(*row.need);
        p.setPen(QPen(theme().ink, 2.5, row.isShort ? Qt::DotLine : Qt::SolidLine));
        p.drawLine(QPointF(at, axis - row.reach), QPointF(at, axis + row.reach));
        p.setPen(QPen(theme().ink, 2.5));
        p.drawLine(QPointF(at - 4, axis - row.reach), QPointF(at + 4, axis - row.reach));
    }
}

} // namespace

RangeList::RangeList(QWidget* parent)
    : QAbstractScrollArea(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFrameShape(QFrame::NoFrame);
    verticalScrollBar()->setSingleStep(barHeight);
}

void RangeList::setRows(std::vector<RangeRow> rows) {
    m_rows = std::move(rows);
    m_current = m_rows.empty() ? -1 : 0;
    setTexts();
    viewport()->update();
}

void RangeList::setCurrent(int row) {
    if (row < 0 || row >= static_cast<int>(m_rows.size())) return;
    m_current = row;
    const int height = m_settings[static_cast<std::size_t>(row)].height;
    const int top = m_settings[static_cast<std::size_t>(row)].top;
    QScrollBar* bar = verticalScrollBar();
    if (top < bar->value()) bar->setValue(top);
    if (top + height > bar->value() + viewport()->height())
        bar->setValue(top + height - viewport()->height());
    viewport()->update();
    Q_EMIT chosen(row);
}

bool RangeList::hasTwoBars(const RangeRow& row) {
    return row.forward && row.backward &&
           (row.backward->p50 != row.forward->p50 || row.needBackward != row.need ||
            row.measuredBackward != row.measured);
}

QString RangeList::tipOf(const RangeRow& row) {
    QStringList lines;
    const auto direction = [&](const QString& name, const std::optional<catalog::RateSpread>& spread,
                               const std::optional<quantity::BitRate>& need,
                               const std::optional<quantity::BitRate>& measured) {
        QStringList parts;
        if (spread)
            parts << tr("%1, of ten such houses eight between %2 and %3")
                         .arg(bothText(spread->p50), bothText(spread->p10), bothText(spread->p90));
        if (need) parts << tr("need %1").arg(bothText(*need));
        if (measured) parts << tr("measured %1").arg(bothText(*measured));
        if (!parts.isEmpty()) lines << tr("%1: %2").arg(name, parts.join(QStringLiteral("; ")));
    };
    direction(row.forwardName.isEmpty() ? tr("Upper bar") : row.forwardName, row.forward, row.need,
              row.measured);
    direction(row.backwardName.isEmpty() ? tr("Lower bar") : row.backwardName, row.backward, row.needBackward,
              row.measuredBackward);
    if (row.promise) lines << tr("Printed on the box: %1").arg(bothText(*row.promise));
    return lines.join(QLatin1Char('\n'));
}

bool RangeList::viewportEvent(QEvent* event) {
    if (event->type() != QEvent::ToolTip) return QAbstractScrollArea::viewportEvent(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    const int row = rowAt(help->pos().y());
    const QString text = row < 0 ? QString() : tipOf(m_rows[static_cast<std::size_t>(row)]);
    if (text.isEmpty())
        QToolTip::hideText();
    else
        QToolTip::showText(help->globalPos(),
                           plainTip(toolTip().isEmpty() ? text : text + QLatin1Char('\n') + toolTip()), this);
    return true;
}

QStringList RangeList::texts() const {
    QStringList out;
    for (const RangeRow& row : m_rows)
        out << row.title + QStringLiteral(": ") + (row.forward ? rangeText(*row.forward) : row.instead) +
                   (row.detail.isEmpty() ? QString() : QStringLiteral("; ") + row.detail);
    return out;
}

QStringList RangeList::cutTexts() const {
    QStringList out;
    for (std::size_t i = 0; i < m_rows.size(); ++i)
        if (m_settings[i].isCut) out << m_rows[i].title;
    return out;
}

QString RangeList::titleOf(const RangeRow& row) const {
    if (!row.isBest) return row.title;
    return row.best.isEmpty() ? tr("%1 · best of its room").arg(row.title)
                              : tr("%1 · %2").arg(row.title, row.best);
}

void RangeList::setTexts() {
    const int titleLine = QFontMetrics(titleFont(true)).lineSpacing();
    const int detailLine = QFontMetrics(detailFont()).lineSpacing();
    m_settings.clear();
    int top = 0;
    const int width = viewport()->width() - left - 6;
    for (const RangeRow& row : m_rows) {
        const int title = linesOf(titleOf(row), titleFont(true), width - figureWidth);
        const int detail = linesOf(row.detail, detailFont(), width);
        Setting one;
        one.top = top;
        one.isCut = title > maxLines || detail > maxLines;
        one.titleHeight = std::min(title, maxLines) * titleLine;
        one.detailHeight = std::min(detail, maxLines) * detailLine;
        one.height = barHeight + one.titleHeight + one.detailHeight;
        top += one.height;
        m_settings.push_back(one);
    }
    verticalScrollBar()->setRange(0, std::max(0, top - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
}

int RangeList::rowAt(int y) const {
    for (std::size_t i = 0; i < m_settings.size(); ++i)
        if (const int top = m_settings[i].top - verticalScrollBar()->value();
            y >= top && y < top + m_settings[i].height)
            return static_cast<int>(i);
    return -1;
}

void RangeList::resizeEvent(QResizeEvent*) {
    setTexts();
}

void RangeList::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(viewport()->rect(), theme().ground);
    if (m_rows.empty()) {
        p.setPen(theme().quiet);
        p.setFont(textFont(11));
        p.drawText(viewport()->rect().adjusted(10, 10, -10, -10),
                   Qt::AlignTop | Qt::AlignLeft | Qt::TextWordWrap, m_empty);
        return;
    }
    const double right = viewport()->width() - figureWidth - 6;
    const auto x = [&](quantity::BitRate rate) {
        return left + (right - left) * std::clamp(logPosition(rate), 0.0, 1.0);
    };
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        const RangeRow& row = m_rows[i];
        const Setting& set = m_settings[i];
        const int rowHeight = set.height;
        const QRectF area(0, set.top - verticalScrollBar()->value(), viewport()->width(), rowHeight);
        if (!area.intersects(viewport()->rect())) continue;
        const bool here = static_cast<int>(i) == m_current;
        if (here) {
            p.fillRect(area.adjusted(0, 1, 0, -1), theme().panel);
            p.fillRect(QRectF(area.left(), area.top() + 1, 4, rowHeight - 2), theme().ink);
        }
        p.setPen(theme().ink);
        p.setFont(titleFont(here || row.isBest));
        p.drawText(QRectF(left, area.top() + 4, right - left, set.titleHeight),
                   Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                   fittedText(titleOf(row), p.font(), static_cast<int>(right - left), maxLines));
        if (!row.detail.isEmpty()) {
            p.setPen(theme().quiet);
            p.setFont(detailFont());
            p.drawText(QRectF(left, area.top() + 4 + set.titleHeight, viewport()->width() - left - 6,
                              set.detailHeight),
                       Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, row.detail);
        }
        const double axis = area.top() + rowHeight - 14;
        if (row.forward || row.detail.isEmpty()) {
            p.setPen(QPen(theme().line, 1));
            p.drawLine(QPointF(left, axis), QPointF(right, axis));
            for (int decade = 0; decade <= 4; ++decade)
                p.drawLine(QPointF(left + (right - left) * decade / 4, axis - 4),
                           QPointF(left + (right - left) * decade / 4, axis + 4));
        }
        // The chosen row says what the ticks stand for.
        if (here && row.forward && !row.detail.isEmpty()) {
            static constexpr const char* names[] = {"1M", "10M", "100M", "1G", "10G"};
            p.setPen(theme().quiet);
            p.setFont(figureFont(6.5));
            for (int decade = 0; decade <= 4; ++decade)
                p.drawText(QRectF(left + (right - left) * decade / 4 -
                                      (decade == 0   ? 0
                                       : decade == 4 ? 30
                                                     : 15),
                                  axis + 4, 30, 10),
                           decade == 0   ? Qt::AlignLeft
                           : decade == 4 ? Qt::AlignRight
                                         : Qt::AlignHCenter,
                           QLatin1String(names[decade]));
        }
        const QRectF figures(right + 10, area.top() + 4, figureWidth - 12, rowHeight - 8);
        if (!row.forward) {
            p.setPen(theme().quiet);
            p.setFont(textFont(9));
            p.drawText(figures, Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap, row.instead);
            continue;
        }
        const auto bar = [&](const catalog::RateSpread& s, double y, double height) {
            const QRectF box(x(s.p10), y - height / 2, std::max(3.0, x(s.p90) - x(s.p10)), height);
            p.setPen(QPen(theme().ink, 1));
            p.setBrush(QBrush(theme().quiet, Qt::BDiagPattern));
            p.drawRect(box);
            p.setPen(QPen(theme().ink, 2.5));
            p.drawLine(QPointF(x(s.p50), y - height / 2 - 1), QPointF(x(s.p50), y + height / 2 + 1));
        };
        const bool both = hasTwoBars(row);
        bar(*row.forward, both ? axis - 5 : axis, both ? 7 : 10);
        if (both) bar(*row.backward, axis + 5, 7);
        if (both) {
            constexpr double reach = 7;
            paintMarks(p, {row.need, row.promise, row.measured, row.isShort, reach}, x, axis - 5);
            paintMarks(p, {row.needBackward, {}, row.measuredBackward, row.isShort, reach}, x, axis + 5);
        } else {
            paintMarks(p, {row.need, row.promise, row.measured, row.isShort}, x, axis);
        }
        p.setPen(theme().ink);
        p.setFont(figureFont(10, true));
        const auto lower = both ? std::min(row.forward->p50, row.backward->p50) : row.forward->p50;
        const auto shown = row.figure.value_or(lower);
        p.drawText(figures, Qt::AlignLeft | Qt::AlignTop, rateText(shown));
        p.setFont(figureFont(8));
        p.setPen(theme().quiet);
        p.drawText(figures, Qt::AlignLeft | Qt::AlignBottom, row.note.isEmpty() ? byteText(shown) : row.note);
    }
    if (hasFocus()) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(viewport()->rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

void RangeList::mousePressEvent(QMouseEvent* event) {
    setFocus();
    setCurrent(rowAt(static_cast<int>(event->position().y())));
}

void RangeList::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Up)
        setCurrent(m_current - 1);
    else if (event->key() == Qt::Key_Down)
        setCurrent(m_current + 1);
    else
        QAbstractScrollArea::keyPressEvent(event);
}

} // namespace metrodos::desktop
