#include "desktop/route/element_sheet.h"

#include "catalog/refit.h"
#include "desktop/route/element_editor.h"
#include "desktop/widgets/marks.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "fit/cautions.h"
#include "weigh/compare.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

using house::ElementKind;

QString watchFor(ElementKind kind) {
    switch (kind) {
    case ElementKind::port:
        return ElementSheet::tr(
            "Read the negotiated rate before any run: both ports and the cable must agree on it.");
    case ElementKind::cable:
        return ElementSheet::tr("Above 100 Mbit/s all four pairs must carry. Keep it away from mains; "
                                "between buildings use fibre, for lightning and earth potential.");
    case ElementKind::coax:
        return ElementSheet::tr("Entry filter at the point of entry, unused ports terminated, bonding to "
                                "earth left as it is. Satellite on the same coax rules it out.");
    case ElementKind::mains:
        return ElementSheet::tr("Straight into the wall, never on a surge-protected strip. Behind the plate "
                                "is a licensed electrician's work.");
    case ElementKind::air:
        return ElementSheet::tr("Shared with every station on the channel, the neighbours' too; its rate "
                                "changes from second to second.");
    case ElementKind::adapter:
        return ElementSheet::tr(
            "Pair it at once and see that the network is private. It needs air around it.");
    case ElementKind::bus:
        return ElementSheet::tr("Sockets of one machine differ: try another before buying anything.");
    case ElementKind::host:
        return ElementSheet::tr("Turn radio off for the run, or the bytes may go that way. A full core "
                                "limits before the wire does.");
    case ElementKind::network_switch:
    case ElementKind::router:
        return ElementSheet::tr("Often only some of its ports are fast: mind which is used.");
    case ElementKind::service:
        return ElementSheet::tr("Test the service by itself, next to its box, at a quiet hour.");
    case ElementKind::storage:
        return ElementSheet::tr("Copy one large file: many small ones are an order of magnitude slower.");
    }
    return {};
}

QToolButton* button(const QString& iconName, const QString& text, const QString& tip) {
    auto* b = new QToolButton;
    showIcon(b, iconName);
    b->setText(text);
    b->setToolTip(tip);
    b->setAccessibleName(tip);
    b->setToolButtonStyle(text.isEmpty() ? Qt::ToolButtonIconOnly : Qt::ToolButtonTextBesideIcon);
    return b;
}

QLabel* heading(const QString& text) {
    auto* label = plainLabel(text);
    label->setFont(textFont(10, true));
    return label;
}

} // namespace

ElementSheet::ElementSheet(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 8, 8, 8);
    m_empty =
        plainLabel(tr("Choose an element of the route: click it in the strip, or press ← and → there."));
    m_empty->setWordWrap(true);
    m_empty->setObjectName(QStringLiteral("quiet"));
    outer->addWidget(m_empty);

    m_body = new QWidget;
    auto* body = new QVBoxLayout(m_body);
    body->setContentsMargins(0, 0, 6, 0);
    body->setSpacing(6);
    m_kind = plainLabel();
    m_kind->setObjectName(QStringLiteral("quiet"));
    m_ceiling = plainLabel();
    m_ceiling->setFont(figureFont(13, true));
    m_ceiling->setWordWrap(true);
    m_ceiling->setObjectName(QStringLiteral("ceiling"));
    m_share = plainLabel();
    m_share->setWordWrap(true);
    m_tools = new QWidget;
    auto* tools = new QHBoxLayout(m_tools);
    tools->setContentsMargins(0, 0, 0, 0);
    m_insert =
        button(QStringLiteral("plus"), tr("Add"), tr("Put a box or a pair of adapters behind it (Insert)"));
    m_insert->setObjectName(QStringLiteral("insert"));
    m_insertMenu = new QMenu(this);
    m_insert->setMenu(m_insertMenu);
    m_insert->setPopupMode(QToolButton::InstantPopup);
    auto* remove = button(QStringLiteral("trash-2"), {}, tr("Take the box out of the route (Delete)"));
    auto* left = button(QStringLiteral("arrow-left"), {}, tr("Move the box one place back (Alt+←)"));
    auto* right = button(QStringLiteral("arrow-right"), {}, tr("Move the box one place on (Alt+→)"));
    for (QToolButton* b : {m_insert, left, right, remove})
        tools->addWidget(b);
    tools->addStretch();
    m_arithmetic = plainLabel();
    m_arithmetic->setWordWrap(true);
    m_arithmetic->setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_source = plainLabel();
    m_source->setWordWrap(true);
    QFont slanted = m_source->font();
    slanted.setItalic(true);
    m_source->setFont(slanted);
    m_price = plainLabel();
    m_price->setObjectName(QStringLiteral("price"));
    m_price->setWordWrap(true);
    m_watch = plainLabel();
    m_watch->setWordWrap(true);
    body->addWidget(m_kind);
    body->addWidget(m_ceiling);
    body->addWidget(m_share);
    body->addWidget(new ElementEditor(model));
    body->addWidget(m_tools);
    body->addWidget(heading(tr("How the ceiling is worked out")));
    body->addWidget(m_arithmetic);
    body->addWidget(m_source);
    body->addWidget(m_price);
    body->addWidget(heading(tr("Watch for")));
    body->addWidget(m_watch);
    body->addStretch();
    auto* scroll = new QScrollArea;
    scroll->setWidget(m_body);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setWide(true);
    outer->addWidget(scroll, 1);

    connect(remove, &QToolButton::clicked, this, &ElementSheet::removeSelected);
    connect(left, &QToolButton::clicked, this, [this] { moveSelected(-1); });
    connect(right, &QToolButton::clicked, this, [this] { moveSelected(1); });
    connect(m_insertMenu, &QMenu::aboutToShow, this, &ElementSheet::fillInsertMenu);
    connect(&m_model, &RouteModel::selectionChanged, this, &ElementSheet::showElement);
    connect(&m_model, &RouteModel::diagnosed, this, &ElementSheet::showShare);
    showElement();
}

void ElementSheet::setWide(bool wide) {
    const int width = wide ? 300 : 250;
    setFixedWidth(width);
    m_body->setMaximumWidth(width - 26); // beside the scroll bar
}

// The colour of the share is set by hand; the rest follows the scheme by itself.
void ElementSheet::changeEvent(QEvent* event) {
    QWidget::changeEvent(event);
    if (event->type() == QEvent::PaletteChange) showShare();
}

void ElementSheet::showShare() {
    const auto* e = m_model.selected();
    if (e == nullptr) return;
    double share = 0;
    if (const auto& d = m_model.diagnosis())
        for (const auto& suspect : d->suspects)
            if (suspect.element == e->element.id) share = suspect.probability;
    m_share->setText(share > 0.005 ? tr("Limits the route: %1").arg(percentText(share))
                                   : tr("Does not limit this route"));
    m_share->setStyleSheet(
        share > 0.15 ? QStringLiteral("color: %1; font-weight: bold").arg(theme().warm.name()) : QString());
}

void ElementSheet::showElement() {
    const auto* e = m_model.selected();
    m_body->setVisible(e != nullptr);
    m_empty->setVisible(e == nullptr);
    if (e == nullptr) return;
    m_tools->setVisible(!m_model.showsWay());
    m_kind->setText(kindText(e->element.kind) + QStringLiteral(" · ") +
                    QString::fromStdString(e->element.label));
    m_kind->setWordWrap(true);
    m_ceiling->setText(rangeText(e->forward) + QLatin1Char('\n') + byteText(e->forward.p50));
    showShare();
    QStringList lines;
    for (const std::string& line : e->ceiling.arithmetic)
        lines << QString::fromStdString(line);
    m_arithmetic->setText(lines.join(QLatin1Char('\n')));
    m_source->setText(tr("Source: %1").arg(QString::fromStdString(e->ceiling.source)));
    m_price->setText(priceText(*e));
    m_price->setVisible(!m_price->text().isEmpty());
    QStringList watch{watchFor(e->element.kind)};
    const house::Id where = e->element.connection.empty() ? e->element.device : e->element.connection;
    for (const fit::Caution& caution : fit::cautionsAt(m_model.shownHouse(), where))
        watch << tr("%1 Because %2.")
                     .arg(QString::fromStdString(caution.what), QString::fromStdString(caution.why));
    m_watch->setText(watch.join(QLatin1Char('\n')));
}

QString ElementSheet::priceText(const capacity::ElementPrediction& e) const {
    const weigh::Prices prices(m_model.job().catalog(), m_model.job().priceBook());
    const auto amount = [&](quantity::Money money) {
        return QString::fromStdString(weigh::amount(prices, money));
    };
    if (const house::Connection* c = m_model.shownHouse().connection(e.element.connection); c != nullptr) {
        const catalog::CableCategory* cable = m_model.job().catalog().cable(c->cableClass);
        if (cable == nullptr || !c->length) return {};
        return tr("Guide price: %1 a metre, %2 for this run.")
            .arg(amount(cable->pricePerMetre), amount(cable->pricePerMetre * c->length->inMetres()));
    }
    if (e.element.kind == ElementKind::port) return {};
    const house::Device* device = m_model.shownHouse().device(e.element.device);
    const catalog::DeviceClass* box =
        device != nullptr ? m_model.job().catalog().device(device->deviceClass) : nullptr;
    return box != nullptr ? tr("Guide price: %1 each.").arg(amount(box->price)) : QString();
}

void ElementSheet::removeSelected() {
    const auto* e = m_model.selected();
    const house::Route* route = m_model.route();
    if (e == nullptr || route == nullptr) return;
    const house::Id id = e->element.connection.empty() ? e->element.device : e->element.connection;
    m_model.job().apply(tr("remove %1").arg(QString::fromStdString(e->element.label)),
                        house::removeUnit(m_model.job().house(), *route, id));
}

void ElementSheet::moveSelected(int step) {
    const auto* e = m_model.selected();
    const house::Route* route = m_model.route();
    if (e == nullptr || route == nullptr) return;
    const house::Id id = e->element.connection.empty() ? e->element.device : e->element.connection;
    m_model.job().apply(tr("move %1").arg(QString::fromStdString(e->element.label)),
                        house::moveUnit(m_model.job().house(), *route, id, step));
}

void ElementSheet::offerInsert() {
    if (m_insert->isVisible()) m_insert->showMenu();
}

void ElementSheet::fillInsertMenu() {
    m_insertMenu->clear();
    const auto* e = m_model.selected();
    const house::Route* route = m_model.route();
    const auto& prediction = m_model.prediction();
    if (e == nullptr || route == nullptr || !prediction) return;
    // The cable chosen, or the first one behind what is chosen, or else the last before it.
    house::Id cable;
    bool passed = false;
    for (const auto& other : prediction->elements) {
        if (&other == e) passed = true;
        if (other.element.kind != ElementKind::cable) continue;
        if (passed || cable.empty()) cable = other.element.connection;
        if (passed) break;
        cable = other.element.connection;
    }
    for (const house::NewUnit& unit : catalog::newUnits(m_model.job().catalog())) {
        QString name = QString::fromStdString(unit.label);
        if (unit.crossing) name = tr("pair: %1").arg(name);
        connect(m_insertMenu->addAction(name), &QAction::triggered, this, [this, cable, unit, name] {
            if (const house::Route* now = m_model.route())
                m_model.job().apply(tr("add %1").arg(name),
                                    house::insertUnit(m_model.job().house(), *now, cable, unit));
        });
    }
}

} // namespace metrodos::desktop
