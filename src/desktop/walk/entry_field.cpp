#include "desktop/walk/entry_field.h"

#include "desktop/widgets/theme.h"
#include "job/entry_line.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QKeyEvent>
#include <QStringListModel>
#include <algorithm>

namespace metrodos::desktop {

EntryField::EntryField(JobModel& model, QWidget* parent)
    : QLineEdit(parent)
    , m_model(model)
    , m_offers(new QStringListModel(this))
    , m_completer(new QCompleter(m_offers, this)) {
    setObjectName(QStringLiteral("entry"));
    setAccessibleName(tr("Fast entry"));
    setPlaceholderText(tr("Loft / coax / from loft splitter / RG-6 / 23 m    Enter adds it"));
    setFont(textFont(12));
    setClearButtonEnabled(true);
    m_completer->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    m_completer->setWidget(this);
    connect(m_completer, QOverload<const QString&>::of(&QCompleter::activated), this,
            [this](const QString& field) { setText(withLastField(field)); });
    connect(this, &QLineEdit::returnPressed, this, &EntryField::enter);
    connect(this, &QLineEdit::textEdited, this, &EntryField::offerCompletions);
}

QString EntryField::withLastField(const QString& field) const {
    const auto slash = text().lastIndexOf(QLatin1Char('/'));
    return slash < 0 ? field : text().left(slash + 1) + QLatin1Char(' ') + field;
}

QStringList EntryField::offers() const {
    QStringList out;
    for (const std::string& offer :
         job::completions(m_model.house(), m_model.catalog(), text().toStdString()))
        out << QString::fromStdString(offer);
    return out;
}

void EntryField::enter() {
    const auto entered = job::enterLine(m_model.house(), m_model.catalog(), text().toStdString());
    if (!entered) {
        Q_EMIT said(QString::fromStdString(entered.error().sentence()), true);
        return;
    }
    const QString label = QString::fromStdString(entered->label);
    m_model.apply(tr("enter %1").arg(label), entered->house);
    // The room stays, for the next thing in it.
    const QString room = text().section(QLatin1Char('/'), 0, 0).trimmed();
    const auto& rooms = m_model.house().rooms;
    const bool inRoom = std::any_of(rooms.begin(), rooms.end(), [&](const house::Room& r) {
        return room.compare(QString::fromStdString(r.label), Qt::CaseInsensitive) == 0;
    });
    setText(inRoom ? room + QStringLiteral(" / ") : QString());
    Q_EMIT said(tr("Entered: %1.").arg(label), false);
}

void EntryField::offerCompletions() {
    const QStringList now = offers();
    m_offers->setStringList(now);
    if (now.isEmpty())
        m_completer->popup()->hide();
    else
        m_completer->complete();
}

bool EntryField::takeFirstOffer() {
    if (text().section(QLatin1Char('/'), -1).trimmed().isEmpty()) return false;
    const QStringList now = offers();
    if (now.isEmpty()) return false;
    setText(withLastField(now.front()) + QStringLiteral(" / "));
    m_completer->popup()->hide();
    return true;
}

bool EntryField::event(QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = dynamic_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Tab && takeFirstOffer()) return true;
        if (key == Qt::Key_Down) {
            offerCompletions();
            return true;
        }
    }
    return QLineEdit::event(event);
}

} // namespace metrodos::desktop
