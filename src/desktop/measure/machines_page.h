// The machines that take part: their addresses, and the agents that announce themselves on the network.
#pragma once

#include "desktop/model/agent_finder.h"
#include "desktop/model/job_model.h"

#include <QWidget>
#include <map>

class QLabel;
class QPushButton;
class QTableWidget;

namespace metrodos::desktop {

class CodePanel;

class MachinesPage : public QWidget {
    Q_OBJECT

  public:
    explicit MachinesPage(JobModel& model);

    /// Looks for agents for three seconds.
    void look();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void fill();
    void fillFound();
    void takeFound(int row);
    void takeAddress(const QString& address);
    void setAddress(const house::Id& endpoint, const QString& address);

    JobModel& m_model;
    QPushButton* m_look;
    QTableWidget* m_machines;
    QTableWidget* m_found;
    QLabel* m_hint;
    CodePanel* m_codes;
    AgentFinder m_finder;
    bool m_filling = false;
};

} // namespace metrodos::desktop
