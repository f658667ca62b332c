#include "desktop/measure/measure_pages.h"

#include "desktop/measure/copy_page.h"
#include "desktop/measure/facts_page.h"
#include "desktop/measure/machines_page.h"
#include "desktop/measure/matrix_page.h"
#include "desktop/measure/measure_view.h"
#include "desktop/measure/run_page.h"
#include "desktop/measure/search_page.h"
#include "desktop/measure/together_page.h"
#include "desktop/measure/transfer_page.h"
#include "desktop/measure/watch_page.h"

namespace metrodos::desktop {

MeasurePages::MeasurePages(RouteModel& model, MeasureView* runs, const AccessTo& access, Invite invite,
                           std::shared_ptr<probe::KnownMachines> known) {
    setObjectName(QStringLiteral("measure-pages"));
    setDocumentMode(true);
    addTab(runs, tr("R&uns"));
    m_run = new RunPage(model);
    addTab(m_run, tr("&One run"));
    connect(m_run, &RunPage::said, this, &MeasurePages::said);
    connect(runs, &MeasureView::runOpened, this, [this](const QString& id) {
        setCurrentWidget(m_run);
        m_run->showRun(id.toStdString());
    });
    const auto add = [&](TestPage* page, const QString& title) {
        addTab(page, title);
        connect(page, &TestPage::toggleAsked, this, &MeasurePages::toggleAsked);
        connect(page, &TestPage::said, this, &MeasurePages::said);
    };
    m_matrix = new MatrixPage(model, access);
    add(m_matrix, tr("&Every pair"));
    auto* together = new TogetherPage(model);
    addTab(together, tr("A&t once"));
    connect(together, &TogetherPage::said, this, &MeasurePages::said);
    connect(together, &TogetherPage::runAsked, this,
            [this](const std::vector<std::pair<house::Id, house::Id>>& pairs) {
                if (!m_matrix->choosePairs(pairs))
                    return Q_EMIT said(
                        tr("A machine of these ways has no address: give it on the page Machines."), true);
                setCurrentWidget(m_matrix);
                Q_EMIT said(tr("Space runs them at once."), false);
            });
    add(new SearchPage(model, access), tr("&Loss-free rate"));
    add(new WatchPage(model, access), tr("&Watch"));
    add(new CopyPage(model, access), tr("File &copy"));
    add(new TransferPage(model, access), tr("&Disk to disk"));
    auto* facts = new FactsPage(model, access);
    addTab(facts, tr("&Facts"));
    connect(facts, &FactsPage::said, this, &MeasurePages::said);
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

void MeasurePages::restyle() {
    m_run->restyle();
}

void MeasurePages::stop() {
    for (int i = 0; i < count(); ++i)
        if (auto* page = qobject_cast<TestPage*>(widget(i)); page != nullptr && page->isRunning())
            page->toggle();
}

} // namespace metrodos::desktop
