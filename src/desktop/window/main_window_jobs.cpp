// What the window does with job files: opening, beginning, naming, letting go.
#include "desktop/window/main_window.h"

#include "desktop/log/log_pages.h"
#include "desktop/measure/measure_pages.h"
#include "desktop/model/job_folder.h"
#include "desktop/route/element_sheet.h"
#include "desktop/route/route_strip.h"
#include "desktop/walk/walk_view.h"
#include "desktop/window/start_page.h"
#include "job/open.h"

#include <QFileDialog>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QStackedWidget>

namespace metrodos::desktop {

bool MainWindow::openJob(const std::filesystem::path& file) {
    if (m_controller.isRunning() || m_pages->isRunning()) {
        say(tr("a run is in progress; stop it with Space before another job is opened."), true);
        return false;
    }
    std::filesystem::path target = file;
    if (file.extension() == ".json" || file.extension() == ".zip") {
        // The interchange form, or a package of everything, becomes a job beside it; an earlier one of the
        // same name is opened again.
        target.replace_extension(".metrodos");
        std::error_code error;
        if (!std::filesystem::exists(target, error)) {
            const auto document = job::readJob(file);
            const auto made =
                document ? job::Store::create(target, *document) : tl::unexpected(document.error());
            if (!made) {
                say(QString::fromStdString(made.error().sentence()), true);
                return false;
            }
        }
    }
    auto store = job::Store::open(target);
    if (!store) {
        say(QString::fromStdString(store.error().sentence()), true);
        if (job::isDamage(store.error())) offerRecovery(target);
        return false;
    }
    if (target != m_job.file()) dropDraft();
    m_machines.setStandins(nullptr);
    m_machines.dismissGuests();
    m_job.setStore(std::move(*store));
    noteRecent(target);
    showStart(false);
    return true;
}

bool MainWindow::openDemo(const std::filesystem::path& folder) {
    const auto file = demoJob(folder);
    if (!file) {
        say(QString::fromStdString(file.error().sentence()), true);
        return false;
    }
    if (!openJob(*file)) return false;
    auto standins = std::make_unique<Standins>();
    connect(standins.get(), &Standins::failed, this, [this](const QString& text) { say(text, true); });
    standins->start(*file);
    m_machines.setStandins(std::move(standins));
    m_logPages->showLibrary(folder);
    return true;
}

void MainWindow::offerRecovery(const std::filesystem::path& file) {
    auto* box = new QMessageBox(
        QMessageBox::NoIcon, tr("Damaged job"),
        tr("This job is damaged. What can be read can be saved as a copy; the original is not touched."),
        QMessageBox::NoButton, this);
    box->setAttribute(Qt::WA_DeleteOnClose);
    box->setTextFormat(Qt::PlainText);
    box->setObjectName(QStringLiteral("recovery"));
    QPushButton* save = box->addButton(tr("Save a copy and open it"), QMessageBox::AcceptRole);
    box->addButton(tr("Leave it"), QMessageBox::RejectRole);
    connect(save, &QPushButton::clicked, this, [this, file] {
        std::filesystem::path copy = file;
        std::error_code error;
        for (int n = 1;; ++n) {
            copy.replace_filename(file.stem().string() + "-recovered" + (n > 1 ? std::to_string(n) : "") +
                                  ".metrodos");
            if (!std::filesystem::exists(copy, error)) break;
        }
        const auto report = job::recoverCopy(file, copy);
        if (!report) {
            say(QString::fromStdString(report.error().sentence()), true);
            return;
        }
        if (openJob(copy))
            say(tr("%1 things and %2 runs were recovered, %3 left out.")
                    .arg(report->items)
                    .arg(report->runs)
                    .arg(report->lost),
                false);
    });
    box->open();
}

void MainWindow::chooseJob() {
    auto* dialog = new QFileDialog(this, tr("Open a job"), QString(), tr("Jobs (*.metrodos *.json *.zip)"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QFileDialog::DontUseNativeDialog);
    dialog->setFileMode(QFileDialog::ExistingFile);
    connect(dialog, &QFileDialog::fileSelected, this,
            [this](const QString& file) { openJob(file.toStdString()); });
    dialog->open();
}

// The page that a job begins on; with a job open, Escape leads back to it.
void MainWindow::showStart(bool shown) {
    for (QWidget* part : std::initializer_list<QWidget*>{m_rail, m_strip, m_stages})
        part->setVisible(!shown);
    m_sheet->hide();
    m_start->setVisible(shown);
    if (shown) {
        m_start->begin();
        say(m_job.hasJob()
                ? tr("“%1” is kept. Escape leads back to it.").arg(QString::fromStdString(m_job.house().name))
                : tr("M measures, S surveys, D opens the demo; Ctrl+O opens a job."),
            false);
    } else {
        m_strip->setFocus();
    }
}

void MainWindow::newJob() {
    if (m_controller.isRunning() || m_pages->isRunning()) {
        say(tr("a run is in progress; stop it with Space before another job is begun."), true);
        return;
    }
    showStart(true);
}

bool MainWindow::beginJob(const house::House& house) {
    const std::filesystem::path file = freshJobFile(QString::fromStdString(house.name));
    const auto made = job::Store::create(file, {house, {}});
    if (!made) {
        say(QString::fromStdString(made.error().sentence()), true);
        return false;
    }
    return openJob(file);
}

void MainWindow::beginSurvey() {
    if (!beginJob(job::emptyHouse())) return;
    setStage(Stage::walk);
    setPage(Page::section);
    m_walk->focusEntry();
    say(tr("Type the first room, like “Hall”, and press Enter. ↓ shows what else fits."), false);
}

void MainWindow::beginMeasuring(const QString& address, job::Between between) {
    if (!beginJob(job::starterHouse(m_job.catalog(), between, address.toStdString()))) return;
    setStage(Stage::measure);
    setPage(Page::runs);
    if (const auto by = servesGuest(address.toStdString())) {
        m_pages->invite("far-end", *by);
        return;
    }
    std::map<house::Id, EndpointAccess> machines;
    for (const house::Endpoint& e : m_job.house().endpoints)
        if (const auto access = m_machines.to(e.id)) machines[e.id] = *access;
    m_reader.read(std::move(machines));
    say(tr("Reading what both machines are … Space starts a run."), false);
}

// A job that nobody named yet: its file is named with it.
bool MainWindow::isDraft() const {
    std::error_code error;
    return m_job.hasJob() && m_job.house().name == job::emptyHouse().name &&
           std::filesystem::equivalent(m_job.file().parent_path(), jobFolder(), error);
}

// One in which nothing was done leaves no file behind.
void MainWindow::dropDraft() {
    if (!isDraft() || !m_job.undoLabel().isEmpty() || !m_job.redoLabel().isEmpty() ||
        !m_job.runs()->empty() || !m_job.reports().empty())
        return;
    const std::filesystem::path file = m_job.file();
    m_job.closeJob();
    std::error_code error; // what cannot be removed stays, and does no harm
    std::filesystem::remove(file, error);
}

void MainWindow::nameHouse() {
    const QString name = m_name->text().simplified();
    if (!m_job.hasJob() || name.isEmpty() || name.toStdString() == m_job.house().name) {
        m_name->setText(QString::fromStdString(m_job.house().name));
        return;
    }
    const bool wasDraft = isDraft() && !m_controller.isRunning() && !m_pages->isRunning();
    house::House next = m_job.house();
    next.name = name.toStdString();
    m_job.apply(tr("name the house"), next);
    if (!wasDraft || m_job.house().name != next.name) return;
    const std::filesystem::path old = m_job.file();
    const std::filesystem::path file = freshJobFile(name);
    const Stage stage = m_rail->stage();
    const std::optional<house::Id> route =
        m_model.route() == nullptr ? std::nullopt : std::optional(m_model.route()->id);
    m_job.closeJob();
    std::error_code error;
    std::filesystem::rename(old, file, error);
    if (!openJob(error ? old : file)) return;
    setStage(stage);
    if (route) m_model.setRoute(*route);
    say(error ? tr("The house is named; its file keeps its name.")
              : tr("Kept as %1.").arg(QString::fromStdString(file.string())),
        false);
}

} // namespace metrodos::desktop
