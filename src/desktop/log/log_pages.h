// Log: the timeline first, then the hours of a way, the library of jobs, and what one's own houses say.
#pragma once

#include "desktop/log/library_model.h"
#include "desktop/model/endpoint_access.h"

#include <QTabWidget>

namespace metrodos::desktop {

class HoursPage;
class LibraryPage;
class LogView;
class OwnHousesPage;

class LogPages : public QTabWidget {
    Q_OBJECT

  public:
    LogPages(JobModel& job, LogView* timeline, AccessTo access);

    /// The jobs of the demo are a library of their own.
    void showLibrary(const std::filesystem::path& folder) { m_libraryModel.setFolder(folder, false); }
    /// The keyboard goes to the page that is shown.
    void takeFocus();
    /// What the page that is shown says, in one sentence.
    [[nodiscard]] QString sentence() const;
    /// What is worked out beside the window is there.
    [[nodiscard]] bool isSettled() const;

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);
    void shown(); ///< the sentence is another one
    void jobAsked(const QString& file);

  private:
    LibraryModel m_libraryModel;
    LogView* m_timeline;
    HoursPage* m_hours;
    LibraryPage* m_library;
    OwnHousesPage* m_houses;
};

} // namespace metrodos::desktop
