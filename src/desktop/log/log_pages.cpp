#include "desktop/log/log_pages.h"

#include "desktop/log/hours_page.h"
#include "desktop/log/library_page.h"
#include "desktop/log/log_view.h"
#include "desktop/log/own_houses_page.h"

namespace metrodos::desktop {

LogPages::LogPages(JobModel& job, LogView* timeline, AccessTo access)
    : m_libraryModel(job)
    , m_timeline(timeline)
    , m_hours(new HoursPage(job, std::move(access)))
    , m_library(new LibraryPage(m_libraryModel))
    , m_houses(new OwnHousesPage(m_libraryModel)) {
    setObjectName(QStringLiteral("log-pages"));
    setDocumentMode(true);
    addTab(m_timeline, tr("&Timeline"));
    addTab(m_hours, tr("&Hours"));
    addTab(m_library, tr("&Library"));
    addTab(m_houses, tr("Own h&ouses"));
    connect(m_timeline, &LogView::said, this, &LogPages::said);
    connect(m_timeline, &LogView::shown, this, &LogPages::shown);
    connect(m_hours, &HoursPage::said, this, &LogPages::said);
    connect(m_library, &LibraryPage::said, this, &LogPages::said);
    connect(m_library, &LibraryPage::jobAsked, this, &LogPages::jobAsked);
    connect(m_houses, &OwnHousesPage::said, this, &LogPages::said);
    connect(&m_libraryModel, &LibraryModel::changed, this, &LogPages::shown);
    connect(this, &QTabWidget::currentChanged, this, &LogPages::shown);
}

void LogPages::takeFocus() {
    QWidget* page = currentWidget();
    if (page == m_timeline) return m_timeline->takeFocus();
    // The first that the keyboard can reach.
    for (QWidget* w = page->nextInFocusChain(); w != page; w = w->nextInFocusChain())
        if (page->isAncestorOf(w) && w->isVisible() && (w->focusPolicy() & Qt::TabFocus) != 0)
            return w->setFocus();
}

QString LogPages::sentence() const {
    if (currentWidget() == m_hours) return m_hours->sentence();
    if (currentWidget() == m_library) return m_library->sentence();
    if (currentWidget() == m_houses) return m_houses->sentence();
    return m_timeline->sentence();
}

bool LogPages::isSettled() const {
    return m_timeline->isSettled() && m_libraryModel.isSettled();
}

} // namespace metrodos::desktop
