#include "desktop/log/library_page.h"

#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QDir>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QLocale>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

constexpr int mostJobs = 2000;

QString dayText(const std::string& day) {
    const QDate date = QDate::fromString(QString::fromStdString(day), Qt::ISODate);
    return date.isValid() ? QLocale().toString(date, QLocale::ShortFormat) : QStringLiteral("–");
}

} // namespace

LibraryPage::LibraryPage(LibraryModel& library, QWidget* parent)
    : QWidget(parent)
    , m_library(library)
    , m_words(new QLineEdit)
    , m_folder(plainLabel())
    , m_list(
          plainTable(QStringLiteral("library-list"), tr("Jobs"),
                     {tr("Client"), tr("Last runs"), tr("Runs"), tr("What limits"), tr("Open"), tr("Places")},
                     {140, 92, 56, 250, 140}))
    , m_detail(plainLabel()) {
    setObjectName(QStringLiteral("library"));
    alignFigures(m_list, {2});
    m_words->setObjectName(QStringLiteral("library-words"));
    m_words->setAccessibleName(tr("Search all jobs"));
    m_words->setPlaceholderText(tr("Search labels, places, classes, findings and notes (/)"));
    m_words->setMaxLength(500);
    m_words->setClearButtonEnabled(true);
    m_folder->setObjectName(QStringLiteral("quiet"));
    m_detail->setObjectName(QStringLiteral("library-detail"));
    m_detail->setWordWrap(true);
    m_detail->setMinimumHeight(54);
    auto* open = keyButton(this, QStringLiteral("library-open"), tr("Open  (Enter)"),
                           tr("The chosen job; the one that is open is kept"), QKeySequence(), [this] {
                               const int row = m_list->currentRow();
                               if (row >= 0)
                                   Q_EMIT jobAsked(m_list->item(row, 0)->data(Qt::UserRole).toString());
                           });
    auto* top = new QHBoxLayout;
    top->addWidget(m_words, 1);
    top->addWidget(open);
    top->addWidget(keyButton(this, QStringLiteral("library-folder"), tr("Folder…  (F)"),
                             tr("Where the jobs are, with its subfolders"), Qt::Key_F,
                             [this] { askFolder(); }));
    top->addWidget(keyButton(this, QStringLiteral("library-read"), tr("Read again  (R)"),
                             tr("Makes the index anew from the files"), Qt::Key_R,
                             [this] { m_library.refresh(true); }));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->addLayout(top);
    layout->addWidget(m_folder);
    layout->addWidget(m_list, 1);
    layout->addWidget(m_detail);
    auto* slash = new QShortcut(Qt::Key_Slash, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
    connect(slash, &QShortcut::activated, m_words, [this] {
        m_words->setFocus();
        m_words->selectAll();
    });
    connect(m_words, &QLineEdit::textChanged, &m_library, &LibraryModel::search);
    connect(m_words, &QLineEdit::returnPressed, m_list, [this] { m_list->setFocus(); });
    connect(m_list, &QTableWidget::itemActivated, open, &QPushButton::click);
    connect(m_list, &QTableWidget::currentCellChanged, this, [this](int row) {
        m_detail->setText(row < 0 ? QString() : m_list->item(row, 0)->data(Qt::UserRole + 1).toString());
    });
    connect(&m_library, &LibraryModel::changed, this, &LibraryPage::fill);
    connect(&m_library, &LibraryModel::problem, this,
            [this](const QString& text) { Q_EMIT said(text, true); });
    fill();
}

void LibraryPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (!m_isRead) m_library.refresh();
    m_isRead = true;
}

void LibraryPage::askFolder() {
    auto* dialog = new QFileDialog(this, tr("The folder with the jobs"),
                                   QString::fromStdString(m_library.folder().string()));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QFileDialog::DontUseNativeDialog);
    dialog->setFileMode(QFileDialog::Directory);
    connect(dialog, &QFileDialog::fileSelected, this,
            [this](const QString& folder) { m_library.setFolder(folder.toStdString()); });
    dialog->open();
}

void LibraryPage::fill() {
    const auto& entries = m_library.contents().entries;
    QString folder = QString::fromStdString(m_library.folder().string());
    if (folder.startsWith(QDir::homePath() + QLatin1Char('/')))
        folder = QLatin1Char('~') + folder.mid(QDir::homePath().size());
    m_folder->setText(m_library.progress().isEmpty() ? folder
                                                     : folder + QStringLiteral(" – ") + m_library.progress());
    const QSignalBlocker quiet(m_list);
    m_list->setRowCount(std::min<int>(static_cast<int>(entries.size()), mostJobs));
    for (int row = 0; row < m_list->rowCount(); ++row) {
        const job::LibraryEntry& e = entries[static_cast<std::size_t>(row)];
        const job::Digest& d = e.digest;
        const QString file = QString::fromStdString(e.file.filename().string());
        auto* label = plainCell(d.label.empty() ? file : QString::fromStdString(d.label));
        label->setData(Qt::UserRole, QString::fromStdString(e.file.string()));
        QStringList detail{file};
        if (!e.problem.empty()) detail << tr("cannot be read: %1").arg(QString::fromStdString(e.problem));
        if (!e.snippet.empty()) detail << QString::fromStdString(e.snippet);
        if (e.snippet.empty() && !d.places.empty()) detail << QString::fromStdString(d.places);
        label->setData(Qt::UserRole + 1, detail.join(QStringLiteral(" · ")));
        m_list->setItem(row, 0, label);
        m_list->setItem(row, 1, plainCell(dayText(d.lastDay)));
        auto* runs = plainCell(QLocale().toString(d.runs));
        runs->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        m_list->setItem(row, 2, runs);
        m_list->setItem(row, 3,
                        plainCell(!e.problem.empty() ? tr("cannot be read")
                                  : d.limit.empty()  ? tr("nothing measured")
                                                     : QString::fromStdString(d.limit)));
        m_list->setItem(row, 4,
                        plainCell(d.open.empty() ? QStringLiteral("–") : QString::fromStdString(d.open)));
        m_list->setItem(row, 5, plainCell(QString::fromStdString(d.places)));
    }
    if (m_list->rowCount() > 0) m_list->setCurrentCell(0, 0);
    m_detail->setText(m_list->rowCount() == 0 ? QString()
                                              : m_list->item(0, 0)->data(Qt::UserRole + 1).toString());
}

QString LibraryPage::sentence() const {
    if (!m_library.progress().isEmpty()) return tr("Reading the library: %1 …").arg(m_library.progress());
    const auto n = static_cast<int>(m_library.contents().entries.size());
    if (n == 0 && !m_words->text().isEmpty()) return tr("No job has all of these words.");
    if (n == 0) return tr("There are no jobs in this folder; F chooses another one.");
    return tr("%1; Enter opens the chosen one.").arg(counted(n, tr("%1 job"), tr("%1 jobs")));
}

} // namespace metrodos::desktop
