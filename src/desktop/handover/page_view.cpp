#include "desktop/handover/page_view.h"

#include "desktop/widgets/theme.h"

#include <QKeyEvent>
#include <QPainter>
#include <QScrollBar>
#include <poppler-qt6.h>

namespace metrodos::desktop {
namespace {

constexpr int gap = 10;         // px around and between pages
constexpr int mostPictures = 6; // that are kept
constexpr double pointsPerInch = 72;

} // namespace

PageView::PageView(QWidget* parent)
    : QAbstractScrollArea(parent)
    , m_pictures(mostPictures) {
    setFocusPolicy(Qt::StrongFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
    verticalScrollBar()->setSingleStep(40);
}

PageView::~PageView() = default;

void PageView::setPdf(const QByteArray& bytes) {
    m_pdf = bytes.isEmpty() ? nullptr : Poppler::Document::loadFromData(bytes);
    if (m_pdf) {
        m_pdf->setRenderHint(Poppler::Document::Antialiasing);
        m_pdf->setRenderHint(Poppler::Document::TextAntialiasing);
    }
    m_pictures.clear();
    arrange();
}

void PageView::showEntry(const QString& title) {
    if (!m_pdf) return;
    for (const Poppler::OutlineItem& entry : m_pdf->outline()) {
        const auto to = entry.destination();
        if (entry.name() != title || !to) continue;
        const int page = to->pageNumber() - 1;
        if (page < 0 || page >= pages()) return;
        const double y = m_tops[static_cast<std::size_t>(page)] +
                         (to->isChangeTop() ? to->top() : 0) * paper(page).height() * scale();
        verticalScrollBar()->setValue(static_cast<int>(y) - gap);
        return;
    }
}

QString PageView::text() const {
    QString out;
    for (int i = 0; i < pages(); ++i)
        if (const auto page = m_pdf->page(i)) out += page->text(QRectF()) + QLatin1Char('\n');
    return out;
}

int PageView::pages() const {
    return m_pdf ? m_pdf->numPages() : 0;
}

QSizeF PageView::paper(int page) const {
    const auto p = m_pdf ? m_pdf->page(page) : nullptr;
    return p ? p->pageSizeF() : QSizeF(595, 842);
}

QImage PageView::picture(int page, double dpi) const {
    const auto p = m_pdf ? m_pdf->page(page) : nullptr;
    return p ? p->renderToImage(dpi, dpi) : QImage();
}

double PageView::scale() const {
    return std::max(viewport()->width() - 2.0 * gap, 50.0) / paper(0).width();
}

void PageView::arrange() {
    m_tops.clear();
    double y = gap;
    for (int i = 0; i < pages(); ++i) {
        m_tops.push_back(y);
        y += paper(i).height() * scale() + gap;
    }
    m_tops.push_back(y);
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setRange(0, std::max(0, static_cast<int>(y) - viewport()->height()));
    viewport()->update();
}

void PageView::resizeEvent(QResizeEvent*) {
    arrange();
}

void PageView::changeEvent(QEvent* event) {
    QAbstractScrollArea::changeEvent(event);
    if (event->type() == QEvent::PaletteChange) viewport()->update();
}

void PageView::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.fillRect(viewport()->rect(), theme().line);
    const double ratio = devicePixelRatioF();
    const double wanted = scale() * ratio;
    if (wanted != m_picturesScale) m_pictures.clear();
    m_picturesScale = wanted;
    const int from = verticalScrollBar()->value();
    for (int i = 0; i < pages(); ++i) {
        const QSizeF size = paper(i) * scale();
        const QRectF box(QPointF(gap, m_tops[static_cast<std::size_t>(i)] - from), size);
        if (!box.intersects(viewport()->rect())) continue;
        if (!m_pictures.contains(i)) {
            auto* image = new QImage(picture(i, wanted * pointsPerInch));
            image->setDevicePixelRatio(ratio);
            m_pictures.insert(i, image);
        }
        p.fillRect(box, Qt::white);
        if (const QImage* image = m_pictures.object(i)) p.drawImage(box.topLeft(), *image);
    }
    if (hasFocus()) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.drawRect(viewport()->rect().adjusted(1, 1, -2, -2));
    }
}

void PageView::keyPressEvent(QKeyEvent* event) {
    QScrollBar* bar = verticalScrollBar();
    switch (event->key()) {
    case Qt::Key_Home:
        return bar->setValue(0);
    case Qt::Key_End:
        return bar->setValue(bar->maximum());
    case Qt::Key_PageDown:
        return bar->triggerAction(QAbstractSlider::SliderPageStepAdd);
    case Qt::Key_PageUp:
        return bar->triggerAction(QAbstractSlider::SliderPageStepSub);
    default:
        QAbstractScrollArea::keyPressEvent(event);
    }
}

} // namespace metrodos::desktop
