// Fields that several tests have.
#pragma once

#include <QComboBox>
#include <QLineEdit>
#include <QString>
#include <utility>
#include <vector>

namespace metrodos::desktop {

[[nodiscard]] inline QComboBox*
choice(const QString& name, const std::vector<std::pair<QString, QVariant>>& items, int current = 0) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    for (const auto& [text, data] : items)
        box->addItem(text, data);
    box->setCurrentIndex(current);
    return box;
}

[[nodiscard]] inline QLineEdit* entry(const QString& name, const QString& text, const QString& tip,
                                      int width) {
    auto* field = new QLineEdit(text);
    field->setObjectName(name);
    field->setToolTip(tip);
    field->setMaximumWidth(width);
    return field;
}

} // namespace metrodos::desktop
