#include "desktop/measure/conditions_button.h"

#include <QMenu>
#include <QTime>
#include <algorithm>

namespace metrodos::desktop {

ConditionsButton::ConditionsButton(JobModel& model, QWidget* parent)
    : QToolButton(parent)
    , m_model(model) {
    setObjectName(QStringLiteral("conditions"));
    setToolTip(
        tr("What else goes on: kept with each run. O goes through the answers on other users, A opens this "
           "list, G asks what was changed."));
    setPopupMode(QToolButton::InstantPopup);
    setMenu(new QMenu(this));
    connect(menu(), &QMenu::aboutToShow, this, &ConditionsButton::fillMenu);
    showAnswers();
}

benchmark::Conditions ConditionsButton::conditions() const {
    benchmark::Conditions out = m_conditions;
    out.hour = QTime::currentTime().hour();
    return out;
}

void ConditionsButton::turnOthers() {
    auto& others = m_conditions.othersActive;
    others = !others ? std::optional(false) : *others ? std::nullopt : std::optional(true);
    showAnswers();
}

void ConditionsButton::forgetChange() {
    m_conditions.changed.clear();
    showAnswers();
}

void ConditionsButton::setChange(const QString& what) {
    constexpr qsizetype longest = 500;
    m_conditions.changed = what.simplified().left(longest).toStdString();
    showAnswers();
}

QString ConditionsButton::change() const {
    return QString::fromStdString(m_conditions.changed);
}

void ConditionsButton::fillMenu() {
    menu()->clear();
    const auto others = m_conditions.othersActive;
    menu()->addAction(others ? (*others ? tr("&Other people are using the network")
                                        : tr("&Nobody else is using the network"))
                             : tr("No&t known"),
                      this, &ConditionsButton::turnOthers);
    menu()->addAction(m_conditions.changed.empty()
                          ? tr("&Changed since the run before…")
                          : tr("&Changed: %1…").arg(QString::fromStdString(m_conditions.changed)),
                      this, &ConditionsButton::changeAsked);
    if (!m_model.house().appliances.empty()) menu()->addSection(tr("Running now"));
    for (const house::Appliance& a : m_model.house().appliances) {
        auto& running = m_conditions.appliances;
        auto* action = menu()->addAction(QString::fromStdString(a.label));
        action->setCheckable(true);
        action->setChecked(std::find(running.begin(), running.end(), a.label) != running.end());
        connect(action, &QAction::toggled, this, [this, label = a.label](bool on) {
            std::erase(m_conditions.appliances, label);
            if (on) m_conditions.appliances.push_back(label);
            showAnswers();
        });
    }
}

void ConditionsButton::showAnswers() {
    const auto& c = m_conditions;
    QStringList parts;
    parts << (c.othersActive ? (*c.othersActive ? tr("Other users: yes") : tr("Other users: none"))
                             : tr("Other users?"));
    if (!c.appliances.empty()) parts << tr("%1 running").arg(c.appliances.size());
    if (!c.changed.empty()) parts << tr("one thing changed");
    setText(parts.join(QStringLiteral(" · ")));
}

} // namespace metrodos::desktop
