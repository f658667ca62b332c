// Measure: runs first, and beside them the tests that are not runs.
#pragma once

#include "desktop/model/endpoint_access.h"

#include <QTabWidget>

namespace metrodos::desktop {

class MachinesPage;
class MatrixPage;
class RouteModel;
class RunPage;
class MeasureView;
class TestPage;

class MeasurePages : public QTabWidget {
    Q_OBJECT

  public:
    using Invite = std::function<quantity::Result<std::shared_ptr<probe::GuestEnd>>(
        const house::Id& endpoint, const std::string& servedBy)>;

    MeasurePages(RouteModel& model, MeasureView* runs, const AccessTo& access, Invite invite,
                 std::shared_ptr<probe::KnownMachines> known);

    /// Shows the machines with an invitation for this endpoint, a device with a browser, to the page that
    /// "here" or an agent serves.
    void invite(const house::Id& endpoint, const std::string& servedBy);

    /// The test on the page that is shown; nullptr: it is that of the runs.
    [[nodiscard]] TestPage* test() const;
    /// Whether one of the tests goes on.
    [[nodiscard]] bool isRunning() const;
    void restyle();
    /// Ends the running test.
    void stop();
    /// Sets up two or more pairs of machines to run at once, on their page.
    bool chooseTogether(const std::vector<std::pair<house::Id, house::Id>>& pairs);

  Q_SIGNALS:
    void toggleAsked();
    void said(const QString& sentence, bool isProblem);

  private:
    RunPage* m_run;
    MatrixPage* m_matrix;
    MachinesPage* m_machines;
};

} // namespace metrodos::desktop
