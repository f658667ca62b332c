#include "desktop/fit/addresses_page.h"

#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "house/machine_ports.h"
#include "job/document.h"
#include "job/fitting_csv.h"
#include "job/survey_fields.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QShortcut>
#include <algorithm>
#include <set>

namespace metrodos::desktop {
namespace {

QLabel* heading(const QString& text) {
    auto* out = plainLabel(text);
    out->setFont(textFont(11, true));
    return out;
}

// The endpoint whose machine has this port, by itself or in an adapter.
const house::Endpoint* endpointOf(const house::House& house, const house::PortRef& port) {
    for (const house::Endpoint& e : house.endpoints) {
        const house::Device* machine = house.device(e.device);
        if (machine == nullptr) continue;
        for (const house::MachinePort& p : house::ethernetPorts(house, *machine))
            if (p.port == port) return &e;
    }
    return nullptr;
}

// The address with the port of another one behind it.
std::string withPortOf(const std::string& address, const std::string& before) {
    const std::size_t colon = before.rfind(':');
    const bool hasPort = colon != std::string::npos && colon + 1 < before.size() &&
                         (before.find(':') == colon || before[colon - 1] == ']');
    if (!hasPort) return address;
    const bool isV6 = address.find(':') != std::string::npos;
    return (isV6 ? "[" + address + "]" : address) + before.substr(colon);
}

} // namespace

AddressesPage::AddressesPage(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_networks(plainTable(QStringLiteral("networks"), tr("Networks"),
                            {tr("Network"), tr("Prefix"), tr("Gateway"), tr("Given automatically")},
                            {120, 130, 110}))
    , m_ports(plainTable(QStringLiteral("addresses-list"), tr("Addresses"),
                         {tr("Port"), tr("Address"), tr("Kept by"), tr("Runs")}, {190, 130, 76}))
    , m_clashList(new QListWidget)
    , m_title(plainLabel())
    , m_tests(plainLabel())
    , m_form(new FieldForm(QStringLiteral("address-form"))) {
    setObjectName(QStringLiteral("addresses"));
    m_clashList->setObjectName(QStringLiteral("clashes"));
    m_clashList->setAccessibleName(tr("What clashes; Enter mends it"));
    m_clashList->setWordWrap(true);
    m_clashList->setSpacing(4);
    m_title->setFont(textFont(15, true));
    m_title->setWordWrap(true);
    m_title->setObjectName(QStringLiteral("address-title"));
    m_tests->setWordWrap(true);
    m_tests->setObjectName(QStringLiteral("address-tests"));
    auto* left = new QVBoxLayout;
    left->addWidget(heading(tr("Networks")));
    left->addWidget(m_networks, 2);
    left->addWidget(heading(tr("Addresses")));
    left->addWidget(m_ports, 4);
    auto* buttons = new QHBoxLayout;
    const auto add = [&](const QString& name, const QString& text, const QString& tip,
                         const QKeySequence& key, const std::function<void()>& does) {
        buttons->addWidget(keyButton(this, name, text, tip, key, does));
    };
    add(QStringLiteral("add-network"), tr("Network  (Shift+A)"), tr("A network more"), Qt::SHIFT | Qt::Key_A,
        [this] { addNetwork(); });
    add(QStringLiteral("add-address"), tr("Address  (A)"), tr("An address for a port"), Qt::Key_A,
        [this] { addPort(); });
    add(QStringLiteral("look-around"), tr("Look around  (L)"),
        tr("Takes over what this computer sees: its addresses, its gateway, its neighbours"), Qt::Key_L,
        [this] { look(); });
    add(QStringLiteral("test-port"), tr("Test this port  (P)"),
        tr("Runs to the machine go to the chosen address, and so to its port"), Qt::Key_P,
        [this] { testPort(); });
    add(QStringLiteral("export-addresses"), tr("Export…  (X)"),
        tr("Table, hosts file or reservations for a router"), Qt::Key_X, [this] { askExport(); });
    buttons->addStretch();
    auto* right = new QVBoxLayout;
    right->addWidget(m_title);
    right->addWidget(m_form);
    right->addWidget(m_tests);
    right->addSpacing(6);
    right->addWidget(heading(tr("What clashes (Enter mends it)")));
    right->addWidget(m_clashList, 1);
    auto* row = new QHBoxLayout;
    row->setSpacing(16);
    row->addLayout(left, 5);
    row->addLayout(right, 4);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 10, 6);
    layout->addLayout(row, 1);
    layout->addLayout(buttons);
    auto* del = new QShortcut(Qt::Key_Delete, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
    connect(del, &QShortcut::activated, this, &AddressesPage::remove);
    connect(m_form, &FieldForm::said, this, &AddressesPage::said);
    connect(m_networks, &QTableWidget::currentCellChanged, this, [this](int at) {
        m_chosen = {at < 0 ? Of::none : Of::network, static_cast<std::size_t>(std::max(at, 0))};
        showForm();
    });
    connect(m_ports, &QTableWidget::currentCellChanged, this, [this](int at) {
        const auto count = m_job.house().addressing.ports.size();
        const auto index = static_cast<std::size_t>(std::max(at, 0));
        m_chosen = at < 0          ? Chosen{}
                   : index < count ? Chosen{Of::port, index}
                                   : Chosen{Of::seen, index - count};
        showForm();
    });
    connect(m_ports, &QTableWidget::cellActivated, this, [this] {
        if (m_chosen.of != Of::seen || m_chosen.index >= m_seen.size()) return;
        const probe::SeenAddress seen = m_seen[m_chosen.index];
        addPort(seen.address.text(), seen.hardware);
    });
    connect(m_clashList, &QListWidget::itemActivated, this, [this] { mend(m_clashList->currentRow()); });
    connect(&m_job, &JobModel::changed, this, &AddressesPage::refresh);
    connect(&m_job, &JobModel::opened, this, [this] {
        m_seen.clear();
        m_chosen = {};
        refresh();
    });
}

void AddressesPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) refresh();
}

void AddressesPage::refresh() {
    m_isStale = !isVisible();
    if (m_isStale) return;
    m_clashes = house::clashesOf(m_job.house());
    fillNetworks();
    fillPorts();
    fillClashes();
    showForm();
}

void AddressesPage::fillNetworks() {
    const auto& networks = m_job.house().addressing.networks;
    const QSignalBlocker quiet(m_networks);
    m_networks->setRowCount(static_cast<int>(networks.size()));
    for (int row = 0; row < m_networks->rowCount(); ++row) {
        const house::Network& n = networks[static_cast<std::size_t>(row)];
        m_networks->setItem(row, 0, plainCell(QString::fromStdString(n.label)));
        m_networks->setItem(row, 1, plainCell(QString::fromStdString(n.prefix)));
        m_networks->setItem(row, 2, plainCell(QString::fromStdString(n.gateway)));
        m_networks->setItem(row, 3,
                            plainCell(n.poolFrom.empty() ? tr("none")
                                                         : tr("%1 to %2")
                                                               .arg(QString::fromStdString(n.poolFrom),
                                                                    QString::fromStdString(n.poolTo))));
    }
    if (m_chosen.of == Of::network) m_networks->setCurrentCell(static_cast<int>(m_chosen.index), 0);
}

void AddressesPage::fillPorts() {
    const house::House& house = m_job.house();
    const auto& ports = house.addressing.ports;
    std::set<house::Id> clashing;
    for (const house::Clash& c : m_clashes)
        clashing.insert(c.address);
    const QSignalBlocker quiet(m_ports);
    m_ports->setRowCount(static_cast<int>(ports.size() + m_seen.size()));
    int row = 0;
    for (const house::PortAddress& p : ports) {
        const house::Endpoint* e = endpointOf(house, {p.device, p.port});
        const bool isTested =
            e != nullptr && house::portAt(house, e->address) == house::PortRef{p.device, p.port};
        m_ports->setItem(row, 0, plainCell(QString::fromStdString(house.labelOf({p.device, p.port}))));
        m_ports->setItem(row, 1,
                         plainCell((clashing.contains(p.id) ? QStringLiteral("✗ ") : QString()) +
                                   QString::fromStdString(p.address)));
        m_ports->setItem(row, 2,
                         plainCell(p.kind == house::AddressKind::fixed ? tr("fixed") : tr("reserved")));
        m_ports->setItem(row++, 3, plainCell(isTested ? tr("go here") : QString()));
    }
    for (const probe::SeenAddress& s : m_seen) {
        auto* what = plainCell(tr("seen: %1. Whose? (Enter)").arg(QString::fromStdString(s.where)));
        what->setForeground(theme().quiet);
        m_ports->setItem(row, 0, what);
        m_ports->setItem(row, 1, plainCell(QString::fromStdString(s.address.text())));
        m_ports->setItem(row, 2, plainCell({}));
        m_ports->setItem(row++, 3, plainCell({}));
    }
    if (m_chosen.of == Of::port) m_ports->setCurrentCell(static_cast<int>(m_chosen.index), 0);
}

void AddressesPage::fillClashes() {
    m_clashList->clear();
    for (const house::Clash& c : m_clashes)
        m_clashList->addItem(tr("%1%2\nMend: %3")
                                 .arg(c.mended ? QString() : tr("By hand: "), capitalised(c.what),
                                      QString::fromStdString(c.mend)));
    if (m_clashes.empty())
        m_clashList->addItem(
            m_job.house().addressing.ports.empty()
                ? tr("No addresses are planned yet. Shift+A adds a network, A an address, L takes over "
                     "what this computer sees.")
                : tr("Nothing: each address is once, in its network, none that is fixed in the "
                     "automatic pool."));
}

const house::PortAddress* AddressesPage::port() const {
    const auto& ports = m_job.house().addressing.ports;
    return m_chosen.of == Of::port && m_chosen.index < ports.size() ? &ports[m_chosen.index] : nullptr;
}

void AddressesPage::showForm() {
    const house::House& house = m_job.house();
    m_tests->clear();
    const auto& networks = house.addressing.networks;
    if (m_chosen.of == Of::network && m_chosen.index < networks.size()) {
        const house::Network& n = networks[m_chosen.index];
        m_title->setText(tr("Network “%1”").arg(QString::fromStdString(n.label)));
        m_form->setRows(formRows<house::Network>(
            job::fieldsOf<house::Network>(), house, n,
            [this, id = n.id](house::House&& next, const house::Network& changed) -> quantity::Result<void> {
                for (house::Network& one : next.addressing.networks)
                    if (one.id == id) one = changed;
                apply(tr("change a network"), next.addressing);
                return {};
            }));
        m_form->show();
        return;
    }
    if (const house::PortAddress* p = port()) {
        m_title->setText(QString::fromStdString(house.labelOf({p->device, p->port})));
        m_form->setRows(formRows<house::PortAddress>(
            job::fieldsOf<house::PortAddress>(), house, *p,
            [this, id = p->id](house::House&& next,
                               const house::PortAddress& changed) -> quantity::Result<void> {
                for (house::PortAddress& one : next.addressing.ports)
                    if (one.id == id) one = changed;
                apply(tr("change an address"), next.addressing);
                return {};
            }));
        m_form->show();
        const house::Endpoint* e = endpointOf(house, {p->device, p->port});
        m_tests->setText(
            e == nullptr ? tr("It is no port of a machine that takes part in runs.")
            : house::portAt(house, e->address) == house::PortRef{p->device, p->port}
                ? tr("Runs to “%1” go to this address, so this port is under test.")
                      .arg(QString::fromStdString(e->label))
                : tr("Runs to “%1” go elsewhere; P has them go here.").arg(QString::fromStdString(e->label)));
        return;
    }
    m_form->hide();
    m_title->setText(m_chosen.of == Of::seen ? tr("Enter gives this address to a port of the house.")
                                             : tr("Choose a network or an address."));
}

void AddressesPage::apply(const QString& label, const house::Addressing& next) {
    house::House house = m_job.house();
    house.addressing = next;
    m_job.apply(label, house);
}

void AddressesPage::addNetwork() {
    house::Addressing next = m_job.house().addressing;
    next.networks.push_back({house::freeNetworkId(next), tr("Home network").toStdString(), "192.168.1.0/24",
                             "192.168.1.1", "192.168.1.100", "192.168.1.199"});
    // Another prefix than those that are there.
    for (int n = 1; n < 255; ++n) {
        house::Network& mine = next.networks.back();
        const std::string stem = "192.168." + std::to_string(n) + ".";
        mine.prefix = stem + "0/24";
        mine.gateway = stem + "1";
        mine.poolFrom = stem + "100";
        mine.poolTo = stem + "199";
        const auto isThere =
            std::any_of(next.networks.begin(), next.networks.end() - 1,
                        [&](const house::Network& other) { return other.prefix == mine.prefix; });
        if (!isThere) break;
    }
    m_chosen = {Of::network, next.networks.size() - 1};
    apply(tr("add a network"), next);
    if (QWidget* field = m_form->field(tr("Prefix"))) field->setFocus();
}

void AddressesPage::addPort(const std::string& address, const std::string& hardware) {
    const house::House& house = m_job.house();
    house::Addressing next = house.addressing;
    if (next.networks.empty()) {
        Q_EMIT said(tr("an address lies in a network: add one first, with Shift+A."), true);
        return;
    }
    house::PortAddress mine{
        house::freeAddressId(next), "", "", next.networks.front().id, address, {}, hardware};
    if (house.practices.addresses == house::AddressChoice::fixed) mine.kind = house::AddressKind::fixed;
    if (const auto ip = quantity::IpAddress::parse(address))
        for (const house::Network& n : next.networks)
            if (const auto prefix = quantity::IpPrefix::parse(n.prefix); prefix && prefix->contains(*ip))
                mine.network = n.id;
    // The first port of a machine that has none yet.
    for (const house::Device& d : house.devices)
        for (const house::Port& p : d.ports) {
            const bool has =
                std::any_of(next.ports.begin(), next.ports.end(), [&](const house::PortAddress& other) {
                    return other.device == d.id && other.port == p.id;
                });
            if (!mine.device.empty() || has || p.kind != house::PortKind::ethernet ||
                d.kind == house::DeviceKind::network_switch)
                continue;
            mine.device = d.id;
            mine.port = p.id;
        }
    if (mine.device.empty()) {
        Q_EMIT said(tr("every port has an address; add the machine in Walk first."), true);
        return;
    }
    for (const house::Network& n : next.networks)
        if (n.id == mine.network && mine.address.empty())
            if (const auto free = house::freeAddress(next, n)) mine.address = free->text();
    next.ports.push_back(std::move(mine));
    std::erase_if(m_seen, [&](const probe::SeenAddress& s) { return s.address.text() == address; });
    m_chosen = {Of::port, next.ports.size() - 1};
    apply(tr("add an address"), next);
    if (QWidget* field = m_form->field(tr("Port"))) field->setFocus();
}

void AddressesPage::remove() {
    house::Addressing next = m_job.house().addressing;
    if (m_chosen.of == Of::network && m_chosen.index < next.networks.size()) {
        next.networks.erase(next.networks.begin() + static_cast<std::ptrdiff_t>(m_chosen.index));
        m_chosen = {};
        apply(tr("take out a network"), next);
    } else if (m_chosen.of == Of::port && m_chosen.index < next.ports.size()) {
        next.ports.erase(next.ports.begin() + static_cast<std::ptrdiff_t>(m_chosen.index));
        m_chosen = {};
        apply(tr("take out an address"), next);
    }
}

void AddressesPage::mend(int row) {
    if (row < 0 || row >= static_cast<int>(m_clashes.size())) return;
    const house::Clash clash = m_clashes[static_cast<std::size_t>(row)];
    if (!clash.mended) {
        Q_EMIT said(tr("only you can mend this: %1.").arg(QString::fromStdString(clash.mend)), true);
        return;
    }
    apply(tr("mend a clash: %1").arg(QString::fromStdString(clash.mend)), *clash.mended);
    Q_EMIT said(tr("Done in the plan: %1. Set it so at the machine or the router.")
                    .arg(QString::fromStdString(clash.mend)),
                false);
}

void AddressesPage::look() {
    const auto local = probe::readLocalNetwork();
    if (!local) {
        Q_EMIT said(QString::fromStdString(local.error().sentence()), true);
        return;
    }
    takeOver(*local);
}

void AddressesPage::takeOver(const probe::LocalNetwork& local) {
    probe::NotedNetwork noted = probe::noteNetwork(m_job.house(), local);
    m_seen = std::move(noted.seen);
    QStringList changes;
    for (const std::string& change : noted.changes)
        changes << QString::fromStdString(change);
    if (changes.isEmpty())
        refresh();
    else
        m_job.apply(tr("take over what this computer sees"), noted.house);
    Q_EMIT said(changes.isEmpty() && m_seen.empty()
                    ? tr("This computer sees no network but itself, or the plan has it all.")
                    : tr("Taken over: %1. Seen, and not in the plan: %2.")
                          .arg(changes.isEmpty() ? tr("nothing new") : changes.join(QStringLiteral(", ")))
                          .arg(m_seen.size()),
                false);
}

void AddressesPage::testPort() {
    const house::PortAddress* p = port();
    if (p == nullptr || p->address.empty()) {
        Q_EMIT said(tr("choose an address first."), true);
        return;
    }
    house::House next = m_job.house();
    const house::Endpoint* e = endpointOf(next, {p->device, p->port});
    if (e == nullptr) {
        Q_EMIT said(
            tr("it is no port of a machine that takes part in runs; add the machine in Measure, Machines."),
            true);
        return;
    }
    const QString label = QString::fromStdString(e->label);
    const QString where = QString::fromStdString(next.labelOf({p->device, p->port}));
    const QString address = QString::fromStdString(p->address); // the plan is another one afterwards
    for (house::Endpoint& one : next.endpoints)
        if (one.id == e->id) one.address = withPortOf(p->address, one.address);
    m_job.apply(tr("runs to “%1” at another port").arg(label), next);
    Q_EMIT said(tr("Runs to “%1” go to %2 now: %3 is under test.").arg(label, address, where), false);
}

void AddressesPage::askExport() {
    const QString file = QFileDialog::getSaveFileName(
        window(), tr("Export the address plan"), QStringLiteral("addresses.csv"),
        tr("Table (*.csv);;Hosts file (*.hosts);;Reservations for a router (*.conf)"));
    if (!file.isEmpty()) exportTo(file);
}

void AddressesPage::exportTo(const QString& file) {
    const house::House& house = m_job.house();
    const auto written =
        job::writeText(file.toStdString(), file.endsWith(QLatin1String(".hosts")) ? house::hostsFile(house)
                                           : file.endsWith(QLatin1String(".conf"))
                                               ? house::reservations(house, house::ReservationSyntax::lines)
                                               : job::addressesCsv(house));
    Q_EMIT said(written ? tr("Written to %1.").arg(file) : QString::fromStdString(written.error().sentence()),
                !written);
}

} // namespace metrodos::desktop
