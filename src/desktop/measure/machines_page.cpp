#include "desktop/measure/machines_page.h"

#include "desktop/measure/code_panel.h"
#include "desktop/measure/guest_panel.h"
#include "desktop/model/endpoint_access.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int columnWidth = 230;

} // namespace

MachinesPage::MachinesPage(JobModel& model, Invite invite)
    : m_model(model)
    , m_invite(std::move(invite)) {
    setObjectName(QStringLiteral("machines"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    layout->setSpacing(6);
    auto* top = new QHBoxLayout;
    m_look = new QPushButton(tr("Look for machines  (F5)"));
    m_look->setObjectName(QStringLiteral("look"));
    m_look->setShortcut(QKeySequence(Qt::Key_F5));
    m_look->setFocusPolicy(Qt::TabFocus);
    top->addWidget(m_look);
    auto* guest = new QPushButton(tr("It has only a &browser"));
    guest->setObjectName(QStringLiteral("invite"));
    guest->setToolTip(
        tr("Makes an address and a code by which the chosen machine takes part with nothing but a "
           "browser, against this machine. Against another one: type guest@ and the address of its agent, "
           "started with --guest"));
    guest->setFocusPolicy(Qt::TabFocus);
    top->addWidget(guest);
    connect(guest, &QPushButton::clicked, this, [this] {
        const auto* machine = m_machines->item(m_machines->currentRow(), 0);
        if (machine == nullptr)
            Q_EMIT said(tr("The house has no machines yet: enter them in Walk."), true);
        else
            this->invite(machine->data(Qt::UserRole).toString().toStdString());
    });
    top->addStretch();
    layout->addLayout(top);
    m_machines =
        plainTable(QStringLiteral("machine-table"), tr("Machines of the job"),
                   {tr("Machine of the job"), tr("Address of its agent"), tr("Last seen")}, {columnWidth});
    layout->addWidget(m_machines, 2);
    m_hint = plainLabel();
    m_hint->setWordWrap(true);
    m_hint->setContentsMargins(4, 6, 4, 2);
    layout->addWidget(m_hint);
    m_found = plainTable(QStringLiteral("found-table"), tr("Machines that announce themselves"),
                         {tr("Announces itself as"), tr("Address"), tr("Last seen")}, {columnWidth});
    m_found->setToolTip(tr("Enter or a double click gives the address to the machine that is chosen above"));
    layout->addWidget(m_found, 1);
    m_guest = new GuestPanel;
    m_guest->hide();
    layout->addWidget(m_guest);
    connect(m_guest, &GuestPanel::arrived, this, [this](const QString& name) {
        Q_EMIT said(tr("%1 has joined. Space measures.").arg(name), false);
    });
    connect(&m_model, &JobModel::opened, m_guest, &QWidget::hide);
    m_codes = new CodePanel(keyFile());
    layout->addWidget(m_codes);
    connect(m_codes, &CodePanel::said, this, &MachinesPage::said);
    connect(m_codes, &CodePanel::addressRead, this, &MachinesPage::takeAddress);

    connect(m_look, &QPushButton::clicked, this, &MachinesPage::look);
    connect(m_machines, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
        if (!m_filling && item->column() == 1)
            setAddress(m_machines->item(item->row(), 0)->data(Qt::UserRole).toString().toStdString(),
                       item->text().trimmed());
    });
    connect(m_found, &QTableWidget::itemActivated, this,
            [this](const QTableWidgetItem* item) { takeFound(item->row()); });
    connect(&m_model, &JobModel::changed, this, &MachinesPage::fill);
    connect(&m_finder, &AgentFinder::looked, this, [this] {
        m_look->setEnabled(true);
        fill();
        const auto count = static_cast<int>(m_finder.agents().size());
        Q_EMIT said(count == 0 ? tr("No agent announces itself here; type the addresses.")
                               : counted(count, tr("%1 agent found."), tr("%1 agents found.")),
                    false);
    });
    connect(&m_finder, &AgentFinder::failed, this, [this](const QString& sentence) {
        m_look->setEnabled(true);
        Q_EMIT said(sentence, true);
    });
    fill();
}

void MachinesPage::invite(const house::Id& endpoint, const std::string& servedBy) {
    const auto guest = m_invite(endpoint, servedBy);
    if (!guest) {
        Q_EMIT said(QString::fromStdString(guest.error().sentence()), true);
        return;
    }
    house::House next = m_model.house();
    QString label;
    for (house::Endpoint& e : next.endpoints) {
        if (e.id != endpoint) continue;
        e.address = servedBy == "here" ? guestAddress : guestAddress + ("@" + servedBy);
        label = QString::fromStdString(e.label);
        // What nothing is known of is at least that.
        if (house::Device* device = next.device(e.device); device != nullptr && device->deviceClass.empty())
            device->deviceClass = "browser";
    }
    if (next != m_model.house()) m_model.apply(tr("invite %1").arg(label), next);
    m_guest->showGuest(label, *guest);
    m_guest->show();
    Q_EMIT said(tr("Open the address on %1.").arg(label), false);
}

void MachinesPage::look() {
    if (m_finder.isLooking()) return;
    m_look->setEnabled(false);
    Q_EMIT said(tr("Looking for machines …"), false);
    m_finder.look();
}

void MachinesPage::fill() {
    m_filling = true;
    const int row = m_machines->currentRow();
    m_machines->setRowCount(0);
    for (const house::Endpoint& e : m_model.house().endpoints) {
        const int at = m_machines->rowCount();
        m_machines->insertRow(at);
        auto* name = plainCell(QString::fromStdString(e.label));
        name->setData(Qt::UserRole, QString::fromStdString(e.id));
        m_machines->setItem(at, 0, name);
        const QString address = QString::fromStdString(e.address);
        auto* field = plainCell(address, true);
        if (address.isEmpty()) field->setToolTip(tr("“here” for this machine, or host:port of an agent"));
        m_machines->setItem(at, 1, field);
        QString seen = address == QStringLiteral("here") ? tr("this machine") : QString();
        for (const SeenAgent& f : m_finder.agents())
            if (f.address == address) seen = f.seen;
        m_machines->setItem(at, 2, plainCell(seen));
    }
    m_machines->setCurrentCell(std::clamp(row, 0, std::max(0, m_machines->rowCount() - 1)), 0);
    m_hint->setText(
        m_machines->rowCount() == 0
            ? tr("The house has no machines yet: enter them in Walk.")
            : tr("Start metrodos-agent with your key on each machine. Those that announce themselves "
                 "stand below: choose a machine above, then press Enter on its agent. “here” is this "
                 "machine."));
    fillFound();
    m_filling = false;
}

void MachinesPage::fillFound() {
    m_found->setRowCount(0);
    for (const SeenAgent& f : m_finder.agents()) {
        const int at = m_found->rowCount();
        m_found->insertRow(at);
        m_found->setItem(at, 0, plainCell(f.name));
        auto* address = plainCell(f.address);
        m_found->setItem(at, 1, address);
        m_found->setItem(at, 2, plainCell(f.seen));
    }
}

void MachinesPage::takeFound(int row) {
    if (row >= 0 && row < static_cast<int>(m_finder.agents().size()))
        takeAddress(m_finder.agents()[static_cast<std::size_t>(row)].address);
}

// For the machine that is chosen above.
void MachinesPage::takeAddress(const QString& address) {
    const auto* machine = m_machines->item(m_machines->currentRow(), 0);
    if (machine == nullptr) {
        Q_EMIT said(tr("%1 was read, but the house has no machine yet: enter it in Walk first.").arg(address),
                    true);
        return;
    }
    // The change fills the table anew.
    const QString name = machine->text();
    setAddress(machine->data(Qt::UserRole).toString().toStdString(), address);
    Q_EMIT said(tr("%1 is the address of %2 now.").arg(address, name), false);
}

void MachinesPage::setAddress(const house::Id& id, const QString& address) {
    house::House next = m_model.house();
    for (house::Endpoint& e : next.endpoints) {
        if (e.id != id || QString::fromStdString(e.address) == address) continue;
        if (!address.isEmpty() && !isAgentAddress(address)) {
            Q_EMIT said(tr("“%1” is no address; write it like 192.168.1.20:47710, or “here”.").arg(address),
                        true);
            fill();
            return;
        }
        if (const auto by = servesGuest(address.toStdString())) {
            invite(id, *by);
            return;
        }
        e.address = address.toStdString();
        m_model.apply(tr("address of %1").arg(QString::fromStdString(e.label)), next);
        return;
    }
}

} // namespace metrodos::desktop
