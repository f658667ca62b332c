#include "desktop/trace/suspect_list.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QKeyEvent>
#include <QLabel>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

constexpr int leftOfText = 92;

QLabel* line(const QString& text, bool quiet) {
    auto* label = plainLabel(text);
    label->setWordWrap(true);
    if (quiet) label->setObjectName(QStringLiteral("quiet"));
    return label;
}

/// One move of the suspicion: a bar from before to after, and what moved it. Enter or a click opens its runs.
class MoveRow : public QWidget {
  public:
    MoveRow(const trace::Evidence& evidence, bool strong, std::function<void(const QStringList&)> open)
        : m_before(evidence.before)
        , m_after(evidence.after)
        , m_strong(strong)
        , m_open(std::move(open)) {
        for (const std::string& id : evidence.runs)
            m_runs << QString::fromStdString(id);
        setObjectName(QStringLiteral("evidence"));
        if (!m_runs.isEmpty()) {
            setFocusPolicy(Qt::TabFocus);
            setCursor(Qt::PointingHandCursor);
        }
        auto* layout = new QVBoxLayout(this);
        layout->setContentsMargins(66, 0, 0, 0);
        auto* text = line(QString::fromStdString(evidence.text), true);
        layout->addWidget(text);
        setAccessibleName(SuspectList::tr("%1: from %2 to %3")
                              .arg(text->text(), percentText(m_before), percentText(m_after)));
        setToolTip(SuspectList::tr("from %1 to %2").arg(percentText(m_before), percentText(m_after)) +
                   (m_runs.isEmpty() ? QString() : SuspectList::tr("; Enter shows its runs")));
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        constexpr double width = 56;
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const double y = 9;
        const double from = width * m_before;
        const double to = width * m_after;
        p.setPen(QPen(theme().line, 1));
        p.drawLine(QPointF(0, y), QPointF(width, y));
        const QColor colour = m_strong ? theme().warm : theme().ink;
        // Upwards it is filled, downwards open: told apart without colour.
        p.setPen(QPen(colour, m_after > m_before ? 3 : 1.2));
        p.drawLine(QPointF(from, y), QPointF(to, y));
        p.setPen(QPen(colour, 1.4));
        p.setBrush(m_after > m_before ? QBrush(colour) : QBrush(theme().ground));
        p.drawEllipse(QPointF(to, y), 3.2, 3.2);
        if (hasFocus()) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(theme().ink, 1, Qt::DotLine));
            p.drawRect(rect().adjusted(0, 0, -1, -1));
        }
    }
    void keyPressEvent(QKeyEvent* event) override {
        if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && !m_runs.isEmpty())
            m_open(m_runs);
        else
            QWidget::keyPressEvent(event);
    }
    void mousePressEvent(QMouseEvent* event) override {
        if (m_runs.isEmpty())
            QWidget::mousePressEvent(event);
        else
            m_open(m_runs);
    }

  private:
    double m_before;
    double m_after;
    bool m_strong;
    QStringList m_runs;
    std::function<void(const QStringList&)> m_open;
};

/// One suspect: its probability as a figure and a bar, its evidence below. A click chooses the element.
class SuspectRow : public QWidget {
  public:
    SuspectRow(const trace::Suspect& suspect, bool first, std::function<void()> chosen,
               const std::function<void(const QStringList&)>& open)
        : m_share(suspect.probability)
        , m_first(first)
        , m_chosen(std::move(chosen)) {
        auto* layout = new QVBoxLayout(this);
        layout->setContentsMargins(leftOfText, 6, 6, 8);
        layout->setSpacing(2);
        QString title = QString::fromStdString(suspect.label);
        if (!suspect.state.empty() && suspect.stateProbability > 0.5)
            title += QStringLiteral(": ") + QString::fromStdString(suspect.state);
        auto* name = plainLabel(title);
        name->setFont(textFont(first ? 13 : 11, true));
        name->setWordWrap(true);
        layout->addWidget(name);
        if (!suspect.equals.empty()) {
            QStringList others;
            for (const std::string& label : suspect.equals)
                others << QString::fromStdString(label);
            layout->addWidget(
                line(SuspectList::tr("an equal limit: %1").arg(others.join(QStringLiteral("; "))), false));
        }
        if (suspect.ifReplaced)
            layout->addWidget(
                line(SuspectList::tr("carries %1; with only this replaced the route would carry %2%3")
                         .arg(bothText(suspect.ceiling), bothText(*suspect.ifReplaced),
                              suspect.cost ? SuspectList::tr(" (guide price %1)")
                                                 .arg(QLocale().toString(suspect.cost->inUnits(), 'f', 0))
                                           : QString()),
                     false));
        for (const std::string& reason : suspect.because)
            if (!reason.starts_with("for it: ") && !reason.starts_with("against it: "))
                layout->addWidget(line(QStringLiteral("· ") + QString::fromStdString(reason), true));
        // The moves of all suspects would fill pages: those of the first, and of others that once led.
        for (const trace::Evidence& evidence : suspect.evidence)
            if (first || evidence.before > 0.3 || evidence.after > 0.3)
                layout->addWidget(new MoveRow(evidence, first, open));
        setCursor(Qt::PointingHandCursor);
        setAccessibleName(name->text() + QLatin1Char(' ') + percentText(m_share));
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(theme().line, 1));
        p.drawLine(0, height() - 1, width(), height() - 1);
        const QColor colour = m_first ? theme().warm : theme().quiet;
        p.setPen(colour);
        p.setFont(figureFont(m_first ? 17 : 12, true));
        p.drawText(QRectF(0, 4, 84, 28), Qt::AlignRight | Qt::AlignVCenter, percentText(m_share));
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(colour, 1));
        p.drawRect(QRectF(14, 35, 70, 6));
        p.fillRect(QRectF(14, 35, 70 * m_share, 6), colour);
    }
    void mousePressEvent(QMouseEvent*) override { m_chosen(); }

  private:
    double m_share;
    bool m_first;
    std::function<void()> m_chosen;
};

} // namespace

SuspectList::SuspectList(QWidget* parent)
    : QWidget(parent)
    , m_rows(new QVBoxLayout(this)) {
    m_rows->setContentsMargins(0, 4, 8, 0);
    m_rows->setSpacing(0);
}

void SuspectList::setSuspects(const std::vector<trace::Suspect>& suspects) {
    while (QLayoutItem* item = m_rows->takeAt(0)) {
        if (item->widget() != nullptr) item->widget()->deleteLater();
        delete item;
    }
    constexpr double hardly = 0.02;
    bool first = true;
    for (const trace::Suspect& suspect : suspects) {
        if (!first && suspect.probability < hardly) break;
        m_rows->addWidget(new SuspectRow(
            suspect, first, [this, id = QString::fromStdString(suspect.element)] { Q_EMIT chosen(id); },
            [this](const QStringList& ids) { Q_EMIT runsAsked(ids); }));
        first = false;
    }
    m_rows->addStretch();
}

} // namespace metrodos::desktop
