#include "desktop/walk/find_page.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "fit/cautions.h"
#include "house/findings.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <algorithm>

namespace metrodos::desktop {
namespace {

QListWidget* list(const QString& name) {
    auto* out = new QListWidget;
    out->setObjectName(name);
    out->setWordWrap(true);
    out->setAlternatingRowColors(false);
    out->setSpacing(2);
    return out;
}

QLabel* heading(const QString& text) {
    auto* out = plainLabel(text);
    out->setFont(textFont(11, true));
    return out;
}

} // namespace

FindPage::FindPage(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    setObjectName(QStringLiteral("find-page"));
    m_cables = list(QStringLiteral("cables"));
    m_cables->setAccessibleName(tr("Cables with an unknown end"));
    m_place = new QComboBox;
    m_place->setObjectName(QStringLiteral("place"));
    m_how = new QComboBox;
    m_how->setObjectName(QStringLiteral("found-by"));
    m_how->setAccessibleName(tr("How it was told"));
    for (const auto& [words, how] :
         {std::pair(tr("by tone"), house::FoundBy::tone), std::pair(tr("by flash"), house::FoundBy::flash),
          std::pair(tr("by continuity"), house::FoundBy::continuity),
          std::pair(tr("by eye"), house::FoundBy::seen)})
        m_how->addItem(words, static_cast<int>(how));
    m_found = new QPushButton(tr("&Heard here"));
    m_found->setObjectName(QStringLiteral("found"));
    m_found->setToolTip(tr("Record that the tone or flash of the chosen cable was found at this place"));
    m_answer = plainLabel();
    m_answer->setWordWrap(true);
    m_answer->setObjectName(QStringLiteral("quiet"));
    m_findings = list(QStringLiteral("findings"));
    m_findings->setAccessibleName(tr("What the survey still lacks"));
    m_cautions = list(QStringLiteral("cautions"));
    m_cautions->setAccessibleName(tr("Cautions"));

    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 6, 0, 0);
    grid->setHorizontalSpacing(14);
    grid->addWidget(heading(tr("Cables with an unknown end")), 0, 0);
    grid->addWidget(m_cables, 1, 0);
    auto* row = new QHBoxLayout;
    row->addWidget(m_place, 1);
    row->addWidget(m_how);
    row->addWidget(m_found);
    grid->addLayout(row, 2, 0);
    grid->addWidget(m_answer, 3, 0);
    grid->addWidget(heading(tr("What the survey still lacks")), 0, 1);
    grid->addWidget(m_findings, 1, 1, 3, 1);
    grid->addWidget(heading(tr("Cautions")), 0, 2);
    grid->addWidget(m_cautions, 1, 2, 3, 1);
    grid->setColumnStretch(0, 4);
    grid->setColumnStretch(1, 4);
    grid->setColumnStretch(2, 5);
    grid->setRowStretch(1, 1);

    connect(m_cables, &QListWidget::currentRowChanged, this, &FindPage::fillPlaces);
    connect(m_found, &QPushButton::clicked, this, &FindPage::recordFound);
    connect(&m_model, &JobModel::changed, this, &FindPage::refresh);
    refresh();
}

void FindPage::refresh() {
    const house::House& house = m_model.house();
    const int before = m_cables->currentRow();
    m_cables->clear();
    for (const house::OpenEnd& open : house::continuityList(house)) {
        const house::Connection* c = house.connection(open.connection);
        QString text = QString::fromStdString(c->label);
        text += c->ends.empty()
                    ? tr("\nneither end known")
                    : tr("\none end: %1").arg(QString::fromStdString(house.labelOf(c->ends.front())));
        auto* item = new QListWidgetItem(text, m_cables);
        item->setData(Qt::UserRole, QString::fromStdString(c->id));
    }
    // Known, but not joined: its loose end can be taken off and found elsewhere.
    for (const house::Connection& c : house.connections) {
        if (!house::jackOf(c.medium) || c.ends.size() < 2) continue;
        for (const house::PortRef& end : c.ends)
            if (house.room(end.device) != nullptr) {
                auto* item = new QListWidgetItem(
                    QString::fromStdString(c.label) +
                        tr("\n%1, not joined").arg(QString::fromStdString(house.labelOf(end))),
                    m_cables);
                item->setData(Qt::UserRole, QString::fromStdString(c.id));
                item->setForeground(theme().quiet);
            }
    }
    m_cables->setCurrentRow(std::clamp(before, 0, std::max(0, m_cables->count() - 1)));
    m_answer->setText(m_cables->count() == 0
                          ? tr("Both ends of every cable are known.")
                          : tr("Put the tester's tone on a cable, walk, and record where it is heard."));
    m_findings->clear();
    for (const quantity::Problem& p : house::findings(house))
        m_findings->addItem(QString::fromStdString(p.sentence()));
    if (m_findings->count() == 0) m_findings->addItem(tr("Nothing: the survey holds together."));
    m_cautions->clear();
    for (const fit::Caution& c : fit::cautionsOf(house)) {
        const auto label = [&]() -> QString {
            if (const house::Room* r = house.room(c.where)) return QString::fromStdString(r->label);
            if (const house::Connection* k = house.connection(c.where))
                return QString::fromStdString(k->label);
            if (const house::Panel* p = house.panel(c.where)) return QString::fromStdString(p->label);
            if (const house::Circuit* k = house.circuit(c.where)) return QString::fromStdString(k->label);
            for (const house::Spot& spot : house.spots)
                if (spot.id == c.where) return QString::fromStdString(spot.label);
            return QString::fromStdString(house.labelOf({c.where, ""})).section(QLatin1Char(','), 0, 0);
        };
        m_cautions->addItem(tr("%1: %2\nBecause %3.")
                                .arg(label(), QString::fromStdString(c.what), QString::fromStdString(c.why)));
    }
    m_cautions->addItem(
        m_cautions->count() == 0
            ? tr("Nothing in this survey calls for one yet.")
            : tr("Guidance, not certification: the law, the maker and a licensed trade go first."));
    fillPlaces();
}

void FindPage::fillPlaces() {
    m_place->clear();
    const house::House& house = m_model.house();
    const QListWidgetItem* item = m_cables->currentItem();
    const house::Connection* c =
        item == nullptr ? nullptr : house.connection(item->data(Qt::UserRole).toString().toStdString());
    m_found->setEnabled(c != nullptr);
    m_place->setEnabled(c != nullptr);
    if (c == nullptr) return;
    const auto free = [&](const house::PortRef& end) {
        return std::none_of(
            house.connections.begin(), house.connections.end(), [&](const house::Connection& other) {
                return std::find(other.ends.begin(), other.ends.end(), end) != other.ends.end();
            });
    };
    const auto offer = [&](const house::PortRef& end) {
        if (free(end) || house.room(end.device) != nullptr)
            m_place->addItem(
                QString::fromStdString(house.labelOf(end)),
                QStringList{QString::fromStdString(end.device), QString::fromStdString(end.port)});
    };
    for (const house::Jack& jack : house.jacks)
        if (house::jackOf(c->medium) == jack.kind) offer({jack.id, ""});
    if (c->medium == house::Medium::coax)
        for (const house::CoaxPart& part : house.coaxParts)
            for (const house::Id& port : house::portsOf(part))
                offer({part.id, port});
    if (c->medium == house::Medium::data_cable)
        for (const house::Device& d : house.devices)
            for (const house::Port& port : d.ports)
                if (port.kind == house::PortKind::ethernet && port.jack.empty()) offer({d.id, port.id});
    for (const house::Room& room : house.rooms)
        offer({room.id, ""});
}

void FindPage::recordFound() {
    const QListWidgetItem* item = m_cables->currentItem();
    const QStringList place = m_place->currentData().toStringList();
    if (item == nullptr || place.size() != 2) return;
    const house::Id cable = item->data(Qt::UserRole).toString().toStdString();
    const house::PortRef end{place[0].toStdString(), place[1].toStdString()};
    quantity::Result<house::House> base = m_model.house();
    // A loose end makes way for what was found.
    if (const house::Connection* c = base->connection(cable); c != nullptr && c->ends.size() >= 2)
        for (const house::PortRef& old : c->ends)
            if (base->room(old.device) != nullptr) {
                base = house::withEndLost(*base, cable, old);
                break;
            }
    if (base) base = house::withEndFound(*base, cable, end);
    if (base)
        if (house::Connection* c = base->connection(cable))
            c->foundBy = static_cast<house::FoundBy>(m_how->currentData().toInt());
    m_model.apply(tr("record where %1 ends").arg(item->text().section(QLatin1Char('\n'), 0, 0)), base);
}

} // namespace metrodos::desktop
