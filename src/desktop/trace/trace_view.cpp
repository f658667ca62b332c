#include "desktop/trace/trace_view.h"

#include "desktop/trace/next_test_panel.h"
#include "desktop/trace/suspect_list.h"
#include "desktop/trace/what_if_panel.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

QLabel* heading(const QString& text) {
    auto* label = plainLabel(text);
    label->setFont(textFont(11, true));
    return label;
}

QLabel* paragraph() {
    auto* label = plainLabel();
    label->setWordWrap(true);
    return label;
}

QScrollArea* scrolled(QWidget* content) {
    auto* area = new QScrollArea;
    area->setWidget(content);
    area->setWidgetResizable(true);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    return area;
}

} // namespace

TraceView::TraceView(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_alive(&model)
    , m_verdict(paragraph())
    , m_figures(paragraph())
    , m_suspects(new SuspectList)
    , m_next(new NextTestPanel(model))
    , m_replacing(paragraph())
    , m_warnings(paragraph())
    , m_warningsHeading(heading(tr("What else the runs show"))) {
    m_verdict->setObjectName(QStringLiteral("verdict"));
    m_verdict->setFont(textFont(17, true));
    m_figures->setObjectName(QStringLiteral("trace-figures"));
    m_figures->setFont(textFont(12));
    m_replacing->setObjectName(QStringLiteral("replacing"));
    m_warnings->setObjectName(QStringLiteral("warnings"));
    auto* side = new QWidget;
    auto* sideLayout = new QVBoxLayout(side);
    sideLayout->setContentsMargins(10, 4, 6, 0);
    sideLayout->addWidget(heading(tr("Next best test")));
    sideLayout->addWidget(m_next);
    sideLayout->addSpacing(8);
    sideLayout->addWidget(heading(tr("If the first suspect were replaced")));
    sideLayout->addWidget(m_replacing);
    auto* whatIf = new WhatIfPanel(model);
    whatIf->setMinimumHeight(230);
    sideLayout->addSpacing(8);
    sideLayout->addWidget(whatIf);
    sideLayout->addSpacing(8);
    sideLayout->addWidget(m_warningsHeading);
    sideLayout->addWidget(m_warnings);
    sideLayout->addStretch();
    auto* columns = new QHBoxLayout;
    columns->addWidget(scrolled(m_suspects), 3);
    columns->addWidget(scrolled(side), 2);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 8, 6);
    layout->addWidget(m_verdict);
    layout->addWidget(m_figures);
    layout->addLayout(columns, 1);
    connect(&m_model, &RouteModel::changed, this, &TraceView::fill);
    connect(&m_model, &RouteModel::diagnosed, this, &TraceView::fill);
    connect(m_suspects, &SuspectList::chosen, this,
            [this](const QString& element) { m_model.select(element.toStdString()); });
    connect(m_suspects, &SuspectList::runsAsked, this, &TraceView::runsAsked);
    connect(m_next, &NextTestPanel::taken, this, &TraceView::nextTestAsked);
    connect(m_next, &NextTestPanel::refused, this, &TraceView::refused);
    fill();
}

void TraceView::focusReading() {
    m_next->focusReading();
}

// What-ifs cost some work: only while they are looked at.
void TraceView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    m_model.setWhatIfWanted(true);
}

void TraceView::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    if (m_alive) m_model.setWhatIfWanted(false);
}

void TraceView::fill() {
    const auto& d = m_model.diagnosis();
    const bool any = d && !d->suspects.empty();
    m_suspects->setSuspects(any ? d->suspects : std::vector<trace::Suspect>());
    m_next->setVisible(m_model.prediction().has_value());
    m_next->fill();
    m_replacing->setVisible(any);
    m_warnings->setVisible(any && !d->warnings.empty());
    m_warningsHeading->setVisible(m_warnings->isVisibleTo(this));
    if (!any) {
        m_verdict->setText(m_model.isDiagnosing() ? tr("Working it out …") : tr("Nothing to trace yet"));
        m_figures->setText(
            m_model.isDiagnosing() ? QString() : tr("Open a job and choose a route whose ends are joined."));
        return;
    }
    fillVerdict(*d);
    fillReplacing(*d);
    QStringList warnings;
    for (const std::string& warning : d->warnings)
        warnings << QStringLiteral("· ") + QString::fromStdString(warning);
    m_warnings->setText(warnings.join(QLatin1Char('\n')));
}

void TraceView::fillVerdict(const trace::Diagnosis& d) {
    const trace::Suspect& first = d.suspects.front();
    const bool measured = d.measuredForward || d.measuredBackward;
    QString name = QString::fromStdString(first.label);
    if (!first.state.empty() && first.stateProbability > 0.5)
        name += QStringLiteral(": ") + QString::fromStdString(first.state);
    // Two limits where the directions differ.
    const auto& there = d.limitForward;
    const auto& back = d.limitBackward;
    const bool differ =
        d.measuredForward && d.measuredBackward && there && back && there->element != back->element &&
        there->probability > 0.5 && back->probability > 0.5 &&
        std::find(first.equalIds.begin(), first.equalIds.end(), there->element) == first.equalIds.end() &&
        std::find(first.equalIds.begin(), first.equalIds.end(), back->element) == first.equalIds.end();
    if (differ)
        m_verdict->setText(
            tr("The limit is: forward %1, back %2")
                .arg(QString::fromStdString(there->label), QString::fromStdString(back->label)));
    else
        m_verdict->setText(measured ? tr("The limit is: %1").arg(name) : tr("Expected limit: %1").arg(name));
    QStringList figures;
    if (d.measuredForward) figures << tr("measured forward %1").arg(bothText(*d.measuredForward));
    if (d.measuredBackward) figures << tr("backward %1").arg(bothText(*d.measuredBackward));
    if (!measured && m_model.prediction())
        figures << tr("not measured yet; expected %1").arg(bothText(m_model.prediction()->forward.p50));
    bool simulated = false;
    for (const benchmark::Run& run : m_model.runs())
        simulated = simulated || run.simulated;
    if (simulated) figures << tr("simulated");
    QString text = figures.join(QStringLiteral(", "));
    if (!d.sold.empty()) text += QLatin1Char('\n') + QString::fromStdString(d.sold);
    m_figures->setText(text);
}

void TraceView::fillReplacing(const trace::Diagnosis& d) {
    QStringList lines;
    const house::Route* route = m_model.route();
    if (d.needMet) lines << tr("Nothing to replace: the need is met already.");
    for (const trace::Lift& lift : d.lifts) {
        QStringList labels;
        for (const std::string& label : lift.labels)
            labels << QString::fromStdString(label);
        lines << tr("Replace %1: then %2 would be the limit, at %3%4.")
                     .arg(labels.join(tr(" and ")), QString::fromStdString(lift.next), rateText(lift.then),
                          lift.cost
                              ? tr(", guide price %1").arg(QLocale().toString(lift.cost->inUnits(), 'f', 0))
                              : QString());
    }
    if (route != nullptr && route->needForward && !d.needMet && !d.lifts.empty())
        lines << (d.lifts.back().then >= *route->needForward
                      ? tr("That would meet the need of %1; now it is not met.")
                            .arg(rateText(*route->needForward))
                      : tr("The need of %1 would still not be met.").arg(rateText(*route->needForward)));
    if (lines.isEmpty()) lines << tr("It is not known what would have to be replaced.");
    m_replacing->setText(lines.join(QLatin1Char('\n')));
}

} // namespace metrodos::desktop
