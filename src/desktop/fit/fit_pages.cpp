#include "desktop/fit/fit_pages.h"

#include "desktop/fit/addresses_page.h"
#include "desktop/fit/cupboard_page.h"
#include "desktop/fit/fit_view.h"
#include "desktop/fit/labels_page.h"

namespace metrodos::desktop {

FitPages::FitPages(JobModel& job, FitView* steps, AdaptersPage::PageOf pageOf) {
    setObjectName(QStringLiteral("fit-pages"));
    setDocumentMode(true);
    addTab(steps, tr("&Steps"));
    const auto add = [&](auto* page, const QString& title) {
        addTab(page, title);
        connect(page, &std::remove_pointer_t<decltype(page)>::said, this, &FitPages::said);
    };
    add(new AdaptersPage(job, std::move(pageOf)), tr("&Adapters"));
    add(new AddressesPage(job), tr("A&ddresses"));
    add(new CupboardPage(job), tr("&Cupboard"));
    add(new LabelsPage(job), tr("&Labels"));
    connect(steps, &FitView::said, this, &FitPages::said);
}

void FitPages::takeFocus() {
    QWidget* page = currentWidget();
    if (auto* steps = qobject_cast<FitView*>(page)) return steps->takeFocus();
    // The first that the keyboard can reach.
    for (QWidget* w = page->nextInFocusChain(); w != page; w = w->nextInFocusChain())
        if (page->isAncestorOf(w) && w->isVisible() && (w->focusPolicy() & Qt::TabFocus) != 0)
            return w->setFocus();
}

} // namespace metrodos::desktop
