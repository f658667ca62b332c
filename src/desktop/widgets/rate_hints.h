// Every rate in bits and in bytes: where there is room for one of them only, the other one comes when the
// mouse rests on it or the keyboard is on it.
#pragma once

#include <QObject>
#include <QStringList>

class QPoint;
class QWidget;

namespace metrodos::desktop {

/// The rates of a text that stand there in one unit only, with the other: "941 Mbit/s = 118 MB/s"; each once,
/// four at most.
[[nodiscard]] QStringList otherUnits(const QString& text);

/// What a widget shows at a point of it: of a table or list the item there, otherwise its whole text; empty:
/// no text of its own.
[[nodiscard]] QString shownText(const QWidget* widget, const QPoint& at);
/// What the keyboard is on: of a table or list the current item.
[[nodiscard]] QString focusedText(const QWidget* widget);

/// Watches the application: adds to tips, and tells what the keyboard is on.
class RateHints : public QObject {
    Q_OBJECT

  public:
    explicit RateHints(QObject* parent);

  Q_SIGNALS:
    void changed(const QString& hint); ///< empty: there is nothing to say

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void look();
    bool m_looks = false; ///< in the next turn of the event loop
    QString m_hint;
};

} // namespace metrodos::desktop
