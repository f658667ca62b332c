#include "desktop/walk_view.h"

#include "desktop/find_page.h"
#include "desktop/pair_page.h"
#include "desktop/range_list.h"
#include "desktop/section_view.h"
#include "desktop/survey_table.h"
#include "desktop/theme.h"
#include "house/remove.h"
#include "job/csv.h"
#include "job/document.h"
#include "job/entry_line.h"

#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QCompleter>
#include <QFile>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QSignalBlocker>
#include <QStringListModel>
#include <QStyledItemDelegate>
#include <QTabWidget>
#include <QTableView>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

using house::Medium;

// A list to choose from where the column has one, a text field elsewhere.
class CellEditor : public QStyledItemDelegate {
  public:
    CellEditor(const SurveyTable& table, QObject* parent)
        : QStyledItemDelegate(parent)
        , m_table(table) {}

    QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem& option,
                          const QModelIndex& index) const override {
        const QStringList choices = m_table.choices(index.column());
        if (choices.isEmpty()) return QStyledItemDelegate::createEditor(parent, option, index);
        auto* box = new QComboBox(parent);
        for (const QString& choice : choices)
            box->addItem(choice.isEmpty() ? QStringLiteral("–") : choice, choice);
        return box;
    }
    void setEditorData(QWidget* editor, const QModelIndex& index) const override {
        if (auto* box = qobject_cast<QComboBox*>(editor))
            box->setCurrentIndex(std::max(0, box->findData(index.data(Qt::EditRole))));
        else
            QStyledItemDelegate::setEditorData(editor, index);
    }
    void setModelData(QWidget* editor, QAbstractItemModel* model, const QModelIndex& index) const override {
        if (auto* box = qobject_cast<QComboBox*>(editor))
            model->setData(index, box->currentData(), Qt::EditRole);
        else
            QStyledItemDelegate::setModelData(editor, model, index);
    }

  private:
    const SurveyTable& m_table;
};

QToolButton* tool(const QString& name, const QString& text, const QString& tip) {
    auto* b = new QToolButton;
    b->setObjectName(name);
    b->setText(text);
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    return b;
}

} // namespace

WalkView::WalkView(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_offers(new QStringListModel(this)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    layout->setSpacing(6);
    m_entry = new QLineEdit;
    m_entry->setObjectName(QStringLiteral("entry"));
    m_entry->setAccessibleName(tr("Fast entry"));
    m_entry->setPlaceholderText(tr("Loft / coax / from loft splitter / RG-6 / 23 m    Enter adds it"));
    m_entry->setFont(textFont(12));
    m_entry->setClearButtonEnabled(true);
    m_entry->installEventFilter(this);
    auto* completer = new QCompleter(m_offers, this);
    completer->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    completer->setWidget(m_entry);
    connect(completer, QOverload<const QString&>::of(&QCompleter::activated), this,
            [this](const QString& field) {
                const QString text = m_entry->text();
                const auto slash = text.lastIndexOf(QLatin1Char('/'));
                m_entry->setText(slash < 0 ? field : text.left(slash + 1) + QLatin1Char(' ') + field);
            });
    auto* more = tool(QStringLiteral("more"), tr("More"),
                      tr("Duplicate a room, paste or import a table, export the section"));
    auto* menu = new QMenu(more);
    more->setMenu(menu);
    more->setPopupMode(QToolButton::InstantPopup);
    menu->addAction(tr("&Duplicate a room…"), this, &WalkView::duplicateRoom);
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
    m_pages->addTab(buildSection(), tr("&Section"));
    m_pages->addTab(buildThings(), tr("&Things"));
    m_pages->addTab(new PairPage(model, house::JackKind::coax), tr("&Coax pairs"));
    m_pages->addTab(new PairPage(model, house::JackKind::mains), tr("&Mains pairs"));
    m_pages->addTab(new FindPage(model), tr("To &find"));
    layout->addWidget(m_pages, 1);

    connect(m_entry, &QLineEdit::returnPressed, this, &WalkView::enter);
    connect(m_entry, &QLineEdit::textEdited, this, &WalkView::offerCompletions);
    connect(m_pages, &QTabWidget::currentChanged, this, [this](int page) {
        if (page != 0) m_model.clearWay();
    });
    connect(&m_model, &JobModel::changed, this, &WalkView::fillPlaces);
    fillPlaces();
}

QWidget* WalkView::buildSection() {
    m_section = new SectionView(m_model);
    auto* page = new QWidget;
    auto* media = new QHBoxLayout;
    for (const auto& [medium, text] :
         {std::pair(Medium::data_cable, tr("data")), std::pair(Medium::coax, tr("coax")),
          std::pair(Medium::mains, tr("mains")), std::pair(Medium::phone, tr("phone")),
          std::pair(Medium::air, tr("radio"))}) {
        auto* box = new QCheckBox(text);
        box->setChecked(true);
        box->setObjectName(QStringLiteral("show-") + text);
        media->addWidget(box);
        connect(box, &QCheckBox::toggled, this,
                [this, medium = medium](bool on) { m_section->setMedium(medium, on); });
    }
    media->addStretch();
    m_from = new QComboBox;
    m_from->setObjectName(QStringLiteral("place-from"));
    m_to = new QComboBox;
    m_to->setObjectName(QStringLiteral("place-to"));
    for (QComboBox* box : {m_from, m_to}) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(14);
        connect(box, &QComboBox::activated, this, &WalkView::findWays);
    }
    m_ways = new RangeList;
    m_ways->setObjectName(QStringLiteral("ways"));
    m_ways->setEmptyText(tr("Click two places in the section, or choose them above: the ways between them "
                            "come here, best first."));
    auto* from = new QLabel(tr("F&rom"));
    from->setBuddy(m_from);
    auto* to = new QLabel(tr("t&o"));
    to->setBuddy(m_to);
    auto* places = new QHBoxLayout;
    places->addWidget(from);
    places->addWidget(m_from, 1);
    places->addWidget(to);
    places->addWidget(m_to, 1);
    auto* side = new QVBoxLayout;
    side->addLayout(places);
    side->addWidget(m_ways, 1);
    m_keep = tool(QStringLiteral("keep-route"), tr("Make it a route to measure"),
                  tr("Adds the chosen way, as it is installed, to the job's routes"));
    m_keep->setEnabled(false);
    side->addWidget(m_keep);
    connect(m_keep, &QToolButton::clicked, this, &WalkView::keepRoute);
    auto* left = new QVBoxLayout;
    left->addLayout(media);
    left->addWidget(m_section, 1);
    auto* row = new QHBoxLayout(page);
    row->setContentsMargins(0, 6, 0, 0);
    row->addLayout(left, 3);
    row->addLayout(side, 2);
    connect(m_section, &SectionView::placeChosen, this, &WalkView::choosePlace);
    connect(m_ways, &RangeList::chosen, this, &WalkView::showWay);
    return page;
}

QWidget* WalkView::buildThings() {
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(0, 6, 0, 0);
    auto* kind = new QComboBox;
    kind->setObjectName(QStringLiteral("kind"));
    for (const QString& text :
         {tr("Rooms"), tr("Jacks"), tr("Runs"), tr("Coax parts"), tr("Panels"), tr("Circuits"),
          tr("Appliances"), tr("Devices"), tr("Ports"), tr("Needs"), tr("Service"), tr("Coax tree carries")})
        kind->addItem(text);
    auto* remove = tool(QStringLiteral("remove-thing"), tr("Remove"), tr("Remove the chosen thing (Delete)"));
    auto* head = new QHBoxLayout;
    head->addWidget(kind);
    head->addWidget(remove);
    head->addStretch();
    layout->addLayout(head);
    m_table = new SurveyTable(m_model, this);
    m_tableView = new QTableView;
    m_tableView->setObjectName(QStringLiteral("things"));
    m_tableView->setModel(m_table);
    m_tableView->setItemDelegate(new CellEditor(*m_table, this));
    m_tableView->verticalHeader()->hide();
    m_tableView->verticalHeader()->setDefaultSectionSize(26);
    m_tableView->horizontalHeader()->setStretchLastSection(true);
    m_tableView->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft);
    m_tableView->setShowGrid(false);
    m_tableView->setTabKeyNavigation(true);
    m_tableView->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                                 QAbstractItemView::AnyKeyPressed);
    layout->addWidget(m_tableView, 1);
    auto* del = new QAction(tr("Remove"), m_tableView);
    del->setShortcut(QKeySequence::Delete);
    del->setShortcutContext(Qt::WidgetShortcut);
    m_tableView->addAction(del);
    connect(del, &QAction::triggered, this, &WalkView::removeThing);
    connect(remove, &QToolButton::clicked, this, &WalkView::removeThing);
    const auto widths = [this] {
        m_tableView->resizeColumnsToContents();
        for (int c = 0; c + 1 < m_table->columnCount(); ++c)
            m_tableView->setColumnWidth(c, std::clamp(m_tableView->columnWidth(c) + 10, 70, 220));
    };
    connect(kind, &QComboBox::currentIndexChanged, this, [this, widths](int index) {
        m_table->setKind(static_cast<SurveyKind>(index));
        widths();
    });
    // The cell that was changed stays the current one.
    connect(m_table, &QAbstractItemModel::modelAboutToBeReset, this, [this] {
        const QModelIndex now = m_tableView->currentIndex();
        QMetaObject::invokeMethod(
            this,
            [this, row = now.row(), column = now.column()] {
                m_tableView->setCurrentIndex(m_table->index(row, column));
            },
            Qt::QueuedConnection);
    });
    QMetaObject::invokeMethod(this, widths, Qt::QueuedConnection);
    return page;
}

void WalkView::focusEntry() {
    m_entry->setFocus();
}

void WalkView::setPage(const QString& name) {
    const QStringList names{QStringLiteral("section"), QStringLiteral("things"), QStringLiteral("coax"),
                            QStringLiteral("mains"), QStringLiteral("find")};
    m_pages->setCurrentIndex(std::max<int>(0, static_cast<int>(names.indexOf(name))));
}

void WalkView::restyle() {
    update();
    Q_EMIT m_model.changed();
}

void WalkView::hideEvent(QHideEvent*) {
    m_model.clearWay();
}

void WalkView::enter() {
    const auto entered = job::enterLine(m_model.house(), m_model.catalog(), m_entry->text().toStdString());
    if (!entered) {
        Q_EMIT said(QString::fromStdString(entered.error().sentence()), true);
        return;
    }
    const QString label = QString::fromStdString(entered->label);
    m_model.apply(tr("enter %1").arg(label), entered->house);
    // The room stays, for the next thing in it.
    const QString room = m_entry->text().section(QLatin1Char('/'), 0, 0).trimmed();
    const bool inRoom =
        std::any_of(m_model.house().rooms.begin(), m_model.house().rooms.end(), [&](const house::Room& r) {
            return room.compare(QString::fromStdString(r.label), Qt::CaseInsensitive) == 0;
        });
    m_entry->setText(inRoom ? room + QStringLiteral(" / ") : QString());
    Q_EMIT said(tr("Entered: %1.").arg(label), false);
}

void WalkView::offerCompletions() {
    QStringList offers;
    for (const std::string& offer :
         job::completions(m_model.house(), m_model.catalog(), m_entry->text().toStdString()))
        offers << QString::fromStdString(offer);
    m_offers->setStringList(offers);
    auto* completer = findChild<QCompleter*>();
    if (offers.isEmpty())
        completer->popup()->hide();
    else
        completer->complete();
}

bool WalkView::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_entry && event->type() == QEvent::KeyPress) {
        const auto* key = dynamic_cast<QKeyEvent*>(event);
        // Tab takes the first offer; down opens the list.
        if (key != nullptr && key->key() == Qt::Key_Tab && !m_entry->text().isEmpty()) {
            const auto offers =
                job::completions(m_model.house(), m_model.catalog(), m_entry->text().toStdString());
            const QString text = m_entry->text();
            const auto slash = text.lastIndexOf(QLatin1Char('/'));
            if (!offers.empty() && !text.mid(slash + 1).trimmed().isEmpty()) {
                m_entry->setText((slash < 0 ? QString() : text.left(slash + 1) + QLatin1Char(' ')) +
                                 QString::fromStdString(offers.front()) + QStringLiteral(" / "));
                findChild<QCompleter*>()->popup()->hide();
                return true;
            }
        }
        if (key != nullptr && key->key() == Qt::Key_Down) {
            offerCompletions();
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

void WalkView::duplicateRoom() {
    auto* dialog = new QInputDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setObjectName(QStringLiteral("duplicate"));
    dialog->setLabelText(tr("Room to copy, and the copy's name, like “Study > Guest room”:"));
    const house::Room* first = m_model.house().rooms.empty() ? nullptr : &m_model.house().rooms.back();
    dialog->setTextValue(first == nullptr ? QString()
                                          : QString::fromStdString(first->label) + QStringLiteral(" > "));
    connect(dialog, &QInputDialog::textValueSelected, this, [this](const QString& text) {
        const std::string original = text.section(QLatin1Char('>'), 0, 0).trimmed().toStdString();
        house::Id room;
        for (const house::Room& r : m_model.house().rooms)
            if (r.label == original) room = r.id;
        const auto copied = job::duplicateRoom(m_model.house(), room,
                                               text.section(QLatin1Char('>'), 1).trimmed().toStdString());
        if (copied)
            m_model.apply(tr("duplicate %1").arg(QString::fromStdString(original)), copied->house);
        else
            Q_EMIT said(QString::fromStdString(copied.error().sentence()), true);
    });
    dialog->open();
}

void WalkView::addTable(const std::string& csv, const QString& from) {
    const auto next = job::withCsv(m_model.house(), csv);
    if (!next) {
        Q_EMIT said(QString::fromStdString(next.error().sentence()), true);
        return;
    }
    m_model.apply(tr("add a table"), *next);
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
        QFile file(name);
        if (!file.open(QIODevice::ReadOnly))
            Q_EMIT said(tr("%1 cannot be read; check its rights.").arg(name), true);
        else
            addTable(file.readAll().toStdString(), name);
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
        const bool done = table ? job::writeText(name.toStdString(), job::toCsv(m_model.house())).has_value()
                                : m_section->save(name);
        Q_EMIT said(done ? tr("%1 was written.").arg(name)
                         : tr("%1 cannot be written; choose a name that ends in .svg, .png or .csv in a "
                              "folder of yours.")
                               .arg(name),
                    !done);
    });
    dialog->open();
}

void WalkView::fillPlaces() {
    const house::House& house = m_model.house();
    for (QComboBox* box : {m_from, m_to}) {
        const QSignalBlocker quiet(box);
        const QString now = box->currentData().toString();
        box->clear();
        box->addItem(tr("choose a place"), QString());
        for (const house::Room& r : house.rooms)
            box->addItem(QString::fromStdString(r.label), QString::fromStdString(r.id));
        for (const house::Jack& j : house.jacks)
            box->addItem(QString::fromStdString(j.label), QString::fromStdString(j.id));
        for (const house::Device& d : house.devices)
            if (d.kind == house::DeviceKind::host)
                box->addItem(QString::fromStdString(d.label), QString::fromStdString(d.id));
        box->setCurrentIndex(std::max(0, box->findData(now)));
    }
    if (isVisible() && !m_found.empty()) findWays();
}

void WalkView::choosePlace(const QString& id) {
    QComboBox* box = m_nextIsSecond ? m_to : m_from;
    const int index = box->findData(id);
    if (index < 0) return;
    box->setCurrentIndex(index);
    if (!m_nextIsSecond) m_to->setCurrentIndex(0);
    m_nextIsSecond = !m_nextIsSecond;
    findWays();
}

void WalkView::showWays(const QString& from, const QString& to) {
    m_from->setCurrentIndex(std::max(0, m_from->findData(from)));
    m_to->setCurrentIndex(std::max(0, m_to->findData(to)));
    findWays();
}

void WalkView::findWays() {
    const house::Id from = m_from->currentData().toString().toStdString();
    const house::Id to = m_to->currentData().toString().toStdString();
    m_section->setPlaces(from, to);
    m_found.clear();
    m_keep->setEnabled(false);
    std::vector<RangeRow> rows;
    if (!from.empty() && !to.empty()) {
        auto ways = capacity::waysBetween(m_model.house(), m_model.catalog(), from, to);
        if (!ways) {
            Q_EMIT said(QString::fromStdString(ways.error().sentence()), true);
        } else {
            m_found = std::move(*ways);
            for (const capacity::Way& way : m_found) {
                RangeRow row;
                row.title = QString::fromStdString(way.label);
                row.title[0] = row.title[0].toUpper();
                if (way.prediction.forward.p50 > quantity::BitRate::bitsPerSecond(1000)) {
                    row.forward = way.prediction.forward;
                    row.backward = way.prediction.backward;
                } else {
                    row.instead = tr("does not link");
                }
                rows.push_back(std::move(row));
            }
        }
    }
    m_ways->setRows(std::move(rows));
    if (m_found.empty())
        m_model.clearWay();
    else
        showWay(0);
}

void WalkView::showWay(int row) {
    const bool there = row >= 0 && row < static_cast<int>(m_found.size());
    m_keep->setEnabled(there && m_found[static_cast<std::size_t>(row)].kind == capacity::WayKind::existing);
    if (there) m_model.showWay(m_found[static_cast<std::size_t>(row)]);
}

// The machines at the ends of an installed way become endpoints, the way a route between them.
void WalkView::keepRoute() {
    const int row = m_ways->current();
    if (row < 0 || row >= static_cast<int>(m_found.size())) return;
    const capacity::Way& way = m_found[static_cast<std::size_t>(row)];
    if (way.kind != capacity::WayKind::existing) return;
    house::House next = m_model.house();
    house::Route route = way.prediction.route;
    for (house::Id* end : {&route.from, &route.to}) {
        const house::Id device = way.house.deviceAt(*end);
        const auto known = std::find_if(next.endpoints.begin(), next.endpoints.end(),
                                        [&](const house::Endpoint& e) { return e.device == device; });
        if (known != next.endpoints.end()) {
            *end = known->id;
            continue;
        }
        *end = next.freeId(device + "-end");
        next.endpoints.push_back({*end, next.device(device)->label, device, ""});
    }
    for (const house::Route& r : next.routes)
        if ((r.from == route.from && r.to == route.to) || (r.from == route.to && r.to == route.from)) {
            Q_EMIT said(tr("“%1” is a route of the job already.").arg(QString::fromStdString(r.label)),
                        false);
            m_model.setRoute(r.id);
            return;
        }
    route.id = next.freeId("route");
    next.routes.push_back(route);
    m_model.apply(tr("add route %1").arg(QString::fromStdString(route.label)), next);
    m_model.setRoute(route.id);
    Q_EMIT said(tr("“%1” is a route now; Measure runs over it.").arg(QString::fromStdString(route.label)),
                false);
}

void WalkView::removeThing() {
    const house::Id id = m_table->idOf(m_tableView->currentIndex().row());
    if (id.empty()) {
        Q_EMIT said(tr("Choose a thing in the table first; a port goes with its device."), true);
        return;
    }
    m_model.apply(tr("remove %1").arg(m_table->index(m_tableView->currentIndex().row(), 0).data().toString()),
                  house::without(m_model.house(), id));
}

} // namespace metrodos::desktop
