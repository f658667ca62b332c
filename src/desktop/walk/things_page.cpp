#include "desktop/walk/things_page.h"

#include "desktop/walk/survey_cells.h"
#include "desktop/walk/survey_table.h"
#include "desktop/widgets/tool_button.h"
#include "house/remove.h"

#include <QAction>
#include <QComboBox>
#include <QHBoxLayout>
#include <QTableView>
#include <QVBoxLayout>

namespace metrodos::desktop {
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
    m_tableView = surveyView(m_table, QStringLiteral("things"), tr("Things of this kind"));
    layout->addWidget(m_tableView, 1);
    auto* del = new QAction(tr("Remove"), m_tableView);
    del->setShortcut(QKeySequence::Delete);
    del->setShortcutContext(Qt::WidgetShortcut);
    m_tableView->addAction(del);
    connect(del, &QAction::triggered, this, &ThingsPage::removeThing);
    connect(remove, &QToolButton::clicked, this, &ThingsPage::removeThing);
    connect(kind, &QComboBox::currentIndexChanged, this, [this](int index) {
        m_table->setKind(static_cast<job::SurveyKind>(index));
        fitColumns(m_tableView);
    });
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
