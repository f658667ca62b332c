#include "desktop/measure/measure_pages.h"

#include "desktop/measure/copy_page.h"
#include "desktop/measure/machines_page.h"
#include "desktop/measure/matrix_page.h"
#include "desktop/measure/measure_view.h"
#include "desktop/measure/search_page.h"
#include "desktop/measure/watch_page.h"

namespace metrodos::desktop {

MeasurePages::MeasurePages(RouteModel& model, MeasureView* runs, const AccessTo& access, Invite invite,
                           std::shared_ptr<probe::KnownMachines> known) {
    setObjectName(QStringLiteral("measure-pages"));
    setDocumentMode(true);
    addTab(runs, tr("R&uns"));
    const auto add = [&](TestPage* page, const QString& title) {
        addTab(page, title);
        connect(page, &TestPage::toggleAsked, this, &MeasurePages::toggleAsked);
        connect(page, &TestPage::said, this, &MeasurePages::said);
    };
    m_matrix = new MatrixPage(model, access);
    add(m_matrix, tr("&Every pair"));
    add(new SearchPage(model, access), tr("&Loss-free rate"));
    add(new WatchPage(model, access), tr("&Watch"));
    add(new CopyPage(model, access), tr("File &copy"));
    m_machines = new MachinesPage(model.job(), std::move(invite), std::move(known));
    addTab(m_machines, tr("Mach&ines"));
    connect(m_machines, &MachinesPage::said, this, &MeasurePages::said);
}

void MeasurePages::invite(const house::Id& endpoint, const std::string& servedBy) {
    setCurrentWidget(m_machines);
    m_machines->invite(endpoint, servedBy);
}

TestPage* MeasurePages::test() const {
    return qobject_cast<TestPage*>(currentWidget());
}

bool MeasurePages::isRunning() const {
    for (int i = 0; i < count(); ++i)
        if (const auto* page = qobject_cast<TestPage*>(widget(i)); page != nullptr && page->isRunning())
            return true;
    return false;
}

bool MeasurePages::chooseTogether(const std::vector<std::pair<house::Id, house::Id>>& pairs) {
    return m_matrix->choosePairs(pairs);
}

void MeasurePages::stop() {
    for (int i = 0; i < count(); ++i)
        if (auto* page = qobject_cast<TestPage*>(widget(i)); page != nullptr && page->isRunning())
            page->toggle();
}

} // namespace metrodos::desktop
