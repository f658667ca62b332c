#include "desktop/weigh/weigh_view.h"

#include "desktop/weigh/plan_file.h"
#include "desktop/weigh/weigh_charts.h"
#include "desktop/weigh/weigh_model.h"
#include "desktop/weigh/weigh_rows.h"
#include "desktop/weigh/weigh_tables.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/tool_button.h"
#include "job/entry_grammar.h"
#include "weigh/compare.h"
#include "weigh/way_choice.h"

#include <QAction>
#include <QButtonGroup>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QSignalBlocker>
#include <QSplitter>
#include <QTabWidget>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

namespace metrodos::desktop {
namespace {

QString objectiveWords(weigh::Objective objective) {
    switch (objective) {
    case weigh::Objective::cheapest:
        return WeighView::tr("Cheapest");
    case weigh::Objective::steadiest:
        return WeighView::tr("Steadiest");
    case weigh::Objective::no_drilling:
        return WeighView::tr("No drilling");
    case weigh::Objective::fastest:
        return WeighView::tr("Most headroom");
    case weigh::Objective::lasting:
        return WeighView::tr("Lasts longest");
    }
    return {};
}

QString timesText(double headroom) {
    return headroom >= 100 ? WeighView::tr("100 times and more")
                           : WeighView::tr("%1 times").arg(QLocale().toString(headroom, 'g', 3));
}

} // namespace

WeighView::WeighView(WeighModel& model)
    : m_model(model)
    , m_headline(plainLabel())
    , m_notes(plainLabel())
    , m_progress(new QProgressBar)
    , m_left(plainLabel())
    , m_stop(tool(QStringLiteral("weighStop"), tr("Stop"), tr("Stop weighing")))
    , m_spots(new RangeList)
    , m_needWords(plainLabel())
    , m_uses(new QLineEdit)
    , m_pages(new QTabWidget)
    , m_ways(new RangeList)
    , m_front(new FrontChart(model))
    , m_parts(new PartsPage(model))
    , m_compare(new ComparePage(model))
    , m_growth(new GrowthChart(model))
    , m_prices(new PricesPage(model))
    , m_apply(tool(QStringLiteral("apply-plan"), tr("Fit it  (Ctrl+Enter)"),
                   tr("Puts the plan into the house, with a trial in Measure")))
    , m_drilling(tool(QStringLiteral("drilling"), tr("D&rilling allowed"),
                      tr("Whether new cable may be laid at all")))
    , m_share(new QComboBox)
    , m_atOnce(new QComboBox)
    , m_years(new QComboBox)
    , m_classes(tool(QStringLiteral("each-class"), tr("Each class of adapter  (C)"),
                     tr("Lists a way once for each class of adapter; P then pins the class")))
    , m_save(tool(QStringLiteral("save-plan"), tr("Save…"),
                  tr("The plan as a report (PDF, HTML, Markdown) or, with all plans, as JSON: Ctrl+E")))
    , m_wayWords(plainLabel()) {
    setObjectName(QStringLiteral("weigh"));
    auto* objectives = new QHBoxLayout;
    objectives->setSpacing(4);
    auto* group = new QButtonGroup(this);
    for (const weigh::Objective s : weigh::objectives) {
        auto* b = tool(QStringLiteral("objective-%1").arg(QString::fromStdString(std::string(name(s)))),
                       objectiveWords(s), tr("Plan: %1").arg(QString::fromLatin1(weigh::label(s))));
        b->setCheckable(true);
        b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        b->setMinimumHeight(50);
        group->addButton(b);
        m_objectives[s] = b;
        objectives->addWidget(b);
        connect(b, &QToolButton::clicked, this, [this, s] { m_model.setObjective(s); });
    }
    m_headline->setObjectName(QStringLiteral("planHeadline"));
    m_headline->setFont(textFont(14, true));
    m_headline->setWordWrap(true);
    m_notes->setWordWrap(true);
    m_notes->setObjectName(QStringLiteral("quiet"));
    m_left->setObjectName(QStringLiteral("weighLeft"));
    m_progress->setRange(0, 100);
    m_progress->setTextVisible(false);
    m_progress->setFixedSize(110, 8);
    m_spots->setObjectName(QStringLiteral("weighSpots"));
    m_spots->setAccessibleName(tr("Spots and the way chosen for each"));
    m_spots->setEmptyText(tr("Say in Walk what is needed where, like “%1”. Then each spot stands here with "
                             "the way that the plan "
                             "takes to it.")
                              .arg(QString::fromUtf8(job::needExample)));
    m_uses->setObjectName(QStringLiteral("uses"));
    m_uses->setAccessibleName(tr("What is done at the spot"));
    m_uses->setPlaceholderText(tr("2 4K streams + 8 calls + backup 400 GB in 3 h"));
    m_uses->setClearButtonEnabled(true);
    m_needWords->setWordWrap(true);
    m_needWords->setMinimumHeight(38);
    m_needWords->setAlignment(Qt::AlignBottom | Qt::AlignLeft);
    m_needWords->setObjectName(QStringLiteral("needWords"));
    m_drilling->setCheckable(true);
    connect(m_drilling, &QToolButton::clicked, this, [this](bool on) { m_model.setDrilling(on); });

    auto* left = new QWidget;
    auto* column = new QVBoxLayout(left);
    column->setContentsMargins(10, 6, 6, 6);
    column->setSpacing(4);
    auto* head = new QHBoxLayout;
    head->addWidget(m_headline, 1);
    head->addWidget(m_left);
    head->addWidget(m_progress);
    head->addWidget(m_stop);
    column->addLayout(head);
    column->addWidget(m_notes);
    column->addWidget(m_spots, 1);
    column->addWidget(m_needWords);
    column->addWidget(m_uses);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(m_apply);
    buttons->addWidget(m_drilling);
    buttons->addWidget(m_save);
    buttons->addStretch();
    column->addLayout(buttons);
    buttons = new QHBoxLayout; // under it: so they fit beside the pages of the smallest window
    m_share->setObjectName(QStringLiteral("share"));
    m_share->setAccessibleName(tr("How likely a need must be met"));
    m_share->setToolTip(tr("A need counts as carried when so many houses like this one carry it"));
    for (const double share : {0.5, 0.8, 0.9, 0.95, 0.99})
        m_share->addItem(tr("%1 sure").arg(percentText(share)), share);
    buttons->addWidget(m_share);
    m_atOnce->setObjectName(QStringLiteral("atOnce"));
    m_atOnce->setAccessibleName(tr("How much goes on at once"));
    m_atOnce->setToolTip(
        tr("What is steady goes on all at once; of the rest, downloads, copies and editing, this share"));
    for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0})
        m_atOnce->addItem(tr("%1 at once").arg(percentText(share)), share);
    buttons->addWidget(m_atOnce);
    connect(m_atOnce, &QComboBox::activated, this,
            [this] { m_model.setAtOnce(m_atOnce->currentData().toDouble()); });
    m_years->setObjectName(QStringLiteral("years"));
    m_years->setAccessibleName(tr("Years"));
    m_years->setToolTip(tr("Years over which costs are compared"));
    for (const int years : {3, 5, 10, 15, 20})
        m_years->addItem(tr("%1 years").arg(years), years);
    buttons->addWidget(m_years);
    connect(m_share, &QComboBox::activated, this,
            [this] { m_model.setShare(m_share->currentData().toDouble()); });
    connect(m_years, &QComboBox::activated, this,
            [this] { m_model.setYears(m_years->currentData().toInt()); });
    buttons->addStretch();
    column->addLayout(buttons);

    m_ways->setObjectName(QStringLiteral("weighWays"));
    m_ways->setAccessibleName(tr("Ways to the chosen spot"));
    m_ways->setEmptyText(tr("Choose a spot: all ways to it come here."));
    auto* ways = new QWidget;
    auto* waysColumn = new QVBoxLayout(ways);
    waysColumn->setContentsMargins(0, 0, 0, 0);
    waysColumn->setSpacing(2);
    auto* classesRow = new QHBoxLayout;
    classesRow->setContentsMargins(6, 4, 6, 0);
    m_classes->setCheckable(true);
    classesRow->addWidget(m_classes);
    classesRow->addStretch();
    waysColumn->addLayout(classesRow);
    waysColumn->addWidget(m_ways, 1);
    connect(m_classes, &QToolButton::toggled, this, [this] { fillWays(); });
    m_wayWords->setObjectName(QStringLiteral("wayWords"));
    m_wayWords->setWordWrap(true);
    m_wayWords->setMargin(4);
    m_wayWords->setMinimumHeight(40);
    waysColumn->addWidget(m_wayWords);
    m_ways->setToolTip(
        tr("bar: 8 of 10 houses like this · tick: the need · open mark: printed on the box · solid mark: "
           "measured · P pins a way"));
    m_pages->setObjectName(QStringLiteral("weighPages"));
    m_pages->setDocumentMode(true);
    const auto page = [&](QWidget* widget, const QString& name, const QString& title) {
        widget->setObjectName(QStringLiteral("weigh-") + name);
        m_pages->addTab(widget, title);
    };
    page(ways, QStringLiteral("ways"), tr("&Ways"));
    page(m_front, QStringLiteral("front"), tr("Head&room"));
    page(m_compare, QStringLiteral("compare"), tr("Co&mpare"));
    page(m_parts, QStringLiteral("parts"), tr("P&arts"));
    page(m_growth, QStringLiteral("growth"), tr("&Years"));
    page(m_prices, QStringLiteral("prices"), tr("Pric&es"));
    connect(m_pages, &QTabWidget::currentChanged, this, &WeighView::fillPage);

    auto* split = new QSplitter;
    split->setChildrenCollapsible(false);
    split->addWidget(left);
    split->addWidget(m_pages);
    split->setStretchFactor(0, 9);
    split->setStretchFactor(1, 11);
    split->setSizes({486, 700});
    left->setMinimumWidth(390);
    m_pages->setMinimumWidth(520);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 4, 0, 0);
    all->setSpacing(2);
    auto* top = new QHBoxLayout;
    top->setContentsMargins(10, 0, 10, 0);
    top->addLayout(objectives, 1);
    all->addLayout(top);
    all->addWidget(split, 1);

    connect(m_stop, &QToolButton::clicked, this, [this] { m_model.stop(); });
    connect(&m_model, &WeighModel::changed, this, &WeighView::fill);
    connect(&m_model, &WeighModel::progressed, this, &WeighView::showProgress);
    connect(&m_model, &WeighModel::said, this, &WeighView::said);
    connect(m_parts, &PartsPage::said, this, &WeighView::said);
    connect(m_compare, &ComparePage::said, this, &WeighView::said);
    connect(m_prices, &PricesPage::said, this, &WeighView::said);
    connect(m_spots, &RangeList::chosen, this, [this](int row) {
        m_spot = row;
        fillWays();
    });
    connect(m_ways, &RangeList::chosen, this, &WeighView::showWay);
    connect(m_uses, &QLineEdit::returnPressed, this, &WeighView::noteUses);
    connect(m_apply, &QToolButton::clicked, this, [this] { m_model.applyPlan(); });
    connect(m_save, &QToolButton::clicked, this, &WeighView::askSave);
    const auto shortcut = [this](const QKeySequence& key, auto what) {
        auto* a = new QAction(this);
        a->setShortcut(key);
        a->setShortcutContext(Qt::WidgetWithChildrenShortcut);
        addAction(a);
        connect(a, &QAction::triggered, this, what);
    };
    shortcut(QKeySequence(Qt::Key_P), [this] { pinCurrent(); });
    shortcut(QKeySequence(Qt::Key_C), [this] { m_classes->toggle(); });
    shortcut(QKeySequence(Qt::CTRL | Qt::Key_E), [this] { askSave(); });
    shortcut(QKeySequence(Qt::CTRL | Qt::Key_Return), [this] { m_model.applyPlan(); });
    fill();
}

void WeighView::restyle() {
    fill();
}

void WeighView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    m_model.setWanted(true);
}

void WeighView::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    m_model.setWanted(false);
    m_model.route().clearWay();
}

void WeighView::sayWay(int row) {
    if (row < 0 || row >= static_cast<int>(m_config.size())) return;
    const weigh::SpotOptions& spot = m_model.options()->spots[static_cast<std::size_t>(m_spot)];
    m_wayWords->setText(wayWords(spot, spot.ways[m_config[static_cast<std::size_t>(row)]], m_model.prices()));
}

// The strip shows the way that is looked at, as far as it is one from end to end.
void WeighView::showWay(int row) {
    if (row < 0 || row >= static_cast<int>(m_config.size())) return;
    sayWay(row);
    const weigh::SpotOptions& spot = m_model.options()->spots[static_cast<std::size_t>(m_spot)];
    const weigh::SpotWay& way = spot.ways[m_config[static_cast<std::size_t>(row)]];
    m_parts->showWay(spot, way);
    if (way.route != nullptr)
        m_model.route().showWay(*way.route);
    else
        m_model.route().clearWay();
}

void WeighView::showProgress() {
    const bool on = m_model.isWeighing();
    m_progress->setVisible(on);
    m_stop->setVisible(on);
    m_progress->setValue(static_cast<int>(m_model.done() * 100));
    const auto left = m_model.timeLeft();
    m_left->setText(left ? tr("%1 s left").arg(QLocale().toString(std::ceil(*left), 'f', 0)) : QString());
    m_left->setVisible(left.has_value());
    for (QToolButton* button : {m_apply, m_save})
        button->setEnabled(!on && m_model.plan() != nullptr);
}

void WeighView::fill() {
    const weigh::Prices prices = m_model.prices();
    for (const auto& [s, button] : m_objectives) {
        const weigh::Plan* best = m_model.best(s);
        button->setText(
            best == nullptr ? objectiveWords(s)
            : best->carriesAll
                ? tr("%1\n%2").arg(objectiveWords(s),
                                   QString::fromStdString(weigh::amount(prices, best->cost)))
                : tr("%1\n%2, not all")
                      .arg(objectiveWords(s), QString::fromStdString(weigh::amount(prices, best->cost))));
        button->setChecked(s == m_model.objective());
    }
    const weigh::Plan* plan = m_model.plan();
    const house::Weighing& weighing = m_model.job().house().weighing;
    m_drilling->setChecked(weighing.drilling);
    m_share->setCurrentIndex(m_share->findData(weighing.share));
    m_atOnce->setCurrentIndex(m_atOnce->findData(weighing.atOnce));
    m_years->setCurrentIndex(m_years->findData(weighing.years));
    if (plan == nullptr) {
        m_headline->setText(m_model.problemText().isEmpty()
                                ? (m_model.isWeighing() ? tr("Weighing …") : tr("No plan yet"))
                                : m_model.problemText());
        m_notes->clear();
    } else {
        QStringList words{QString::fromStdString(weigh::amount(prices, plan->cost)),
                          tr("%1 own work").arg(timeText(plan->minutes)),
                          plan->holes == 0 ? tr("no holes") : holesText(plan->holes)};
        m_headline->setText(words.join(QStringLiteral(" · ")));
        QStringList notes{QString::fromStdString(weigh::verdictOf(*plan)) + QLatin1Char('.')};
        if (plan->wiringCarriesAll)
            notes << (plan->carriesAll ? tr("The tightest need could grow %1.").arg(timesText(plan->headroom))
                                       : tr("For later: the house would carry %1 what is wanted now.")
                                             .arg(timesText(plan->headroom)));
        for (const std::string& note : plan->notes)
            notes << QString::fromStdString(note) + QLatin1Char('.');
        if (constexpr double saysSomething = 0.5; plan->gap > saysSomething)
            notes << tr("Time ran out: how near it is to the best is not proven.");
        else if (plan->gap > 0)
            notes << tr("Proven to within %1 of the best.").arg(percentText(plan->gap));
        m_notes->setText(notes.join(QLatin1Char(' ')));
    }
    fillSpots();
    fillPage();
    showProgress();
}

void WeighView::fillSpots() {
    const weigh::Options* options = m_model.options();
    const weigh::Plan* plan = m_model.plan();
    std::vector<RangeRow> rows;
    for (std::size_t i = 0; options != nullptr && i < options->spots.size(); ++i) {
        const weigh::SpotResult* result =
            plan != nullptr && i < plan->spots.size() ? &plan->spots[i] : nullptr;
        rows.push_back(spotRow(options->spots[i], result, m_model.job().catalog()));
    }
    m_spot = std::clamp(m_spot, 0, std::max(0, static_cast<int>(rows.size()) - 1));
    {
        const QSignalBlocker quiet(m_spots);
        m_spots->setRows(std::move(rows));
        m_spots->setCurrent(m_spot);
    }
    fillWays();
}

void WeighView::fillWays() {
    const weigh::Options* options = m_model.options();
    const bool any = options != nullptr && m_spot < static_cast<int>(options->spots.size());
    m_uses->setEnabled(any);
    if (!any) {
        m_ways->setRows({});
        m_wayWords->clear();
        m_needWords->clear();
        return;
    }
    const weigh::SpotOptions& spot = options->spots[static_cast<std::size_t>(m_spot)];
    const weigh::Plan* plan = m_model.plan();
    const weigh::Prices prices = m_model.prices();
    const int chosen = plan == nullptr ? -1 : plan->spots[static_cast<std::size_t>(m_spot)].way;
    const bool eachClass = m_classes->isChecked();
    m_config = eachClass ? weigh::eachOfThem(spot) : weigh::oneOfEach(spot, *options, prices, chosen);
    std::vector<RangeRow> rows;
    int current = 0;
    for (const std::size_t w : m_config) {
        const bool inPlan = static_cast<int>(w) == chosen;
        if (inPlan) current = static_cast<int>(rows.size());
        rows.push_back(wayRow(spot, spot.ways[w], inPlan, *options, prices, eachClass));
    }
    {
        const QSignalBlocker quiet(m_ways);
        m_ways->setRows(std::move(rows));
        m_ways->setCurrent(current);
    }
    sayWay(current);
    if (current < static_cast<int>(m_config.size()))
        m_parts->showWay(spot, spot.ways[m_config[static_cast<std::size_t>(current)]]);
    const house::House& h = m_model.job().house();
    const auto known =
        std::find_if(h.spots.begin(), h.spots.end(), [&](const house::Spot& s) { return s.id == spot.spot; });
    const QSignalBlocker quiet(m_uses);
    m_uses->setEnabled(known != h.spots.end());
    if (known == h.spots.end())
        m_uses->clear();
    else
        m_uses->setText(QString::fromStdString(weigh::usesText(known->uses, m_model.job().catalog(), h)));
    if (spot.isPeer) {
        m_needWords->setText(
            tr("Others draw %1 from %2 at once, and send it %3.")
                .arg(rateText(spot.need.up), QString::fromStdString(spot.label), rateText(spot.need.down)));
        return;
    }
    m_needWords->setText(
        spot.need.any() ? tr("%1 needs %2 towards it and %3 from it%4. What is done there:")
                              .arg(capitalised(spot.label), rateText(spot.need.down), rateText(spot.need.up),
                                   spot.need.steady ? tr(", steadily") : QString())
                        : tr("%1 has no need yet. What is done there:").arg(capitalised(spot.label)));
}

// Only what is looked at is drawn.
void WeighView::fillPage() {
    QWidget* page = m_pages->currentWidget();
    if (page == m_front) m_front->fill();
    if (page == m_parts) m_parts->fill();
    if (page == m_compare) m_compare->fill();
    if (page == m_growth) m_growth->fill();
    if (page == m_prices) m_prices->fill();
}

void WeighView::askSave() {
    if (m_model.plan() == nullptr || m_model.isWeighing()) return;
    auto* dialog = new QFileDialog(this, tr("Save the plan"), QStringLiteral("plan.pdf"),
                                   tr("Report (*.pdf *.html *.md);;All plans (*.json)"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QFileDialog::DontUseNativeDialog);
    dialog->setAcceptMode(QFileDialog::AcceptSave);
    connect(dialog, &QFileDialog::fileSelected, this, [this](const QString& file) {
        const auto saved = savePlan(m_model, file);
        Q_EMIT said(saved ? tr("The plan is in %1.").arg(file)
                          : QString::fromStdString(saved.error().sentence()),
                    !saved);
    });
    dialog->open();
}

void WeighView::noteUses() {
    const weigh::Options* options = m_model.options();
    if (options == nullptr || m_spot >= static_cast<int>(options->spots.size())) return;
    const auto kept = m_model.setUses(options->spots[static_cast<std::size_t>(m_spot)].spot, m_uses->text());
    if (!kept) Q_EMIT said(QString::fromStdString(kept.error().sentence()), true);
}

void WeighView::pinCurrent() {
    const weigh::Options* options = m_model.options();
    const int row = m_ways->current();
    if (options == nullptr || m_spot >= static_cast<int>(options->spots.size())) return;
    const weigh::SpotOptions& spot = options->spots[static_cast<std::size_t>(m_spot)];
    if (row < 0 || row >= static_cast<int>(m_config.size())) return;
    const weigh::SpotWay& way = spot.ways[m_config[static_cast<std::size_t>(row)]];
    if (spot.isPeer)
        Q_EMIT said(tr("%1 is no spot of its own: give it a need in Walk, then its way can be pinned.")
                        .arg(capitalised(spot.label)),
                    true);
    else if (!way.isPossible())
        Q_EMIT said(tr("this way is ruled out: %1.").arg(QString::fromStdString(way.ruledOut)), true);
    else
        // Of a list of classes it is the class that is meant.
        m_model.pin(spot.spot, m_classes->isChecked() ? way.key() : way.id);
}

} // namespace metrodos::desktop
