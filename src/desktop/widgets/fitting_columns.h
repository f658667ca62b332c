// Columns that never need a horizontal scroll: as wide as is wanted where there is room, else the widest give
// way.
#pragma once

#include <QEvent>
#include <QHeaderView>
#include <QTableView>
#include <algorithm>
#include <vector>

namespace metrodos::desktop {

/// `wanted` of every column but the last, which takes what is left and at least `last`. Cells that become too
/// narrow end in an ellipsis; their tips have the whole.
inline void fitColumns(QTableView* view, std::vector<int> wanted, int last) {
    constexpr int least = 34;
    wanted.push_back(last);
    int over = -view->viewport()->width();
    for (const int width : wanted)
        over += width;
    while (over > 0) {
        auto widest = std::max_element(wanted.begin(), wanted.end());
        if (*widest <= least) break;
        const int step = std::min({over, std::max(*widest / 16, 1), *widest - least});
        *widest -= step;
        over -= step;
    }
    for (std::size_t i = 0; i + 1 < wanted.size(); ++i)
        view->setColumnWidth(static_cast<int>(i), wanted[i]);
}

/// Does that again whenever the view has another width.
class FittingColumns : public QObject {
  public:
    FittingColumns(QTableView* view, std::vector<int> wanted, int last)
        : QObject(view)
        , m_view(view)
        , m_wanted(std::move(wanted))
        , m_last(last) {
        view->viewport()->installEventFilter(this);
        view->horizontalHeader()->setMinimumSectionSize(30);
    }
    void setWanted(std::vector<int> wanted) {
        m_wanted = std::move(wanted);
        fitColumns(m_view, m_wanted, m_last);
    }

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (event->type() == QEvent::Resize) fitColumns(m_view, m_wanted, m_last);
        return QObject::eventFilter(watched, event);
    }

  private:
    QTableView* m_view;
    std::vector<int> m_wanted;
    int m_last;
};

} // namespace metrodos::desktop
