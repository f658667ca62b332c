#include "desktop/walk/thing_panel.h"

#include "desktop/walk/survey_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/tool_button.h"
#include "fit/cautions.h"
#include "house/remove.h"

#include <QApplication>
#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

using job::SurveyKind;

// The kinds of things that stand in the section.
constexpr std::array kinds{SurveyKind::rooms,  SurveyKind::jacks,    SurveyKind::coax_parts,
                           SurveyKind::panels, SurveyKind::circuits, SurveyKind::appliances,
                           SurveyKind::devices};

struct Row {
    SurveyTableModel* table;
    int row;
};

// The table that the thing is a row of; its owner is `parent`.
std::optional<Row> rowOf(JobModel& model, const house::Id& thing, QObject* parent) {
    for (const SurveyKind kind : kinds) {
        auto* table = new SurveyTableModel(model, parent);
        table->setKind(kind);
        for (int row = 0; row < table->rowCount(); ++row)
            if (table->idOf(row) == thing) return Row{table, row};
        delete table;
    }
    return std::nullopt;
}

} // namespace

ThingPanel::ThingPanel(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    setObjectName(QStringLiteral("thing-panel"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(8, 0, 0, 0);
    auto* head = new QHBoxLayout;
    m_title = plainLabel();
    m_title->setObjectName(QStringLiteral("thing-title"));
    m_title->setFont(textFont(11, true));
    m_title->setWordWrap(true);
    auto* close = tool(QStringLiteral("close-thing"), tr("Close"), tr("Close (Escape)"));
    head->addWidget(m_title, 1);
    head->addWidget(close);
    layout->addLayout(head);
    auto* scroll = new QScrollArea;
    scroll->setObjectName(QStringLiteral("thing-scroll"));
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    layout->addWidget(scroll, 1);
    m_service = tool(QStringLiteral("to-service"), tr("To the &service"),
                     tr("Makes a route from this machine to the service, and shows it (S in the section)"));
    m_remove = tool(QStringLiteral("remove-chosen"), tr("Remove"), tr("Takes it out of the survey"));
    auto* tools = new QHBoxLayout;
    tools->addWidget(m_service);
    tools->addStretch();
    tools->addWidget(m_remove);
    layout->addLayout(tools);
    connect(close, &QToolButton::clicked, this, &ThingPanel::closeAsked);
    connect(m_remove, &QToolButton::clicked, this, &ThingPanel::remove);
    connect(m_service, &QToolButton::clicked, this,
            [this] { Q_EMIT serviceAsked(QString::fromStdString(m_thing)); });
    // Behind the editor of the field that made the change.
    connect(&m_model, &JobModel::changed, this, &ThingPanel::fill, Qt::QueuedConnection);
}

void ThingPanel::setThing(const house::Id& id) {
    if (id == m_thing) return;
    m_thing = id;
    fill();
}

bool ThingPanel::canReachService() const {
    const house::House& house = m_model.house();
    return house.service && std::any_of(house.endpoints.begin(), house.endpoints.end(),
                                        [&](const auto& e) { return e.device == m_thing; });
}

void ThingPanel::fill() {
    // The field that has the keyboard has it again afterwards.
    const QWidget* focus = QApplication::focusWidget();
    const QString focused = focus != nullptr && isAncestorOf(focus) ? focus->objectName() : QString();
    auto* scroll = findChild<QScrollArea*>(QStringLiteral("thing-scroll"));
    m_body = new QWidget;
    m_form = new QFormLayout(m_body);
    m_form->setContentsMargins(0, 4, 8, 4);
    m_form->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    m_form->setRowWrapPolicy(QFormLayout::WrapLongRows);
    const auto found = rowOf(m_model, m_thing, m_body);
    m_title->setText(found ? found->table->index(found->row, 0).data().toString() : QString());
    m_service->setVisible(canReachService());
    m_remove->setVisible(found.has_value());
    if (found) {
        addFields(found->table, found->row, {});
        auto* ports = new SurveyTableModel(m_model, m_body);
        ports->setKind(SurveyKind::ports);
        int row = 0;
        for (const house::Device& d : m_model.house().devices)
            for (const house::Port& p : d.ports) {
                if (d.id == m_thing) addFields(ports, row, QString::fromStdString(p.label));
                ++row;
            }
        for (const QString& line : joined()) {
            auto* label = plainLabel(line);
            label->setWordWrap(true);
            m_form->addRow(label);
        }
        for (const fit::Caution& caution : fit::cautionsAt(m_model.house(), m_thing)) {
            auto* label = plainLabel(
                tr("Caution: %1 (%2)")
                    .arg(QString::fromStdString(caution.what), QString::fromStdString(caution.why)));
            label->setWordWrap(true);
            m_form->addRow(label);
        }
    }
    scroll->setWidget(m_body); // and the old one goes
    if (!focused.isEmpty())
        if (auto* again = m_body->findChild<QWidget*>(focused)) again->setFocus();
}

// A field for each column but the ports, which have fields of their own; `title` stands above them.
void ThingPanel::addFields(SurveyTableModel* table, int row, const QString& title) {
    const bool isPort = !title.isNull();
    if (isPort) {
        auto* heading = plainLabel(title);
        heading->setFont(textFont(10, true));
        m_form->addRow(heading);
    }
    for (int column = 0; column < table->columnCount(); ++column) {
        const QPersistentModelIndex at = table->index(row, column);
        const QString name = table->headerData(column, Qt::Horizontal, Qt::DisplayRole).toString();
        const QString text = at.data(Qt::EditRole).toString();
        const bool canChange = (table->flags(at) & Qt::ItemIsEditable) != 0;
        if (!canChange && (isPort || text.isEmpty() || name == tr("Ports"))) continue;
        const QString fieldName = QStringLiteral("field-%1-%2").arg(isPort ? row : -1).arg(column);
        if (!canChange) {
            auto* shown = plainLabel(text);
            shown->setWordWrap(true);
            m_form->addRow(name, shown);
            continue;
        }
        const std::vector<job::Choice> choices = table->choices(at);
        // It cannot have any: there is nothing to choose, or nothing that "none" would stand for.
        const bool hasNone =
            std::any_of(choices.begin(), choices.end(), [](const job::Choice& c) { return c.value.empty(); });
        if (!choices.empty() && text.isEmpty() && (choices.size() == 1 || !hasNone)) continue;
        QWidget* field = nullptr;
        if (choices.empty()) {
            auto* line = new QLineEdit(text);
            connect(line, &QLineEdit::editingFinished, this, [table, at, line] {
                if (at.isValid() && line->isModified()) table->setData(at, line->text(), Qt::EditRole);
                line->setModified(false);
            });
            field = line;
        } else {
            auto* box = new QComboBox;
            box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
            box->setMinimumContentsLength(8);
            for (const job::Choice& choice : choices)
                box->addItem(choice.label.empty() ? QStringLiteral("–")
                                                  : QString::fromStdString(choice.label),
                             QString::fromStdString(choice.value));
            box->setCurrentIndex(std::max(0, box->findText(text)));
            connect(box, &QComboBox::activated, this,
                    [table, at, box] { table->setData(at, box->currentData(), Qt::EditRole); });
            field = box;
        }
        field->setObjectName(fieldName);
        field->setAccessibleName(isPort ? title + QStringLiteral(", ") + name : name);
        m_form->addRow(name, field);
    }
}

// The runs and leads that end at it, each with its other end.
QStringList ThingPanel::joined() const {
    QStringList out;
    const house::House& house = m_model.house();
    for (const house::Connection& c : house.connections)
        for (const house::PortRef& end : c.ends) {
            if (end.device != m_thing || house.room(m_thing) != nullptr) continue;
            QStringList others;
            for (const house::PortRef& other : c.ends)
                if (other != end) others << QString::fromStdString(house.labelOf(other));
            out << tr("%1: to %2")
                       .arg(QString::fromStdString(c.label), others.isEmpty()
                                                                 ? tr("an end not found yet")
                                                                 : others.join(QStringLiteral(", ")));
        }
    return out;
}

void ThingPanel::remove() {
    m_model.apply(tr("remove %1").arg(m_title->text()), house::without(m_model.house(), m_thing));
}

} // namespace metrodos::desktop
