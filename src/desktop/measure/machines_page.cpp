#include "desktop/measure/machines_page.h"

#include "desktop/measure/code_panel.h"
#include "desktop/measure/guest_panel.h"
#include "desktop/measure/meet_panel.h"
#include "desktop/model/endpoint_access.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "house/addressing.h"
#include "probe/account.h"
#include "probe/key_requests.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QShortcut>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int columnWidth = 230;

// How this computer is let in there.
QString keyText(const probe::KnownMachine& machine) {
    if (machine.kind == probe::MachineKind::browser) return MachinesPage::tr("by browser, a code each time");
    if (machine.id.empty()) return MachinesPage::tr("not met yet");
    if (machine.isRevoked) return MachinesPage::tr("deleted");
    if (!machine.hasOwnKey) return MachinesPage::tr("the shared one; K makes one of its own");
    return MachinesPage::tr("its own, since %1, by %2")
        .arg(momentText(machine.pairedAt), QString::fromStdString(machine.pairedBy));
}

} // namespace

MachinesPage::MachinesPage(JobModel& model, Invite invite, std::shared_ptr<probe::KnownMachines> known)
    : m_model(model)
    , m_invite(std::move(invite))
    , m_known(std::move(known)) {
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
    auto* meeting = new QPushButton(tr("Meet a &new machine"));
    meeting->setObjectName(QStringLiteral("meet"));
    meeting->setToolTip(
        tr("Makes a key with a machine whose agent has none yet, by eight words that it shows"));
    meeting->setFocusPolicy(Qt::TabFocus);
    top->addWidget(meeting);
    connect(meeting, &QPushButton::clicked, this, &MachinesPage::meet);
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
    m_others = plainTable(QStringLiteral("found-table"), tr("Machines that are known or announce themselves"),
                          {tr("Known, or announces itself, as"), tr("Address"), tr("Last seen"), tr("Key")},
                          {columnWidth, 180, 130});
    m_others->setToolTip(tr("Enter or a double click gives the address to the machine that is chosen above; "
                            "Delete takes the key from one that was met; K asks one with the shared key for "
                            "a key of its own, and once more that it knows the shared one no longer"));
    layout->addWidget(m_others, 1);
    auto* forget =
        new QShortcut(QKeySequence(Qt::Key_Delete), m_others, nullptr, nullptr, Qt::WidgetShortcut);
    connect(forget, &QShortcut::activated, this, &MachinesPage::revoke);
    auto* move = new QShortcut(QKeySequence(Qt::Key_K), m_others, nullptr, nullptr, Qt::WidgetShortcut);
    connect(move, &QShortcut::activated, this, &MachinesPage::moveKey);
    connect(m_others, &QTableWidget::currentCellChanged, this, [this] { m_toRevoke.clear(); });
    auto* ranges = new QHBoxLayout;
    auto* label = plainLabel();
    label->setText(tr("May also &join from"));
    m_ranges = new QLineEdit(allowedRangesText());
    m_ranges->setObjectName(QStringLiteral("ranges"));
    m_ranges->setAccessibleName(tr("Address ranges of machines that may join"));
    m_ranges->setPlaceholderText(
        tr("nearby machines only; add ranges like 100.64.0.0/10 of an overlay network"));
    label->setBuddy(m_ranges);
    ranges->addWidget(label);
    ranges->addWidget(m_ranges, 1);
    layout->addLayout(ranges);
    connect(m_ranges, &QLineEdit::returnPressed, this, &MachinesPage::keepRanges);
    m_meet = new MeetPanel(m_known);
    m_meet->hide();
    layout->addWidget(m_meet);
    connect(m_meet, &MeetPanel::said, this, &MachinesPage::said);
    connect(m_meet, &MeetPanel::met, this, [this](const QString& name, const QString& address) {
        fill();
        m_machines->setFocus();
        if (m_machines->rowCount() > 0)
            takeAddress(address);
        else
            Q_EMIT said(tr("%1 is known now; enter it in Walk to measure with it.").arg(name), false);
    });
    m_guest = new GuestPanel;
    m_guest->hide();
    layout->addWidget(m_guest);
    connect(m_guest, &GuestPanel::arrived, this, [this](const QString& name, const QString& address) {
        probe::KnownMachine device;
        device.name = name.toStdString();
        device.kind = probe::MachineKind::browser;
        device.address = address.toStdString();
        if (const auto seen = m_known->see(device); !seen)
            Q_EMIT said(QString::fromStdString(seen.error().sentence()), true);
        fill();
        Q_EMIT said(tr("%1 has joined. Space measures; N begins with what is suggested first.").arg(name),
                    false);
    });
    connect(&m_model, &JobModel::opened, m_guest, &QWidget::hide);
    m_codes = new CodePanel(keyFile());
    layout->addWidget(m_codes);
    connect(m_codes, &CodePanel::said, this, &MachinesPage::said);
    connect(m_codes, &CodePanel::addressRead, this, &MachinesPage::takeAddress);
    connect(m_codes, &CodePanel::meetingRead, this,
            [this](const QString& address, const probe::MeetingCode& code) { m_meet->begin(address, code); });
    connect(&m_forgetting, &TestRunner::finished, this, [this](const nlohmann::json& done) {
        fill();
        Q_EMIT said(
            done.value("forgotten", false)
                ? tr("The key is deleted here and there.")
                : tr("The key is deleted here. The machine could not be told: delete it there too, in the "
                     "folder of its agent's keys."),
            false);
    });
    connect(&m_forgetting, &TestRunner::failed, this, [this](const QString& sentence) {
        fill();
        Q_EMIT said(sentence, true);
    });

    connect(&m_moving, &TestRunner::finished, this, [this](const nlohmann::json& done) {
        fill();
        Q_EMIT said(QString::fromStdString(done.value("said", std::string())), false);
    });
    connect(&m_moving, &TestRunner::failed, this, [this](const QString& sentence) {
        fill();
        Q_EMIT said(sentence, true);
    });
    connect(m_look, &QPushButton::clicked, this, &MachinesPage::look);
    connect(m_machines, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
        if (!m_filling && item->column() == 1)
            setAddress(m_machines->item(item->row(), 0)->data(Qt::UserRole).toString().toStdString(),
                       item->text().trimmed());
    });
    connect(m_others, &QTableWidget::itemActivated, this,
            [this](const QTableWidgetItem* item) { takeOther(item->row()); });
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
    for (int row = 0; row < m_machines->rowCount(); ++row)
        if (m_machines->item(row, 0)->data(Qt::UserRole).toString().toStdString() == endpoint)
            m_machines->setCurrentCell(row, 0);
    m_guest->showGuest(label, *guest);
    m_guest->show();
    // When the table has made room for it.
    QTimer::singleShot(0, this, [this] { m_machines->scrollToItem(m_machines->currentItem()); });
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
            : tr("Start metrodos-agent on each machine and meet it once. Those that are known or announce "
                 "themselves stand below: choose a machine above, then press Enter on its agent. “here” is "
                 "this machine."));
    fillOthers();
    m_filling = false;
}

void MachinesPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    fill();
}

void MachinesPage::fillOthers() {
    m_rows.clear();
    const auto known = m_known->load();
    if (!known) m_hint->setText(QString::fromStdString(known.error().sentence()));
    for (const probe::KnownMachine& k : known.value_or(std::vector<probe::KnownMachine>{})) {
        m_rows.push_back({k, momentText(k.seenAt)});
    }
    for (const SeenAgent& f : m_finder.agents()) {
        const std::string address = f.address.toStdString();
        const auto same = std::find_if(m_rows.begin(), m_rows.end(), [&](const OtherMachine& o) {
            return o.isMet() && isSameAgent(o.known.address, address);
        });
        if (same != m_rows.end()) {
            same->seen = f.seen;
            continue;
        }
        OtherMachine other{{}, f.seen};
        other.known.name = f.name.toStdString();
        other.known.address = address;
        m_rows.push_back(std::move(other));
    }
    const int row = m_others->currentRow();
    m_others->setRowCount(static_cast<int>(m_rows.size()));
    for (int at = 0; at < m_others->rowCount(); ++at) {
        const OtherMachine& other = m_rows[static_cast<std::size_t>(at)];
        m_others->setItem(at, 0, plainCell(QString::fromStdString(other.known.name)));
        m_others->setItem(at, 1, plainCell(QString::fromStdString(other.known.address)));
        m_others->setItem(at, 2, plainCell(other.seen));
        m_others->setItem(at, 3, plainCell(keyText(other.known)));
    }
    m_others->setCurrentCell(std::clamp(row, 0, std::max(0, m_others->rowCount() - 1)), 0);
}

void MachinesPage::takeOther(int row) {
    if (row < 0 || row >= static_cast<int>(m_rows.size())) return;
    const probe::KnownMachine& other = m_rows[static_cast<std::size_t>(row)].known;
    if (other.kind == probe::MachineKind::browser)
        Q_EMIT said(tr("%1 has only a browser: choose its machine above and invite it.")
                        .arg(QString::fromStdString(other.name)),
                    true);
    else
        takeAddress(QString::fromStdString(other.address));
}

void MachinesPage::meet() {
    const int row = m_others->currentRow();
    const bool isNew = row >= 0 && row < static_cast<int>(m_rows.size()) &&
                       !m_rows[static_cast<std::size_t>(row)].isMet() &&
                       m_rows[static_cast<std::size_t>(row)].known.kind == probe::MachineKind::agent;
    m_meet->begin(isNew ? QString::fromStdString(m_rows[static_cast<std::size_t>(row)].known.address)
                        : QString());
}

void MachinesPage::revoke() {
    const int row = m_others->currentRow();
    if (row < 0 || row >= static_cast<int>(m_rows.size()) || m_forgetting.isRunning()) return;
    const probe::KnownMachine machine = m_rows[static_cast<std::size_t>(row)].known;
    if (machine.id.empty()) return;
    const QString name = QString::fromStdString(machine.name);
    if (!machine.hasOwnKey || machine.isRevoked) {
        if (const auto gone = m_known->drop(machine.id); !gone)
            Q_EMIT said(QString::fromStdString(gone.error().sentence()), true);
        else
            Q_EMIT said(tr("%1 is no longer in the list.").arg(name), false);
        fill();
        return;
    }
    if (m_toRevoke != machine.id) {
        m_toRevoke = machine.id;
        Q_EMIT said(
            tr("Delete once more deletes the key of %1; to measure with it, it must be met anew.").arg(name),
            true);
        return;
    }
    m_toRevoke.clear();
    Q_EMIT said(tr("Deleting the key of %1 …").arg(name), false);
    m_forgetting.start([known = m_known,
                        machine](const TestRunner::Progress&,
                                 const std::stop_token&) -> quantity::Result<nlohmann::json> {
        bool isForgotten = false;
        if (auto link = probe::connectKnown(machine.address, known->keysFor(machine.address), nullptr);
            link && link->channel().identity() == machine.identity)
            isForgotten = link->ask({{"type", "forget"}}, "forgotten", std::chrono::seconds(3)).has_value();
        if (const auto revoked = known->revoke(machine.id); !revoked) return tl::unexpected(revoked.error());
        return nlohmann::json{{"forgotten", isForgotten}};
    });
}

void MachinesPage::moveKey() {
    const int row = m_others->currentRow();
    if (row < 0 || row >= static_cast<int>(m_rows.size()) || m_moving.isRunning()) return;
    const probe::KnownMachine machine = m_rows[static_cast<std::size_t>(row)].known;
    if (machine.id.empty() || machine.isRevoked || machine.kind != probe::MachineKind::agent)
        return Q_EMIT said(tr("Choose a machine that was seen with a key."), true);
    Q_EMIT said(tr("Asking %1 …").arg(QString::fromStdString(machine.name)), false);
    m_moving.start([known = m_known, machine,
                    file = keyFile()](const TestRunner::Progress&,
                                      const std::stop_token&) -> quantity::Result<nlohmann::json> {
        const auto shared = probe::Key::load(file);
        if (!shared) return tl::unexpected(shared.error());
        auto link = probe::EndpointLink::connect(machine.address, *shared);
        if (!link) return tl::unexpected(link.error());
        if (machine.hasOwnKey) {
            if (const auto gone = probe::askToForget(*link); !gone) return tl::unexpected(gone.error());
            return nlohmann::json{{"said", machine.name + " knows the shared key no longer."}};
        }
        const auto made = probe::askForKey(*link, probe::Right::command, probe::ownAccount());
        if (!made) return tl::unexpected(made.error());
        probe::KnownMachine met = machine;
        met.pairedBy = probe::ownAccount();
        if (const auto added = known->add(met, *made); !added) return tl::unexpected(added.error());
        if (const auto gone = known->drop(machine.id); !gone) return tl::unexpected(gone.error());
        return nlohmann::json{{"said", machine.name +
                                           " has a key of its own. The shared one still opens it; K "
                                           "once more ends that."}};
    });
}

void MachinesPage::keepRanges() {
    const auto kept = setAllowedRanges(m_ranges->text());
    if (!kept) return Q_EMIT said(QString::fromStdString(kept.error().sentence()), true);
    m_ranges->setText(allowedRangesText());
    Q_EMIT said(m_ranges->text().isEmpty()
                    ? tr("Only nearby machines may join runs with this one.")
                    : tr("Machines of %1 may join runs with this one.").arg(m_ranges->text()),
                false);
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
        const QString label = QString::fromStdString(e.label);
        m_model.apply(tr("address of %1").arg(label), next);
        // By the address plan, which port runs go to now.
        if (const auto port = house::portAt(m_model.house(), address.toStdString()))
            Q_EMIT said(tr("Runs to %1 go to %2 now: that port is under test.")
                            .arg(label, QString::fromStdString(m_model.house().labelOf(*port))),
                        false);
        return;
    }
}

} // namespace metrodos::desktop
