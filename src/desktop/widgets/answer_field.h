// A field for one answer: hidden until it is asked for (escape.h leaves it).
#pragma once

#include <QLineEdit>

namespace metrodos::desktop {

[[nodiscard]] inline QLineEdit* answerField(const QString& name, const QString& spoken, const QString& hint) {
    constexpr int longest = 200;
    auto* field = new QLineEdit;
    field->setObjectName(name);
    field->setAccessibleName(spoken);
    field->setPlaceholderText(hint);
    field->setMaxLength(longest);
    field->hide();
    return field;
}

} // namespace metrodos::desktop
