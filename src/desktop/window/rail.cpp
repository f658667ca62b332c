#include "desktop/window/rail.h"

#include "desktop/widgets/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int cell = 88;

void drawStageMark(QPainter& p, const QPointF& c, Stage stage) {
    p.setBrush(Qt::NoBrush);
    if (stage == Stage::walk) { // a house cut open: roof, floors, a wall
        p.drawPolyline(QPolygonF(
            {QPointF(c.x() - 13, c.y() - 3), QPointF(c.x(), c.y() - 12), QPointF(c.x() + 13, c.y() - 3)}));
        p.drawLine(QPointF(c.x() - 11, c.y() - 4), QPointF(c.x() - 11, c.y() + 11));
        p.drawLine(QPointF(c.x() + 11, c.y() - 4), QPointF(c.x() + 11, c.y() + 11));
        p.drawLine(QPointF(c.x() - 14, c.y() + 11), QPointF(c.x() + 14, c.y() + 11));
        p.drawLine(QPointF(c.x() - 11, c.y() + 3), QPointF(c.x() + 11, c.y() + 3));
        p.drawLine(QPointF(c.x() + 2, c.y() + 3), QPointF(c.x() + 2, c.y() + 11));
    } else if (stage == Stage::weigh) { // a beam on its edge, a load on each arm
        p.drawLine(QPointF(c.x() - 14, c.y() - 4), QPointF(c.x() + 14, c.y() + 2));
        p.drawPolyline(QPolygonF(
            {QPointF(c.x() - 7, c.y() + 11), QPointF(c.x(), c.y() - 1), QPointF(c.x() + 7, c.y() + 11)}));
        p.drawLine(QPointF(c.x() - 10, c.y() + 11), QPointF(c.x() + 10, c.y() + 11));
        p.drawRect(QRectF(c.x() - 13, c.y() - 10, 5, 5));
        p.drawRect(QRectF(c.x() + 5, c.y() - 10, 8, 8));
    } else if (stage == Stage::fit) { // a list of which the first is done
        for (const double y : {-8.0, 1.0, 10.0})
            p.drawLine(QPointF(c.x() - 2, c.y() + y), QPointF(c.x() + 14, c.y() + y));
        p.drawPolyline(QPolygonF({QPointF(c.x() - 14, c.y() - 8), QPointF(c.x() - 11, c.y() - 4),
                                  QPointF(c.x() - 5, c.y() - 12)}));
        for (const double y : {1.0, 10.0})
            p.drawRect(QRectF(c.x() - 13, c.y() + y - 3, 6, 6));
    } else if (stage == Stage::measure) { // two walls and what flows between them
        p.drawLine(QPointF(c.x() - 14, c.y() - 9), QPointF(c.x() + 14, c.y() - 9));
        p.drawLine(QPointF(c.x() - 14, c.y() + 9), QPointF(c.x() + 14, c.y() + 9));
        for (const double y : {-3.0, 3.0})
            p.drawLine(QPointF(c.x() - 14, c.y() + y), QPointF(c.x() + 9 + y, c.y() + y));
    } else if (stage == Stage::log) { // marks along a line of time, each with its spread
        p.drawLine(QPointF(c.x() - 14, c.y() + 11), QPointF(c.x() + 14, c.y() + 11));
        for (const auto& [x, y, half] : {std::tuple(-10.0, 0.0, 6.0), std::tuple(-2.0, -5.0, 4.0),
                                         std::tuple(6.0, 1.0, 5.0), std::tuple(12.0, -3.0, 7.0)}) {
            p.drawLine(QPointF(c.x() + x, c.y() + y - half), QPointF(c.x() + x, c.y() + y + half));
            p.drawLine(QPointF(c.x() + x - 2.5, c.y() + y), QPointF(c.x() + x + 2.5, c.y() + y));
        }
    } else if (stage == Stage::handover) { // a sheet with a seal
        p.drawPolyline(QPolygonF({QPointF(c.x() + 4, c.y() - 12), QPointF(c.x() - 10, c.y() - 12),
                                  QPointF(c.x() - 10, c.y() + 12), QPointF(c.x() + 10, c.y() + 12),
                                  QPointF(c.x() + 10, c.y() - 6), QPointF(c.x() + 4, c.y() - 12)}));
        for (const double y : {-4.0, 1.0})
            p.drawLine(QPointF(c.x() - 6, c.y() + y), QPointF(c.x() + 6, c.y() + y));
        p.drawEllipse(QPointF(c.x() + 4, c.y() + 7), 3, 3);
    } else { // a channel with a throat
        for (const double side : {-1.0, 1.0}) {
            QPainterPath wall(QPointF(c.x() - 14, c.y() + side * 10));
            wall.lineTo(c.x() - 4, c.y() + side * 10);
            wall.lineTo(c.x(), c.y() + side * 3);
            wall.lineTo(c.x() + 4, c.y() + side * 10);
            wall.lineTo(c.x() + 14, c.y() + side * 10);
            p.drawPath(wall);
        }
    }
}

} // namespace

Rail::Rail(QWidget* parent)
    : QWidget(parent) {
    setFixedWidth(84);
    setFocusPolicy(Qt::TabFocus);
    setObjectName(QStringLiteral("rail"));
    setAccessibleName(tr("Stages"));
}

void Rail::setStage(Stage stage) {
    if (stage == m_stage) return;
    m_stage = stage;
    update();
    Q_EMIT stageChosen(stage);
}

void Rail::setNote(Stage stage, const QString& note) {
    m_notes[static_cast<int>(stage)] = note;
    update();
}

void Rail::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme().ground);
    p.setPen(QPen(theme().line, 1));
    p.drawLine(width() - 1, 0, width() - 1, height());
    int y = 8;
    for (int index = 0; index < stageCount; ++index) {
        const auto stage = static_cast<Stage>(index);
        const QRectF area(4, y, width() - 8, cell - 8);
        const bool here = stage == m_stage;
        if (here) {
            p.setPen(Qt::NoPen);
            p.setBrush(theme().panel);
            p.drawRoundedRect(area, 4, 4);
            p.fillRect(QRectF(0, y, 4, cell - 8), theme().ink);
        }
        p.setPen(QPen(theme().ink, 1.8));
        drawStageMark(p, QPointF(area.center().x(), area.top() + 20), stage);
        p.setFont(textFont(10, here));
        p.drawText(QRectF(area.left(), area.top() + 36, area.width(), 18), Qt::AlignCenter,
                   stage == Stage::walk      ? tr("Walk")
                   : stage == Stage::weigh   ? tr("Weigh")
                   : stage == Stage::fit     ? tr("Fit")
                   : stage == Stage::measure ? tr("Measure")
                   : stage == Stage::trace   ? tr("Trace")
                   : stage == Stage::log     ? tr("Log")
                                             : tr("Hand over"));
        p.setPen(theme().quiet);
        p.setFont(textFont(8));
        p.drawText(QRectF(area.left(), area.top() + 54, area.width(), 16), Qt::AlignCenter,
                   m_notes[static_cast<int>(stage)]);
        if (here && hasFocus()) {
            p.setPen(QPen(theme().ink, 1, Qt::DotLine));
            p.drawRect(area.adjusted(2, 2, -2, -2));
        }
        y += cell;
    }
}

void Rail::mousePressEvent(QMouseEvent* event) {
    const int index = (static_cast<int>(event->position().y()) - 8) / cell;
    if (index >= 0 && index < stageCount) setStage(static_cast<Stage>(index));
}

void Rail::keyPressEvent(QKeyEvent* event) {
    const int step = event->key() == Qt::Key_Up ? -1 : event->key() == Qt::Key_Down ? 1 : 0;
    if (step != 0)
        setStage(static_cast<Stage>(std::clamp(static_cast<int>(m_stage) + step, 0, stageCount - 1)));
    else
        QWidget::keyPressEvent(event);
}

} // namespace metrodos::desktop
