#include "desktop/measure/meet_panel.h"

#include "desktop/model/endpoint_access.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "probe/account.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

using nlohmann::json;

QLineEdit* field(const QString& name, const QString& spoken, const QString& example, int most) {
    auto* f = new QLineEdit;
    f->setObjectName(name);
    f->setAccessibleName(spoken);
    f->setPlaceholderText(example);
    f->setMaxLength(most);
    return f;
}

QPushButton* button(const QString& name, const QString& text) {
    auto* b = new QPushButton(text);
    b->setObjectName(name);
    b->setFocusPolicy(Qt::TabFocus);
    return b;
}

} // namespace

MeetPanel::MeetPanel(std::shared_ptr<probe::KnownMachines> known, QWidget* parent)
    : QWidget(parent)
    , m_known(std::move(known))
    , m_address(field(QStringLiteral("meet-address"), tr("Address of the machine"),
                      tr("address, like 192.168.1.20"), 262))
    , m_words(field(QStringLiteral("meet-words"), tr("The eight words that it shows"),
                    tr("the eight words that it shows, four letters of each will do"), 200))
    , m_hint(plainLabel())
    , m_four(plainLabel())
    , m_meet(button(QStringLiteral("meet-call"), tr("Meet it")))
    , m_same(button(QStringLiteral("meet-same"), tr("They are the same: keep it")))
    , m_cancel(button(QStringLiteral("meet-cancel"), tr("Not now"))) {
    setObjectName(QStringLiteral("meet-panel"));
    m_hint->setObjectName(QStringLiteral("meet-hint"));
    m_hint->setWordWrap(true);
    m_four->setObjectName(QStringLiteral("meet-four"));
    m_four->setFont(codeFont(22, true));
    m_four->setWordWrap(true);
    m_four->setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_address->setFixedWidth(220);
    m_words->setMinimumWidth(300);
    auto* fields = new QHBoxLayout;
    fields->addWidget(m_address);
    fields->addWidget(m_words, 1000);
    fields->addWidget(m_meet);
    fields->addWidget(m_same);
    fields->addWidget(m_cancel);
    fields->addStretch();
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 4);
    layout->addWidget(m_four);
    layout->addWidget(m_hint);
    layout->addLayout(fields);
    connect(m_address, &QLineEdit::returnPressed, m_words, qOverload<>(&QWidget::setFocus));
    connect(m_words, &QLineEdit::returnPressed, this, &MeetPanel::call);
    connect(m_words, &QLineEdit::textChanged, this, &MeetPanel::countWords);
    connect(m_meet, &QPushButton::clicked, this, &MeetPanel::call);
    connect(m_same, &QPushButton::clicked, this, &MeetPanel::keep);
    connect(m_cancel, &QPushButton::clicked, this, &MeetPanel::end);
    connect(&m_runner, &TestRunner::failed, this, &MeetPanel::fail);
    connect(&m_runner, &TestRunner::finished, this, [this](const json&) {
        if (m_step == Step::calling) {
            showStep(Step::comparing);
        } else if (m_step == Step::keeping) {
            const QString name = QString::fromStdString((*m_call)->agent());
            const QString address = m_address->text().trimmed();
            end();
            Q_EMIT met(name, address);
        }
    });
    showStep(Step::asking);
}

void MeetPanel::begin(const QString& address) {
    if (m_runner.isRunning()) return;
    m_address->setText(address);
    m_words->clear();
    showStep(Step::asking);
    setVisible(true);
    (address.isEmpty() ? m_address : m_words)->setFocus();
}

void MeetPanel::begin(const QString& address, const probe::MeetingCode& code) {
    begin(address);
    m_words->setText(QString::fromStdString(code.words()));
    call();
}

void MeetPanel::showStep(Step step) {
    m_step = step;
    const bool asks = step == Step::asking;
    const bool compares = step == Step::comparing;
    m_address->setEnabled(asks);
    m_words->setEnabled(asks);
    m_address->setVisible(!compares);
    m_words->setVisible(!compares);
    m_meet->setVisible(!compares);
    m_meet->setEnabled(asks);
    m_same->setVisible(compares);
    m_four->setVisible(compares);
    m_cancel->setText(compares ? tr("They differ") : tr("Not now"));
    if (asks) {
        m_hint->setText(tr("Start metrodos-agent --listen 0.0.0.0 on the machine, without a key. It shows an "
                           "address and eight words, good for ten minutes."));
    } else if (compares) {
        m_four->setText(QString::fromStdString((*m_call)->pairing().words));
        m_hint->setText(tr("%1 answers. Does it show these four words? If it does, Enter keeps the key that "
                           "both have made; if not, somebody else has answered: Escape.")
                            .arg(QString::fromStdString((*m_call)->agent())));
        m_same->setFocus();
    }
}

void MeetPanel::countWords() {
    const qsizetype count = m_words->text().split(QLatin1Char(' '), Qt::SkipEmptyParts).size();
    if (count == 0) return showStep(Step::asking);
    m_hint->setText(tr("%1 of %2 words").arg(count).arg(probe::MeetingCode::count));
}

void MeetPanel::call() {
    if (m_runner.isRunning() || m_step != Step::asking) return;
    const QString address = m_address->text().trimmed();
    if (address.isEmpty() || address == QStringLiteral("here") || servesGuest(address.toStdString()) ||
        !isAgentAddress(address))
        return fail(tr("“%1” is no address; write it as the machine shows it, like 192.168.1.20:47710.")
                        .arg(address));
    const auto code = probe::MeetingCode::parse(m_words->text().toStdString());
    if (!code) return fail(QString::fromStdString(code.error().sentence()));
    m_call = std::make_shared<std::unique_ptr<probe::MeetingCall>>();
    showStep(Step::calling);
    m_hint->setText(tr("Meeting %1 …").arg(address));
    m_runner.start([call = m_call, address = address.toStdString(), code = *code](
                       const TestRunner::Progress&, const std::stop_token&) -> quantity::Result<json> {
        auto made = probe::MeetingCall::to(address, code, probe::ownAccount());
        if (!made) return tl::unexpected(made.error());
        *call = std::make_unique<probe::MeetingCall>(std::move(*made));
        return json();
    });
}

void MeetPanel::keep() {
    if (m_runner.isRunning() || m_step != Step::comparing) return;
    showStep(Step::keeping);
    m_hint->setText(tr("Keeping the key …"));
    probe::KnownMachine machine;
    machine.name = (*m_call)->agent();
    machine.address = m_address->text().trimmed().toStdString();
    machine.pairedBy = probe::ownAccount();
    m_runner.start([call = m_call, known = m_known,
                    machine](const TestRunner::Progress&, const std::stop_token&) -> quantity::Result<json> {
        // Here first: a key that the agent alone has would be of no use.
        const auto id = known->add(machine, (*call)->pairing().key);
        if (!id) return tl::unexpected(id.error());
        if (const auto kept = (*call)->keep(); !kept) {
            (void)known->drop(*id);
            return tl::unexpected(kept.error());
        }
        return json();
    });
}

void MeetPanel::fail(const QString& sentence) {
    hangUp();
    showStep(Step::asking);
    m_words->setFocus();
    m_words->selectAll();
    m_hint->setText(sentence);
    Q_EMIT said(sentence, true);
}

// A meeting that is not kept is forgotten at both ends. The work that made it may still hold the place.
void MeetPanel::hangUp() {
    if (m_call && !m_runner.isRunning()) m_call->reset();
}

void MeetPanel::end() {
    if (m_runner.isRunning()) return;
    hangUp();
    m_words->clear();
    showStep(Step::asking);
    hide();
}

// Escape leaves this panel before it means anything to the window.
bool MeetPanel::event(QEvent* event) {
    if (event->type() == QEvent::ShortcutOverride &&
        static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) { // NOLINT(*-static-cast-downcast)
        event->accept();
        return true;
    }
    return QWidget::event(event);
}

void MeetPanel::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape)
        end();
    else if (m_step == Step::comparing && (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter))
        keep();
    else
        QWidget::keyPressEvent(event);
}

} // namespace metrodos::desktop
