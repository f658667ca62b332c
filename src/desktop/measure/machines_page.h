// The machines that take part: their addresses, and the agents that announce themselves on the network.
#pragma once

#include "desktop/model/agent_finder.h"
#include "desktop/model/job_model.h"
#include "probe/guest_end.h"
#include "probe/known_machines.h"

#include <QWidget>
#include <functional>
#include <map>
#include <memory>

class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace metrodos::desktop {

class CodePanel;
class GuestPanel;
class MeetPanel;

/// A machine that is known or announces itself.
struct OtherMachine {
    probe::KnownMachine known; ///< id is empty where it only announces itself
    QString seen;
    [[nodiscard]] bool isMet() const { return !known.id.empty() && !known.isRevoked; }
};

class MachinesPage : public QWidget {
    Q_OBJECT

  public:
    using Invite = std::function<quantity::Result<std::shared_ptr<probe::GuestEnd>>(
        const house::Id& endpoint, const std::string& servedBy)>;

    /// `invite` makes a code for a device with a browser.
    MachinesPage(JobModel& model, Invite invite, std::shared_ptr<probe::KnownMachines> known);

    /// Invites a device with a browser to be this endpoint, and shows where it is to go: to this machine, or
    /// to the agent at an address.
    void invite(const house::Id& endpoint, const std::string& servedBy = "here");

    /// Looks for agents for three seconds.
    void look();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    /// Runs and other programs may have seen machines meanwhile.
    void showEvent(QShowEvent* event) override;

  private:
    void fill();
    void fillOthers();
    void takeOther(int row);
    /// Opens the panel for a first meeting, with the address of the chosen machine where it was not met yet.
    void meet();
    /// Deletes the key of the chosen machine, at the second time of asking; of one that has none, its record.
    void revoke();
    /// Asks the chosen machine, which knows the shared key, for a key of its own; of one that has its own,
    /// that it knows the shared one no longer.
    void moveKey();
    void keepRanges();
    void takeAddress(const QString& address);
    void setAddress(const house::Id& endpoint, const QString& address);

    JobModel& m_model;
    QPushButton* m_look;
    QTableWidget* m_machines;
    QTableWidget* m_others; ///< machines that are known or announce themselves
    QLabel* m_hint;
    CodePanel* m_codes;
    Invite m_invite;
    GuestPanel* m_guest;
    MeetPanel* m_meet;
    std::shared_ptr<probe::KnownMachines> m_known;
    std::vector<OtherMachine> m_rows; ///< of m_others
    std::string m_toRevoke;           ///< id of what the next Delete revokes
    TestRunner m_forgetting;
    TestRunner m_moving;
    QLineEdit* m_ranges; ///< machines that may join besides nearby ones
    AgentFinder m_finder;
    bool m_filling = false;
};

} // namespace metrodos::desktop
