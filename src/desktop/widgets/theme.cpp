#include "desktop/widgets/theme.h"

#include <QAbstractButton>
#include <QAction>
#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <cmath>

// Resources of a static library are linked in only where they are named; the macro wants the global
// namespace.
static void initResources() {
    Q_INIT_RESOURCE(resources);
}

namespace metrodos::desktop {
namespace {

// The scheme is the one thing of the application that every painter needs; it changes only in applyTheme.
Theme& current() {
    static Theme value = lightTheme();
    return value;
}

QString styleSheet(const Theme& t) {
    return QStringLiteral(R"(
QToolTip { background: %2; color: %3; border: 1px solid %5; padding: 4px; }
QPushButton, QToolButton { background: %2; color: %3; border: 1px solid %4; border-radius: 3px; padding: 4px 10px; }
QToolButton { padding: 4px; }
QPushButton:hover, QToolButton:hover { border-color: %3; }
QPushButton:focus, QToolButton:focus, QLineEdit:focus { border: 2px solid %3; }
QPushButton:disabled, QToolButton:disabled { color: %5; border-color: %4; }
QToolButton:checked { border-bottom: 4px solid %3; }
QPushButton#run { font-weight: bold; padding: 8px 18px; border: 2px solid %3; }
QLineEdit { background: %2; color: %3; border: 1px solid %4; border-radius: 3px; padding: 3px 6px; min-height: 20px; selection-background-color: %3; selection-color: %2; }
QTableView { background: %2; color: %3; gridline-color: %4; border: 1px solid %4; selection-background-color: %4; selection-color: %3; }
QHeaderView::section { background: %1; color: %5; border: none; border-bottom: 1px solid %4; padding: 3px 6px; }
QScrollArea { border: none; }
QScrollBar:vertical { background: transparent; width: 10px; margin: 0; }
QScrollBar::handle:vertical { background: %4; border-radius: 4px; min-height: 24px; margin: 1px; }
QScrollBar::add-line:vertical, QScrollBar::sub-line:vertical { height: 0; }
QScrollBar::add-page:vertical, QScrollBar::sub-page:vertical { background: transparent; }
QMenu { background: %2; color: %3; border: 1px solid %4; }
QMenu::item:selected { background: %3; color: %2; }
QLabel#quiet { color: %5; }
QCheckBox::indicator:unchecked, QListView::indicator:unchecked, QTableView::indicator:unchecked { background: %2; border: 1px solid %5; border-radius: 2px; width: 11px; height: 11px; }
)")
        .arg(t.ground.name(), t.panel.name(), t.ink.name(), t.line.name(), t.quiet.name());
}

double luminance(const QColor& c) {
    const auto channel = [](double v) {
        return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
    };
    return 0.2126 * channel(c.redF()) + 0.7152 * channel(c.greenF()) + 0.0722 * channel(c.blueF());
}

} // namespace

Theme lightTheme() {
    return {QColor("#f4efe4"), QColor("#fdfbf6"), QColor("#23211c"), QColor("#655f54"),
            QColor("#cdc4b2"), QColor("#b23c12"), QColor("#1a6a86"), false};
}

Theme darkTheme() {
    return {QColor("#1c1b18"), QColor("#26241f"), QColor("#efe9dc"), QColor("#b0a897"),
            QColor("#4d483f"), QColor("#f28c50"), QColor("#6ec5de"), true};
}

const Theme& theme() {
    return current();
}

void loadFonts() {
    initResources();
    for (const char* file : {"B612Mono-Regular", "B612Mono-Bold", "B612-Regular", "B612-Bold", "B612-Italic"})
        QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/%1.otf").arg(QLatin1String(file)));
}

void applyTheme(QApplication& application, const Theme& t) {
    current() = t;
    application.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    QPalette p;
    p.setColor(QPalette::Window, t.ground);
    p.setColor(QPalette::Base, t.panel);
    p.setColor(QPalette::AlternateBase, t.ground);
    p.setColor(QPalette::Button, t.panel);
    for (const auto role :
         {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
        p.setColor(role, t.ink);
    p.setColor(QPalette::PlaceholderText, t.quiet);
    p.setColor(QPalette::Highlight, t.ink);
    p.setColor(QPalette::HighlightedText, t.panel);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, t.quiet);
    application.setPalette(p);
    application.setFont(textFont(10));
    application.setStyleSheet(styleSheet(t));
}

QFont textFont(double points, bool bold) {
    QFont font(QStringLiteral("Metrodos B612"));
    font.setPointSizeF(points);
    font.setBold(bold);
    return font;
}

// All digits of the text face are of one width; in the mono face a decimal point would stand in a cell of its
// own and tear "2.35" apart.
QFont figureFont(double points, bool bold) {
    return textFont(points, bold);
}

QFont codeFont(double points, bool bold) {
    QFont font(QStringLiteral("Metrodos B612 Mono"));
    font.setStyleHint(QFont::Monospace);
    font.setPointSizeF(points);
    font.setBold(bold);
    return font;
}

QIcon icon(const QString& name) {
    QFile file(QStringLiteral(":/icons/%1.svg").arg(name));
    if (!file.open(QIODevice::ReadOnly)) return {};
    QIcon out;
    for (const auto& [mode, colour] :
         {std::pair(QIcon::Normal, theme().ink), std::pair(QIcon::Disabled, theme().line)}) {
        QByteArray svg = file.readAll();
        file.seek(0);
        svg.replace("currentColor", colour.name().toLatin1());
        QSvgRenderer renderer(svg);
        QPixmap pixmap(48, 48);
        pixmap.fill(Qt::transparent);
        QPainter painter(&pixmap);
        renderer.render(&painter);
        painter.end();
        out.addPixmap(pixmap, mode);
    }
    return out;
}

namespace {
constexpr const char* iconProperty = "iconName";
} // namespace

void showIcon(QAbstractButton* button, const QString& name) {
    button->setProperty(iconProperty, name);
    button->setIcon(icon(name));
}

void showIcon(QAction* action, const QString& name) {
    action->setProperty(iconProperty, name);
    action->setIcon(icon(name));
}

void renewIcons(QWidget* window) {
    const auto named = [](const QObject* object) { return object->property(iconProperty).toString(); };
    for (auto* button : window->findChildren<QAbstractButton*>())
        if (const QString name = named(button); !name.isEmpty()) button->setIcon(icon(name));
    for (auto* action : window->findChildren<QAction*>())
        if (const QString name = named(action); !name.isEmpty()) action->setIcon(icon(name));
}

double contrast(const QColor& a, const QColor& b) {
    const double la = luminance(a);
    const double lb = luminance(b);
    return (std::max(la, lb) + 0.05) / (std::min(la, lb) + 0.05);
}

} // namespace metrodos::desktop
