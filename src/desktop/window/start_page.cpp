#include "desktop/window/start_page.h"

#include "desktop/measure/code_panel.h"
#include "desktop/model/endpoint_access.h"
#include "desktop/model/job_folder.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "desktop/widgets/tool_button.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QRadioButton>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

constexpr int pageWidth = 820;

// A way to begin: its key in a cap, what it does in a word and in a sentence.
class Choice : public QPushButton {
  public:
    Choice(const QString& key, const QString& title, const QString& sentence)
        : m_key(key)
        , m_title(title)
        , m_sentence(sentence) {
        setAccessibleName(title);
        setAccessibleDescription(sentence);
        setMinimumHeight(78);
        setCursor(Qt::PointingHandCursor);
        setAutoDefault(true); // Enter presses the one that has the keyboard
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const QRectF area = QRectF(rect()).adjusted(1, 1, -1, -1);
        p.setPen(QPen(hasFocus() || underMouse() ? theme().ink : theme().line, hasFocus() ? 2 : 1));
        p.setBrush(theme().panel);
        p.drawRoundedRect(area, 4, 4);
        const QRectF cap(area.left() + 20, area.center().y() - 19, 38, 38);
        p.setPen(QPen(theme().ink, 1.5));
        p.setBrush(theme().ground);
        p.drawRoundedRect(cap, 5, 5);
        p.setFont(codeFont(15, true));
        p.drawText(cap, Qt::AlignCenter, m_key);
        const double left = cap.right() + 20;
        const double width = area.right() - left - 14;
        p.setFont(textFont(14, true));
        p.drawText(QRectF(left, area.center().y() - 27, width, 27), Qt::AlignLeft | Qt::AlignVCenter,
                   m_title);
        p.setFont(textFont(10.5));
        p.setPen(theme().quiet);
        p.drawText(QRectF(left, area.center().y() + 1, width, 22), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(m_sentence, Qt::ElideRight, static_cast<int>(width)));
    }

  private:
    QString m_key;
    QString m_title;
    QString m_sentence;
};

QLabel* heading(const QString& text) {
    auto* label = plainLabel(text);
    label->setFont(textFont(13, true));
    return label;
}

// In the middle of the page, no wider than one reads easily.
QWidget* centred(QLayout* content) {
    auto* page = new QWidget;
    auto* column = new QWidget;
    column->setMaximumWidth(pageWidth);
    content->setContentsMargins(0, 0, 0, 0);
    column->setLayout(content);
    auto* row = new QHBoxLayout(page);
    row->setContentsMargins(24, 30, 24, 12);
    row->addStretch(1);
    row->addWidget(column, 20);
    row->addStretch(1);
    return page;
}

} // namespace

StartPage::StartPage(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("start"));
    m_pages = new QStackedWidget;
    m_pages->addWidget(makeChoices());
    m_pages->addWidget(makeOther());
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(m_pages);
    connect(&m_finder, &AgentFinder::looked, this, &StartPage::fillAgents);
    connect(&m_finder, &AgentFinder::failed, this, [this](const QString&) { fillAgents(); });
}

QWidget* StartPage::makeChoices() {
    auto* layout = new QVBoxLayout;
    layout->setSpacing(10);
    layout->addWidget(heading(tr("What is to be done?")));
    const auto add = [&](const QString& name, const QString& key, const QString& title,
                         const QString& sentence) {
        auto* choice = new Choice(key, title, sentence);
        choice->setObjectName(name);
        layout->addWidget(choice);
        return choice;
    };
    auto* measure = add(QStringLiteral("begin-measure"), QStringLiteral("M"), tr("Measure now"),
                        tr("From this machine to one other: what passes between them, and what limits it"));
    auto* survey =
        add(QStringLiteral("begin-survey"), QStringLiteral("S"), tr("Survey the house"),
            tr("Rooms, jacks, wiring, machines and needs: what each way would carry, and what it costs"));
    auto* demo = add(QStringLiteral("begin-demo"), QStringLiteral("D"), tr("Open the demo"),
                     tr("Quarry House, with simulated machines to measure between"));
    connect(measure, &QPushButton::clicked, this, &StartPage::askForOther);
    connect(survey, &QPushButton::clicked, this, &StartPage::surveyAsked);
    connect(demo, &QPushButton::clicked, this, &StartPage::demoAsked);
    layout->addSpacing(18);
    auto* head = new QHBoxLayout;
    m_recentTitle = heading(tr("Jobs that were open last"));
    auto* other = tool(QStringLiteral("choose-job"), tr("Another job …"), tr("Open a job file (Ctrl+O)"));
    head->addWidget(m_recentTitle, 1);
    head->addWidget(other);
    layout->addLayout(head);
    m_recent = new QListWidget;
    m_recent->setObjectName(QStringLiteral("recent"));
    m_recent->setAccessibleName(tr("Jobs that were open last"));
    m_recent->setMaximumHeight(300);
    layout->addWidget(m_recent, 1);
    layout->addStretch();
    connect(other, &QToolButton::clicked, this, &StartPage::chooseAsked);
    connect(m_recent, &QListWidget::itemActivated, this,
            [this](const QListWidgetItem* item) { Q_EMIT jobAsked(item->data(Qt::UserRole).toString()); });
    return centred(layout);
}

QWidget* StartPage::makeOther() {
    auto* layout = new QVBoxLayout;
    layout->setSpacing(10);
    layout->addWidget(heading(tr("Who is at the other end?")));
    m_address = new QLineEdit;
    m_address->setObjectName(QStringLiteral("other-address"));
    m_address->setAccessibleName(tr("Address of the other machine"));
    m_address->setPlaceholderText(tr("Its address, like 192.168.1.20 or 192.168.1.20:47710"));
    m_address->setFont(textFont(12));
    auto* go = new QPushButton(tr("&Begin  (Enter)"));
    go->setObjectName(QStringLiteral("begin-run"));
    auto* browser = new QPushButton(tr("It has only a bro&wser"));
    browser->setObjectName(QStringLiteral("begin-browser"));
    browser->setToolTip(
        tr("A telephone, tablet, television or other machine: it opens an address, and nothing is "
           "installed there"));
    auto* row = new QHBoxLayout;
    row->addWidget(m_address, 1);
    row->addWidget(go);
    row->addWidget(browser);
    layout->addLayout(row);
    connect(browser, &QPushButton::clicked, this,
            [this] { Q_EMIT measureAsked(QString::fromLatin1(guestAddress), chosenBetween()); });
    m_looking = plainLabel();
    m_looking->setWordWrap(true);
    layout->addWidget(m_looking);
    m_agents = new QListWidget;
    m_agents->setObjectName(QStringLiteral("other-agents"));
    m_agents->setAccessibleName(tr("Machines that announce themselves"));
    m_agents->setMaximumHeight(150);
    layout->addWidget(m_agents);
    layout->addSpacing(8);
    layout->addWidget(heading(tr("What lies between the two?")));
    auto* between = new QHBoxLayout;
    for (const auto& [kind, text] : {std::pair(job::Between::cable, tr("just a &cable")),
                                     std::pair(job::Between::network_switch, tr("a switc&h")),
                                     std::pair(job::Between::coax_pair, tr("a pair of coa&x adapters")),
                                     std::pair(job::Between::mains_pair, tr("a pair of &mains adapters"))}) {
        auto* button = new QRadioButton(text);
        button->setChecked(kind == job::Between::cable);
        between->addWidget(button);
        m_between.emplace_back(button, kind);
    }
    between->addStretch();
    layout->addLayout(between);
    auto* later = plainLabel(tr("It can be changed and filled in later."));
    later->setObjectName(QStringLiteral("quiet"));
    layout->addWidget(later);
    layout->addSpacing(8);
    layout->addWidget(heading(tr("Both machines need the same key")));
    auto* how =
        plainLabel(tr("Start metrodos-agent there with the key of this machine, or take over the key that it "
                      "shows."));
    how->setWordWrap(true);
    how->setObjectName(QStringLiteral("quiet"));
    layout->addWidget(how);
    m_codes = new CodePanel(keyFile());
    layout->addWidget(m_codes);
    layout->addStretch();
    connect(go, &QPushButton::clicked, this, &StartPage::measure);
    connect(m_address, &QLineEdit::returnPressed, this, &StartPage::measure);
    connect(m_agents, &QListWidget::itemActivated, this, [this](const QListWidgetItem* item) {
        m_address->setText(item->data(Qt::UserRole).toString());
        measure();
    });
    connect(m_codes, &CodePanel::said, this, &StartPage::said);
    connect(m_codes, &CodePanel::addressRead, this, [this](const QString& address) {
        m_address->setText(address);
        m_address->setFocus();
    });
    return centred(layout);
}

void StartPage::begin() {
    m_recent->clear();
    for (const QString& file : recentJobs()) {
        const QFileInfo info(file);
        auto* item = new QListWidgetItem(
            tr("%1   –  %2").arg(info.completeBaseName(), momentText(info.lastModified())));
        item->setData(Qt::UserRole, file);
        item->setToolTip(plainTip(file));
        m_recent->addItem(item);
    }
    const bool any = m_recent->count() > 0;
    m_recent->setVisible(any);
    m_recentTitle->setText(any ? tr("Jobs that were open last") : tr("No job was open here yet"));
    m_recent->setCurrentRow(-1);
    m_pages->setCurrentIndex(0);
    findChild<QPushButton*>(QStringLiteral("begin-measure"))->setFocus();
}

void StartPage::askForOther() {
    m_pages->setCurrentIndex(1);
    m_address->setFocus();
    m_address->selectAll();
    m_finder.look();
    fillAgents();
}

bool StartPage::back() {
    if (m_pages->currentIndex() == 0) return false;
    begin();
    return true;
}

void StartPage::fillAgents() {
    m_agents->clear();
    for (const SeenAgent& agent : m_finder.agents()) {
        auto* item = new QListWidgetItem(tr("%1   –  %2").arg(agent.name, agent.address));
        item->setData(Qt::UserRole, agent.address);
        m_agents->addItem(item);
    }
    const bool any = m_agents->count() > 0;
    m_agents->setVisible(any);
    if (any) m_agents->setCurrentRow(0);
    m_looking->setText(any                    ? tr("These announce themselves; ↓ and Enter takes one:")
                       : m_finder.isLooking() ? tr("Looking for machines on the network …")
                                              : tr("No machine announces itself here; type its address."));
    // The only one is the likely one.
    if (m_agents->count() == 1 && m_address->text().isEmpty()) {
        m_address->setText(m_finder.agents().front().address);
        m_address->selectAll();
    }
}

void StartPage::measure() {
    const QString address = m_address->text().trimmed();
    if (!isAgentAddress(address) || address == QStringLiteral("here")) {
        Q_EMIT said(address.isEmpty() ? tr("give the address of the other machine first.")
                                      : tr("“%1” is no address of another machine; write it like "
                                           "192.168.1.20:47710.")
                                            .arg(address),
                    true);
        m_address->setFocus();
        return;
    }
    Q_EMIT measureAsked(address, chosenBetween());
}

job::Between StartPage::chosenBetween() const {
    for (const auto& [button, kind] : m_between)
        if (qobject_cast<QRadioButton*>(button)->isChecked()) return kind;
    return job::Between::cable;
}

void StartPage::keyPressEvent(QKeyEvent* event) {
    const bool onChoice = qobject_cast<QPushButton*>(window()->focusWidget()) != nullptr;
    const bool isArrow = event->key() == Qt::Key_Down || event->key() == Qt::Key_Up;
    if (m_pages->currentIndex() == 0 && event->modifiers() == Qt::NoModifier && (onChoice || !isArrow)) {
        switch (event->key()) {
        case Qt::Key_M:
            askForOther();
            return;
        case Qt::Key_S:
            Q_EMIT surveyAsked();
            return;
        case Qt::Key_D:
            Q_EMIT demoAsked();
            return;
        case Qt::Key_Down:
            focusNextChild();
            return;
        case Qt::Key_Up:
            focusPreviousChild();
            return;
        default:
            break;
        }
    }
    if (m_pages->currentIndex() == 1 && event->key() == Qt::Key_Down && m_address->hasFocus() &&
        m_agents->count() > 0) {
        m_agents->setFocus();
        return;
    }
    QWidget::keyPressEvent(event);
}

} // namespace metrodos::desktop
