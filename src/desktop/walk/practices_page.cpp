#include "desktop/walk/practices_page.h"

#include "benchmark/summary.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"

#include <QComboBox>
#include <QGridLayout>
#include <QScrollArea>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

namespace metrodos::desktop {
namespace {

constexpr const char* summaryKey = "summary";

struct Option {
    QString label;
    QString words; ///< why, and what it changes
};
struct Matter {
    std::string key;
    QString title;
    std::vector<Option> options; ///< in the order of the enumeration, the default first
};

QString tr(const char* text) {
    return PracticesPage::tr(text);
}

Matter summaries() {
    const std::map<house::SummaryRule, QString> labels{
        {house::SummaryRule::trimmed, tr("Mean without best and worst")},
        {house::SummaryRule::median, tr("Median")},
        {house::SummaryRule::mean, tr("Mean")},
        {house::SummaryRule::best, tr("The best run")},
        {house::SummaryRule::sustained, tr("What nine seconds in ten reach")}};
    Matter out{summaryKey, tr("Repeated runs become"), {}};
    for (const house::SummaryRule rule : house::summaryRules)
        out.options.push_back(
            {labels.at(rule), QString::fromStdString(std::string(benchmark::explanation(rule)))});
    return out;
}

std::vector<Matter> matters() {
    return {
        summaries(),
        {"wiring",
         tr("Spots are reached by"),
         {{tr("Whatever carries the need"),
           tr("Plans take the cheapest way that carries the need, laid or already there.")},
          {tr("Data cable everywhere"), tr("Plans take data cable only: full duplex, and a faster switch is "
                                           "all that a later rate asks for. It costs holes and "
                                           "days.")},
          {tr("The wiring that is there"),
           tr("Plans lay nothing: an hour's work, and it can move. Rooms on one medium share its total.")}}},
        {"mains_reach",
         tr("Mains adapters sit"),
         {{tr("At any outlet, the best is kept"), tr("Circuits are crossed where measuring shows that it "
                                                     "carries: Fit has every outlet of the room tried.")},
          {tr("On one circuit only"), tr("Plans use mains only where both rooms have an outlet of the same "
                                         "circuit: no protective device lies between.")}}},
        {"strips",
         tr("A mains adapter plugs into"),
         {{tr("The wall only"), tr("Every strip before an adapter is a caution: its joints cost signal, "
                                   "surge protection shorts it.")},
          {tr("A plain strip as well"), tr("A strip without surge protection is allowed where the wall was "
                                           "measured too. Surge protection stays out.")}}},
        {"ten_gigabit",
         tr("10GBASE-T runs over"),
         {{tr("What measures well"), tr("Runs of category 5e and 6 that are there carry it as far as they "
                                        "are measured to; new runs are laid in 6A.")},
          {tr("Category 6A or better"), tr("A need above what 5GBASE-T carries takes no run below 6A (IEEE "
                                           "802.3 promises 100 m from 6A on).")}}},
        {"adapters",
         tr("Of a class of adapters plans buy"),
         {{tr("What the need takes"),
           tr("The cheapest class that carries the need with the share of houses asked for in Weigh.")},
          {tr("The highest"), tr("For later: the highest class that the way can take, even where the service "
                                 "cannot fill it now.")}}},
        {"pairing",
         tr("Adapters are paired"),
         {{tr("At once"), tr("Out of the box they join a network that anybody on the same wiring can join: "
                             "Fit pairs them first.")},
          {tr("As they come"), tr("Fit leaves them as they join each other, and has it tried whether a "
                                  "stranger's adapter can: where one can, pair "
                                  "them.")}}},
        {"addresses",
         tr("Addresses that stay are"),
         {{tr("Reserved in the router"),
           tr("One place holds them all; a new address in Fit begins as a reservation.")},
          {tr("Fixed on the host"), tr("They hold without the router; a new address in Fit begins as fixed, "
                                       "outside the automatic pool.")}}},
        {"test_place",
         tr("Tested first"),
         {{tr("Inside the house"), tr("The service, its busy hours and the far server are out of the "
                                      "picture; it is tested by itself.")},
          {tr("Over the service"), tr("As the client sees it: where a way ends in the service, Trace has "
                                      "that tested first. A low figure may then be the far "
                                      "server's.")}}}};
}

int chosenOf(const house::House& house, const std::string& key) {
    if (key == summaryKey)
        return static_cast<int>(std::find(std::begin(house::summaryRules), std::end(house::summaryRules),
                                          house.measuring.summary) -
                                std::begin(house::summaryRules));
    int out = 0;
    house::eachPractice(house.practices, [&](const char* name, const auto& chosen, const auto&) {
        if (key == name) out = static_cast<int>(chosen);
    });
    return out;
}

void set(house::House& house, const std::string& key, int option) {
    if (key == summaryKey) house.measuring.summary = house::summaryRules[option];
    house::eachPractice(house.practices, [&](const char* name, auto& chosen, const auto&) {
        if (key == name) chosen = static_cast<std::decay_t<decltype(chosen)>>(option);
    });
}

} // namespace

PracticesPage::PracticesPage(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    setObjectName(QStringLiteral("practices"));
    auto* inside = new QWidget;
    auto* grid = new QGridLayout(inside);
    grid->setContentsMargins(4, 8, 12, 8);
    grid->setHorizontalSpacing(14);
    grid->setVerticalSpacing(12);
    grid->setColumnStretch(2, 1);
    for (const Matter& matter : matters()) {
        const auto at = static_cast<int>(m_rows.size());
        Row row;
        row.key = matter.key;
        row.options = new QComboBox;
        row.options->setObjectName(QStringLiteral("practice-") + QString::fromStdString(matter.key));
        row.options->setAccessibleName(matter.title);
        for (const Option& option : matter.options)
            row.options->addItem(option.label, option.words);
        row.words = plainLabel();
        row.words->setObjectName(QStringLiteral("quiet"));
        row.words->setWordWrap(true);
        auto* title = labelFor(row.options, matter.title);
        title->setFont(textFont(10, true));
        grid->addWidget(title, at, 0, Qt::AlignVCenter);
        grid->addWidget(row.options, at, 1, Qt::AlignVCenter);
        grid->addWidget(row.words, at, 2, Qt::AlignVCenter);
        connect(row.options, &QComboBox::activated, this,
                [this, at](int option) { choose(static_cast<std::size_t>(at), option); });
        m_rows.push_back(std::move(row));
    }
    grid->setRowStretch(static_cast<int>(m_rows.size()), 1);
    auto* scroll = new QScrollArea;
    scroll->setWidget(inside);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setFocusPolicy(Qt::NoFocus);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(scroll);
    connect(&m_model, &JobModel::changed, this, &PracticesPage::refresh);
    refresh();
}

void PracticesPage::refresh() {
    for (const Row& row : m_rows) {
        const QSignalBlocker quiet(row.options);
        row.options->setCurrentIndex(chosenOf(m_model.house(), row.key));
        row.words->setText(row.options->currentData().toString());
    }
}

void PracticesPage::choose(std::size_t row, int option) {
    house::House next = m_model.house();
    set(next, m_rows[row].key, option);
    if (next == m_model.house()) return;
    m_model.apply(tr("choose “%1: %2”")
                      .arg(m_rows[row].options->accessibleName(), m_rows[row].options->itemText(option)),
                  next);
    refresh(); // where it was refused
}

} // namespace metrodos::desktop
