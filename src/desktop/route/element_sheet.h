// The sheet of the chosen element: what it is, its ceiling with the arithmetic, what was measured, what to
// watch for.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>

class QLabel;
class QMenu;
class QToolButton;

namespace metrodos::desktop {

class ElementSheet : public QWidget {
    Q_OBJECT

  public:
    explicit ElementSheet(RouteModel& model, QWidget* parent = nullptr);

    /// Takes the chosen box out of the route, moves it, or offers what can be put behind the chosen element.
    void removeSelected();
    void moveSelected(int step);
    void offerInsert();
    /// Less wide where the window is small.
    void setWide(bool wide);

  protected:
    void changeEvent(QEvent* event) override;

  private:
    void showElement();
    void showShare(); ///< how likely it limits the route
    void fillInsertMenu();
    [[nodiscard]] QString priceText(const capacity::ElementPrediction& e) const;

    RouteModel& m_model;
    QLabel* m_kind;
    QLabel* m_ceiling;
    QLabel* m_share;
    QLabel* m_arithmetic;
    QLabel* m_source;
    QLabel* m_price;
    QLabel* m_watch;
    QWidget* m_body;
    QWidget* m_tools;
    QLabel* m_empty;
    QToolButton* m_insert;
    QMenu* m_insertMenu;
};

} // namespace metrodos::desktop
