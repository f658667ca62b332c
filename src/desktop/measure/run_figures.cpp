#include "desktop/measure/run_figures.h"

#include "benchmark/run_measures.h"
#include "benchmark/summary.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <algorithm>

namespace metrodos::desktop {
namespace {

using benchmark::Rule;

QString wordsFor(Rule rule) {
    switch (rule) {
    case Rule::trimmed:
        return RunFigures::tr("trimmed mean");
    case Rule::median:
        return RunFigures::tr("median");
    case Rule::mean:
        return RunFigures::tr("mean");
    case Rule::best:
        return RunFigures::tr("best run");
    case Rule::sustained:
        return RunFigures::tr("10th percentile");
    }
    return {};
}

QString explanationOf(Rule rule) {
    return QString::fromStdString(std::string(benchmark::explanation(rule)));
}

} // namespace

RunFigures::RunFigures(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_figures(plainLabel())
    , m_rule(new QComboBox) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(4, 0, 0, 0);
    m_figures->setObjectName(QStringLiteral("run-figures"));
    m_figures->setWordWrap(true);
    m_figures->setFont(textFont(10));
    row->addWidget(m_figures, 1);
    m_rule->setObjectName(QStringLiteral("summary-rule"));
    for (const Rule rule : house::summaryRules) {
        m_rule->addItem(wordsFor(rule), static_cast<int>(rule));
        m_rule->setItemData(m_rule->count() - 1, plainTip(explanationOf(rule)), Qt::ToolTipRole);
    }
    QLabel* label = labelFor(m_rule, tr("Repeated runs &as"));
    row->addWidget(label, 0, Qt::AlignTop);
    row->addWidget(m_rule, 0, Qt::AlignTop);
    connect(m_rule, &QComboBox::activated, this, &RunFigures::chooseRule);
    const auto show = [this, label] {
        // With one run there is nothing to sum up.
        const auto in = [this](benchmark::Direction d) {
            return std::count_if(m_model.runs().begin(), m_model.runs().end(),
                                 [d](const benchmark::Run& run) { return run.config.direction == d; });
        };
        const bool repeated =
            std::max(in(benchmark::Direction::forward), in(benchmark::Direction::backward)) > 1;
        label->setVisible(repeated);
        m_rule->setVisible(repeated);
        const Rule rule = m_model.job().house().measuring.summary;
        m_rule->setCurrentIndex(m_rule->findData(static_cast<int>(rule)));
        m_rule->setToolTip(plainTip(explanationOf(rule)));
        m_rule->setAccessibleDescription(explanationOf(rule));
    };
    connect(&m_model, &RouteModel::changed, this, show);
    show();
}

void RunFigures::showRun(const benchmark::Run* run) {
    QStringList figures;
    QStringList meanings;
    if (run != nullptr) {
        std::optional<quantity::BitRate> expected;
        if (const auto& p = m_model.prediction())
            expected =
                run->config.direction == benchmark::Direction::forward ? p->forward.p50 : p->backward.p50;
        // On the bench the route's own rate is no measure.
        if (!run->showsCeiling()) expected.reset();
        for (const benchmark::NamedFigure& f : benchmark::figuresOf(*run, expected)) {
            // No line ends between a name and its figure.
            figures << QString::fromStdString(f.name + ' ' + f.figure).replace(' ', QChar::Nbsp);
            meanings << QString::fromStdString(f.name + ": " + f.meaning);
        }
    }
    m_figures->setText(figures.join(QStringLiteral("  ·  ")));
    m_figures->setToolTip(plainTip(meanings.join(QLatin1Char('\n'))));
    m_figures->setAccessibleDescription(meanings.join(QLatin1Char(' ')));
    setVisible(run != nullptr);
}

void RunFigures::chooseRule() {
    const auto rule = static_cast<Rule>(m_rule->currentData().toInt());
    house::House next = m_model.job().house();
    if (next.measuring.summary != rule) {
        next.measuring.summary = rule;
        m_model.job().apply(tr("Repeated runs as %1").arg(wordsFor(rule)), next);
    }
    Q_EMIT said(explanationOf(rule), false);
}

} // namespace metrodos::desktop
