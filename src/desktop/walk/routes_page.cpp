#include "desktop/walk/routes_page.h"

#include "desktop/walk/survey_cells.h"
#include "desktop/walk/survey_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/tool_button.h"
#include "house/propose.h"
#include "house/remove.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QListWidget>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {

RoutesPage::RoutesPage(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_table(new SurveyTableModel(model.job(), this))
    , m_from(new QComboBox)
    , m_to(new QComboBox) {
    m_table->setKind(job::SurveyKind::routes);
    m_from->setObjectName(QStringLiteral("route-from"));
    m_to->setObjectName(QStringLiteral("route-to"));
    auto* add = tool(QStringLiteral("add-route"), tr("Add the route"), tr("Adds a route between the two"));
    auto* service = tool(QStringLiteral("route-to-service"), tr("To the &service"),
                         tr("Adds a route from the machine on the left to the service"));
    auto* remove =
        tool(QStringLiteral("remove-route"), tr("Remove"), tr("Removes the chosen route (Delete)"));
    auto* head = new QHBoxLayout;
    head->addWidget(labelFor(m_from, tr("&From")));
    head->addWidget(m_from, 1);
    head->addWidget(labelFor(m_to, tr("t&o")));
    head->addWidget(m_to, 1);
    head->addWidget(add);
    head->addWidget(service);
    head->addStretch(1);
    head->addWidget(remove);
    m_routes = surveyView(m_table, QStringLiteral("routes"), tr("Routes of the job"));
    m_routes->installEventFilter(this);
    m_heading = plainLabel();
    m_heading->setFont(textFont(11, true));
    m_heading->setWordWrap(true);
    m_proposed = new QListWidget;
    m_proposed->setObjectName(QStringLiteral("proposed"));
    m_proposed->setAccessibleName(tr("Routes that the survey asks for"));
    m_proposed->installEventFilter(this);
    auto* all =
        tool(QStringLiteral("add-proposed"), tr("Add &all of them"), tr("Adds every route of the list"));
    auto* below = new QHBoxLayout;
    below->addWidget(m_heading, 1);
    below->addWidget(all);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 0);
    layout->addLayout(head);
    layout->addWidget(m_routes, 3);
    layout->addLayout(below);
    layout->addWidget(m_proposed, 2);
    connect(add, &QToolButton::clicked, this, [this] {
        this->add(m_from->currentData().toString().toStdString(),
                  m_to->currentData().toString().toStdString());
    });
    connect(service, &QToolButton::clicked, this, [this] {
        toService(m_model.job().house().deviceAt(m_from->currentData().toString().toStdString()));
    });
    connect(remove, &QToolButton::clicked, this, &RoutesPage::removeRoute);
    connect(all, &QToolButton::clicked, this, &RoutesPage::addAll);
    connect(m_proposed, &QListWidget::itemDoubleClicked, this,
            [this](QListWidgetItem* item) { addProposed(m_proposed->row(item)); });
    connect(m_routes->selectionModel(), &QItemSelectionModel::currentRowChanged, this,
            &RoutesPage::showChosen);
    connect(&m_model.job(), &JobModel::changed, this, &RoutesPage::fill);
    fill();
}

void RoutesPage::fill() {
    const house::House& house = m_model.job().house();
    for (QComboBox* box : {m_from, m_to}) {
        const QSignalBlocker quiet(box);
        const QVariant now = box->currentData();
        box->clear();
        for (const house::Endpoint& e : house.endpoints)
            box->addItem(QString::fromStdString(e.label), QString::fromStdString(e.id));
        if (house.service && box == m_to)
            box->addItem(QString::fromStdString(house.service->label),
                         QString::fromStdString(house.service->id));
        const int at = box->findData(now);
        box->setCurrentIndex(at >= 0 ? at : std::min(box == m_to ? 1 : 0, box->count() - 1));
    }
    findChild<QToolButton*>(QStringLiteral("route-to-service"))->setEnabled(house.service.has_value());
    m_offers = house::proposedRoutes(house);
    const int before = m_proposed->currentRow();
    m_proposed->clear();
    for (const house::Route& route : m_offers) {
        QStringList needs;
        if (route.needForward) needs << tr("%1 there").arg(rateText(*route.needForward));
        if (route.needBackward) needs << tr("%1 back").arg(rateText(*route.needBackward));
        m_proposed->addItem(
            QString::fromStdString(route.label) +
            (needs.isEmpty() ? QString() : tr(", needs %1").arg(needs.join(QStringLiteral(", ")))));
    }
    m_proposed->setCurrentRow(std::min(std::max(before, 0), m_proposed->count() - 1));
    m_heading->setText(!m_offers.empty() ? tr("The survey asks for these as well. Enter adds one:")
                       : house.endpoints.empty()
                           ? tr("There is no machine in the survey yet: enter one like “Hall / laptop”.")
                       : !house.routes.empty()
                           ? tr("Every machine that is joined has its routes.")
                           : tr("Nothing joins two machines yet, nor one with the service: enter the "
                                "cables between them, like “cable / A / B”."));
    m_proposed->setVisible(!m_offers.empty());
    findChild<QToolButton*>(QStringLiteral("add-proposed"))->setVisible(m_offers.size() > 1);
}

void RoutesPage::add(const house::Id& from, const house::Id& to) {
    house::House next = m_model.job().house();
    if (from.empty() || to.empty()) {
        Q_EMIT said(tr("Choose the two ends first."), true);
        return;
    }
    const auto existing = std::find_if(next.routes.begin(), next.routes.end(), [&](const house::Route& r) {
        return (r.from == from && r.to == to) || (r.from == to && r.to == from);
    });
    if (existing != next.routes.end()) {
        m_model.setRoute(existing->id);
        Q_EMIT said(tr("“%1” is a route of the job already.").arg(QString::fromStdString(existing->label)),
                    false);
        return;
    }
    if (next.deviceAt(from) == next.deviceAt(to)) {
        Q_EMIT said(tr("Both ends are the same machine; choose another for one of them."), true);
        return;
    }
    const house::Route route = house::routeBetween(next, from, to);
    next.routes.push_back(route);
    const QString label = QString::fromStdString(route.label);
    m_model.job().apply(tr("add route %1").arg(label), next);
    m_model.setRoute(route.id);
    Q_EMIT said(tr("“%1” is a route now; Measure runs over it.").arg(label), false);
}

void RoutesPage::toService(const house::Id& machine) {
    const house::House& house = m_model.job().house();
    const auto end = std::find_if(house.endpoints.begin(), house.endpoints.end(),
                                  [&](const house::Endpoint& e) { return e.device == machine; });
    if (!house.service)
        Q_EMIT said(tr("No service is surveyed yet: enter it like “service / 500M down / 50M up”."), true);
    else if (end == house.endpoints.end())
        Q_EMIT said(tr("Choose a machine first; only a machine can run."), true);
    else
        add(end->id, house.service->id);
}

void RoutesPage::addProposed(int row) {
    if (row < 0 || row >= static_cast<int>(m_offers.size())) return;
    const house::Route route = m_offers[static_cast<std::size_t>(row)];
    add(route.from, route.to);
}

void RoutesPage::addAll() {
    house::House next = m_model.job().house();
    if (m_offers.empty()) return;
    const house::Id first = m_offers.front().id;
    const auto count = static_cast<int>(m_offers.size());
    next.routes.insert(next.routes.end(), m_offers.begin(), m_offers.end());
    const bool hadNone = m_model.route() == nullptr;
    m_model.job().apply(tr("add %n route(s)", nullptr, count), next);
    if (hadNone) m_model.setRoute(first);
    Q_EMIT said(tr("%n route(s) added.", nullptr, count), false);
}

void RoutesPage::removeRoute() {
    const int row = m_routes->currentIndex().row();
    const house::Id id = m_table->idOf(row);
    if (id.empty()) {
        Q_EMIT said(tr("Choose a route in the table first."), true);
        return;
    }
    m_model.job().apply(tr("remove route %1").arg(m_table->index(row, 0).data().toString()),
                        house::without(m_model.job().house(), id));
}

// The route of the row is the one in the strip.
void RoutesPage::showChosen() {
    const house::Id id = m_table->idOf(m_routes->currentIndex().row());
    if (!id.empty() && (m_model.route() == nullptr || m_model.route()->id != id)) m_model.setRoute(id);
}

bool RoutesPage::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = dynamic_cast<QKeyEvent*>(event)->key();
        if (watched == m_proposed && (key == Qt::Key_Return || key == Qt::Key_Enter)) {
            addProposed(m_proposed->currentRow());
            return true;
        }
        if (watched == m_routes && key == Qt::Key_Delete) {
            removeRoute();
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace metrodos::desktop
