#include "desktop/fit/pairing_panel.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "job/survey_fields.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr double clockPoints = 60; // read from two metres
constexpr std::chrono::milliseconds beat{200};

} // namespace

PairingPanel::PairingPanel(JobModel& job, QWidget* parent)
    : QFrame(parent)
    , m_job(job)
    , m_timer(new QTimer(this))
    , m_clock(plainLabel())
    , m_does(plainLabel())
    , m_turnList(plainLabel())
    , m_keyPlace(new QLineEdit) {
    setObjectName(QStringLiteral("pairing"));
    m_clock->setObjectName(QStringLiteral("pair-clock"));
    m_clock->setFont(figureFont(clockPoints, true));
    m_clock->setAlignment(Qt::AlignCenter);
    m_clock->setMinimumWidth(QFontMetrics(m_clock->font()).horizontalAdvance(QStringLiteral("0:00")) + 16);
    m_does->setObjectName(QStringLiteral("pair-does"));
    m_does->setFont(textFont(15, true));
    m_does->setWordWrap(true);
    m_turnList->setObjectName(QStringLiteral("pair-turns"));
    m_turnList->setWordWrap(true);
    m_keyPlace->setObjectName(QStringLiteral("key-place"));
    m_keyPlace->setMaxLength(200);
    m_keyPlace->setAccessibleName(tr("Where the network's key is kept"));
    m_keyPlace->setPlaceholderText(tr("Where its key is kept, never the key (K); Enter keeps it"));
    auto* words = new QVBoxLayout;
    words->addWidget(m_does);
    words->addWidget(m_turnList);
    words->addStretch();
    auto* row = new QHBoxLayout;
    row->setSpacing(16);
    row->addWidget(m_clock);
    row->addLayout(words, 1);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addLayout(row);
    layout->addWidget(m_keyPlace);
    m_timer->setInterval(beat);
    connect(m_timer, &QTimer::timeout, this, &PairingPanel::tick);
    connect(m_keyPlace, &QLineEdit::returnPressed, this, &PairingPanel::keepKeyPlace);
    connect(&m_job, &JobModel::changed, this, &PairingPanel::refresh);
    connect(&m_job, &JobModel::opened, this, [this] {
        m_since.invalidate();
        m_timer->stop();
    });
}

void PairingPanel::showMedium(house::Medium medium, bool withClock) {
    if (medium != m_medium) m_since.invalidate();
    m_medium = medium;
    m_hasClock = withClock;
    refresh();
}

void PairingPanel::refresh() {
    m_turns = fit::pairingOf(m_job.house(), m_medium);
    const fit::PairTurn* turn = next();
    const bool hasClock = m_hasClock && !m_turns.empty();
    m_clock->setVisible(hasClock);
    m_does->setVisible(hasClock);
    m_turnList->setVisible(hasClock || !m_hasClock);
    if (!m_keyPlace->hasFocus())
        m_keyPlace->setText(QString::fromStdString(fit::keyPlaceOf(m_job.house(), m_medium)));
    if (!m_hasClock) { // the proof: what is known of each
        QStringList known;
        for (const house::Id& id : fit::adaptersOn(m_job.house(), m_medium)) {
            const house::Device& d = *m_job.house().device(id);
            known << (!d.setUp.isPrivate   ? tr("%1: not known")
                      : *d.setUp.isPrivate ? tr("%1: private")
                                           : tr("%1: public"))
                         .arg(QString::fromStdString(d.label));
        }
        m_turnList->setText(known.join(QStringLiteral("   ")));
    }
    if (!hasClock) return;
    m_does->setText(turn == nullptr ? tr("All adapters are paired.")
                                    : tr("%1.").arg(QString::fromStdString(turn->does)));
    QStringList list;
    for (const fit::PairTurn& t : m_turns)
        list << (t.isDone     ? QStringLiteral("✓ ")
                 : &t == turn ? QStringLiteral("→ ")
                              : QStringLiteral("○ ")) +
                    QString::fromStdString(m_job.house().device(t.second)->label);
    m_turnList->setText(list.join(QStringLiteral("   ")));
    tick();
}

const fit::PairTurn* PairingPanel::next() const {
    const auto it =
        std::find_if(m_turns.begin(), m_turns.end(), [](const fit::PairTurn& t) { return !t.isDone; });
    return it == m_turns.end() ? nullptr : &*it;
}

QString PairingPanel::clockText() const {
    if (!m_since.isValid()) return {};
    const auto all = std::chrono::milliseconds(fit::pairingWindow).count();
    const auto left = std::max<qint64>(0, all - m_since.elapsed());
    const auto seconds = (left + 999) / 1000; // "2:00" at the beginning, "0:00" when it is over
    return QStringLiteral("%1:%2").arg(seconds / 60).arg(seconds % 60, 2, 10, QLatin1Char('0'));
}

void PairingPanel::tick() {
    const QString text = clockText();
    m_clock->setText(text.isEmpty() ? QStringLiteral("2:00") : text);
    m_clock->setProperty("quiet", text.isEmpty());
    if (text == QStringLiteral("0:00") && m_timer->isActive()) {
        m_timer->stop();
        Q_EMIT said(tr("the two minutes are over: press P, and begin with the first button again."), true);
    }
}

void PairingPanel::startClock() {
    if (!m_hasClock || next() == nullptr) return;
    m_since.start();
    m_timer->start();
    tick();
    Q_EMIT said(tr("The two minutes run: press the second button. J when both show a link."), false);
}

void PairingPanel::noteJoined() {
    const fit::PairTurn* turn = m_hasClock ? next() : nullptr;
    if (turn == nullptr) return;
    m_since.invalidate();
    m_timer->stop();
    const std::string label = m_job.house().device(turn->second)->label;
    const std::string at = utcNow();
    m_job.apply(tr("pair “%1”").arg(QString::fromStdString(label)),
                fit::withPaired(m_job.house(), *turn, at));
}

void PairingPanel::keepKeyPlace() {
    house::House next = m_job.house();
    house::AdapterRecord record;
    for (const auto& f : job::fieldsOf<house::AdapterRecord>())
        if (f.key == "key_place") // what looks like a key is refused there
            if (const auto taken = f.set(next, record, m_keyPlace->text().simplified().toStdString());
                !taken) {
                Q_EMIT said(QString::fromStdString(taken.error().sentence()), true);
                return;
            }
    m_job.apply(tr("note where the key is kept"), fit::withKeyPlace(next, m_medium, record.keyPlace));
    parentWidget()->setFocus();
}

} // namespace metrodos::desktop
