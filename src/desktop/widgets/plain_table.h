// Tables that list: no grid, whole rows chosen, Tab goes on to the next widget.
#pragma once

#include <QHeaderView>
#include <QTableWidget>

namespace metrodos::desktop {

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
    for (int column = 0; column + 1 < columns.size(); ++column)
        t->setColumnWidth(column, widths.value(column, widths.front()));
    return t;
}

/// Heads of columns of figures stand to the right, over them.
inline void alignFigures(QTableWidget* table, std::initializer_list<int> columns) {
    for (const int column : columns)
        table->horizontalHeaderItem(column)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
}

inline QTableWidgetItem* plainCell(const QString& text, bool editable = false) {
    auto* item = new QTableWidgetItem(text);
    if (!editable) item->setFlags(item->flags() & ~Qt::ItemIsEditable);
    return item;
}

} // namespace metrodos::desktop
