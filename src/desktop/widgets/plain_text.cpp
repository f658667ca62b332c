#include "desktop/widgets/plain_text.h"

#include <QFontMetrics>
#include <algorithm>

#include <QTextDocument>

namespace metrodos::desktop {

QLabel* plainLabel(const QString& text, QWidget* parent) {
    auto* label = new QLabel(parent);
    label->setTextFormat(Qt::PlainText); // before there is a text
    label->setText(text);
    return label;
}

QLabel* labelFor(QWidget* field, const QString& text) {
    QLabel* label = plainLabel(text);
    label->setBuddy(field);
    return label;
}

int linesOf(const QString& text, const QFont& font, int width) {
    if (text.isEmpty()) return 0;
    const QFontMetrics metrics(font);
    const int height =
        metrics.boundingRect(QRect(0, 0, std::max(width, 1), 10'000), Qt::TextWordWrap, text).height();
    return std::max(1, (height + metrics.lineSpacing() / 2) / metrics.lineSpacing());
}

QString fittedText(const QString& text, const QFont& font, int width, int lines) {
    if (linesOf(text, font, width) <= lines) return text;
    // The longest beginning that fits with the ellipsis behind it.
    qsizetype fits = 0;
    for (qsizetype low = 1, high = text.size(); low <= high;) {
        const qsizetype middle = (low + high) / 2;
        if (linesOf(text.left(middle).trimmed() + QChar(0x2026), font, width) <= lines) {
            fits = middle;
            low = middle + 1;
        } else {
            high = middle - 1;
        }
    }
    return text.left(fits).trimmed() + QChar(0x2026);
}

QString plainTip(const QString& text) {
    if (!Qt::mightBeRichText(text)) return text;
    return QStringLiteral("<p>") + text.toHtmlEscaped() + QStringLiteral("</p>");
}

} // namespace metrodos::desktop
