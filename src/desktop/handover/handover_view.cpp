#include "desktop/handover/handover_view.h"

#include "desktop/handover/firm_logo.h"
#include "desktop/handover/page_view.h"
#include "desktop/widgets/ask_file.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/paper.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "weigh/compare.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QImage>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPrintDialog>
#include <QPrinter>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QTextBrowser>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int listWidth = 330;
constexpr int printDpi = 300;

// A document from a job may name pictures anywhere, one that never ends among them: nothing is loaded.
class DocumentText : public QTextBrowser {
  public:
    // Something, for otherwise Qt looks for a file by itself.
    QVariant loadResource(int, const QUrl&) override {
        static const QImage nothing = [] {
            QImage image(1, 1, QImage::Format_ARGB32);
            image.fill(Qt::transparent);
            return image;
        }();
        return nothing;
    }
};

const house::ChapterChoice* choiceOf(const house::House& house, const house::Id& chapter) {
    const auto it = std::find_if(house.chapters.begin(), house.chapters.end(),
                                 [&](const house::ChapterChoice& c) { return c.id == chapter; });
    return it == house.chapters.end() ? nullptr : &*it;
}

bool isDocument(const QString& file) {
    return file.endsWith(QLatin1String(".pdf")) || file.endsWith(QLatin1String(".html")) ||
           file.endsWith(QLatin1String(".md"));
}

QString textOf(const job::PrivacyLine& line) {
    const QString what = QString::fromStdString(line.what);
    return line.how.empty()
               ? what
               : what + QStringLiteral(" (") + QString::fromStdString(line.how) + QLatin1Char(')');
}

} // namespace

HandoverView::HandoverView(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_reader(new QComboBox)
    , m_paper(new QComboBox)
    , m_firm(new QLineEdit)
    , m_colour(new QLineEdit)
    , m_private(new QCheckBox(tr("Without names  (P)")))
    , m_chapters(new QListWidget)
    , m_note(new QLineEdit)
    , m_keptList(new QComboBox)
    , m_privacy(plainLabel())
    , m_preview(new QStackedWidget)
    , m_pages(new PageView)
    , m_text(new DocumentText)
    , m_worker(
          [known = std::make_shared<KnownWork>()](const DocumentQuestion& question) {
              return makeDocument(question, *known);
          },
          [this](std::uint64_t number, Answer answer) {
              QMetaObject::invokeMethod(
                  this,
                  [this, number, answer = std::move(answer)]() mutable { take(number, std::move(answer)); },
                  Qt::QueuedConnection);
          })
    , m_writer(
          [](const Order& order) {
              return Outcome{order.file, writeFile(order.question, order.file.toStdString())};
          },
          [this](std::uint64_t number, Outcome outcome) {
              QMetaObject::invokeMethod(
                  this, [this, number, outcome = std::move(outcome)] { takeWritten(number, outcome); },
                  Qt::QueuedConnection);
          }) {
    setObjectName(QStringLiteral("handover"));
    auto* right = new QVBoxLayout;
    m_privacy->setObjectName(QStringLiteral("handover-privacy"));
    m_privacy->setWordWrap(true);
    m_privacy->hide();
    m_pages->setObjectName(QStringLiteral("handover-pages"));
    m_pages->setAccessibleName(tr("The document, page by page"));
    m_text->setObjectName(QStringLiteral("handover-text"));
    m_text->setAccessibleName(tr("A document that was handed over"));
    m_text->setOpenLinks(false);
    m_text->setFont(textFont(11));
    m_preview->addWidget(m_pages);
    m_preview->addWidget(m_text);
    right->addWidget(m_privacy);
    right->addWidget(m_preview, 1);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->setSpacing(12);
    layout->addWidget(makePanel());
    layout->addLayout(right, 1);
    const auto key = [this](const QKeySequence& k, const std::function<void()>& does) {
        auto* shortcut = new QShortcut(k, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
        connect(shortcut, &QShortcut::activated, this, does);
    };
    key(Qt::Key_E, [this] { m_note->setFocus(); });
    key(Qt::Key_P, [this] { m_private->toggle(); });
    key(Qt::Key_R, [this] { m_reader->setCurrentIndex((m_reader->currentIndex() + 1) % m_reader->count()); });
    m_chapters->installEventFilter(this);
    connect(m_reader, &QComboBox::currentIndexChanged, this, [this] {
        forget();
        ask();
    });
    connect(m_paper, &QComboBox::currentIndexChanged, this, &HandoverView::ask);
    connect(m_private, &QCheckBox::toggled, this, &HandoverView::ask);
    connect(m_firm, &QLineEdit::editingFinished, this, [this] {
        QSettings().setValue(QStringLiteral("firm"), m_firm->text().simplified());
        ask();
    });
    connect(m_colour, &QLineEdit::editingFinished, this, [this] {
        if (!report::isColour(m_colour->text().toStdString()))
            Q_EMIT said(tr("a colour is written like #1d6a85, with six hexadecimal digits."), true);
        else
            QSettings().setValue(QStringLiteral("firm-colour"), m_colour->text());
        showFirm();
        ask();
    });
    connect(m_chapters, &QListWidget::currentRowChanged, this, [this] {
        showNote();
        if (const auto* item = m_chapters->currentItem())
            m_pages->showEntry(item->data(Qt::UserRole + 1).toString());
    });
    connect(m_chapters, &QListWidget::itemChanged, this, [this] { keepChapters(); });
    connect(m_note, &QLineEdit::returnPressed, this, [this] {
        keepChapters();
        m_chapters->setFocus();
    });
    connect(m_keptList, &QComboBox::currentIndexChanged, this, &HandoverView::showPreview);
    connect(&m_job, &JobModel::opened, this, &HandoverView::forget);
    const auto again = [this] {
        if (m_isKeeping) return; // it says nothing else for that
        m_isStale = true;
        if (isVisible()) ask();
    };
    connect(&m_job, &JobModel::changed, this, again);
    connect(&m_job, &JobModel::catalogChanged, this, again);
    connect(&m_job, &JobModel::priceBookChanged, this, again);
}

QWidget* HandoverView::makePanel() {
    m_reader->setObjectName(QStringLiteral("handover-reader"));
    m_reader->setAccessibleName(tr("Whom the document is for"));
    m_reader->addItems({tr("Record for the client"), tr("For the next technician"), tr("Offer")});
    m_reader->setToolTip(plainTip(tr("R: the next of them")));
    m_paper->setObjectName(QStringLiteral("handover-paper"));
    m_paper->setAccessibleName(tr("Paper"));
    m_paper->addItems({tr("A4"), tr("Letter")});
    m_paper->setCurrentIndex(isLetterUsual() ? 1 : 0);
    m_firm->setObjectName(QStringLiteral("handover-firm"));
    m_firm->setAccessibleName(tr("Name of the firm"));
    m_firm->setPlaceholderText(tr("Name of the firm"));
    m_firm->setMaxLength(200);
    m_colour->setObjectName(QStringLiteral("handover-colour"));
    m_colour->setAccessibleName(tr("Colour of the headings"));
    m_colour->setMaxLength(7);
    m_private->setObjectName(QStringLiteral("handover-private"));
    m_chapters->setObjectName(QStringLiteral("handover-chapters"));
    m_chapters->setAccessibleName(tr("Chapters; Space leaves one out, Alt and the arrows move it"));
    m_note->setObjectName(QStringLiteral("handover-note"));
    m_note->setAccessibleName(tr("Note to the chosen chapter"));
    m_note->setPlaceholderText(tr("Note to this chapter (E); Enter keeps it"));
    m_note->setMaxLength(500);
    m_keptList->setObjectName(QStringLiteral("handover-kept"));
    m_keptList->setAccessibleName(tr("As it is now, or as it was handed over"));
    m_keptList->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_logoButton =
        keyButton(this, QStringLiteral("handover-logo"), tr("Logo…  (L)"),
                  tr("A picture for the head of every document"), Qt::Key_L, [this] { askForLogo(); });
    auto* left = new QVBoxLayout;
    left->setContentsMargins(0, 0, 0, 0);
    auto* whom = new QHBoxLayout;
    whom->addWidget(m_reader, 1);
    whom->addWidget(m_paper);
    left->addLayout(whom);
    left->addWidget(m_firm);
    auto* look = new QHBoxLayout;
    look->addWidget(labelFor(m_colour, tr("Headin&gs")));
    look->addWidget(m_colour, 1);
    look->addWidget(m_logoButton, 1);
    left->addLayout(look);
    left->addWidget(m_chapters, 1);
    left->addWidget(m_note);
    left->addWidget(m_private);
    left->addWidget(m_keptList);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(keyButton(this, QStringLiteral("handover-save"), tr("Save…  (X)"),
                                 tr("As PDF, as a page for a browser, as text; or everything as one package"),
                                 Qt::Key_X, [this] { askForFile(); }));
    buttons->addWidget(keyButton(this, QStringLiteral("handover-print"), tr("Print…  (Ctrl+P)"),
                                 tr("The pages as they are shown"), Qt::CTRL | Qt::Key_P,
                                 [this] { print(); }));
    left->addLayout(buttons);
    auto* panel = new QWidget;
    panel->setLayout(left);
    panel->setFixedWidth(listWidth);
    m_logo = keptLogo();
    m_firm->setText(QSettings().value(QStringLiteral("firm")).toString());
    showFirm();
    return panel;
}

// A field that loses the keyboard when it goes would call what is gone already.
HandoverView::~HandoverView() {
    m_firm->disconnect(this);
    m_colour->disconnect(this);
}

void HandoverView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) ask();
}

// Alt and the arrows move a chapter; by themselves they go from one to the next.
bool HandoverView::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_chapters && event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event); // NOLINT(*-static-cast-downcast)
        if (key->modifiers() == Qt::AltModifier && (key->key() == Qt::Key_Up || key->key() == Qt::Key_Down)) {
            move(key->key() == Qt::Key_Up ? -1 : 1);
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

void HandoverView::takeFocus() {
    m_chapters->setFocus();
}

Reader HandoverView::reader() const {
    return m_reader->currentIndex() == 2   ? Reader::offer
           : m_reader->currentIndex() == 1 ? Reader::technician
                                           : Reader::client;
}

report::Paper HandoverView::paper() const {
    return m_paper->currentIndex() == 1 ? report::Paper::letter : report::Paper::a4;
}

void HandoverView::forget() {
    m_made.reset();
    m_isStale = true;
}

DocumentQuestion HandoverView::question() const {
    DocumentQuestion q;
    q.file = m_job.file();
    q.catalog = m_job.sharedCatalog();
    q.prices = m_job.priceBook();
    q.reader = reader();
    q.paper = paper();
    q.isPrivate = m_private->isChecked();
    q.settings.date = utcNow().substr(0, 10);
    if (!q.isPrivate) {
        q.settings.firm.name = m_firm->text().simplified().toStdString();
        q.settings.firm.logo = m_logo;
    }
    q.settings.firm.colour = m_colour->text().toStdString();
    return q;
}

void HandoverView::ask() {
    m_isStale = false;
    if (!m_job.hasJob()) return;
    m_asked = m_worker.ask(question());
    Q_EMIT shown();
}

void HandoverView::take(std::uint64_t number, Answer answer) {
    if (number != m_asked) return; // of what was before
    m_answered = number;
    if (!answer) {
        m_made.reset();
        m_pages->setPdf({});
        Q_EMIT said(QString::fromStdString(answer.error().sentence()), true);
        Q_EMIT shown();
        return;
    }
    m_made = std::move(*answer);
    fillChapters();
    fillKept();
    QStringList in;
    QStringList out;
    for (const job::PrivacyLine& line : m_made->privacy)
        (line.isIn ? in : out) << textOf(line);
    m_privacy->setVisible(!m_made->privacy.empty());
    m_privacy->setText(
        tr("In: %1.\nNot in: %2.").arg(in.join(QStringLiteral("; ")), out.join(QStringLiteral("; "))));
    m_pages->setPdf(QByteArray::fromStdString(m_made->pdf));
    m_pages->setAccessibleDescription(m_pages->text());
    showPreview();
    Q_EMIT shown();
}

void HandoverView::fillChapters() {
    const QSignalBlocker quiet(m_chapters);
    const int before = std::max(m_chapters->currentRow(), 0);
    const QString chosen = m_chapters->currentItem() == nullptr
                               ? QString()
                               : m_chapters->currentItem()->data(Qt::UserRole).toString();
    m_chapters->clear();
    for (const report::Chapter* c : report::inOrder(m_made->whole, m_job.house())) {
        const house::ChapterChoice* choice = choiceOf(m_job.house(), c->id);
        auto* item = new QListWidgetItem(
            QString::fromStdString(c->title) +
            (choice != nullptr && !choice->note.empty() ? tr("  (with a note)") : QString()));
        item->setData(Qt::UserRole, QString::fromStdString(c->id));
        item->setData(Qt::UserRole + 1, QString::fromStdString(c->title));
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(choice != nullptr && choice->isLeftOut ? Qt::Unchecked : Qt::Checked);
        m_chapters->addItem(item);
        if (item->data(Qt::UserRole).toString() == chosen) m_chapters->setCurrentItem(item);
    }
    if (m_chapters->currentRow() < 0 && m_chapters->count() > 0)
        m_chapters->setCurrentRow(std::min(before, m_chapters->count() - 1));
    showNote();
}

// What was handed over, the newest first; another choice stays where it can.
void HandoverView::fillKept() {
    const QSignalBlocker quiet(m_keptList);
    const QString chosen = m_keptList->currentData().toString();
    m_kept = job::keptOf(m_job.allReports());
    std::reverse(m_kept.begin(), m_kept.end());
    m_keptList->clear();
    m_keptList->addItem(m_kept.empty() ? tr("As it is now; nothing was handed over yet")
                                       : tr("As it is now; %1 handed over").arg(m_kept.size()));
    for (const job::KeptDocument& k : m_kept) {
        QString text = momentText(k.at) + QStringLiteral(", ") +
                       (k.reader == "offer"        ? tr("offer")
                        : k.reader == "technician" ? tr("for the next technician")
                                                   : tr("record"));
        if (k.cost) text += QStringLiteral(", ") + QString::fromStdString(weigh::amount(k.currency, *k.cost));
        m_keptList->addItem(text, QString::fromStdString(k.at));
    }
    m_keptList->setCurrentIndex(std::max(m_keptList->findData(chosen), 0));
}

void HandoverView::showPreview() {
    const int at = m_keptList->currentIndex() - 1;
    const bool isKept = at >= 0 && at < static_cast<int>(m_kept.size());
    if (isKept) m_text->setMarkdown(QString::fromStdString(m_kept[static_cast<std::size_t>(at)].text));
    m_preview->setCurrentWidget(isKept ? static_cast<QWidget*>(m_text) : m_pages);
}

void HandoverView::showNote() {
    const auto* item = m_chapters->currentItem();
    const house::ChapterChoice* choice =
        item == nullptr ? nullptr
                        : choiceOf(m_job.house(), item->data(Qt::UserRole).toString().toStdString());
    if (!m_note->hasFocus() || choice == nullptr)
        m_note->setText(choice == nullptr ? QString() : QString::fromStdString(choice->note));
}

void HandoverView::showFirm() {
    m_colour->setText(QSettings()
                          .value(QStringLiteral("firm-colour"), QString::fromStdString(report::Firm().colour))
                          .toString());
    if (!report::isColour(m_colour->text().toStdString()))
        m_colour->setText(QString::fromStdString(report::Firm().colour));
    m_colour->setToolTip(plainTip(tr("Colour of the headings, like #1d6a85")));
    m_logoButton->setText(m_logo.empty() ? tr("Logo…  (L)") : tr("Other logo…  (L)"));
}

// Order, what is left out and the notes belong to the job, also those of the other document's chapters.
void HandoverView::keepChapters() {
    house::House next = m_job.house();
    std::vector<house::ChapterChoice> choices;
    for (int row = 0; row < m_chapters->count(); ++row) {
        const auto* item = m_chapters->item(row);
        const std::string id = item->data(Qt::UserRole).toString().toStdString();
        const house::ChapterChoice* choice = choiceOf(next, id);
        std::string note = choice == nullptr ? std::string() : choice->note;
        if (row == m_chapters->currentRow()) note = m_note->text().simplified().toStdString();
        choices.push_back({id, item->checkState() != Qt::Checked, note});
    }
    for (const house::ChapterChoice& other : next.chapters)
        if (std::none_of(choices.begin(), choices.end(),
                         [&](const house::ChapterChoice& c) { return c.id == other.id; }))
            choices.push_back(other);
    next.chapters = std::move(choices);
    m_job.apply(tr("arrange the document"), next);
}

void HandoverView::move(int step) {
    const int row = m_chapters->currentRow();
    const int to = row + step;
    if (row < 0 || to < 0 || to >= m_chapters->count()) return;
    {
        const QSignalBlocker quiet(m_chapters);
        m_chapters->insertItem(to, m_chapters->takeItem(row));
        m_chapters->setCurrentRow(to);
    }
    keepChapters();
}

void HandoverView::askForFile() {
    askFile(this, tr("Save"),
            (reader() == Reader::offer ? tr("offer") : tr("record")) + QStringLiteral(".pdf"),
            tr("Document (*.pdf);;Page for a browser (*.html);;Text (*.md);;Everything (*.zip);;"
               "The job (*.json);;Runs (*.csv);;Samples (*samples.csv);;The section (*.svg);;"
               "The section as a picture (*.png)"),
            [this](const QString& file) { saveTo(file); });
}

void HandoverView::askForLogo() {
    askFile(this, tr("Logo"), {}, tr("Pictures (*.png *.jpg *.jpeg *.svg *.gif *.webp)"),
            [this](const QString& file) { setLogo(file); });
}

void HandoverView::setLogo(const QString& file) {
    auto logo = keepLogo(file);
    if (!logo) return Q_EMIT said(QString::fromStdString(logo.error().sentence()), true);
    m_logo = std::move(*logo);
    showFirm();
    ask();
}

void HandoverView::saveTo(const QString& file) {
    if (!isSettled()) return Q_EMIT said(tr("the document is being made; try again in a moment."), true);
    if (!isDocument(file)) {
        m_ordered = m_writer.ask({question(), file});
        Q_EMIT shown();
        return;
    }
    if (!m_made) return Q_EMIT said(tr("there is no document to save yet."), true);
    if (m_made->shown.chapters.empty())
        return Q_EMIT said(tr("every chapter is left out; Space takes one in again."), true);
    const std::string text = file.endsWith(QLatin1String(".pdf"))    ? m_made->pdf
                             : file.endsWith(QLatin1String(".html")) ? report::toHtml(m_made->shown)
                                                                     : report::toMarkdown(m_made->shown);
    const auto written = job::writeText(file.toStdString(), text);
    if (!written) return Q_EMIT said(QString::fromStdString(written.error().sentence()), true);
    keepDocument();
    Q_EMIT said(tr("The document is in %1.").arg(file), false);
}

void HandoverView::keepDocument() {
    if (m_private->isChecked()) return; // nothing of it is the client's
    // The same document once more is not another one that was handed over.
    const auto kept = job::keptOf(m_job.allReports());
    if (std::any_of(kept.begin(), kept.end(), [&](const job::KeptDocument& k) {
            return k.reader == m_made->kept.reader && k.text == m_made->kept.text;
        }))
        return;
    job::KeptDocument document = m_made->kept;
    document.at = utcNow();
    const auto report = job::reportOf(document);
    if (!report) return Q_EMIT said(QString::fromStdString(report.error().sentence()), true);
    m_isKeeping = true;
    (void)m_job.keepReport(*report);
    m_isKeeping = false;
    fillKept();
}

void HandoverView::takeWritten(std::uint64_t number, const Outcome& outcome) {
    m_written = std::max(m_written, number);
    Q_EMIT said(outcome.written ? tr("Written to %1.").arg(outcome.file)
                                : QString::fromStdString(outcome.written.error().sentence()),
                !outcome.written);
    Q_EMIT shown();
}

void HandoverView::printOn(QPagedPaintDevice& device, int dpi) {
    QPainter painter(&device);
    for (int i = 0; i < m_pages->pages(); ++i) {
        if (i > 0) device.newPage();
        painter.drawImage(painter.viewport(), m_pages->picture(i, dpi));
    }
}

void HandoverView::print() {
    if (!m_made || m_made->pdf.empty() || !isSettled())
        return Q_EMIT said(tr("there is nothing to print yet."), true);
    auto* printer = new QPrinter(QPrinter::HighResolution);
    printer->setPageSize(QPageSize(paper() == report::Paper::a4 ? QPageSize::A4 : QPageSize::Letter));
    printer->setFullPage(true);
    printer->setDocName(QString::fromStdString(m_made->shown.title));
    auto* dialog = new QPrintDialog(printer, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, printer] { printOn(*printer, printDpi); });
    connect(dialog, &QObject::destroyed, this, [printer] { delete printer; });
    dialog->open();
}

QString HandoverView::progress() const {
    const auto& reports = m_job.allReports();
    const auto kept = std::count_if(reports.begin(), reports.end(),
                                    [](const job::Report& r) { return r.kind == "document"; });
    return kept == 0 ? QString() : tr("%1 kept").arg(kept);
}

QString HandoverView::sentence() const {
    if (!m_job.hasJob()) return {};
    if (m_ordered != m_written) return tr("Writing …");
    if (!isSettled()) return tr("Making the document …");
    if (!m_made) return tr("There is no document.");
    return tr("%1 of %2 chapters on %3; X saves, Ctrl+P prints. Records: SHA-256 %4…")
        .arg(m_made->shown.chapters.size())
        .arg(m_made->whole.chapters.size())
        .arg(m_pages->pages() == 1 ? tr("one page") : tr("%1 pages").arg(m_pages->pages()))
        .arg(QString::fromStdString(m_made->shown.digest.substr(0, 12)));
}

} // namespace metrodos::desktop
