// Measure: runs first, and beside them the tests that are not runs.
#pragma once

#include "desktop/endpoint_access.h"

#include <QTabWidget>

namespace metrodos::desktop {

class JobModel;
class MeasureView;
class TestPage;

class MeasurePages : public QTabWidget {
    Q_OBJECT

  public:
    MeasurePages(JobModel& model, MeasureView* runs, const AccessTo& access);

    /// The test on the page that is shown; nullptr: it is that of the runs.
    [[nodiscard]] TestPage* test() const;
    /// Whether one of the tests goes on.
    [[nodiscard]] bool isRunning() const;
    /// The page by its name: "runs", "matrix", "search", "watch", "copy", "machines".
    void setPage(const QString& name);

  Q_SIGNALS:
    void toggleAsked();
    void said(const QString& sentence, bool isProblem);
};

} // namespace metrodos::desktop
