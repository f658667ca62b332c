// A button with words and a key of its own, which works wherever the keyboard is in its page.
#pragma once

#include <QPushButton>
#include <QShortcut>
#include <functional>

namespace metrodos::desktop {

/// The key does nothing while the button does not show.
[[nodiscard]] inline QPushButton* keyButton(QWidget* page, const QString& name, const QString& text,
                                            const QString& tip, const QKeySequence& key,
                                            const std::function<void()>& does) {
    auto* b = new QPushButton(text);
    b->setObjectName(name);
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    QObject::connect(b, &QPushButton::clicked, page, does);
    auto* shortcut = new QShortcut(key, page, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
    QObject::connect(shortcut, &QShortcut::activated, b, [b] {
        if (b->isVisible()) b->click();
    });
    return b;
}

} // namespace metrodos::desktop
