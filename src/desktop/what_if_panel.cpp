#include "desktop/what_if_panel.h"

#include "desktop/range_list.h"
#include "desktop/rate_text.h"
#include "desktop/theme.h"

#include <QLabel>
#include <QLocale>
#include <QVBoxLayout>

namespace metrodos::desktop {

WhatIfPanel::WhatIfPanel(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_heading(new QLabel)
    , m_rows(new RangeList) {
    m_heading->setFont(textFont(11, true));
    m_heading->setWordWrap(true);
    m_rows->setObjectName(QStringLiteral("whatIf"));
    m_rows->setEmptyText(
        tr("Choose an element in the strip above, or a suspect: what the route would carry with "
           "something else in its place comes here."));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(m_heading);
    layout->addWidget(m_rows, 1);
    connect(&m_model, &JobModel::whatIfChanged, this, &WhatIfPanel::fill);
    fill();
}

void WhatIfPanel::fill() {
    const auto* chosen = m_model.selected();
    m_heading->setText(chosen == nullptr
                           ? tr("What if")
                           : tr("What if “%1” were …").arg(QString::fromStdString(chosen->element.label)));
    std::vector<RangeRow> rows;
    for (const trace::WhatIf& one : m_model.whatIf()) {
        RangeRow row;
        row.id = QString::fromStdString(one.choice);
        row.title = localised(one.label);
        QStringList notes;
        if (one.now) notes << tr("as it is");
        if (one.price && !one.now)
            notes << tr("guide price %1").arg(QLocale().toString(one.price->inUnits(), 'f', 0));
        notes << tr("limit: %1").arg(QString::fromStdString(one.limiter));
        row.note = notes.join(QStringLiteral(", "));
        row.forward = one.forward;
        row.backward = one.backward;
        row.isBest = one.now;
        rows.push_back(std::move(row));
    }
    m_rows->setRows(std::move(rows));
}

} // namespace metrodos::desktop
