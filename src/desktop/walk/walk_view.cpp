#include "desktop/walk/walk_view.h"

#include "desktop/walk/entry_field.h"
#include "desktop/walk/find_page.h"
#include "desktop/walk/pair_page.h"
#include "desktop/walk/practices_page.h"
#include "desktop/walk/routes_page.h"
#include "desktop/walk/things_page.h"
#include "desktop/walk/ways_page.h"
#include "desktop/widgets/tool_button.h"
#include "job/csv.h"
#include "job/document.h"
#include "job/entry_line.h"
#include "job/text_file.h"

#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QMenu>
#include <QTabWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {

WalkView::WalkView(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    layout->setSpacing(6);
    m_entry = new EntryField(model.job());
    auto* more = tool(QStringLiteral("more"), tr("More"),
                      tr("Duplicate a room, paste lines or a table, import a table, export the section"));
    auto* menu = new QMenu(more);
    more->setMenu(menu);
    more->setPopupMode(QToolButton::InstantPopup);
    menu->addAction(tr("&Duplicate a room…"), this, &WalkView::duplicateRoom);
    menu->addAction(tr("Paste &lines"), m_entry,
                    [this] { m_entry->enterLines(QApplication::clipboard()->text()); });
    menu->addAction(tr("&Paste a table"), this, &WalkView::pasteTable);
    menu->addAction(tr("&Import a table…"), this, &WalkView::importTable);
    menu->addAction(tr("&Export section or table…"), this, &WalkView::exportFile);
    auto* row = new QHBoxLayout;
    row->addWidget(m_entry, 1);
    row->addWidget(more);
    layout->addLayout(row);

    m_pages = new QTabWidget;
    m_pages->setObjectName(QStringLiteral("pages"));
    m_pages->setDocumentMode(true);
    m_ways = new WaysPage(model);
    auto* things = new ThingsPage(model.job());
    m_pages->addTab(m_ways, tr("&Section"));
    auto* routes = new RoutesPage(model);
    m_pages->addTab(things, tr("&Things"));
    m_pages->addTab(routes, tr("Ro&utes"));
    m_pages->addTab(new PairPage(model.job(), house::JackKind::coax), tr("&Coax pairs"));
    m_pages->addTab(new PairPage(model.job(), house::JackKind::mains), tr("&Mains pairs"));
    m_pages->addTab(new FindPage(model.job()), tr("Open &points"));
    m_pages->addTab(new PracticesPage(model.job()), tr("Pr&actices"));
    layout->addWidget(m_pages, 1);

    connect(m_entry, &EntryField::said, this, &WalkView::said);
    connect(m_ways, &WaysPage::said, this, &WalkView::said);
    connect(m_ways, &WaysPage::serviceAsked, routes,
            [routes](const QString& machine) { routes->toService(machine.toStdString()); });
    connect(routes, &RoutesPage::said, this, &WalkView::said);
    connect(things, &ThingsPage::said, this, &WalkView::said);
    connect(m_pages, &QTabWidget::currentChanged, this, [this](int page) {
        if (page != 0) m_model.clearWay();
    });
}

void WalkView::focusEntry() {
    m_entry->setFocus();
}

bool WalkView::closeWays() {
    return m_ways->isVisible() && m_ways->closeWays();
}

void WalkView::showWays(const QString& from, const QString& to) {
    m_ways->showWays(from, to);
}

void WalkView::hideEvent(QHideEvent*) {
    m_model.clearWay();
}

void WalkView::duplicateRoom() {
    auto* dialog = new QInputDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setObjectName(QStringLiteral("duplicate"));
    dialog->setLabelText(tr("Room to copy, and the copy's name, like “Study > Guest room”:"));
    const house::Room* first =
        m_model.job().house().rooms.empty() ? nullptr : &m_model.job().house().rooms.back();
    dialog->setTextValue(first == nullptr ? QString()
                                          : QString::fromStdString(first->label) + QStringLiteral(" > "));
    connect(dialog, &QInputDialog::textValueSelected, this, [this](const QString& text) {
        const std::string original = text.section(QLatin1Char('>'), 0, 0).trimmed().toStdString();
        const auto copied = job::duplicateRoom(m_model.job().house(), original,
                                               text.section(QLatin1Char('>'), 1).trimmed().toStdString());
        if (copied)
            m_model.job().apply(tr("duplicate %1").arg(QString::fromStdString(original)), copied->house);
        else
            Q_EMIT said(QString::fromStdString(copied.error().sentence()), true);
    });
    dialog->open();
}

void WalkView::addTable(const std::string& csv, const QString& from) {
    const auto next = job::withCsv(m_model.job().house(), csv);
    if (!next) {
        Q_EMIT said(QString::fromStdString(next.error().sentence()), true);
        return;
    }
    m_model.job().apply(tr("add a table"), *next);
    Q_EMIT said(tr("The table from %1 was added.").arg(from), false);
}

void WalkView::pasteTable() {
    addTable(QApplication::clipboard()->text().toStdString(), tr("the clipboard"));
}

void WalkView::importTable() {
    auto* dialog = new QFileDialog(this, tr("Import a table"), QString(), tr("Tables (*.csv)"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QFileDialog::DontUseNativeDialog);
    dialog->setFileMode(QFileDialog::ExistingFile);
    connect(dialog, &QFileDialog::fileSelected, this, [this](const QString& name) {
        const auto text = job::readTextFile(name.toStdString(), job::maxCsvBytes);
        if (text)
            addTable(text->text, name + (text->note.empty() ? QString()
                                                            : QStringLiteral(" (%1)").arg(
                                                                  QString::fromStdString(text->note))));
        else
            Q_EMIT said(QString::fromStdString(text.error().sentence()), true);
    });
    dialog->open();
}

void WalkView::exportFile() {
    auto* dialog = new QFileDialog(this, tr("Export"), QStringLiteral("section.svg"),
                                   tr("Section (*.svg *.png);;Table (*.csv)"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QFileDialog::DontUseNativeDialog);
    dialog->setAcceptMode(QFileDialog::AcceptSave);
    connect(dialog, &QFileDialog::fileSelected, this, [this](const QString& name) {
        const bool table = name.endsWith(QStringLiteral(".csv"), Qt::CaseInsensitive);
        const bool done =
            table ? job::writeText(name.toStdString(), job::toCsv(m_model.job().house())).has_value()
                  : m_ways->saveSection(name);
        Q_EMIT said(done ? tr("%1 was written.").arg(name)
                         : tr("%1 cannot be written; choose a name that ends in .svg, .png or .csv in a "
                              "folder of yours.")
                               .arg(name),
                    !done);
    });
    dialog->open();
}

} // namespace metrodos::desktop
