#include "desktop/walk/things_page.h"

#include "desktop/walk/survey_table.h"
#include "desktop/widgets/tool_button.h"
#include "house/remove.h"

#include <QAction>
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QStyledItemDelegate>
#include <QTableView>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

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

ThingsPage::ThingsPage(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 0);
    auto* kind = new QComboBox;
    kind->setObjectName(QStringLiteral("kind"));
    for (std::size_t k = 0; k < job::surveyKinds; ++k)
        kind->addItem(tr(job::title(static_cast<job::SurveyKind>(k))));
    auto* remove = tool(QStringLiteral("remove-thing"), tr("Remove"), tr("Remove the chosen thing (Delete)"));
    auto* head = new QHBoxLayout;
    head->addWidget(kind);
    head->addWidget(remove);
    head->addStretch();
    layout->addLayout(head);
    m_table = new SurveyTableModel(m_model, this);
    m_tableView = new QTableView;
    m_tableView->setObjectName(QStringLiteral("things"));
    m_tableView->setModel(m_table);
    m_tableView->setItemDelegate(new CellEditor(*m_table, this));
    m_tableView->verticalHeader()->hide();
    m_tableView->verticalHeader()->setDefaultSectionSize(26);
    m_tableView->horizontalHeader()->setStretchLastSection(true);
    m_tableView->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft);
    m_tableView->setShowGrid(false);
    m_tableView->setTabKeyNavigation(true);
    m_tableView->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                                 QAbstractItemView::AnyKeyPressed);
    layout->addWidget(m_tableView, 1);
    auto* del = new QAction(tr("Remove"), m_tableView);
    del->setShortcut(QKeySequence::Delete);
    del->setShortcutContext(Qt::WidgetShortcut);
    m_tableView->addAction(del);
    connect(del, &QAction::triggered, this, &ThingsPage::removeThing);
    connect(remove, &QToolButton::clicked, this, &ThingsPage::removeThing);
    const auto widths = [this] {
        m_tableView->resizeColumnsToContents();
        for (int c = 0; c + 1 < m_table->columnCount(); ++c)
            m_tableView->setColumnWidth(c, std::clamp(m_tableView->columnWidth(c) + 10, 70, 220));
    };
    connect(kind, &QComboBox::currentIndexChanged, this, [this, widths](int index) {
        m_table->setKind(static_cast<job::SurveyKind>(index));
        widths();
    });
    // The cell that was changed stays the current one.
    connect(m_table, &QAbstractItemModel::modelAboutToBeReset, this, [this] {
        const QModelIndex now = m_tableView->currentIndex();
        QMetaObject::invokeMethod(
            this,
            [this, row = now.row(), column = now.column()] {
                m_tableView->setCurrentIndex(m_table->index(row, column));
            },
            Qt::QueuedConnection);
    });
    QMetaObject::invokeMethod(this, widths, Qt::QueuedConnection);
}

void ThingsPage::removeThing() {
    const house::Id id = m_table->idOf(m_tableView->currentIndex().row());
    if (id.empty()) {
        Q_EMIT said(tr("Choose a thing in the table first; a port goes with its device."), true);
        return;
    }
    m_model.apply(tr("remove %1").arg(m_table->index(m_tableView->currentIndex().row(), 0).data().toString()),
                  house::without(m_model.house(), id));
}

} // namespace metrodos::desktop
