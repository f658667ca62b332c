// A button with words, reached with Tab and not by a click's focus.
#pragma once

#include <QToolButton>

namespace metrodos::desktop {

[[nodiscard]] inline QToolButton* tool(const QString& name, const QString& text, const QString& tip) {
    auto* b = new QToolButton;
    b->setObjectName(name);
    b->setText(text);
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    return b;
}

} // namespace metrodos::desktop
