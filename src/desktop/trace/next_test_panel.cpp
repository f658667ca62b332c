#include "desktop/trace/next_test_panel.h"

#include "catalog/refit.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "quantity/parse.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

QLabel* wrapped(const QFont& font) {
    auto* label = plainLabel();
    label->setFont(font);
    label->setWordWrap(true);
    return label;
}

QString minutesText(double minutes) {
    return NextTestPanel::tr("%1 min").arg(QLocale().toString(minutes, 'f', minutes < 1 ? 1 : 0));
}

/// One outcome: how likely, what is seen, what it means.
class OutcomeRow : public QWidget {
  public:
    explicit OutcomeRow(const trace::Outcome& outcome)
        : m_share(outcome.probability) {
        auto* layout = new QHBoxLayout(this);
        layout->setContentsMargins(44, 1, 0, 1);
        auto* text = plainLabel(NextTestPanel::tr("%1: %2").arg(QString::fromStdString(outcome.sees),
                                                                QString::fromStdString(outcome.means)));
        text->setWordWrap(true);
        layout->addWidget(text);
        setToolTip(percentText(m_share));
        setAccessibleName(text->text() + QLatin1Char(' ') + percentText(m_share));
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setPen(QPen(theme().quiet, 1));
        p.drawRect(QRectF(2.5, 7.5, 34, 6));
        p.fillRect(QRectF(3, 8, 33 * m_share, 5), theme().quiet);
    }

  private:
    double m_share;
};

} // namespace

NextTestPanel::NextTestPanel(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_does(wrapped(textFont(13, true)))
    , m_worth(wrapped(textFont(10)))
    , m_outcomes(new QWidget)
    , m_outcomeRows(new QVBoxLayout(m_outcomes))
    , m_take(new QPushButton(tr("Do this test  (N)")))
    , m_decline(new QPushButton(tr("Not possible here  (Shift+N)")))
    , m_again(new QPushButton(tr("Ask for all tests again")))
    , m_reading(new QComboBox)
    , m_phyForward(new QLineEdit)
    , m_phyBackward(new QLineEdit)
    , m_note(new QPushButton(tr("It shows this")))
    , m_others(wrapped(textFont(10))) {
    m_does->setObjectName(QStringLiteral("nextTest"));
    m_worth->setObjectName(QStringLiteral("quiet"));
    m_others->setObjectName(QStringLiteral("quiet"));
    m_take->setObjectName(QStringLiteral("takeTest"));
    m_decline->setObjectName(QStringLiteral("declineTest"));
    m_reading->setObjectName(QStringLiteral("reading"));
    m_reading->setAccessibleName(tr("What was read"));
    m_note->setObjectName(QStringLiteral("noteReading"));
    m_outcomeRows->setContentsMargins(0, 2, 0, 2);
    m_outcomeRows->setSpacing(0);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    layout->addWidget(m_does);
    layout->addWidget(m_worth);
    layout->addWidget(m_outcomes);
    auto* reading = new QHBoxLayout;
    reading->addWidget(m_reading, 1);
    for (QLineEdit* field : {m_phyForward, m_phyBackward}) {
        field->setObjectName(field == m_phyForward ? QStringLiteral("phyForward")
                                                   : QStringLiteral("phyBackward"));
        field->setFont(figureFont(11));
        field->setMaximumWidth(150);
        reading->addWidget(field);
        connect(field, &QLineEdit::returnPressed, this, &NextTestPanel::noteReading);
    }
    m_phyForward->setPlaceholderText(tr("forward"));
    m_phyForward->setToolTip(tr("What the adapters show, like 640M; either may stay empty"));
    m_phyBackward->setPlaceholderText(tr("backward"));
    m_phyForward->setAccessibleName(tr("PHY rate forward"));
    m_phyBackward->setAccessibleName(tr("PHY rate backward"));
    reading->addWidget(m_note);
    layout->addLayout(reading);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(m_take);
    buttons->addWidget(m_decline);
    buttons->addWidget(m_again);
    buttons->addStretch();
    layout->addLayout(buttons);
    layout->addWidget(m_others);
    connect(m_take, &QPushButton::clicked, this, &NextTestPanel::taken);
    connect(m_decline, &QPushButton::clicked, this, [this] {
        const auto& d = m_model.diagnosis();
        if (d && !d->nextTests.empty()) m_model.declineTest(d->nextTests.front().id);
    });
    connect(m_again, &QPushButton::clicked, this, [this] { m_model.forgetDeclined(); });
    connect(m_note, &QPushButton::clicked, this, &NextTestPanel::noteReading);
}

void NextTestPanel::fill() {
    const auto& d = m_model.diagnosis();
    const bool any = d && !d->nextTests.empty();
    const bool reads = any && d->nextTests.front().kind == trace::TestKind::read;
    m_take->setVisible(any && !reads);
    m_decline->setVisible(any);
    m_again->setVisible(m_model.hasDeclined());
    const bool phy = reads && d->nextTests.front().phyShare.has_value();
    m_reading->setVisible(reads && !phy);
    m_phyForward->setVisible(phy);
    m_phyBackward->setVisible(phy);
    m_note->setVisible(reads);
    m_worth->setVisible(any);
    m_outcomes->setVisible(any);
    m_others->setVisible(any && d->nextTests.size() > 1);
    if (!d) {
        m_does->setText(tr("Working it out …"));
        return;
    }
    if (!any) {
        m_does->setText(m_model.hasDeclined()
                            ? tr("No other test would tell enough to be worth its time.")
                            : tr("Nothing: no test would tell enough to be worth its time."));
        return;
    }
    const trace::NextTest& first = d->nextTests.front();
    m_does->setText(QString::fromStdString(first.does));
    m_worth->setText(tr("%1; expected information: %2 bit")
                         .arg(minutesText(first.minutes), QLocale().toString(first.informationBits, 'f', 2)));
    showOutcomes(first);
    if (reads && !first.phyShare) fillReading(first);
    QStringList others;
    constexpr std::size_t most = 3; // with the first
    for (std::size_t i = 1; i < d->nextTests.size() && i < most; ++i)
        others << tr("Or: %1 (%2)")
                      .arg(QString::fromStdString(d->nextTests[i].does),
                           minutesText(d->nextTests[i].minutes));
    m_others->setText(others.join(QLatin1Char('\n')));
}

void NextTestPanel::showOutcomes(const trace::NextTest& test) {
    while (QLayoutItem* item = m_outcomeRows->takeAt(0)) {
        if (item->widget() != nullptr) item->widget()->deleteLater();
        delete item;
    }
    constexpr std::size_t most = 5;
    if (!test.outcomes.empty()) {
        auto* head = plainLabel(tr("If the limit is there, it shows:"));
        head->setObjectName(QStringLiteral("quiet"));
        m_outcomeRows->addWidget(head);
    }
    for (std::size_t i = 0; i < test.outcomes.size() && i < most; ++i)
        m_outcomeRows->addWidget(new OutcomeRow(test.outcomes[i]));
}

void NextTestPanel::fillReading(const trace::NextTest& test) {
    m_reading->clear();
    const capacity::ElementPrediction* element = m_model.element(test.reads.front());
    if (element == nullptr) return;
    if (element->element.kind == house::ElementKind::cable) {
        for (const catalog::Phy& phy : m_model.job().catalog().phys)
            m_reading->addItem(rateText(phy.rate), QString::fromStdString(phy.id));
    } else {
        for (const catalog::Choice& choice :
             catalog::choicesFor(m_model.job().house(), m_model.job().catalog(), element->element))
            if (!choice.id.empty())
                m_reading->addItem(QString::fromStdString(choice.label), QString::fromStdString(choice.id));
    }
}

void NextTestPanel::focusReading() {
    if (m_phyForward->isVisibleTo(this)) {
        m_phyForward->setFocus();
        return;
    }
    m_reading->setFocus();
    m_reading->showPopup();
}

// Either field may stay empty: not every adapter shows both directions.
void NextTestPanel::notePhyRates(const capacity::ElementPrediction& medium) {
    house::House next = m_model.job().house();
    house::Connection& connection = *next.connection(medium.element.connection);
    const std::string now = utcNow();
    const house::Id& from = medium.element.entry.device;
    const house::Id& to = medium.element.exit.device;
    bool any = false;
    for (QLineEdit* field : {m_phyForward, m_phyBackward}) {
        if (field->text().trimmed().isEmpty()) continue;
        const auto rate = quantity::parseBitRate(field->text().trimmed().toStdString());
        if (!rate) {
            Q_EMIT refused(QString::fromStdString(rate.error().sentence()));
            field->setFocus();
            field->selectAll();
            return;
        }
        const bool forward = field == m_phyForward;
        house::noteRate(connection, {forward ? from : to, forward ? to : from, *rate, now});
        any = true;
    }
    if (!any) {
        Q_EMIT refused(tr("type what the adapters show, like 640M."));
        m_phyForward->setFocus();
        return;
    }
    m_phyForward->clear();
    m_phyBackward->clear();
    m_model.job().apply(tr("note the PHY rates of the adapters"), next);
}

void NextTestPanel::noteReading() {
    const auto& d = m_model.diagnosis();
    if (!d || d->nextTests.empty()) return;
    const trace::NextTest test = d->nextTests.front();
    const capacity::ElementPrediction* element = m_model.element(test.reads.front());
    if (element == nullptr) return;
    if (test.phyShare) {
        notePhyRates(*element);
        return;
    }
    const std::string choice = m_reading->currentData().toString().toStdString();
    if (element->element.kind == house::ElementKind::cable) {
        house::House next = m_model.job().house();
        next.connection(element->element.connection)->linkedAt = m_model.job().catalog().phy(choice)->rate;
        m_model.job().correct(tr("note the rate of a link"), next);
    } else {
        auto next =
            catalog::withChoice(m_model.job().house(), m_model.job().catalog(), element->element, choice);
        // It is known now, whatever it says.
        const catalog::Bus* bus = m_model.job().catalog().bus(choice);
        if (next && bus != nullptr) next->connection(element->element.connection)->linkedAt = bus->raw;
        m_model.job().correct(tr("note what a socket says"), next);
    }
}

} // namespace metrodos::desktop
