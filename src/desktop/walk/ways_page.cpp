#include "desktop/walk/ways_page.h"

#include "desktop/walk/section_view.h"
#include "desktop/walk/thing_panel.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/tool_button.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {

using house::Medium;

WaysPage::WaysPage(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_section(new SectionView(model.job())) {
    auto* media = new QHBoxLayout;
    for (const auto& [medium, text] :
         {std::pair(Medium::data_cable, tr("data")), std::pair(Medium::coax, tr("coax")),
          std::pair(Medium::mains, tr("mains")), std::pair(Medium::phone, tr("phone")),
          std::pair(Medium::air, tr("radio"))}) {
        auto* box = new QCheckBox(text);
        box->setChecked(true);
        box->setObjectName(QStringLiteral("show-") + text);
        media->addWidget(box);
        connect(box, &QCheckBox::toggled, this,
                [this, medium = medium](bool on) { m_section->setMedium(medium, on); });
    }
    media->addStretch();
    m_from = new QComboBox;
    m_from->setObjectName(QStringLiteral("place-from"));
    m_to = new QComboBox;
    m_to->setObjectName(QStringLiteral("place-to"));
    for (QComboBox* box : {m_from, m_to}) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(14);
        connect(box, &QComboBox::activated, this, &WaysPage::findWays);
    }
    m_ways = new RangeList;
    m_ways->setObjectName(QStringLiteral("ways"));
    m_ways->setEmptyText(tr("Nothing joins the two yet."));
    auto* from = plainLabel(tr("F&rom"));
    from->setBuddy(m_from);
    auto* to = plainLabel(tr("t&o"));
    to->setBuddy(m_to);
    media->addWidget(from);
    media->addWidget(m_from);
    media->addWidget(to);
    media->addWidget(m_to);
    m_panel = new QWidget;
    m_panel->setObjectName(QStringLiteral("ways-panel"));
    m_panel->setFixedWidth(400);
    auto* side = new QVBoxLayout(m_panel);
    side->setContentsMargins(8, 0, 0, 0);
    auto* head = new QHBoxLayout;
    m_between = plainLabel();
    m_between->setFont(textFont(11, true));
    m_between->setWordWrap(true);
    head->addWidget(m_between, 1);
    auto* close =
        tool(QStringLiteral("close-ways"), tr("Close"), tr("Close the ways between the two (Escape)"));
    head->addWidget(close);
    connect(close, &QToolButton::clicked, this, &WaysPage::closeWays);
    side->addLayout(head);
    side->addWidget(m_ways, 1);
    m_keep = tool(QStringLiteral("keep-route"), tr("Make it a route to measure"),
                  tr("Adds the chosen way, as it is installed, to the job's routes"));
    m_keep->setEnabled(false);
    side->addWidget(m_keep);
    connect(m_keep, &QToolButton::clicked, this, &WaysPage::keepRoute);
    auto* left = new QVBoxLayout;
    left->addLayout(media);
    left->addWidget(m_section, 1);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 6, 0, 0);
    row->addLayout(left, 1);
    row->addWidget(m_panel);
    m_panel->hide();
    m_thing = new ThingPanel(model.job());
    m_thing->setFixedWidth(m_panel->width());
    m_thing->hide();
    row->addWidget(m_thing);
    connect(m_thing, &ThingPanel::closeAsked, this, &WaysPage::closeWays);
    connect(m_thing, &ThingPanel::serviceAsked, this, &WaysPage::serviceAsked);
    connect(m_section, &SectionView::serviceAsked, this, [this](const QString& id) {
        Q_EMIT serviceAsked(id.isEmpty() ? QString::fromStdString(m_thing->thing()) : id);
    });
    connect(m_section, &SectionView::placeChosen, this, &WaysPage::choosePlace);
    connect(m_ways, &RangeList::chosen, this, &WaysPage::showWay);
    connect(&m_model, &RouteModel::changed, this, &WaysPage::fillPlaces);
    fillPlaces();
}

bool WaysPage::saveSection(const QString& file) {
    return m_section->save(file);
}

void WaysPage::fillPlaces() {
    const house::House& house = m_model.job().house();
    for (QComboBox* box : {m_from, m_to}) {
        const QSignalBlocker quiet(box);
        const QString now = box->currentData().toString();
        box->clear();
        box->addItem(tr("choose a place"), QString());
        for (const house::Room& r : house.rooms)
            box->addItem(QString::fromStdString(r.label), QString::fromStdString(r.id));
        for (const house::Jack& j : house.jacks)
            box->addItem(QString::fromStdString(j.label), QString::fromStdString(j.id));
        for (const house::Device& d : house.devices)
            if (d.kind == house::DeviceKind::host)
                box->addItem(QString::fromStdString(d.label), QString::fromStdString(d.id));
        box->setCurrentIndex(std::max(0, box->findData(now)));
    }
    if (isVisible() && !m_found.empty()) findWays();
    // What was removed has no panel.
    if (!m_thing->thing().empty() && house.roomOf({m_thing->thing(), ""}).empty() &&
        std::none_of(house.appliances.begin(), house.appliances.end(),
                     [&](const auto& a) { return a.id == m_thing->thing(); }))
        showThing({});
}

void WaysPage::showThing(const house::Id& id) {
    m_thing->setThing(id);
    m_thing->setVisible(!id.empty() && !m_panel->isVisible());
}

void WaysPage::choosePlace(const QString& id) {
    QComboBox* box = m_nextIsSecond ? m_to : m_from;
    int index = box->findData(id);
    // A box is where its room is.
    if (const house::Device* device = m_model.job().house().device(id.toStdString());
        index < 0 && device != nullptr)
        index = box->findData(QString::fromStdString(device->room));
    showThing(id.toStdString());
    if (index < 0) return;
    box->setCurrentIndex(index);
    if (!m_nextIsSecond) m_to->setCurrentIndex(0);
    m_nextIsSecond = !m_nextIsSecond;
    findWays();
}

void WaysPage::showWays(const QString& from, const QString& to) {
    m_from->setCurrentIndex(std::max(0, m_from->findData(from)));
    m_to->setCurrentIndex(std::max(0, m_to->findData(to)));
    if (to.isEmpty()) showThing(from.toStdString());
    findWays();
}

void WaysPage::findWays() {
    const house::Id from = m_from->currentData().toString().toStdString();
    const house::Id to = m_to->currentData().toString().toStdString();
    m_section->setPlaces(from, to);
    m_found.clear();
    m_keep->setEnabled(false);
    std::vector<RangeRow> rows;
    if (!from.empty() && !to.empty()) {
        auto ways = capacity::waysBetween(m_model.job().house(), m_model.job().catalog(), from, to);
        if (!ways) {
            Q_EMIT said(QString::fromStdString(ways.error().sentence()), true);
        } else {
            m_found = std::move(*ways);
            for (const capacity::Way& way : m_found) {
                RangeRow row;
                row.title = capitalised(way.label);
                if (way.prediction.forward.p50 > quantity::BitRate::bitsPerSecond(1000)) {
                    row.forward = way.prediction.forward;
                    row.backward = way.prediction.backward;
                } else {
                    row.instead = tr("does not link");
                }
                rows.push_back(std::move(row));
            }
        }
    }
    m_ways->setRows(std::move(rows));
    m_between->setText(tr("%1 to %2").arg(m_from->currentText(), m_to->currentText()));
    m_panel->setVisible(!from.empty() && !to.empty());
    m_thing->setVisible(!m_thing->thing().empty() && !m_panel->isVisible());
    m_section->setEmphasis({});
    if (m_found.empty())
        m_model.clearWay();
    else
        showWay(0);
}

bool WaysPage::closeWays() {
    if (m_from->currentIndex() <= 0 && m_to->currentIndex() <= 0 && m_thing->thing().empty()) return false;
    m_thing->setThing({});
    m_from->setCurrentIndex(0);
    m_to->setCurrentIndex(0);
    m_nextIsSecond = false;
    findWays();
    m_section->setFocus();
    return true;
}

void WaysPage::showWay(int row) {
    const bool there = row >= 0 && row < static_cast<int>(m_found.size());
    m_keep->setEnabled(there && m_found[static_cast<std::size_t>(row)].kind == capacity::WayKind::existing);
    if (!there) return;
    m_model.showWay(m_found[static_cast<std::size_t>(row)]);
    const auto wires = capacity::wiresOf(m_model.job().house(), m_found[static_cast<std::size_t>(row)]);
    m_section->setEmphasis({wires.begin(), wires.end()});
}

// An installed way becomes a route of the job.
void WaysPage::keepRoute() {
    const int row = m_ways->current();
    if (row < 0 || row >= static_cast<int>(m_found.size())) return;
    const auto kept = capacity::withRoute(m_model.job().house(), m_found[static_cast<std::size_t>(row)]);
    if (!kept) {
        Q_EMIT said(QString::fromStdString(kept.error().sentence()), true);
        return;
    }
    const QString label = QString::fromStdString(kept->house.route(kept->route)->label);
    if (kept->isNew) m_model.job().apply(tr("add route %1").arg(label), kept->house);
    m_model.setRoute(kept->route);
    Q_EMIT said(kept->isNew ? tr("“%1” is a route now; Measure runs over it.").arg(label)
                            : tr("“%1” is a route of the job already.").arg(label),
                false);
}

} // namespace metrodos::desktop
