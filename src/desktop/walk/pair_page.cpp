#include "desktop/walk/pair_page.h"

#include "capacity/coax_channel.h"
#include "desktop/walk/loss_view.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "quantity/format.h"

#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QScrollArea>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

namespace metrodos::desktop {
namespace {

using capacity::CoaxBudget;
using house::JackKind;

QString sentenceOf(const CoaxBudget& budget) {
    if (budget.join == capacity::CoaxJoin::unknown)
        return PairPage::tr(
            "The way between the two is not known yet: a run is missing or its end has not been found.");
    if (budget.ruledOut) return PairPage::tr("Coax adapters will not link between these two.");
    const auto s = budget.rate.spread();
    return PairPage::tr("%1, both directions together · %2").arg(rangeText(s), byteText(s.p50));
}

} // namespace

PairPage::PairPage(JobModel& model, JackKind kind, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_kind(kind) {
    const bool coax = kind == JackKind::coax;
    setObjectName(coax ? QStringLiteral("coax-page") : QStringLiteral("mains-page"));
    m_from = new QComboBox;
    m_from->setObjectName(QStringLiteral("from"));
    m_class = new QComboBox;
    m_class->setObjectName(QStringLiteral("class"));
    const auto family = coax ? catalog::Family::coax : catalog::Family::mains;
    for (const catalog::DeviceClass& cls : model.catalog().devices)
        if (cls.family == family)
            m_class->addItem(QString::fromStdString(cls.label), QString::fromStdString(cls.id));
    m_class->setCurrentIndex(coax ? m_class->count() - 1 : std::max(0, m_class->count() - 2));
    m_list = new RangeList;
    m_list->setObjectName(QStringLiteral("pairs"));
    m_list->setAccessibleName(coax ? tr("Every other coax jack") : tr("Every other outlet"));
    m_list->setEmptyText(
        coax ? tr("Enter two coax jacks with their runs: “Loft / coax / from loft splitter / RG-6 / 4 m”.")
             : tr("Enter outlets with their circuits: “Loft / outlet / on upper sockets / 4 m”."));
    m_losses = new LossView;
    m_use = plainLabel();
    m_use->setObjectName(QStringLiteral("quiet"));
    m_use->setWordWrap(true);

    m_from->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_from->setMinimumContentsLength(15);
    m_class->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_class->setMinimumContentsLength(14);
    auto* choice = new QGridLayout;
    choice->setColumnStretch(1, 1);
    auto* label = plainLabel(coax ? tr("&From jack") : tr("&From outlet"));
    label->setBuddy(m_from);
    auto* with = plainLabel(tr("&with"));
    with->setBuddy(m_class);
    choice->addWidget(label, 0, 0);
    choice->addWidget(m_from, 0, 1);
    choice->addWidget(with, 1, 0);
    choice->addWidget(m_class, 1, 1);
    auto* left = new QVBoxLayout;
    left->addLayout(choice);
    left->addWidget(m_list, 1);
    left->addWidget(m_use);
    auto* scroll = new QScrollArea;
    scroll->setWidget(m_losses);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 6, 0, 0);
    row->addLayout(left, 5);
    row->addWidget(scroll, 5);

    connect(m_from, &QComboBox::activated, this, &PairPage::fillRows);
    connect(m_class, &QComboBox::activated, this, &PairPage::fillRows);
    connect(m_list, &RangeList::chosen, this, &PairPage::showPair);
    connect(&m_model, &JobModel::changed, this, [this] {
        if (isVisible()) refresh();
    });
}

void PairPage::showEvent(QShowEvent*) {
    refresh();
}

void PairPage::refresh() {
    fillJacks();
    fillRows();
}

void PairPage::fillJacks() {
    const QSignalBlocker quiet(m_from);
    const QString now = m_from->currentData().toString();
    m_from->clear();
    for (const house::Jack& jack : m_model.house().jacks)
        if (jack.kind == m_kind)
            m_from->addItem(QString::fromStdString(jack.label), QString::fromStdString(jack.id));
    m_from->setCurrentIndex(std::max(0, m_from->findData(now)));
}

void PairPage::fillRows() {
    const house::House& house = m_model.house();
    const house::Id from = m_from->currentData().toString().toStdString();
    const std::string cls = m_class->currentData().toString().toStdString();
    const int before = m_list->current();
    struct Found {
        RangeRow row;
        house::Id id;
        double median = 0;
        house::Id room;
    };
    std::vector<Found> found;
    const capacity::CoaxPlant coax(house, m_model.catalog());
    const capacity::MainsPlant mains(house, m_model.catalog());
    for (const house::Jack& jack : house.jacks) {
        if (jack.kind != m_kind || jack.id == from) continue;
        Found f;
        f.id = jack.id;
        f.room = jack.room;
        f.row.id = QString::fromStdString(jack.id);
        f.row.title = QString::fromStdString(jack.label);
        if (m_kind == JackKind::coax) {
            const CoaxBudget budget = coax.budget({from, jack.id, cls, 2, false});
            if (budget.join == capacity::CoaxJoin::joined && !budget.ruledOut) {
                f.row.forward = budget.rate.spread();
                f.row.note = QString::fromStdString(quantity::significant(budget.totalDb.p50, 3)) +
                             QStringLiteral(" dB");
                f.median = f.row.forward->p50.bps();
            } else {
                f.row.instead = budget.ruledOut ? tr("ruled out") : tr("not known");
            }
        } else {
            const capacity::MainsQuestion question = mainsQuestion(from, jack.id);
            const capacity::MainsForecast forecast = mains.forecast(question);
            if (forecast.isKnown) {
                f.row.forward = forecast.forward.spread();
                f.row.backward = forecast.backward.spread();
                f.median = std::min(f.row.forward->p50, f.row.backward->p50).bps();
                if (f.median < 1e5) f.row.note = tr("will not link");
            } else {
                f.row.instead = tr("circuit not known");
            }
        }
        found.push_back(std::move(f));
    }
    std::stable_sort(found.begin(), found.end(),
                     [](const Found& a, const Found& b) { return a.median > b.median; });
    std::map<house::Id, int> inRoom;
    for (const Found& f : found)
        ++inRoom[f.room];
    std::vector<RangeRow> rows;
    m_others.clear();
    for (Found& f : found) {
        int& count = inRoom[f.room];
        f.row.isBest = m_kind == JackKind::mains && count > 1 && f.median > 0; // the first of its room
        count = 0;
        m_others.push_back(f.id);
        rows.push_back(std::move(f.row));
    }
    m_list->setRows(std::move(rows));
    QStringList use;
    if (m_kind == JackKind::coax) {
        if (house.coaxUse.satellite == true) use << tr("satellite on the tree");
        if (house.coaxUse.television == true) use << tr("television below the adapters' band");
        if (house.coaxUse.cableInternetTop)
            use << tr("cable internet up to %1 MHz")
                       .arg(QLocale().toString(house.coaxUse.cableInternetTop->inMegahertz(), 'f', 0));
    }
    m_use->setText(use.isEmpty() ? QString()
                                 : tr("The tree also carries: %1.").arg(use.join(QStringLiteral(", "))));
    m_use->setVisible(!use.isEmpty());
    showPair(before >= 0 && before < static_cast<int>(m_others.size()) ? before : 0);
}

void PairPage::showPair(int row) {
    if (row < 0 || row >= static_cast<int>(m_others.size())) {
        m_losses->setPicture({});
        return;
    }
    const house::Id from = m_from->currentData().toString().toStdString();
    const house::Id& to = m_others[static_cast<std::size_t>(row)];
    if (m_kind == JackKind::coax)
        showCoaxPair(from, to);
    else
        showMainsPair(from, to);
}

void PairPage::showCoaxPair(const house::Id& from, const house::Id& to) {
    const CoaxBudget budget =
        capacity::coaxBudget(m_model.house(), m_model.catalog(),
                             {from, to, m_class->currentData().toString().toStdString(), 2, true});
    LossPicture picture;
    picture.title =
        tr("%1 to %2").arg(m_from->currentText(), QString::fromStdString(m_model.house().jack(to)->label));
    picture.sentence = sentenceOf(budget);
    for (const std::string& ruling : budget.rulings)
        picture.rulings << capitalised(ruling) + QLatin1Char('.');
    picture.steps = budget.contributions;
    picture.totalDb = budget.totalDb;
    const catalog::CoaxModel& m = m_model.catalog().coax;
    const double reach = m.transmitDbm - m.noiseDbm - m.goneSnrDb;
    picture.goneAtDb = reach;
    picture.fullUpToDb = reach - m.dbPerBit * m.fullBits;
    picture.improvements = budget.improvements;
    m_losses->setPicture(std::move(picture));
}

capacity::MainsQuestion PairPage::mainsQuestion(const house::Id& from, const house::Id& to) const {
    // Where nothing was noted of a strip an adapter goes into the wall.
    const auto stripAt = [this](const house::Id& outlet) {
        const house::Strip strip = m_model.house().stripAt(outlet);
        return strip == house::Strip::unknown ? house::Strip::wall : strip;
    };
    capacity::MainsQuestion out;
    out.outletA = from;
    out.outletB = to;
    out.stripA = stripAt(from);
    out.stripB = stripAt(to);
    out.deviceClass = m_class->currentData().toString().toStdString();
    return out;
}

void PairPage::showMainsPair(const house::Id& from, const house::Id& to) {
    capacity::MainsQuestion question = mainsQuestion(from, to);
    question.withCosts = true;
    const capacity::MainsForecast forecast =
        capacity::mainsForecast(m_model.house(), m_model.catalog(), question);
    LossPicture picture;
    picture.title =
        tr("%1 to %2").arg(m_from->currentText(), QString::fromStdString(m_model.house().jack(to)->label));
    picture.sentence =
        forecast.isKnown
            ? tr("there %1, back %2; one at a time. The adapters' own display would show about %3.")
                  .arg(rangeText(forecast.forward.spread()), rangeText(forecast.backward.spread()),
                       rateText(forecast.phyForward.p50))
            : tr("The circuit of one of the two is not known yet: enter it with “circuit / NAME / PANEL”.");
    for (const std::string& ruling : forecast.rulings)
        picture.rulings << capitalised(ruling) + QLatin1Char('.');
    picture.steps = forecast.contributions;
    for (const capacity::Contribution& c : forecast.contributions) {
        picture.totalDb.p10 += c.lossDb.p10;
        picture.totalDb.p50 += c.lossDb.p50;
        picture.totalDb.p90 += c.lossDb.p90;
    }
    picture.byHour = forecast.byHour;
    m_losses->setPicture(std::move(picture));
}

} // namespace metrodos::desktop
