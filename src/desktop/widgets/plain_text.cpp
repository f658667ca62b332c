#include "desktop/widgets/plain_text.h"

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

QString plainTip(const QString& text) {
    if (!Qt::mightBeRichText(text)) return text;
    return QStringLiteral("<p>") + text.toHtmlEscaped() + QStringLiteral("</p>");
}

} // namespace metrodos::desktop
