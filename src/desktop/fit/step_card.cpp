#include "desktop/fit/step_card.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"

#include <QLabel>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

QString partText(const fit::Part& part) {
    const QString label = QString::fromStdString(part.label);
    if (!part.unit.empty())
        return StepCard::tr("%1 %2 of %3")
            .arg(countText(part.count), QString::fromStdString(part.unit), label);
    return part.count > 1 ? StepCard::tr("%1 × %2").arg(countText(part.count), label) : label;
}

} // namespace

QString stateText(house::StepState state) {
    switch (state) {
    case house::StepState::open:
        return StepCard::tr("open");
    case house::StepState::done:
        return StepCard::tr("done");
    case house::StepState::failed:
        return StepCard::tr("failed");
    case house::StepState::skipped:
        return StepCard::tr("skipped");
    }
    return {};
}

StepCard::StepCard(QWidget* parent)
    : QFrame(parent) {
    setObjectName(QStringLiteral("step-card"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(16, 12, 16, 12);
    layout->setSpacing(8);
    m_place = line(QStringLiteral("step-place"), 11, false, true);
    m_what = line(QStringLiteral("step-what"), 19, true);
    m_state = line(QStringLiteral("step-state"), 12, true);
    m_why = line(QStringLiteral("step-why"), 11, false, true);
    m_rates = line(QStringLiteral("step-rates"), 13, true);
    m_cause = line(QStringLiteral("step-cause"), 12);
    m_how = line(QStringLiteral("step-how"), 12);
    m_parts = line(QStringLiteral("step-parts"), 11);
    m_see = line(QStringLiteral("step-see"), 12);
    m_cautions = line(QStringLiteral("step-cautions"), 11);
    layout->addStretch();
}

QLabel* StepCard::line(const QString& name, double points, bool bold, bool quiet) {
    auto* label = plainLabel();
    label->setObjectName(name);
    label->setProperty("quiet", quiet);
    label->setFont(textFont(points, bold));
    label->setWordWrap(true);
    label->setTextInteractionFlags(Qt::TextSelectableByMouse);
    layout()->addWidget(label);
    return label;
}

void StepCard::showNothing(const QString& sentence) {
    for (QLabel* label : {m_place, m_state, m_why, m_how, m_parts, m_see, m_rates, m_cause, m_cautions})
        label->hide();
    m_what->setText(sentence);
}

void StepCard::showStep(const ShownStep& shown) {
    const fit::Step& s = shown.step;
    const auto set = [](QLabel* label, const QString& text) {
        label->setText(text);
        label->setVisible(!text.isEmpty());
    };
    const QString where = QString::fromStdString(s.where);
    QStringList place{shown.place};
    if (!where.isEmpty()) place << where;
    if (!s.label.empty()) place << tr("label %1").arg(QString::fromStdString(s.label));
    set(m_place, place.join(QStringLiteral(" · ")));
    set(m_what, QString::fromStdString(s.what));
    QStringList state;
    if (s.isChanged)
        state << tr("It was done for something else (%1): do it anew.").arg(momentText(s.at));
    else if (shown.state != house::StepState::open)
        state << (s.at.empty() ? tr("%1, as its run shows").arg(stateText(shown.state))
                               : tr("%1, %2").arg(stateText(shown.state), momentText(s.at)));
    if (!s.reason.empty()) state << QString::fromStdString(s.reason);
    if (!s.note.empty()) state << tr("Note: %1").arg(QString::fromStdString(s.note));
    set(m_state, state.join(QLatin1Char('\n')));
    set(m_why, s.why.empty() ? QString() : tr("Why: %1.").arg(QString::fromStdString(s.why)));
    QStringList rates;
    if (shown.expected)
        rates << tr("Expected: %1, judged by %2.")
                     .arg(rangeText({shown.expected->low, shown.expected->high, shown.expected->high}),
                          QString::fromStdString(shown.expected->from));
    if (shown.measured) rates << tr("Measured: %1, the slower way.").arg(bothText(*shown.measured));
    set(m_rates, rates.join(QLatin1Char('\n')));
    QStringList cause;
    if (shown.cause) {
        QStringList suspects;
        for (const fit::Suspicion& suspect : shown.cause->suspects) {
            const QString label = QString::fromStdString(suspect.label);
            suspects << tr("%1 (%2)").arg(
                suspect.state.empty() ? label
                                      : tr("%1, %2").arg(label, QString::fromStdString(suspect.state)),
                percentText(suspect.probability));
            if (shown.cause->suspects.front().probability > 0.5) break; // one that is more likely than not
        }
        cause << (suspects.size() == 1 ? tr("Likely cause: %1.") : tr("Not settled what holds it back: %1."))
                     .arg(suspects.join(QStringLiteral("; ")));
        if (!shown.cause->nextTest.empty())
            cause << tr("Next: %1 (N).").arg(QString::fromStdString(shown.cause->nextTest));
    }
    set(m_cause, cause.join(QLatin1Char(' ')));
    QStringList how;
    for (std::size_t i = 0; i < s.measures.size(); ++i)
        how << tr("%1. %2").arg(i + 1).arg(QString::fromStdString(s.measures[i]));
    set(m_how, how.join(QLatin1Char('\n')));
    QStringList parts;
    for (const fit::Part& part : s.parts)
        parts << partText(part);
    set(m_parts, parts.isEmpty() ? QString() : tr("With: %1").arg(parts.join(QStringLiteral("; "))));
    set(m_see, s.before.empty()
                   ? QString()
                   : tr("Go on when %1. Otherwise %2.")
                         .arg(QString::fromStdString(s.before), QString::fromStdString(s.otherwise)));
    QStringList cautions;
    for (const fit::Caution& c : s.cautions)
        cautions << tr("Caution: %1 (%2)").arg(QString::fromStdString(c.what), QString::fromStdString(c.why));
    cautions.removeDuplicates();
    set(m_cautions, cautions.join(QLatin1Char('\n')));
}

} // namespace metrodos::desktop
