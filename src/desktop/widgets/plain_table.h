// Tables that list: no grid, whole rows chosen, Tab goes on to the next widget.
#pragma once

#include "desktop/widgets/fitting_columns.h"
#include "desktop/widgets/plain_text.h"

#include <QTableWidget>

namespace metrodos::desktop {

inline constexpr int leastLast = 100; ///< of the last column, as the header has it

/// `spoken` is its name for screen readers. The last column takes what is left; the others have these widths,
/// or all of them the first.
inline QTableWidget* plainTable(const QString& name, const QString& spoken, const QStringList& columns,
                                const QList<int>& widths) {
    auto* t = new QTableWidget(0, static_cast<int>(columns.size()));
    t->setObjectName(name);
    t->setAccessibleName(spoken);
    t->setHorizontalHeaderLabels(columns);
    t->verticalHeader()->hide();
    t->verticalHeader()->setDefaultSectionSize(28);
    t->setSelectionBehavior(QAbstractItemView::SelectRows);
    t->setSelectionMode(QAbstractItemView::SingleSelection);
    t->setShowGrid(false);
    t->setTabKeyNavigation(false);
    t->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    t->horizontalHeader()->setStretchLastSection(true);
    t->horizontalHeader()->setHighlightSections(false);
    std::vector<int> wanted;
    for (int column = 0; column + 1 < columns.size(); ++column)
        wanted.push_back(widths.value(column, widths.front()));
    fitColumns(t, wanted, leastLast);
    new FittingColumns(t, std::move(wanted), leastLast);
    return t;
}

/// Heads of columns of figures stand to the right, over them.
inline void alignFigures(QTableWidget* table, std::initializer_list<int> columns) {
    for (const int column : columns)
        table->horizontalHeaderItem(column)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
}

inline QTableWidgetItem* plainCell(const QString& text, bool editable = false) {
    auto* item = new QTableWidgetItem(text);
    item->setToolTip(plainTip(text)); // whole, where the column is narrow
    if (!editable) item->setFlags(item->flags() & ~Qt::ItemIsEditable);
    return item;
}

} // namespace metrodos::desktop
