// Escape leaves a field that was opened for one answer before it means anything to the window.
#pragma once

#include <QKeyEvent>
#include <QLineEdit>

namespace metrodos::desktop {

/// For QWidget::event of the page that the field is on: true where the event was Escape while the field
/// shows; then the field is hidden and the keyboard goes to `back`.
[[nodiscard]] inline bool leavesField(QEvent* event, QLineEdit* field, QWidget* back) {
    const bool isKey = event->type() == QEvent::ShortcutOverride || event->type() == QEvent::KeyPress;
    if (!isKey || !field->isVisible() ||
        static_cast<QKeyEvent*>(event)->key() != Qt::Key_Escape) // NOLINT(*-static-cast-downcast)
        return false;
    event->accept();
    if (event->type() == QEvent::KeyPress) {
        field->hide();
        back->setFocus();
    }
    return true;
}

} // namespace metrodos::desktop
