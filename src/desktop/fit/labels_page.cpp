#include "desktop/fit/labels_page.h"

#include "desktop/widgets/key_button.h"
#include "desktop/widgets/paper.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "job/document.h"
#include "job/fitting_csv.h"

#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPrintDialog>
#include <QPrinter>
#include <cmath>

namespace metrodos::desktop {
namespace {

constexpr double millimetresPerInch = 25.4;

} // namespace

void drawPage(QPainter& painter, const report::PrintedPage& page, double scale) {
    painter.setPen(QPen(QColor(178, 178, 178), 0.15 * scale));
    painter.setBrush(Qt::NoBrush);
    for (const report::PrintedBox& b : page.edges)
        painter.drawRect(QRectF(b.x * scale, b.y * scale, b.width * scale, b.height * scale));
    for (const report::PrintedBox& b : page.ink)
        painter.fillRect(QRectF(b.x * scale, b.y * scale, b.width * scale, b.height * scale), Qt::black);
    painter.setPen(Qt::black);
    for (const report::PrintedText& t : page.texts) {
        QFont font = textFont(10, t.isBold);
        font.setPixelSize(std::max(1, static_cast<int>(std::lround(t.size * 0.78 * scale))));
        painter.setFont(font);
        const QString text = QFontMetrics(font).elidedText(QString::fromStdString(t.text), Qt::ElideRight,
                                                           static_cast<int>(t.width * scale));
        painter.drawText(QRectF(t.x * scale, t.y * scale, t.width * scale, t.size * 1.3 * scale),
                         Qt::AlignLeft | Qt::AlignTop | Qt::TextSingleLine, text);
    }
}

// The first page, as large as there is room.
class LabelsPage::Preview : public QWidget {
  public:
    explicit Preview(LabelsPage& page)
        : m_page(page) {
        setObjectName(QStringLiteral("label-preview"));
        setAccessibleName(LabelsPage::tr("The first page as it will be printed"));
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        const report::PrintedSheet& sheet = m_page.m_sheet;
        if (sheet.pages.empty()) return;
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const double scale = std::min((width() - 2) / sheet.width, (height() - 2) / sheet.height);
        painter.translate((width() - sheet.width * scale) / 2, 1);
        painter.fillRect(QRectF(0, 0, sheet.width * scale, sheet.height * scale), Qt::white);
        painter.setPen(theme().line);
        painter.drawRect(QRectF(0, 0, sheet.width * scale, sheet.height * scale));
        drawPage(painter, sheet.pages.front(), scale);
    }

  private:
    LabelsPage& m_page;
};

LabelsPage::LabelsPage(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_title(plainLabel())
    , m_list(plainTable(QStringLiteral("label-list"), tr("Labels"),
                        {tr("Code"), tr("For"), tr("Where"), tr("Copies")}, {76, 170, 150}))
    , m_paper(new QComboBox)
    , m_preview(new Preview(*this)) {
    setObjectName(QStringLiteral("labels"));
    m_title->setObjectName(QStringLiteral("label-title"));
    m_title->setFont(textFont(15, true));
    m_title->setWordWrap(true);
    m_paper->setObjectName(QStringLiteral("paper"));
    m_paper->addItem(tr("A4"));
    m_paper->addItem(tr("Letter"));
    m_paper->setCurrentIndex(isLetterUsual() ? 1 : 0);
    auto* buttons = new QHBoxLayout;
    auto* paperLabel = labelFor(m_paper, tr("Pa&per"));
    buttons->addWidget(paperLabel);
    buttons->addWidget(m_paper);
    const auto add = [&](const QString& name, const QString& text, const QString& tip,
                         const QKeySequence& key, const std::function<void()>& does) {
        buttons->addWidget(keyButton(this, name, text, tip, key, does));
    };
    add(QStringLiteral("save-labels"), tr("Save…  (X)"), tr("As PDF, or as a table for a label printer"),
        Qt::Key_X, [this] { askExport(); });
    add(QStringLiteral("print-labels"), tr("Print…  (Ctrl+P)"), tr("On this computer's printer"),
        Qt::CTRL | Qt::Key_P, [this] { print(); });
    buttons->addStretch();
    auto* row = new QHBoxLayout;
    row->setSpacing(16);
    row->addWidget(m_list, 4);
    row->addWidget(m_preview, 3);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 10, 6);
    layout->addWidget(m_title);
    layout->addLayout(row, 1);
    layout->addLayout(buttons);
    connect(m_paper, &QComboBox::currentIndexChanged, this, &LabelsPage::refresh);
    connect(&m_job, &JobModel::changed, this, &LabelsPage::refresh);
}

report::Paper LabelsPage::paper() const {
    return m_paper->currentIndex() == 1 ? report::Paper::letter : report::Paper::a4;
}

void LabelsPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) refresh();
}

void LabelsPage::refresh() {
    m_isStale = !isVisible();
    if (m_isStale) return;
    m_labels = fit::labelsOf(m_job.house());
    m_sheet = report::labelSheet(m_job.house(), m_labels, paper());
    m_list->setVisible(!m_labels.empty());
    m_list->setRowCount(static_cast<int>(m_labels.size()));
    int copies = 0;
    for (int row = 0; row < m_list->rowCount(); ++row) {
        const fit::Label& l = m_labels[static_cast<std::size_t>(row)];
        copies += l.copies;
        auto* code = plainCell(QString::fromStdString(l.code));
        code->setFont(codeFont(11, true));
        m_list->setItem(row, 0, code);
        m_list->setItem(row, 1, plainCell(QString::fromStdString(l.what)));
        m_list->setItem(row, 2, plainCell(QString::fromStdString(l.where)));
        m_list->setItem(row, 3, plainCell(QString::number(l.copies)));
    }
    if (m_list->currentRow() < 0 && !m_labels.empty()) m_list->setCurrentCell(0, 0);
    m_title->setText(m_labels.empty()
                         ? tr("Nothing to label yet: survey jacks, cables and boxes in Walk.")
                         : tr("%1 labels on %2")
                               .arg(copies)
                               .arg(m_sheet.pages.size() == 1 ? tr("one sheet")
                                                              : tr("%1 sheets").arg(m_sheet.pages.size())));
    m_preview->update();
}

// What is on a label in the house is its code from now on.
void LabelsPage::keepCodes() {
    m_job.apply(tr("label the house"), fit::withCodes(m_job.house(), m_labels));
}

void LabelsPage::askExport() {
    const QString file =
        QFileDialog::getSaveFileName(window(), tr("Save the labels"), QStringLiteral("labels.pdf"),
                                     tr("Sheet (*.pdf);;Table for a label printer (*.csv)"));
    if (!file.isEmpty()) exportTo(file);
}

void LabelsPage::exportTo(const QString& file) {
    refresh();
    std::string text = job::labelsCsv(m_job.house(), m_labels);
    if (file.endsWith(QLatin1String(".pdf"))) {
        auto pdf = report::pdfOf(m_sheet);
        if (!pdf) {
            Q_EMIT said(QString::fromStdString(pdf.error().sentence()), true);
            return;
        }
        text = std::move(*pdf);
    }
    const auto written = job::writeText(file.toStdString(), text);
    if (written) keepCodes();
    Q_EMIT said(written ? tr("Written to %1. The codes stay from now on.").arg(file)
                        : QString::fromStdString(written.error().sentence()),
                !written);
}

void LabelsPage::print() {
    if (m_sheet.pages.empty()) return;
    QPrinter printer(QPrinter::HighResolution);
    printer.setPageSize(QPageSize(paper() == report::Paper::a4 ? QPageSize::A4 : QPageSize::Letter));
    printer.setFullPage(true);
    printer.setDocName(QString::fromStdString(m_sheet.title));
    QPrintDialog dialog(&printer, window());
    if (dialog.exec() != QDialog::Accepted) return;
    QPainter painter(&printer);
    const double scale = printer.resolution() / millimetresPerInch;
    for (std::size_t i = 0; i < m_sheet.pages.size(); ++i) {
        if (i > 0) printer.newPage();
        drawPage(painter, m_sheet.pages[i], scale);
    }
    keepCodes();
}

} // namespace metrodos::desktop
