#include "desktop/widgets/rate_hints.h"

#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_text.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QApplication>
#include <QComboBox>
#include <QHelpEvent>
#include <QLabel>
#include <QLineEdit>
#include <QRegularExpression>
#include <QTimer>
#include <QToolTip>

namespace metrodos::desktop {
namespace {

constexpr qsizetype mostHints = 4;
constexpr qsizetype longestText = 4000; // letters that are looked through

const QAbstractItemView* viewOf(const QWidget* widget) {
    const auto* view = qobject_cast<const QAbstractItemView*>(widget);
    return view != nullptr || widget == nullptr
               ? view
               : qobject_cast<const QAbstractItemView*>(widget->parentWidget());
}

QString ownText(const QWidget* widget) {
    if (const auto* label = qobject_cast<const QLabel*>(widget)) return label->text();
    if (const auto* button = qobject_cast<const QAbstractButton*>(widget)) return button->text();
    if (const auto* box = qobject_cast<const QComboBox*>(widget)) return box->currentText();
    if (const auto* field = qobject_cast<const QLineEdit*>(widget)) return field->text();
    return {};
}

// In the locale's way or with a point.
double numberOf(const QString& digits) {
    bool ok = false;
    const double own = QLocale().toDouble(digits, &ok);
    return ok ? own : QLocale::c().toDouble(digits);
}

} // namespace

QStringList otherUnits(const QString& text) {
    // A pair of both says all; what is taken out of it is not looked at again.
    static const QRegularExpression both(
        QStringLiteral(R"(\d[\d.,]*\s?[kMG]?bit/s\s?·\s?\d[\d.,]*\s?[kMG]?B/s)"));
    static const QRegularExpression one(
        QStringLiteral(R"((?:(\d+(?:[.,]\d+)?)\s(?:to|–)\s)?(\d+(?:[.,]\d+)?)\s?([kMG]?)(bit|B)/s)"));
    QString rest = text.left(longestText);
    rest.replace(both, QStringLiteral(" "));
    QStringList out;
    for (auto found = one.globalMatch(rest); found.hasNext() && out.size() < mostHints;) {
        const QRegularExpressionMatch match = found.next();
        const QString prefix = match.captured(3);
        const bool isBits = match.captured(4) == QLatin1String("bit");
        const double scale = (prefix == QLatin1String("G")   ? 1e9
                              : prefix == QLatin1String("M") ? 1e6
                              : prefix == QLatin1String("k") ? 1e3
                                                             : 1) *
                             (isBits ? 1 : 8);
        for (const int number : {1, 2}) {
            if (match.captured(number).isEmpty()) continue;
            const auto rate = quantity::BitRate::bitsPerSecond(numberOf(match.captured(number)) * scale);
            // As it stands there, so that it is found again.
            const QString line = match.captured(number) + QLatin1Char(' ') + prefix + match.captured(4) +
                                 QStringLiteral("/s = ") + (isBits ? byteText(rate) : rateText(rate));
            if (!out.contains(line) && out.size() < mostHints) out << line;
        }
    }
    return out;
}

QString shownText(const QWidget* widget, const QPoint& at) {
    if (const QAbstractItemView* view = viewOf(widget); view != nullptr && view->viewport() == widget)
        return view->indexAt(at).data().toString();
    return ownText(widget);
}

QString focusedText(const QWidget* widget) {
    if (const auto* list = qobject_cast<const RangeList*>(widget))
        return list->texts().value(list->current());
    if (const QAbstractItemView* view = viewOf(widget)) {
        const QModelIndex at = view->currentIndex();
        if (view->selectionBehavior() != QAbstractItemView::SelectRows) return at.data().toString();
        QStringList row;
        for (int column = 0; at.isValid() && column < at.model()->columnCount(); ++column)
            row << at.siblingAtColumn(column).data().toString();
        return row.join(QLatin1Char('\n'));
    }
    return ownText(widget);
}

RateHints::RateHints(QObject* parent)
    : QObject(parent) {
    qApp->installEventFilter(this);
}

bool RateHints::eventFilter(QObject* watched, QEvent* event) {
    const QEvent::Type type = event->type();
    if (type == QEvent::FocusIn || type == QEvent::KeyRelease || type == QEvent::MouseButtonRelease) {
        // Once the widget has taken it.
        if (!m_looks) QTimer::singleShot(0, this, &RateHints::look);
        m_looks = true;
    }
    if (type != QEvent::ToolTip) return false;
    const auto* widget = qobject_cast<const QWidget*>(watched);
    if (widget == nullptr) return false;
    const auto* help = static_cast<QHelpEvent*>(event);
    const QStringList hints = otherUnits(shownText(widget, help->pos()));
    if (hints.isEmpty()) return false;
    const QAbstractItemView* view = viewOf(widget);
    const QString own = view != nullptr && view->viewport() == widget
                            ? view->indexAt(help->pos()).data(Qt::ToolTipRole).toString()
                            : widget->toolTip();
    // Tips that have markup in their text are escaped and have a paragraph of their own (plainTip).
    const bool isEscaped = own.startsWith(QLatin1String("<p>"));
    const QString tip = isEscaped
                            ? QStringLiteral("<p>%1</p>").arg(hints.join(QStringLiteral("<br>"))) + own
                            : (own.isEmpty() ? hints : hints + QStringList{own}).join(QLatin1Char('\n'));
    QToolTip::showText(help->globalPos(), tip, const_cast<QWidget*>(widget));
    return true;
}

void RateHints::look() {
    m_looks = false;
    const QString hint = otherUnits(focusedText(QApplication::focusWidget())).join(QLatin1Char('\n'));
    if (hint == m_hint) return;
    m_hint = hint;
    Q_EMIT changed(hint);
}

} // namespace metrodos::desktop
