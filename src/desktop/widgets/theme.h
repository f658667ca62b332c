// Colours, fonts and icons: an instrument panel on paper, and its dark scheme for cupboards and attics.
#pragma once

#include <QColor>
#include <QFont>
#include <QIcon>

class QApplication;

class QAbstractButton;
class QAction;
class QWidget;

namespace metrodos::desktop {

/// Text on `ground` or `panel` has a contrast of at least 4.5:1 in both schemes.
struct Theme {
    QColor ground; ///< the paper
    QColor panel;  ///< raised: fields, the bore of the channel
    QColor ink;
    QColor quiet; ///< secondary text
    QColor line;  ///< rules and hatching
    QColor warm;  ///< the limiter, nothing else
    QColor cool;  ///< measured flow, nothing else
    bool dark = false;
};

[[nodiscard]] Theme lightTheme();
[[nodiscard]] Theme darkTheme();
/// The theme in force. Widgets read it when they paint.
[[nodiscard]] const Theme& theme();

/// Loads the fonts that ship with the program; once, before the first widget.
void loadFonts();
/// Sets palette, fonts and style sheet of the whole application.
void applyTheme(QApplication& application, const Theme& theme);

[[nodiscard]] QFont textFont(double points, bool bold = false);
/// Figures: their digits are of one width, so that changing numbers stand still.
[[nodiscard]] QFont figureFont(double points, bool bold = false);
/// Keys and codes, in which each character counts.
[[nodiscard]] QFont codeFont(double points, bool bold = false);
/// An icon of the set in assets/icons, in the colour of ink.
[[nodiscard]] QIcon icon(const QString& name);

/// Gives a button or an action an icon of the set that follows the scheme.
void showIcon(QAbstractButton* button, const QString& name);
void showIcon(QAction* action, const QString& name);
/// Draws the icons that were given so anew, in the colours of the scheme that is set now.
void renewIcons(QWidget* window);

/// The contrast ratio of two colours (WCAG 2.1, 1.4.3).
[[nodiscard]] double contrast(const QColor& a, const QColor& b);

} // namespace metrodos::desktop
