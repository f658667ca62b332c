// Labels and tips that show a text as it stands. Qt takes a text that looks like HTML for HTML, reads what it
// names and makes headings of it; names of rooms, machines and runs come from files and from the network.
#pragma once

#include <QLabel>

namespace metrodos::desktop {

/// A label of plain text. Every label of the window is made here; a test looks for others.
[[nodiscard]] QLabel* plainLabel(const QString& text = {}, QWidget* parent = nullptr);

/// The same as the name of a field, which its mnemonic leads to.
[[nodiscard]] QLabel* labelFor(QWidget* field, const QString& text);

/// `text` as far as it fits into so many lines of this width, an ellipsis in the place of the rest.
[[nodiscard]] QString fittedText(const QString& text, const QFont& font, int width, int lines);
/// The lines that a text takes in this width; 0 where it is empty.
[[nodiscard]] int linesOf(const QString& text, const QFont& font, int width);

/// `text` for a tool tip, which has no format of its own: shown as it stands.
[[nodiscard]] QString plainTip(const QString& text);

} // namespace metrodos::desktop
