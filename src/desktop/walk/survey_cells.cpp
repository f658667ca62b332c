#include "desktop/walk/survey_cells.h"

#include "desktop/walk/survey_table.h"
#include "desktop/widgets/fitting_columns.h"

#include <QComboBox>
#include <QHeaderView>
#include <QStyledItemDelegate>
#include <algorithm>
#include <memory>

namespace metrodos::desktop {
namespace {

constexpr int leastLast = 100; // of the last column, as the header has it

// A list to choose from where the column has one, a text field elsewhere.
class CellEditor : public QStyledItemDelegate {
  public:
    CellEditor(const SurveyTableModel& table, QObject* parent)
        : QStyledItemDelegate(parent)
        , m_table(table) {}

    QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem& option,
                          const QModelIndex& index) const override {
        const std::vector<job::Choice> choices = m_table.choices(index);
        if (choices.empty()) return QStyledItemDelegate::createEditor(parent, option, index);
        auto* box = new QComboBox(parent);
        for (const job::Choice& choice : choices)
            box->addItem(choice.label.empty() ? QStringLiteral("–") : QString::fromStdString(choice.label),
                         QString::fromStdString(choice.value));
        return box;
    }
    void setEditorData(QWidget* editor, const QModelIndex& index) const override {
        if (auto* box = qobject_cast<QComboBox*>(editor))
            box->setCurrentIndex(std::max(0, box->findText(index.data(Qt::EditRole).toString())));
        else
            QStyledItemDelegate::setEditorData(editor, index);
    }
    void setModelData(QWidget* editor, QAbstractItemModel* model, const QModelIndex& index) const override {
        if (auto* box = qobject_cast<QComboBox*>(editor))
            model->setData(index, box->currentData(), Qt::EditRole);
        else
            QStyledItemDelegate::setModelData(editor, model, index);
    }

  private:
    const SurveyTableModel& m_table;
};

} // namespace

QTableView* surveyView(SurveyTableModel* table, const QString& name, const QString& spoken) {
    auto* view = new QTableView;
    view->setObjectName(name);
    view->setAccessibleName(spoken);
    view->setModel(table);
    view->setItemDelegate(new CellEditor(*table, view));
    view->verticalHeader()->hide();
    view->verticalHeader()->setDefaultSectionSize(26);
    view->horizontalHeader()->setStretchLastSection(true);
    view->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft);
    view->setShowGrid(false);
    view->setTabKeyNavigation(false); // Tab leads out of it, the arrows about in it
    view->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                          QAbstractItemView::AnyKeyPressed);
    // One change may reset the table several times before the queued calls come.
    const auto last = std::make_shared<std::pair<int, int>>(-1, -1);
    QObject::connect(table, &QAbstractItemModel::modelAboutToBeReset, view, [view, table, last] {
        if (const QModelIndex now = view->currentIndex(); now.isValid()) *last = {now.row(), now.column()};
        QMetaObject::invokeMethod(
            view,
            [view, table, last] {
                if (!view->currentIndex().isValid())
                    view->setCurrentIndex(table->index(last->first, last->second));
            },
            Qt::QueuedConnection);
    });
    new FittingColumns(view, {}, leastLast);
    QMetaObject::invokeMethod(
        view, [view] { fitColumns(view); }, Qt::QueuedConnection);
    return view;
}

void fitColumns(QTableView* view) {
    view->resizeColumnsToContents();
    std::vector<int> wanted;
    for (int c = 0; c + 1 < view->model()->columnCount(); ++c)
        wanted.push_back(std::clamp(view->columnWidth(c) + 10, 48, 220));
    for (QObject* child : view->children())
        if (auto* fitting = dynamic_cast<FittingColumns*>(child)) {
            fitting->setWanted(std::move(wanted));
            return;
        }
}

} // namespace metrodos::desktop
