// The machines that take part: their addresses, and the agents that announce themselves on the network.
#pragma once

#include "desktop/model/agent_finder.h"
#include "desktop/model/job_model.h"
#include "probe/guest_end.h"

#include <QWidget>
#include <functional>
#include <map>
#include <memory>

class QLabel;
class QPushButton;
class QTableWidget;

namespace metrodos::desktop {

class CodePanel;
class GuestPanel;

class MachinesPage : public QWidget {
    Q_OBJECT

  public:
    using Invite = std::function<quantity::Result<std::shared_ptr<probe::GuestEnd>>(
        const house::Id& endpoint, const std::string& servedBy)>;

    /// `invite` makes a code for a device with a browser.
    MachinesPage(JobModel& model, Invite invite);

    /// Invites a device with a browser to be this endpoint, and shows where it is to go: to this machine, or
    /// to the agent at an address.
    void invite(const house::Id& endpoint, const std::string& servedBy = "here");

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
    Invite m_invite;
    GuestPanel* m_guest;
    AgentFinder m_finder;
    bool m_filling = false;
};

} // namespace metrodos::desktop
