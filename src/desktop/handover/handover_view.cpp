#include "desktop/handover/handover_view.h"

#include "desktop/widgets/ask_file.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "job/open.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QSettings>
#include <QTextBrowser>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int listWidth = 330;

const house::ChapterChoice* choiceOf(const house::House& house, const house::Id& chapter) {
    const auto it = std::find_if(house.chapters.begin(), house.chapters.end(),
                                 [&](const house::ChapterChoice& c) { return c.id == chapter; });
    return it == house.chapters.end() ? nullptr : &*it;
}

// Those that were put in order first, then the others as they come.
std::vector<const report::Chapter*> inOrder(const report::Document& whole, const house::House& house) {
    std::vector<const report::Chapter*> out;
    const auto add = [&](const report::Chapter& c) {
        if (std::find(out.begin(), out.end(), &c) == out.end()) out.push_back(&c);
    };
    for (const house::ChapterChoice& choice : house.chapters)
        for (const report::Chapter& c : whole.chapters)
            if (c.id == choice.id) add(c);
    for (const report::Chapter& c : whole.chapters)
        add(c);
    return out;
}

} // namespace

HandoverView::HandoverView(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_reader(new QComboBox)
    , m_firm(new QLineEdit)
    , m_chapters(new QListWidget)
    , m_note(new QLineEdit)
    , m_preview(new QTextBrowser)
    , m_worker(&HandoverView::work, [this](std::uint64_t number, Answer answer) {
        QMetaObject::invokeMethod(
            this, [this, number, answer = std::move(answer)]() mutable { take(number, std::move(answer)); },
            Qt::QueuedConnection);
    }) {
    setObjectName(QStringLiteral("handover"));
    m_reader->setObjectName(QStringLiteral("handover-reader"));
    m_reader->setAccessibleName(tr("Whom the document is for"));
    m_reader->addItems({tr("for the client"), tr("for the next technician")});
    m_firm->setObjectName(QStringLiteral("handover-firm"));
    m_firm->setAccessibleName(tr("Name of the firm"));
    m_firm->setPlaceholderText(tr("Name of the firm, on every document"));
    m_firm->setMaxLength(200);
    m_firm->setText(QSettings().value(QStringLiteral("firm")).toString());
    m_chapters->setObjectName(QStringLiteral("handover-chapters"));
    m_chapters->setAccessibleName(tr("Chapters; Space leaves one out, Alt and the arrows move it"));
    m_note->setObjectName(QStringLiteral("handover-note"));
    m_note->setAccessibleName(tr("Note to the chosen chapter"));
    m_note->setPlaceholderText(tr("Note to this chapter (E); Enter keeps it"));
    m_note->setMaxLength(500);
    m_preview->setObjectName(QStringLiteral("handover-preview"));
    m_preview->setAccessibleName(tr("The document"));
    m_preview->setOpenLinks(false);
    m_preview->setFont(textFont(11));
    auto* left = new QVBoxLayout;
    left->addWidget(m_reader);
    left->addWidget(m_firm);
    left->addWidget(m_chapters, 1);
    left->addWidget(m_note);
    left->addWidget(keyButton(this, QStringLiteral("handover-html"), tr("Save as a page…  (X)"),
                              tr("One file that opens in any browser, on a telephone too, and prints"),
                              Qt::Key_X, [this] { askForFile(QStringLiteral(".html")); }));
    left->addWidget(keyButton(this, QStringLiteral("handover-markdown"), tr("Save as text…  (M)"),
                              tr("Markdown"), Qt::Key_M, [this] { askForFile(QStringLiteral(".md")); }));
    auto* panel = new QWidget;
    panel->setLayout(left);
    left->setContentsMargins(0, 0, 0, 0);
    panel->setFixedWidth(listWidth);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->setSpacing(12);
    layout->addWidget(panel);
    layout->addWidget(m_preview, 1);
    const auto key = [this](const QKeySequence& k, const std::function<void()>& does) {
        auto* shortcut = new QShortcut(k, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
        connect(shortcut, &QShortcut::activated, this, does);
    };
    key(Qt::Key_E, [this] { m_note->setFocus(); });
    m_chapters->installEventFilter(this);
    connect(m_reader, &QComboBox::currentIndexChanged, this, [this] {
        m_whole.reset();
        m_document.reset();
        ask();
    });
    connect(m_firm, &QLineEdit::editingFinished, this, [this] {
        QSettings().setValue(QStringLiteral("firm"), m_firm->text().simplified());
        ask();
    });
    connect(m_chapters, &QListWidget::currentRowChanged, this, &HandoverView::showNote);
    connect(m_chapters, &QListWidget::itemChanged, this, [this] { keep(); });
    connect(m_note, &QLineEdit::returnPressed, this, [this] {
        keep();
        m_chapters->setFocus();
    });
    connect(&m_job, &JobModel::opened, this, [this] {
        m_whole.reset();
        m_document.reset();
    });
    connect(&m_job, &JobModel::changed, this, [this] {
        m_isStale = true;
        if (isVisible()) ask();
    });
}

// A field that loses the keyboard when it goes would call what is gone already.
HandoverView::~HandoverView() {
    m_firm->disconnect(this);
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

HandoverView::Reader HandoverView::reader() const {
    return m_reader->currentIndex() == 1 ? Reader::technician : Reader::client;
}

void HandoverView::ask() {
    m_isStale = false;
    if (!m_job.hasJob()) return;
    Question question;
    question.file = m_job.file();
    question.catalog = m_job.sharedCatalog();
    question.reader = reader();
    question.settings.date = utcNow().substr(0, 10);
    question.settings.firm.name = m_firm->text().simplified().toStdString();
    m_asked = m_worker.ask(std::move(question));
    Q_EMIT shown();
}

// From the file, beside the window: whoever checks the document has no more than that.
HandoverView::Answer HandoverView::work(const Question& q) {
    const auto job = job::readJob(q.file);
    if (!job) return tl::unexpected(job.error());
    return q.reader == Reader::client ? report::clientDocument(*job, *q.catalog, q.settings)
                                      : report::technicianDocument(*job, *q.catalog, q.settings);
}

void HandoverView::take(std::uint64_t number, Answer answer) {
    if (number != m_asked) return; // of what was before
    m_answered = number;
    if (!answer) {
        Q_EMIT said(QString::fromStdString(answer.error().sentence()), true);
        return;
    }
    m_whole = std::move(*answer);
    fillChapters();
    m_document = *m_whole;
    m_document->chapters.clear();
    for (const report::Chapter* c : inOrder(*m_whole, m_job.house())) {
        const house::ChapterChoice* choice = choiceOf(m_job.house(), c->id);
        if (choice != nullptr && choice->isLeftOut) continue;
        m_document->chapters.push_back(*c);
        if (choice != nullptr) m_document->chapters.back().note = choice->note;
    }
    m_preview->setMarkdown(QString::fromStdString(report::toMarkdown(*m_document)));
    Q_EMIT shown();
}

void HandoverView::fillChapters() {
    const QSignalBlocker quiet(m_chapters);
    const int before = std::max(m_chapters->currentRow(), 0);
    const QString chosen = m_chapters->currentItem() == nullptr
                               ? QString()
                               : m_chapters->currentItem()->data(Qt::UserRole).toString();
    m_chapters->clear();
    for (const report::Chapter* c : inOrder(*m_whole, m_job.house())) {
        const house::ChapterChoice* choice = choiceOf(m_job.house(), c->id);
        auto* item = new QListWidgetItem(
            QString::fromStdString(c->title) +
            (choice != nullptr && !choice->note.empty() ? tr("  (with a note)") : QString()));
        item->setData(Qt::UserRole, QString::fromStdString(c->id));
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(choice != nullptr && choice->isLeftOut ? Qt::Unchecked : Qt::Checked);
        m_chapters->addItem(item);
        if (item->data(Qt::UserRole).toString() == chosen) m_chapters->setCurrentItem(item);
    }
    if (m_chapters->currentRow() < 0 && m_chapters->count() > 0)
        m_chapters->setCurrentRow(std::min(before, m_chapters->count() - 1));
    showNote();
}

void HandoverView::showNote() {
    const auto* item = m_chapters->currentItem();
    const house::ChapterChoice* choice =
        item == nullptr ? nullptr
                        : choiceOf(m_job.house(), item->data(Qt::UserRole).toString().toStdString());
    if (!m_note->hasFocus() || choice == nullptr)
        m_note->setText(choice == nullptr ? QString() : QString::fromStdString(choice->note));
}

// Order, what is left out and the notes belong to the job, also those of the other document's chapters.
void HandoverView::keep() {
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
    keep();
}

void HandoverView::askForFile(const QString& ending) {
    askFile(this, tr("Save the document"), tr("record") + ending,
            ending == QLatin1String(".html") ? tr("Pages (*.html)") : tr("Markdown (*.md)"),
            [this](const QString& file) { saveTo(file); });
}

void HandoverView::saveTo(const QString& file) {
    if (!m_document || !isSettled())
        return Q_EMIT said(tr("the document is being made; try again in a moment."), true);
    if (m_document->chapters.empty())
        return Q_EMIT said(tr("every chapter is left out; Space takes one in again."), true);
    const std::string text =
        file.endsWith(QLatin1String(".md")) ? report::toMarkdown(*m_document) : report::toHtml(*m_document);
    const auto written = job::writeText(file.toStdString(), text);
    Q_EMIT said(written ? tr("The document is in %1.").arg(file)
                        : QString::fromStdString(written.error().sentence()),
                !written);
}

QString HandoverView::sentence() const {
    if (!m_job.hasJob()) return {};
    if (!isSettled() || !m_document) return tr("Making the document …");
    return tr("%1 of %2 chapters; X saves the page. Records: SHA-256 %3…")
        .arg(m_document->chapters.size())
        .arg(m_whole->chapters.size())
        .arg(QString::fromStdString(m_document->digest.substr(0, 12)));
}

} // namespace metrodos::desktop
