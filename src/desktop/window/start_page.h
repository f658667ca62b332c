// What the window shows while no job is open: three ways to begin, each one key, and the jobs that were open
// last.
#pragma once

#include "desktop/model/agent_finder.h"
#include "job/starter.h"

#include <QWidget>

class QLabel;
class QLineEdit;
class QListWidget;
class QStackedWidget;

namespace metrodos::desktop {

class CodePanel;

/// M measures, S surveys, D opens the demo; the arrows and Enter open a job of the list; Escape leads back.
class StartPage : public QWidget {
    Q_OBJECT

  public:
    explicit StartPage(QWidget* parent = nullptr);

    /// Brings the list up to date and shows the three ways.
    void begin();
    /// Asks who is at the other end.
    void askForOther();
    /// Back to the three ways; false where they are shown.
    bool back();

  Q_SIGNALS:
    void measureAsked(const QString& address, metrodos::job::Between between);
    void surveyAsked();
    void demoAsked();
    void jobAsked(const QString& file);
    void chooseAsked(); ///< a job that is not in the list
    void said(const QString& sentence, bool isProblem);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QWidget* makeChoices();
    QWidget* makeOther();
    void fillAgents();
    void measure();
    [[nodiscard]] job::Between chosenBetween() const;

    QStackedWidget* m_pages;
    QListWidget* m_recent;
    QLabel* m_recentTitle;
    QLineEdit* m_address;
    QListWidget* m_agents;
    QLabel* m_looking;
    std::vector<std::pair<QWidget*, job::Between>> m_between;
    CodePanel* m_codes;
    AgentFinder m_finder;
};

} // namespace metrodos::desktop
