#include "desktop/measure/facts_page.h"

#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "probe/machine_sheet.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QSignalBlocker>
#include <QTime>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

enum Column { part, what, now, other };

QString partText(const probe::PartCeiling& c) {
    return FactsPage::tr("%1 · %2").arg(QString::fromStdString(c.port),
                                        c.part == "link"  ? FactsPage::tr("link")
                                        : c.part == "usb" ? FactsPage::tr("USB socket")
                                                          : FactsPage::tr("PCIe slot"));
}

} // namespace

FactsPage::FactsPage(RouteModel& model, AccessTo access)
    : m_model(model)
    , m_access(std::move(access))
    , m_machines(new QComboBox)
    , m_headline(plainLabel())
    , m_parts(new RangeList)
    , m_remarks(plainLabel())
    , m_facts(plainTable(QStringLiteral("facts"), tr("What the machine says of itself"),
                         {tr("Part"), tr("Fact"), tr("Now"), tr("Beside it")}, {84, 150, 190})) {
    setObjectName(QStringLiteral("facts-page"));
    m_machines->setObjectName(QStringLiteral("facts-machine"));
    m_machines->setAccessibleName(tr("Machine"));
    m_machines->setMinimumWidth(220);
    m_headline->setObjectName(QStringLiteral("facts-headline"));
    m_headline->setFont(textFont(13, true));
    m_headline->setWordWrap(true);
    m_remarks->setObjectName(QStringLiteral("facts-remarks"));
    m_remarks->setWordWrap(true);
    m_parts->setObjectName(QStringLiteral("facts-parts"));
    m_parts->setAccessibleName(tr("What each part of the machine lets through"));
    m_parts->setEmptyText(
        tr("R asks the machine: what each of its ports and sockets lets through comes here."));
    m_read = keyButton(this, QStringLiteral("facts-read"), tr("Read  (R)"),
                       tr("Asks the machine what it is now"), Qt::Key_R, [this] { read(); });
    m_takeOver = keyButton(
        this, QStringLiteral("facts-take"), tr("Take over into the house  (T)"),
        tr("Rates of the link, the ports and the socket, and what the cable ends at, as the machine says"),
        Qt::Key_T, [this] { takeOver(); });
    auto* top = new QHBoxLayout;
    top->addWidget(labelFor(m_machines, tr("&Machine")));
    top->addWidget(m_machines);
    top->addWidget(m_read);
    top->addWidget(m_takeOver);
    top->addStretch();
    auto* left = new QVBoxLayout;
    left->addWidget(m_parts, 1);
    left->addWidget(m_remarks);
    auto* row = new QHBoxLayout;
    row->setSpacing(14);
    row->addLayout(left, 4);
    row->addWidget(m_facts, 6);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    layout->addLayout(top);
    layout->addWidget(m_headline);
    layout->addLayout(row, 1);
    connect(m_machines, &QComboBox::currentIndexChanged, this, [this] { show(chosen()); });
    connect(&m_reader, &MachineReader::done, this, &FactsPage::take);
    connect(&m_reader, &MachineReader::failed, this, [this](const QString& sentence) {
        m_read->setEnabled(true);
        Q_EMIT said(sentence, true);
    });
    connect(&m_model.job(), &JobModel::opened, this, [this] {
        m_known.clear();
        fillMachines();
    });
    connect(&m_model.job(), &JobModel::changed, this, [this] {
        if (isVisible()) fillMachines();
    });
    fillMachines();
}

house::Id FactsPage::chosen() const {
    return m_machines->currentData().toString().toStdString();
}

void FactsPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    fillMachines();
}

void FactsPage::fillMachines() {
    const QString before = m_machines->currentData().toString();
    const QSignalBlocker quiet(m_machines);
    m_machines->clear();
    for (const house::Endpoint& e : m_model.job().house().endpoints)
        m_machines->addItem(QString::fromStdString(e.label), QString::fromStdString(e.id));
    // At first the machine that the route goes to.
    const QString wanted = !before.isEmpty() || m_model.route() == nullptr
                               ? before
                               : QString::fromStdString(m_model.route()->to);
    m_machines->setCurrentIndex(std::max(0, m_machines->findData(wanted)));
    show(chosen());
}

void FactsPage::read() {
    const house::Id id = chosen();
    if (id.empty()) return Q_EMIT said(tr("there is no machine yet: enter one in Walk."), true);
    const auto access = m_access(id);
    if (!access) return Q_EMIT said(QString::fromStdString(access.error().sentence()), true);
    m_read->setEnabled(false);
    m_reader.read({{id, *access}});
}

void FactsPage::take(const MachineReadings& readings) {
    m_read->setEnabled(true);
    for (const auto& [id, reading] : readings) {
        const auto known = m_known.find(id);
        Known next{reading, std::nullopt, QLocale().toString(QTime::currentTime(), QLocale::ShortFormat)};
        if (known != m_known.end()) next.before = known->second.now.facts;
        m_known[id] = std::move(next);
    }
    show(chosen());
}

void FactsPage::show(const house::Id& endpoint) {
    const auto known = m_known.find(endpoint);
    m_takeOver->setEnabled(known != m_known.end());
    m_facts->setRowCount(0);
    m_parts->setRows({});
    m_remarks->clear();
    if (known == m_known.end()) {
        m_headline->setText(tr("Not read yet."));
        return;
    }
    const probe::MachineFacts& facts = known->second.now.facts;
    const auto ceilings = probe::partCeilings(facts, m_model.job().catalog());
    const auto least = std::min_element(ceilings.begin(), ceilings.end(),
                                        [](const auto& a, const auto& b) { return a.goodput < b.goodput; });
    std::vector<RangeRow> rows;
    for (const probe::PartCeiling& c : ceilings) {
        RangeRow row;
        row.id = QString::fromStdString(c.port + " " + c.part);
        row.title = partText(c);
        row.detail = QString::fromStdString(c.because);
        row.forward = catalog::RateSpread{c.goodput, c.goodput, c.goodput};
        rows.push_back(std::move(row));
    }
    const bool isOnePort = std::all_of(ceilings.begin(), ceilings.end(),
                                       [&](const auto& c) { return c.port == ceilings.front().port; });
    m_headline->setText(
        least == ceilings.end()
            ? tr("No port of it is up, or none says how fast it is. Read at %1.").arg(known->second.at)
        : isOnePort ? tr("Its port lets %1 through: %2 decides. Read at %3.")
                          .arg(bothText(least->goodput), partText(*least), known->second.at)
                    : tr("Its slowest part lets %1 through: %2. Read at %3.")
                          .arg(bothText(least->goodput), partText(*least), known->second.at));
    m_parts->setRows(std::move(rows));
    QStringList remarks;
    for (const std::string& remark : probe::remarks(facts, known->second.now.host))
        remarks << QStringLiteral("· ") + QString::fromStdString(remark) +
                       QLatin1Char('.'); // begins with a port's name
    m_remarks->setText(remarks.join(QLatin1Char('\n')));
    const auto& before = known->second.before;
    for (const probe::FactRow& fact : probe::sheetOf(facts, before ? &*before : nullptr)) {
        const int row = m_facts->rowCount();
        m_facts->insertRow(row);
        m_facts->setItem(row, part,
                         plainCell(fact.port.empty() ? tr("machine") : QString::fromStdString(fact.port)));
        m_facts->setItem(row, what, plainCell(QString::fromStdString(fact.what)));
        m_facts->setItem(row, now, plainCell(QString::fromStdString(fact.now)));
        m_facts->setItem(row, other, plainCell(QString::fromStdString(fact.other)));
    }
}

void FactsPage::takeOver() {
    const house::Id id = chosen();
    const auto known = m_known.find(id);
    if (known == m_known.end()) return Q_EMIT said(tr("read the machine first, with R."), true);
    const auto noted = probe::noteFacts(m_model.job().house(), m_model.job().catalog(), id,
                                        known->second.now.facts, known->second.now.host);
    if (!noted) return Q_EMIT said(QString::fromStdString(noted.error().sentence()), true);
    if (noted->changes.empty()) return Q_EMIT said(tr("The house says all of that already."), false);
    m_model.job().apply(tr("what %1 says").arg(QString::fromStdString(m_model.job().house().endLabel(id))),
                        noted->house);
    QStringList changes;
    for (const std::string& change : noted->changes)
        changes << capitalised(change) + QLatin1Char('.');
    Q_EMIT said(changes.join(QLatin1Char(' ')), false);
}

QString FactsPage::text() const {
    QStringList out{m_headline->text(), m_remarks->text()};
    out << m_parts->texts();
    for (int row = 0; row < m_facts->rowCount(); ++row) {
        QStringList cells;
        for (int column = 0; column < m_facts->columnCount(); ++column)
            cells << m_facts->item(row, column)->text();
        out << cells.join(QStringLiteral(" | "));
    }
    return out.join(QLatin1Char('\n'));
}

} // namespace metrodos::desktop
