#include "desktop/route/element_editor.h"

#include "catalog/refit.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "quantity/format.h"
#include "quantity/parse.h"

#include <QComboBox>
#include <QFormLayout>
#include <QLineEdit>
#include <QSignalBlocker>

namespace metrodos::desktop {
namespace {

using house::ElementKind;

QString choiceTitle(ElementKind kind) {
    switch (kind) {
    case ElementKind::port:
        return ElementEditor::tr("&Rate");
    case ElementKind::cable:
        return ElementEditor::tr("&Category");
    case ElementKind::bus:
        return ElementEditor::tr("&Generation");
    case ElementKind::coax:
    case ElementKind::mains:
    case ElementKind::air:
        return ElementEditor::tr("&Situation");
    case ElementKind::storage:
        return ElementEditor::tr("&Disks");
    default:
        return ElementEditor::tr("&Class");
    }
}

} // namespace

ElementEditor::ElementEditor(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_form(new QFormLayout(this)) {
    m_form->setContentsMargins(0, 0, 0, 0);
    m_form->setRowWrapPolicy(QFormLayout::WrapAllRows);
    m_form->setVerticalSpacing(3);
    connect(&m_model, &RouteModel::selectionChanged, this, [this] {
        const auto* e = m_model.selected();
        // A field in use is not torn down by the change that it made.
        if (e != nullptr && e->element.id == m_shown && !m_model.showsWay())
            refresh();
        else
            rebuild();
    });
}

void ElementEditor::rebuild() {
    while (m_form->rowCount() > 0)
        m_form->removeRow(0);
    m_shown.clear();
    const auto* e = m_model.selected();
    if (e == nullptr || m_model.showsWay()) return; // a way is looked at, not edited
    m_shown = e->element.id;
    addLabelField(e->element);
    addChoice(e->element);
    if (const house::Connection* c = m_model.job().house().connection(e->element.connection);
        c != nullptr && c->medium == house::Medium::data_cable)
        addCableFields(*c);
    if (e->element.kind == ElementKind::host) addAddress(e->element);
}

// The values as the house has them now, after an edit, an undo or a redo.
void ElementEditor::refresh() {
    const auto* e = m_model.selected();
    const house::House& house = m_model.job().house();
    const auto set = [this](const char* name, const QString& text) {
        if (auto* field = findChild<QLineEdit*>(QLatin1String(name)); field != nullptr && !field->hasFocus())
            field->setText(text);
    };
    if (const house::Connection* c = house.connection(e->element.connection)) {
        set("label", QString::fromStdString(c->label));
        set("length", c->length ? QString::fromStdString(quantity::plain(*c->length)) : QString());
        if (auto* pairs = findChild<QComboBox*>(QStringLiteral("pairs"))) {
            const QSignalBlocker quiet(pairs);
            pairs->setCurrentIndex(pairs->findData(c->goodPairs.value_or(-1)));
        }
    } else if (const house::Device* d = house.device(e->element.device)) {
        const house::Port* port = house.port({e->element.device, e->element.port});
        set("label", QString::fromStdString(port != nullptr ? port->label : d->label));
    }
    if (auto* choice = findChild<QComboBox*>(QStringLiteral("choice"))) {
        const QSignalBlocker quiet(choice);
        choice->setCurrentIndex(
            choice->findData(QString::fromStdString(catalog::choiceOf(house, e->element))));
    }
}

void ElementEditor::addLabelField(const house::Element& element) {
    const house::House& house = m_model.job().house();
    std::string label;
    if (const house::Connection* c = house.connection(element.connection))
        label = c->label;
    else if (const house::Port* port = house.port({element.device, element.port}))
        label = port->label;
    else if (const house::Device* d = house.device(element.device))
        label = d->label;
    else
        label = element.label;
    auto* field = new QLineEdit(QString::fromStdString(label), this);
    field->setObjectName(QStringLiteral("label"));
    field->setMaxLength(60);
    field->setEnabled(element.kind != ElementKind::service);
    m_form->addRow(labelFor(field, tr("&Name")), field);
    connect(field, &QLineEdit::editingFinished, this, [this, field, element] {
        house::House next = m_model.job().house();
        const std::string text = field->text().toStdString();
        if (house::Connection* c = next.connection(element.connection))
            c->label = text;
        else if (house::Port* port = next.port({element.device, element.port}))
            port->label = text;
        else if (house::Device* d = next.device(element.device))
            d->label = text;
        m_model.job().apply(tr("rename"), next);
    });
}

void ElementEditor::addChoice(const house::Element& element) {
    if (element.kind == ElementKind::service) return; // its rates stand in Walk
    auto* box = new QComboBox(this);
    box->setObjectName(QStringLiteral("choice"));
    for (const catalog::Choice& choice :
         catalog::choicesFor(m_model.job().house(), m_model.job().catalog(), element))
        box->addItem(QString::fromStdString(choice.label), QString::fromStdString(choice.id));
    box->setCurrentIndex(
        box->findData(QString::fromStdString(catalog::choiceOf(m_model.job().house(), element))));
    m_form->addRow(labelFor(box, choiceTitle(element.kind)), box);
    connect(box, &QComboBox::currentIndexChanged, this, [this, box, element] {
        m_model.job().apply(tr("change %1").arg(QString::fromStdString(element.label)),
                            catalog::withChoice(m_model.job().house(), m_model.job().catalog(), element,
                                                box->currentData().toString().toStdString()));
    });
}

void ElementEditor::addCableFields(const house::Connection& cable) {
    auto* length = new QLineEdit(
        cable.length ? QString::fromStdString(quantity::plain(*cable.length)) : QString(), this);
    length->setObjectName(QStringLiteral("length"));
    length->setPlaceholderText(tr("unknown; 23 m or 75 ft"));
    m_form->addRow(labelFor(length, tr("&Length")), length);
    connect(length, &QLineEdit::editingFinished, this, [this, length, id = cable.id] {
        house::House next = m_model.job().house();
        house::Connection* c = next.connection(id);
        if (c == nullptr) return;
        if (length->text().trimmed().isEmpty()) {
            c->length.reset();
        } else {
            const auto parsed = quantity::parseLength(length->text().toStdString());
            if (!parsed) {
                m_model.job().apply({}, tl::unexpected(parsed.error()));
                return;
            }
            c->length = *parsed;
        }
        m_model.job().apply(tr("change length"), next);
    });
    auto* pairs = new QComboBox(this);
    pairs->setObjectName(QStringLiteral("pairs"));
    pairs->addItem(tr("not measured"), -1);
    for (int n = 4; n >= 0; --n)
        pairs->addItem(tr("%1 of 4 sound").arg(n), n);
    pairs->setCurrentIndex(pairs->findData(cable.goodPairs.value_or(-1)));
    m_form->addRow(labelFor(pairs, tr("&Pairs")), pairs);
    connect(pairs, &QComboBox::currentIndexChanged, this, [this, pairs, id = cable.id] {
        house::House next = m_model.job().house();
        house::Connection* c = next.connection(id);
        if (c == nullptr) return;
        const int n = pairs->currentData().toInt();
        c->goodPairs = n < 0 ? std::nullopt : std::optional(n);
        m_model.job().apply(tr("change pairs"), next);
    });
}

void ElementEditor::addAddress(const house::Element& element) {
    for (const house::Endpoint& endpoint : m_model.job().house().endpoints) {
        if (endpoint.device != element.device) continue;
        auto* field = new QLineEdit(QString::fromStdString(endpoint.address), this);
        field->setObjectName(QStringLiteral("address"));
        field->setPlaceholderText(tr("here, or host:port"));
        m_form->addRow(labelFor(field, tr("&Agent")), field);
        connect(field, &QLineEdit::editingFinished, this, [this, field, id = endpoint.id] {
            house::House next = m_model.job().house();
            for (house::Endpoint& e : next.endpoints)
                if (e.id == id) e.address = field->text().trimmed().toStdString();
            m_model.job().apply(tr("change address"), next);
        });
        return;
    }
}

} // namespace metrodos::desktop
