#include "desktop/fit/cupboard_page.h"

#include "desktop/widgets/marks.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "fit/labels.h"

#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QScrollBar>
#include <QShortcut>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr int rowHeight = 46; // pixels
constexpr int gap = 12;       // above what another thing is joined to
constexpr int margin = 10;

QString foundText(house::FoundBy how) {
    switch (how) {
    case house::FoundBy::unknown:
        return {};
    case house::FoundBy::seen:
        return CupboardPage::tr("by eye");
    case house::FoundBy::continuity:
        return CupboardPage::tr("by continuity");
    case house::FoundBy::tone:
        return CupboardPage::tr("by tone");
    case house::FoundBy::flash:
        return CupboardPage::tr("by flash");
    }
    return {};
}

house::ElementKind kindOf(house::Medium medium) {
    return medium == house::Medium::coax ? house::ElementKind::coax : house::ElementKind::cable;
}

} // namespace

CupboardMap::CupboardMap(QWidget* parent)
    : QAbstractScrollArea(parent) {
    setObjectName(QStringLiteral("cupboard-map"));
    setAccessibleName(tr("Cable ends at the cupboard, and where they go"));
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::StrongFocus);
    viewport()->setAutoFillBackground(false);
}

void CupboardMap::setRows(std::vector<Row> rows) {
    m_rows = std::move(rows);
    m_current = std::clamp(m_current, m_rows.empty() ? -1 : 0, static_cast<int>(m_rows.size()) - 1);
    setRange();
    viewport()->update();
}

void CupboardMap::setRange() {
    int height = 2 * margin;
    for (const Row& row : m_rows)
        height += rowHeight + (row.joined.isEmpty() ? 0 : gap);
    verticalScrollBar()->setRange(0, std::max(0, height - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(rowHeight);
}

void CupboardMap::resizeEvent(QResizeEvent* event) {
    QAbstractScrollArea::resizeEvent(event);
    setRange();
}

void CupboardMap::setCurrent(int row) {
    if (m_rows.empty()) return;
    m_current = std::clamp(row, 0, static_cast<int>(m_rows.size()) - 1);
    int top = margin;
    for (int i = 0; i <= m_current; ++i)
        top += (i < m_current ? rowHeight : 0) +
               (m_rows[static_cast<std::size_t>(i)].joined.isEmpty() ? 0 : gap);
    QScrollBar* bar = verticalScrollBar();
    bar->setValue(std::clamp(bar->value(), top + rowHeight + margin - viewport()->height(), top - margin));
    viewport()->update();
    Q_EMIT chosen(m_current);
}

void CupboardMap::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Down)
        setCurrent(m_current + 1);
    else if (event->key() == Qt::Key_Up)
        setCurrent(m_current - 1);
    else
        QAbstractScrollArea::keyPressEvent(event);
}

void CupboardMap::mousePressEvent(QMouseEvent* event) {
    int top = margin - verticalScrollBar()->value();
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        top += m_rows[i].joined.isEmpty() ? 0 : gap;
        if (event->pos().y() >= top && event->pos().y() < top + rowHeight) setCurrent(static_cast<int>(i));
        top += rowHeight;
    }
}

// Three columns: what it is joined to, the run as the line of its medium, the jack in its room.
void CupboardMap::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.setRenderHint(QPainter::Antialiasing);
    const int width = viewport()->width() - 2 * margin;
    const int left = margin;
    const int joinedWidth = width * 30 / 100;
    const int farWidth = width * 32 / 100;
    const int lineLeft = left + joinedWidth + 8;
    const int lineRight = left + width - farWidth - 8;
    int top = margin - verticalScrollBar()->value();
    const auto text = [&](QRect box, const QString& words, const QFont& font, Qt::Alignment align,
                          const QColor& ink) {
        p.setFont(font);
        p.setPen(ink);
        p.drawText(box, static_cast<int>(align),
                   QFontMetrics(font).elidedText(words, Qt::ElideRight, box.width()));
    };
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        const Row& row = m_rows[i];
        if (!row.joined.isEmpty()) top += gap;
        // The box of what several runs are joined to goes on over their rows.
        const bool isLast = i + 1 == m_rows.size() || !m_rows[i + 1].joined.isEmpty();
        const QRect whole(left, top, width, rowHeight);
        if (static_cast<int>(i) == m_current) p.fillRect(whole.adjusted(-4, 1, 4, -1), theme().panel);
        const QRect box(left, top, joinedWidth, rowHeight);
        p.setPen(QPen(theme().line, 1));
        if (!row.joined.isEmpty()) p.drawLine(box.topLeft(), box.topRight());
        if (isLast) p.drawLine(box.bottomLeft(), box.bottomRight());
        p.drawLine(box.topLeft(), box.bottomLeft());
        p.drawLine(box.topRight(), box.bottomRight());
        if (!row.joined.isEmpty())
            text(box.adjusted(8, 4, -60, 0), row.joined, textFont(11, true), Qt::AlignLeft | Qt::AlignTop,
                 theme().ink);
        text(box.adjusted(8, 22, -8, -4), row.port, figureFont(10), Qt::AlignRight | Qt::AlignBottom,
             theme().ink);
        const QRectF line(lineLeft, top + 18, lineRight - lineLeft, 22);
        p.setPen(QPen(row.isWhole ? theme().ink : theme().quiet, 1.6));
        drawMediumLine(p, line, kindOf(row.medium));
        const QRect over(lineLeft, top + 4, lineRight - lineLeft, 18);
        text(over.adjusted(0, 0, -70, 0), row.label, textFont(9.5), Qt::AlignLeft | Qt::AlignTop,
             theme().ink);
        text(over, row.code, codeFont(9.5, true), Qt::AlignRight | Qt::AlignTop, theme().ink);
        const QRect far(left + width - farWidth, top, farWidth, rowHeight);
        text(far.adjusted(4, 4, -4, 0), row.far, textFont(11, row.isWhole), Qt::AlignLeft | Qt::AlignTop,
             row.isWhole ? theme().ink : theme().quiet);
        text(far.adjusted(4, 22, -4, -4), row.room, textFont(9.5), Qt::AlignLeft | Qt::AlignBottom,
             theme().quiet);
        top += rowHeight;
    }
    if (hasFocus()) {
        p.setPen(QPen(theme().quiet, 1, Qt::DotLine));
        p.drawRect(viewport()->rect().adjusted(0, 0, -1, -1));
    }
}

CupboardPage::CupboardPage(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_title(plainLabel())
    , m_hint(plainLabel())
    , m_map(new CupboardMap) {
    setObjectName(QStringLiteral("cupboard"));
    m_title->setObjectName(QStringLiteral("cupboard-title"));
    m_title->setFont(textFont(15, true));
    m_title->setWordWrap(true);
    m_hint->setObjectName(QStringLiteral("cupboard-hint"));
    m_hint->setProperty("quiet", true);
    m_hint->setWordWrap(true);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 10, 6);
    layout->addWidget(m_title);
    layout->addWidget(m_map, 1);
    layout->addWidget(m_hint);
    for (const auto& [key, how] :
         {std::pair(Qt::Key_T, house::FoundBy::tone), std::pair(Qt::Key_F, house::FoundBy::flash),
          std::pair(Qt::Key_C, house::FoundBy::continuity), std::pair(Qt::Key_S, house::FoundBy::seen),
          std::pair(Qt::Key_U, house::FoundBy::unknown)}) {
        auto* shortcut = new QShortcut(key, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
        connect(shortcut, &QShortcut::activated, this, [this, how = how] { found(how); });
    }
    connect(&m_job, &JobModel::changed, this, &CupboardPage::refresh);
}

void CupboardPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) refresh();
}

void CupboardPage::refresh() {
    m_isStale = !isVisible();
    if (m_isStale) return;
    const house::House& house = m_job.house();
    m_cupboard = fit::cupboardOf(house);
    std::map<house::Id, std::string> codes;
    for (const fit::Label& l : fit::labelsOf(house))
        codes[l.thing] = l.code;
    const house::Room* room = house.room(m_cupboard.room);
    m_map->setVisible(!m_cupboard.runs.empty());
    m_hint->setVisible(!m_cupboard.runs.empty());
    if (room == nullptr) {
        m_title->setText(tr("No runs of cable yet: survey them in Walk, like “coax from Hall to Loft”."));
        m_map->setRows({});
        return;
    }
    std::vector<CupboardMap::Row> rows;
    QString before;
    std::size_t open = 0;
    for (const fit::CupboardRun& r : m_cupboard.runs) {
        CupboardMap::Row row;
        const QString joined = !r.isHere            ? tr("not found here yet")
                               : r.joinedTo.empty() ? tr("joined to nothing")
                                                    : QString::fromStdString(r.joinedLabel);
        if (joined != before) row.joined = joined;
        before = joined;
        row.port = QString::fromStdString(r.joinedPort);
        row.medium = r.medium;
        row.label = QString::fromStdString(r.label);
        if (const QString how = foundText(r.foundBy); !how.isEmpty()) row.label += tr(", found %1").arg(how);
        if (r.goodPairs) row.label += tr(", %1 of 4 pairs").arg(*r.goodPairs);
        if (const auto code = codes.find(r.connection); code != codes.end())
            row.code = QString::fromStdString(code->second);
        row.far = r.farLabel.empty() ? tr("where it goes is not known") : QString::fromStdString(r.farLabel);
        const house::Room* far = house.room(r.farRoom);
        row.room = far == nullptr ? QString() : QString::fromStdString(far->label);
        row.isWhole = r.isWhole();
        open += row.isWhole ? 0 : 1;
        rows.push_back(std::move(row));
    }
    m_title->setText(open == 0 ? tr("Cupboard in “%1”: all %2 runs are known and joined.")
                                     .arg(QString::fromStdString(room->label))
                                     .arg(rows.size())
                               : tr("Cupboard in “%1”: %2 of %3 runs are not joined or not found yet.")
                                     .arg(QString::fromStdString(room->label))
                                     .arg(open)
                                     .arg(rows.size()));
    m_hint->setText(
        tr("How the chosen run was told: T tone, F flash, C continuity, S by eye, U not told. Which end is "
           "which is recorded in Walk, under Open points."));
    m_map->setRows(std::move(rows));
}

void CupboardPage::found(house::FoundBy how) {
    const int at = m_map->current();
    if (at < 0 || at >= static_cast<int>(m_cupboard.runs.size())) return;
    const fit::CupboardRun& run = m_cupboard.runs[static_cast<std::size_t>(at)];
    house::House next = m_job.house();
    house::Connection* c = next.connection(run.connection);
    if (c == nullptr) return;
    c->foundBy = how;
    const QString words = foundText(how);
    m_job.apply(words.isEmpty() ? tr("how “%1” was told is not known").arg(QString::fromStdString(run.label))
                                : tr("“%1” was found %2").arg(QString::fromStdString(run.label), words),
                next);
}

} // namespace metrodos::desktop
