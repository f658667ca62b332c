// Fit: the steps first, and beside them what is recorded of adapters, addresses, the cupboard and labels.
#pragma once

#include "desktop/fit/adapters_page.h"

#include <QTabWidget>

namespace metrodos::desktop {

class FitView;

class FitPages : public QTabWidget {
    Q_OBJECT

  public:
    FitPages(JobModel& job, FitView* steps, AdaptersPage::PageOf pageOf);

    /// The keyboard goes to the page that is shown.
    void takeFocus();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);
};

} // namespace metrodos::desktop
