#include "desktop/walk/entry_field.h"

#include "desktop/widgets/theme.h"
#include "job/entry_grammar.h"

#include <QAbstractItemView>
#include <QApplication>
#include <QClipboard>
#include <QCompleter>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QStandardItemModel>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int maxTyped = 200; // lines that come back

} // namespace

EntryField::EntryField(JobModel& model, QWidget* parent)
    : QLineEdit(parent)
    , m_model(model)
    , m_offers(new QStandardItemModel(this))
    , m_completer(new QCompleter(m_offers, this)) {
    setObjectName(QStringLiteral("entry"));
    setAccessibleName(tr("Fast entry"));
    setPlaceholderText(tr("Type what you see, like “Loft / coax / RG-6 / 23 m”; ↓ shows what fits here"));
    setFont(textFont(12));
    setClearButtonEnabled(true);
    m_completer->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    m_completer->setCompletionRole(Qt::UserRole);
    m_completer->setMaxVisibleItems(12);
    m_completer->setWidget(this);
    connect(m_completer, QOverload<const QString&>::of(&QCompleter::activated), this, &QLineEdit::setText);
    connect(this, &QLineEdit::returnPressed, this, &EntryField::enter);
    connect(this, &QLineEdit::textEdited, this, &EntryField::offer);
}

QString EntryField::withLastField(const QString& field) const {
    const std::string line = text().toStdString();
    const std::string before = line.substr(0, job::lastField(line));
    return QString::fromStdString(before) + (before.empty() ? QString() : QStringLiteral(" ")) + field;
}

std::vector<EntryField::Offer> EntryField::offers() const {
    std::vector<Offer> out;
    if (text().trimmed().isEmpty()) {
        for (const job::LineForm& form : job::nextLines(m_model.house(), m_model.catalog())) {
            const QString line = QString::fromStdString(form.line);
            out.push_back({line, tr("%1   –  %2").arg(line, QString::fromStdString(form.meaning))});
        }
        return out;
    }
    for (const std::string& found :
         job::completions(m_model.house(), m_model.catalog(), text().toStdString())) {
        const QString field = QString::fromStdString(found);
        out.push_back({withLastField(field), field});
    }
    return out;
}

void EntryField::enter() {
    m_completer->popup()->hide();
    const QString line = text().trimmed();
    if (line.isEmpty()) return;
    const auto entered = job::enterLine(m_model.house(), m_model.catalog(), line.toStdString());
    if (!entered) {
        Q_EMIT said(QString::fromStdString(entered.error().sentence()), true);
        markWrongField();
        return;
    }
    m_typed.removeAll(line);
    m_typed << line;
    if (m_typed.size() > maxTyped) m_typed.removeFirst();
    m_recalled = m_typed.size();
    const QString label = QString::fromStdString(entered->label);
    m_model.apply(tr("enter %1").arg(label), entered->house);
    if (!m_waiting.isEmpty()) {
        enterLines(QStringList(std::exchange(m_waiting, {})).join(QLatin1Char('\n')));
        return;
    }
    // The room stays, for the next thing in it.
    const QString room = line.section(QLatin1Char('/'), 0, 0).trimmed();
    const auto& rooms = m_model.house().rooms;
    const bool inRoom = std::any_of(rooms.begin(), rooms.end(), [&](const house::Room& r) {
        return room.compare(QString::fromStdString(r.label), Qt::CaseInsensitive) == 0;
    });
    setText(inRoom ? room + QStringLiteral(" / ") : QString());
    Q_EMIT said(tr("Entered: %1.").arg(label), false);
}

void EntryField::enterLines(const QString& lines) {
    const job::EnteredLines all = job::enterLines(m_model.house(), m_model.catalog(), lines.toStdString());
    if (all.count > 0) m_model.apply(tr("enter %n line(s)", nullptr, static_cast<int>(all.count)), all.house);
    m_waiting.clear();
    if (!all.problem) {
        clear();
        Q_EMIT said(tr("%n line(s) entered.", nullptr, static_cast<int>(all.count)), false);
        return;
    }
    for (std::size_t i = 1; i < all.rest.size(); ++i)
        m_waiting << QString::fromStdString(all.rest[i]);
    setText(QString::fromStdString(all.rest.front()));
    setFocus();
    markWrongField();
    Q_EMIT said(tr("%n line(s) entered; this one is not understood: %1", nullptr, static_cast<int>(all.count))
                        .arg(QString::fromStdString(all.problem->sentence())) +
                    (m_waiting.isEmpty()
                         ? QString()
                         : tr(" %n more wait(s) behind it.", nullptr, static_cast<int>(m_waiting.size()))),
                true);
}

// Selected, so that typing replaces it.
void EntryField::markWrongField() {
    const std::string line = text().toStdString();
    const auto wrong = job::wrongField(m_model.house(), m_model.catalog(), line);
    if (!wrong) return;
    const auto [from, to] = job::fieldAt(line, *wrong);
    const auto length = [&](std::size_t begin, std::size_t end) {
        return static_cast<int>(QString::fromStdString(line.substr(begin, end - begin)).size());
    };
    setSelection(length(0, from), length(from, to));
}

void EntryField::offer() {
    m_offers->clear();
    for (const Offer& one : offers()) {
        auto* item = new QStandardItem(one.shown);
        item->setData(one.line, Qt::UserRole);
        m_offers->appendRow(item);
    }
    if (m_offers->rowCount() == 0)
        m_completer->popup()->hide();
    else
        m_completer->complete();
}

bool EntryField::takeFirstOffer() {
    if (text().section(QLatin1Char('/'), -1).trimmed().isEmpty()) return false;
    const auto now = offers();
    if (now.empty()) return false;
    setText(now.front().line + QStringLiteral(" / "));
    m_completer->popup()->hide();
    return true;
}

// Lines of the clipboard; one alone is pasted as ever.
bool EntryField::takePasted() {
    const QString text = QApplication::clipboard()->text();
    if (!text.trimmed().contains(QLatin1Char('\n'))) return false;
    enterLines(text);
    return true;
}

void EntryField::recall(int by) {
    if (m_typed.isEmpty()) return;
    m_recalled = std::clamp<qsizetype>(m_recalled + by, 0, m_typed.size());
    setText(m_recalled == m_typed.size() ? QString() : m_typed[m_recalled]);
}

void EntryField::mousePressEvent(QMouseEvent* event) {
    QLineEdit::mousePressEvent(event);
    if (text().isEmpty()) offer();
}

void EntryField::contextMenuEvent(QContextMenuEvent* event) {
    auto* menu = createStandardContextMenu();
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("Paste lines"), this, [this] { enterLines(QApplication::clipboard()->text()); });
    menu->popup(event->globalPos());
}

bool EntryField::event(QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const auto* press = dynamic_cast<QKeyEvent*>(event);
        const int key = press->key();
        if (key == Qt::Key_Tab && takeFirstOffer()) return true;
        if (key == Qt::Key_Up) {
            recall(-1);
            return true;
        }
        if (key == Qt::Key_Down) {
            if (m_recalled < m_typed.size() && text() == m_typed[m_recalled])
                recall(1);
            else
                offer();
            return true;
        }
        if (press->matches(QKeySequence::Paste) && takePasted()) return true;
    }
    return QLineEdit::event(event);
}

} // namespace metrodos::desktop
