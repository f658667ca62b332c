// The machines that take part: their addresses, and the agents that announce themselves on the network.
#pragma once

#include "desktop/model/job_model.h"
#include "desktop/model/test_runner.h"

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
    struct Found {
        QString name;
        QString address;
        QString seen;
    };
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
    std::vector<Found> m_agents; ///< by name and address, seen since the window opened
    bool m_filling = false;
    TestRunner m_runner;
};

} // namespace metrodos::desktop
