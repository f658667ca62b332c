#include "desktop/measure/together_page.h"

#include "capacity/sharing.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QShortcut>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

namespace metrodos::desktop {
namespace {

enum Column { mark, way, alone, atOnce, decides };

} // namespace

TogetherPage::TogetherPage(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_list(plainTable(QStringLiteral("together-ways"), tr("Ways that are used at the same time"),
                        {tr("At once"), tr("Way"), tr("Alone"), tr("At once"), tr("Decided by")},
                        {64, 330, 190, 190}))
    , m_sentence(plainLabel()) {
    setObjectName(QStringLiteral("together"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    auto* top = new QHBoxLayout;
    top->addWidget(keyButton(this, QStringLiteral("together-choose"), tr("Choose  (Enter)"),
                             tr("Takes the way into those that go on at once, or out of them"),
                             QKeySequence(), [this] { toggle(m_list->currentRow()); }));
    top->addWidget(keyButton(this, QStringLiteral("together-run"), tr("Run them at once  (R)"),
                             tr("Sets up a run of the chosen ways at the same time"), Qt::Key_R,
                             [this] { askRun(); }));
    top->addStretch();
    layout->addLayout(top);
    m_sentence->setObjectName(QStringLiteral("together-sentence"));
    m_sentence->setWordWrap(true);
    m_sentence->setFont(textFont(13, true));
    m_sentence->setContentsMargins(4, 4, 4, 4);
    layout->addWidget(m_sentence);
    layout->addWidget(m_list, 1);
    for (const int key : {Qt::Key_Return, Qt::Key_Enter}) {
        auto* enter = new QShortcut(QKeySequence(key), m_list, nullptr, nullptr, Qt::WidgetShortcut);
        connect(enter, &QShortcut::activated, this, [this] { toggle(m_list->currentRow()); });
    }
    connect(m_list, &QTableWidget::cellDoubleClicked, this, &TogetherPage::toggle);
    connect(&m_model.job(), &JobModel::changed, this, [this] {
        if (isVisible()) fill();
    });
    connect(&m_model.job(), &JobModel::opened, this, [this] { m_chosen.clear(); });
}

QString TogetherPage::text() const {
    return m_sentence->text();
}

void TogetherPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    fill();
}

QString TogetherPage::name(const Flow& flow) const {
    const house::Route* route = m_model.job().house().route(flow.route);
    if (route == nullptr) return {};
    return (flow.forward ? tr("%1, ▸ to %2") : tr("%1, ◂ to %2"))
        .arg(QString::fromStdString(route->label),
             QString::fromStdString(m_model.job().house().endLabel(flow.forward ? route->to : route->from)));
}

void TogetherPage::fill() {
    const int row = m_list->currentRow();
    m_flows.clear();
    for (const house::Route& route : m_model.job().house().routes)
        for (const bool forward : {true, false})
            m_flows.push_back({route.id, forward});
    std::erase_if(m_chosen,
                  [this](const Flow& f) { return m_model.job().house().route(f.route) == nullptr; });
    m_list->setRowCount(static_cast<int>(m_flows.size()));
    for (int at = 0; at < m_list->rowCount(); ++at)
        m_list->setItem(at, way, plainCell(name(m_flows[static_cast<std::size_t>(at)])));
    forecast();
    if (m_list->rowCount() > 0) m_list->setCurrentCell(std::clamp(row, 0, m_list->rowCount() - 1), way);
}

void TogetherPage::toggle(int row) {
    if (row < 0 || row >= static_cast<int>(m_flows.size()))
        return Q_EMIT said(tr("There is no way yet: enter one in Walk, page Routes."), true);
    const Flow& flow = m_flows[static_cast<std::size_t>(row)];
    if (!m_chosen.insert(flow).second) m_chosen.erase(flow);
    forecast();
    const auto n = static_cast<int>(m_chosen.size());
    Q_EMIT said(n < 2 ? counted(n, tr("%1 way is chosen; choose another."), tr("%1 ways are chosen."))
                      : tr("%1 ways are chosen; R runs them at once.").arg(n),
                false);
}

// Fair shares of medians (capacity/sharing.h): the same as the command line's.
void TogetherPage::forecast() {
    std::vector<capacity::Flow> flows;
    for (const Flow& f : m_chosen)
        flows.push_back({*m_model.job().house().route(f.route), f.forward, {}});
    quantity::Result<std::vector<capacity::FlowForecast>> shares = std::vector<capacity::FlowForecast>{};
    if (!flows.empty()) shares = capacity::shareFlows(m_model.job().house(), m_model.job().catalog(), flows);
    std::map<Flow, capacity::FlowForecast> byFlow;
    if (shares)
        for (std::size_t i = 0; const Flow& f : m_chosen)
            byFlow.emplace(f, (*shares)[i++]);
    QStringList slower; // those that lose by the others, and why
    for (int at = 0; at < m_list->rowCount(); ++at) {
        const Flow& flow = m_flows[static_cast<std::size_t>(at)];
        const auto share = byFlow.find(flow);
        const bool isChosen = m_chosen.count(flow) > 0;
        m_list->setItem(at, mark, plainCell(isChosen ? tr("● chosen") : QStringLiteral("○")));
        const bool isKnown = share != byFlow.end();
        m_list->setItem(at, alone, plainCell(isKnown ? bothText(share->second.alone) : QString()));
        m_list->setItem(at, atOnce, plainCell(isKnown ? bothText(share->second.shared) : QString()));
        m_list->setItem(at, decides,
                        plainCell(isKnown ? QString::fromStdString(share->second.because) : QString()));
        if (isKnown && share->second.shared < share->second.alone * 0.99)
            slower << tr("%1 %2").arg(name(flow), QString::fromStdString(share->second.because));
    }
    if (!shares) return m_sentence->setText(QString::fromStdString(shares.error().sentence()));
    if (m_flows.empty())
        return m_sentence->setText(tr("There is no way yet: enter one in Walk, page Routes."));
    if (m_chosen.size() < 2)
        return m_sentence->setText(
            tr("Choose two ways or more with Enter: what each gets while all go on, and what "
               "they share, stands here."));
    m_sentence->setText(
        slower.isEmpty() ? tr("They are not expected to slow one another: each gets what it would get alone.")
                         : tr("At once less than alone: %1.").arg(slower.join(tr("; "))));
}

void TogetherPage::askRun() {
    if (m_chosen.size() < 2) return Q_EMIT said(tr("Choose two ways or more first."), true);
    std::vector<std::pair<house::Id, house::Id>> pairs;
    for (const Flow& f : m_chosen) {
        const house::Route& route = *m_model.job().house().route(f.route);
        for (const house::Id& end : {route.from, route.to})
            if (m_model.job().house().endpoint(end) == nullptr)
                return Q_EMIT said(
                    tr("%1 ends in the service, which runs by itself: choose ways between machines.")
                        .arg(QString::fromStdString(route.label)),
                    true);
        const std::pair pair(f.forward ? route.from : route.to, f.forward ? route.to : route.from);
        if (std::find(pairs.begin(), pairs.end(), pair) != pairs.end())
            return Q_EMIT said(
                tr("Two of these ways are between the same machines, which take one of them: choose "
                   "ways between others."),
                true);
        pairs.push_back(pair);
    }
    Q_EMIT runAsked(pairs);
}

} // namespace metrodos::desktop
