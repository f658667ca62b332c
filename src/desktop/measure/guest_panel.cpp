#include "desktop/measure/guest_panel.h"

#include "desktop/measure/qr_picture.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QTimer>
#include <QVBoxLayout>

namespace metrodos::desktop {

GuestPanel::GuestPanel(QWidget* parent)
    : QWidget(parent)
    , m_picture(new QrPicture)
    , m_address(plainLabel())
    , m_state(plainLabel())
    , m_timer(new QTimer(this)) {
    setObjectName(QStringLiteral("guest-panel"));
    m_picture->setObjectName(QStringLiteral("guest-code"));
    m_address->setObjectName(QStringLiteral("guest-address"));
    m_address->setFont(textFont(15, true)); // the mono face tears an address at its points
    m_address->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    m_address->setWordWrap(true);
    m_state->setObjectName(QStringLiteral("guest-state"));
    m_state->setWordWrap(true);
    auto* words = new QVBoxLayout;
    words->addWidget(m_address);
    words->addWidget(m_state);
    words->addStretch();
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 4, 0, 4);
    row->setSpacing(14);
    row->addWidget(m_picture);
    row->addLayout(words, 1);
    m_timer->setInterval(300);
    connect(m_timer, &QTimer::timeout, this, &GuestPanel::look);
}

void GuestPanel::showGuest(const QString& machine, std::shared_ptr<probe::GuestEnd> guest) {
    m_guest = std::move(guest);
    m_machine = machine;
    m_wasHere = false;
    m_urls.clear();
    m_address->clear();
    m_picture->setCode({});
    m_timer->start();
    look();
}

void GuestPanel::showAddresses(const std::vector<std::string>& urls) {
    if (urls == m_urls) return;
    m_urls = urls;
    QStringList lines;
    for (const std::string& url : urls)
        lines << QString::fromStdString(url);
    m_address->setText(lines.join(QLatin1Char('\n')));
    if (!urls.empty())
        if (const auto code = probe::encodeQr(urls.front())) m_picture->setCode(*code);
}

void GuestPanel::look() {
    const probe::GuestState now = m_guest->state();
    const bool isHere = now.isPresent && !now.medium.empty();
    const bool isOwn = m_guest->servedBy() == "here";
    const QString by = isOwn ? tr("this machine") : QString::fromStdString(m_guest->servedBy());
    showAddresses(now.urls);
    if (!now.problem.empty()) {
        m_state->setText(QString::fromStdString(now.problem));
    } else if (now.expiresIn.count() == 0) {
        m_timer->stop();
        m_state->setText(tr("This code has ended. Invite the device again."));
    } else if (isHere) {
        m_state->setText(
            now.medium == "radio"
                ? tr("%1 has joined, by radio: its runs tell of the air, not of a cable. Space measures.")
                      .arg(m_machine)
                : tr("%1 has joined. Space measures between it and %2.").arg(m_machine, by));
    } else if (now.urls.empty()) {
        m_state->setText(tr("Asking %1 for an address and a code …").arg(by));
    } else {
        m_state->setText(tr("Open one of these in the browser of %1, or read the code with its camera. Where "
                            "typing is hard, "
                            "leave out what follows the last “/”: the page asks for it. Nothing is installed "
                            "there. The code "
                            "ends in %2 min; anybody in this network who has it can take "
                            "part.")
                             .arg(m_machine)
                             .arg((now.expiresIn.count() + 59) / 60));
    }
    if (isHere && !m_wasHere) Q_EMIT arrived(m_machine, QString::fromStdString(now.peer));
    m_wasHere = isHere;
}

} // namespace metrodos::desktop
