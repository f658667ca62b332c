#include "desktop/fit/adapters_page.h"

#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "fit/adapter_reading.h"
#include "house/machine_ports.h"
#include "job/survey_fields.h"
#include "probe/adapter_status.h"
#include "quantity/parse.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <algorithm>

namespace metrodos::desktop {
namespace {

QString yesNo(const std::optional<bool>& value) {
    return !value ? QStringLiteral("–") : *value ? AdaptersPage::tr("yes") : AdaptersPage::tr("no");
}

// A box on a shared medium: an adapter, or a router with one built in.
std::vector<house::Id> adaptersOf(const house::House& house) {
    std::vector<house::Id> out;
    for (const house::Device& d : house.devices)
        if (std::any_of(house.connections.begin(), house.connections.end(), [&](const house::Connection& c) {
                return house::isShared(c.medium) && house::isOn(c, d.id);
            }))
            out.push_back(d.id);
    return out;
}

} // namespace

AdaptersPage::AdaptersPage(JobModel& job, PageOf pageOf, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_pageOf(std::move(pageOf))
    , m_list(plainTable(QStringLiteral("adapters-list"), tr("Adapters"),
                        {tr("Adapter"), tr("Private"), tr("Looked at")}, {210, 62}))
    , m_title(plainLabel())
    , m_form(new FieldForm(QStringLiteral("adapter-form")))
    , m_rates(new QWidget)
    , m_rateRows(new QGridLayout(m_rates))
    , m_read(keyButton(this, QStringLiteral("read-adapter"), tr("Read its page  (R)"),
                       tr("Asks the adapter's own page how it is set up and what its modem shows"), Qt::Key_R,
                       [this] { read(); }))
    , m_worker(
          [](const Question& q) {
              return Answer{q.adapter, probe::readAdapterStatus(q.url)};
          },
          [this](std::uint64_t, Answer answer) {
              QMetaObject::invokeMethod(
                  this, [this, answer = std::move(answer)] { take(answer); }, Qt::QueuedConnection);
          }) {
    setObjectName(QStringLiteral("adapters"));
    m_title->setFont(textFont(15, true));
    m_title->setWordWrap(true);
    m_title->setObjectName(QStringLiteral("adapter-title"));
    m_rates->setObjectName(QStringLiteral("adapter-rates"));
    m_rateRows->setContentsMargins(0, 0, 0, 0);
    m_rateRows->setColumnStretch(2, 1);
    auto* inner = new QWidget;
    auto* column = new QVBoxLayout(inner);
    column->setContentsMargins(4, 0, 8, 0);
    column->addWidget(m_title);
    column->addWidget(m_form);
    column->addWidget(m_rates);
    column->addStretch();
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(inner);
    auto* right = new QVBoxLayout;
    right->addWidget(scroll, 1);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(m_read);
    buttons->addStretch();
    right->addLayout(buttons);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(14, 10, 10, 6);
    row->setSpacing(16);
    row->addWidget(m_list, 3);
    row->addLayout(right, 4);
    connect(m_form, &FieldForm::said, this, &AdaptersPage::said);
    connect(m_list, &QTableWidget::currentCellChanged, this, &AdaptersPage::showChosen);
    connect(&m_job, &JobModel::changed, this, &AdaptersPage::refresh);
}

void AdaptersPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) refresh();
}

void AdaptersPage::refresh() {
    m_isStale = !isVisible();
    if (m_isStale) return;
    fillList();
    showChosen();
}

void AdaptersPage::fillList() {
    const house::House& house = m_job.house();
    const house::Device* before = chosen();
    const house::Id wanted = before == nullptr ? house::Id() : before->id;
    m_adapters = adaptersOf(house);
    const QSignalBlocker quiet(m_list);
    m_list->setRowCount(static_cast<int>(m_adapters.size()));
    int current = m_adapters.empty() ? -1 : 0;
    for (int row = 0; row < m_list->rowCount(); ++row) {
        const house::Device& d = *house.device(m_adapters[static_cast<std::size_t>(row)]);
        m_list->setItem(row, 0, plainCell(QString::fromStdString(d.label)));
        m_list->setItem(row, 1, plainCell(yesNo(d.setUp.isPrivate)));
        m_list->setItem(row, 2, plainCell(d.setUp.at.empty() ? tr("never") : momentText(d.setUp.at)));
        if (d.id == wanted) current = row;
    }
    m_list->setCurrentCell(current, 0);
}

const house::Device* AdaptersPage::chosen() const {
    const int row = m_list->currentRow();
    return row < 0 || row >= static_cast<int>(m_adapters.size())
               ? nullptr
               : m_job.house().device(m_adapters[static_cast<std::size_t>(row)]);
}

void AdaptersPage::showChosen() {
    const house::Device* d = chosen();
    m_form->setVisible(d != nullptr);
    m_rates->setVisible(d != nullptr);
    m_read->setVisible(d != nullptr);
    m_list->setVisible(!m_adapters.empty());
    if (d == nullptr) {
        m_title->setText(
            tr("No adapters over coax, mains or radio yet: they come with a plan, or with a line in "
               "Walk."));
        return;
    }
    const auto* cls = m_job.catalog().device(d->deviceClass);
    const house::Room* room = m_job.house().room(d->room);
    QStringList title{QString::fromStdString(d->label)};
    if (cls != nullptr) title << QString::fromStdString(cls->label);
    if (room != nullptr) title << QString::fromStdString(room->label);
    m_title->setText(title.join(QStringLiteral(" · ")));
    const house::Id id = d->id;
    m_form->setRows(formRows<house::AdapterRecord>(
        job::fieldsOf<house::AdapterRecord>(&m_job.catalog()), m_job.house(), d->setUp,
        [this, id](house::House&& next, const house::AdapterRecord& record) -> quantity::Result<void> {
            house::Device* device = next.device(id);
            if (device == nullptr) return quantity::problem("the adapter is not there any more");
            device->setUp = record;
            device->setUp.at = utcNow();
            m_job.apply(tr("set-up of “%1”").arg(QString::fromStdString(device->label)), next);
            return {};
        }));
    buildRates(id);
}

// What the modem shows, both ways, and what that leaves of TCP.
void AdaptersPage::buildRates(const house::Id& adapter) {
    const auto* focused = qobject_cast<QLineEdit*>(focusWidget());
    const QString wanted =
        focused == nullptr || !m_rates->isAncestorOf(focused) ? QString() : focused->objectName();
    while (QLayoutItem* item = m_rateRows->takeAt(0)) {
        if (item->widget() != nullptr) {
            item->widget()->hide(); // until it goes
            item->widget()->setObjectName({});
            item->widget()->deleteLater();
        }
        delete item;
    }
    const house::House& house = m_job.house();
    int row = 0;
    for (const fit::AdapterRates& r : fit::ratesOf(house, adapter)) {
        const house::Connection& medium = *house.connection(r.medium);
        const QString other = QString::fromStdString(house.device(r.other)->label);
        if (row == 0) {
            auto* head = plainLabel(tr("Rates that its modem shows"));
            head->setFont(textFont(11, true));
            m_rateRows->addWidget(head, row++, 0, 1, 3);
        }
        for (const bool isTo : {true, false}) {
            const std::optional<quantity::BitRate>& rate = isTo ? r.to : r.from;
            auto* field = new QLineEdit(rate ? shortRate(*rate) : QString());
            field->setObjectName(QStringLiteral("phy-%1-%2")
                                     .arg(isTo ? QStringLiteral("to") : QStringLiteral("from"),
                                          QString::fromStdString(r.other)));
            field->setPlaceholderText(tr("like 640M"));
            field->setMaximumWidth(110);
            const QString name = isTo ? tr("to %1").arg(other) : tr("from %1").arg(other);
            field->setAccessibleName(name);
            auto* label = plainLabel(name); // no key of a field, whatever is in it
            label->setWordWrap(true);
            m_rateRows->addWidget(label, row, 0);
            m_rateRows->addWidget(field, row, 1);
            const auto implied =
                rate ? fit::impliedGoodput(m_job.catalog(), medium.medium, *rate) : std::nullopt;
            auto* means =
                plainLabel(implied ? tr("stands for %1 of TCP").arg(rangeText(*implied)) : QString());
            means->setWordWrap(true);
            m_rateRows->addWidget(means, row++, 2);
            const house::Id from = isTo ? adapter : r.other;
            const house::Id to = isTo ? r.other : adapter;
            connect(field, &QLineEdit::editingFinished, this,
                    [this, field, id = r.medium, from, to] { noteRate(field, id, from, to); });
            if (field->objectName() == wanted) field->setFocus();
        }
        if (!r.at.empty()) {
            auto* when = plainLabel(tr("read %1").arg(momentText(r.at)));
            when->setProperty("quiet", true);
            m_rateRows->addWidget(when, row++, 0, 1, 3);
        }
    }
}

void AdaptersPage::noteRate(QLineEdit* field, const house::Id& medium, const house::Id& from,
                            const house::Id& to) {
    if (!field->isModified()) return;
    field->setModified(false);
    house::House next = m_job.house();
    house::Connection* c = next.connection(medium);
    if (c == nullptr) return;
    const std::string text = field->text().trimmed().toStdString();
    if (text.empty()) {
        std::erase_if(c->phyRates, [&](const house::PhyReading& r) { return r.from == from && r.to == to; });
    } else {
        const auto rate = quantity::parseBitRate(text);
        if (!rate) {
            Q_EMIT said(QString::fromStdString(rate.error().sentence()), true);
            return;
        }
        house::noteRate(*c, {from, to, *rate, utcNow()});
    }
    m_job.apply(tr("note a PHY rate"), next);
}

void AdaptersPage::read() {
    const house::Device* d = chosen();
    if (d == nullptr) return;
    const std::string url = m_pageOf(*d);
    if (url.empty()) {
        Q_EMIT said(tr("no address of its page is known: type it into “Its page”, or type what it shows."),
                    true);
        return;
    }
    m_read->setEnabled(false);
    Q_EMIT said(tr("Reading the page of “%1”…").arg(QString::fromStdString(d->label)), false);
    m_worker.ask({d->id, url});
}

void AdaptersPage::take(const Answer& answer) {
    m_read->setEnabled(true);
    const house::Device* d = m_job.house().device(answer.adapter);
    if (d == nullptr) return;
    if (!answer.status) {
        Q_EMIT said(QString::fromStdString(answer.status.error().sentence()), true);
        return;
    }
    const QString label = QString::fromStdString(d->label);
    std::vector<std::string> unknown;
    m_job.apply(tr("read the page of “%1”").arg(label),
                fit::withStatus(m_job.house(), answer.adapter, *answer.status, utcNow(), unknown));
    QString sentence = answer.status->simulated ? tr("Read from the simulated page of “%1”.").arg(label)
                                                : tr("Read from the page of “%1”.").arg(label);
    if (answer.status->isPrivate == false)
        sentence += QLatin1Char(' ') + tr("Its network is public: anybody on the wiring can join. Pair it.");
    if (!unknown.empty())
        sentence += QLatin1Char(' ') + tr("It hears “%1” too, which no adapter of the survey is called.")
                                           .arg(QString::fromStdString(unknown.front()));
    Q_EMIT said(sentence, false);
}

} // namespace metrodos::desktop
