#include "desktop/trace/what_if_panel.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "weigh/compare.h"

#include <QLabel>
#include <QLocale>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

// From the price book; switches stand there by their number of ports, so that the guide price of the class
// speaks.
weigh::Money priceOf(const trace::WhatIf& one, const weigh::Prices& prices) {
    const weigh::Money own = prices.of(one.choice);
    return own.hundredths > 0 ? own : *one.price;
}

} // namespace

WhatIfPanel::WhatIfPanel(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_heading(plainLabel())
    , m_rows(new RangeList) {
    m_heading->setFont(textFont(11, true));
    m_heading->setWordWrap(true);
    m_rows->setObjectName(QStringLiteral("whatIf"));
    m_rows->setAccessibleName(tr("What if"));
    m_rows->setEmptyText(
        tr("Choose an element in the strip above, or a suspect: what the route would carry with "
           "something else in its place comes here."));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(m_heading);
    layout->addWidget(m_rows, 1);
    connect(&m_model, &RouteModel::whatIfChanged, this, &WhatIfPanel::fill);
    fill();
}

void WhatIfPanel::fill() {
    const auto* chosen = m_model.selected();
    m_heading->setText(chosen == nullptr
                           ? tr("What if")
                           : tr("What if “%1” were …").arg(QString::fromStdString(chosen->element.label)));
    const weigh::Prices prices(m_model.job().catalog(), m_model.job().priceBook());
    std::vector<RangeRow> rows;
    for (const trace::WhatIf& one : m_model.whatIf()) {
        RangeRow row;
        row.id = QString::fromStdString(one.choice);
        row.title = QString::fromStdString(one.label);
        if (one.now)
            row.title = tr("%1 (as it is)").arg(row.title);
        else if (one.price)
            row.title =
                tr("%1, about %2")
                    .arg(row.title, QString::fromStdString(weigh::amount(prices, priceOf(one, prices))));
        row.note = QString::fromStdString(one.limiter); // what would limit then
        row.forward = one.forward;
        row.backward = one.backward;
        row.forwardName = tr("Forward");
        row.backwardName = tr("Backward");
        if (const house::Route* route = m_model.route()) {
            row.need = route->needForward;
            row.needBackward = route->needBackward;
        }
        // What was measured was measured as it is.
        if (const auto& d = m_model.diagnosis(); one.now && d) {
            row.measured = d->measuredForward;
            row.measuredBackward = d->measuredBackward;
        }
        rows.push_back(std::move(row));
    }
    m_rows->setRows(std::move(rows));
}

} // namespace metrodos::desktop
