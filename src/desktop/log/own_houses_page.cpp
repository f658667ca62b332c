#include "desktop/log/own_houses_page.h"

#include "desktop/widgets/ask_file.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QScrollArea>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

constexpr double plotLeft = 44;
constexpr double plotBottom = 34;
constexpr double plotMargin = 12;
constexpr int mostStatements = 200; // in words, below the curve

QString fateText(benchmark::Fate fate) {
    switch (fate) {
    case benchmark::Fate::held:
        return OwnHousesPage::tr("held");
    case benchmark::Fate::refuted:
        return OwnHousesPage::tr("did not hold");
    case benchmark::Fate::open:
        break;
    }
    return OwnHousesPage::tr("open");
}

} // namespace

CalibrationPlot::CalibrationPlot(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("calibration"));
    setMinimumSize(220, 180);
}

void CalibrationPlot::setCalibration(std::vector<benchmark::Calibration> spans) {
    m_spans = std::move(spans);
    QStringList texts;
    for (const benchmark::Calibration& c : m_spans)
        texts << tr("said %1, held %2 of %3").arg(percentText(c.meanSaid)).arg(c.held).arg(c.count);
    setAccessibleName(texts.join(QStringLiteral("; ")));
    update();
}

void CalibrationPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double side = std::min(width() - plotLeft - plotMargin, height() - plotBottom - plotMargin);
    const QRectF area(plotLeft, plotMargin, side, side);
    p.fillRect(area, theme().panel);
    p.setFont(figureFont(9));
    const auto at = [&](double said, double held) {
        return QPointF(area.left() + said * area.width(), area.bottom() - held * area.height());
    };
    for (const double share : {0.0, 0.5, 1.0}) {
        p.setPen(QPen(theme().line, 1));
        p.drawLine(at(share, 0), at(share, 1));
        p.drawLine(at(0, share), at(1, share));
        p.setPen(theme().quiet);
        p.drawText(QRectF(0, at(0, share).y() - 8, plotLeft - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
                   tr("%1 %").arg(share * 100));
        p.drawText(QRectF(at(share, 0).x() - 24, area.bottom() + 2, 48, 14), Qt::AlignCenter,
                   tr("%1 %").arg(share * 100));
    }
    p.drawText(QRectF(area.left(), area.bottom() + 16, area.width(), 16), Qt::AlignCenter,
               tr("said; held upwards"));
    // What was said is what came about.
    p.setPen(QPen(theme().quiet, 1, Qt::DashLine));
    p.drawLine(at(0, 0), at(1, 1));
    p.setPen(QPen(theme().ink, 1.5));
    p.setBrush(theme().ink);
    for (const benchmark::Calibration& c : m_spans) {
        const QPointF centre = at(c.meanSaid, static_cast<double>(c.held) / c.count);
        p.drawLine(at(c.meanSaid, c.low), at(c.meanSaid, c.high));
        p.drawRect(QRectF(centre - QPointF(3.5, 3.5), QSizeF(7, 7)));
        p.drawText(centre + QPointF(7, 15), QString::number(c.count));
    }
}

OwnHousesPage::OwnHousesPage(LibraryModel& library, QWidget* parent)
    : QWidget(parent)
    , m_library(library)
    , m_used(new QCheckBox(tr("Predictions &use these ranges  (U)")))
    , m_figures(new RangeList)
    , m_detail(plainLabel())
    , m_plot(new CalibrationPlot)
    , m_statements(plainLabel()) {
    setObjectName(QStringLiteral("houses"));
    m_used->setObjectName(QStringLiteral("houses-used"));
    m_used->setToolTip(tr("Of this machine, for every job, until it is taken back; each figure says so"));
    m_figures->setObjectName(QStringLiteral("houses-figures"));
    m_figures->setAccessibleName(tr("What one's own houses say of each class"));
    m_figures->setEmptyText(
        tr("No pair of adapters with a known class and surroundings was measured in these jobs yet."));
    m_detail->setObjectName(QStringLiteral("houses-detail"));
    m_detail->setWordWrap(true);
    m_detail->setMinimumHeight(54);
    m_statements->setObjectName(QStringLiteral("houses-statements"));
    m_statements->setWordWrap(true);
    m_statements->setAlignment(Qt::AlignTop);
    auto* top = new QHBoxLayout;
    top->addWidget(m_used);
    auto* legend = plainLabel(
        tr("Upper bar: the catalog. Lower bar and figure: refined by these houses. Mark: their median."));
    legend->setObjectName(QStringLiteral("quiet"));
    legend->setWordWrap(true);
    top->addWidget(legend, 1);
    top->addWidget(keyButton(this, QStringLiteral("houses-export"), tr("Save figures…  (E)"),
                             tr("Figures only, without a word of whose houses they are"), Qt::Key_E,
                             [this] { askForFile(true); }));
    top->addWidget(keyButton(this, QStringLiteral("houses-import"), tr("Take over figures…  (I)"),
                             tr("Of somebody else's houses, saved in the same way"), Qt::Key_I,
                             [this] { askForFile(false); }));
    auto* said = new QVBoxLayout;
    auto* title = plainLabel(tr("How good our statements were"));
    title->setFont(textFont(12, true));
    title->setWordWrap(true);
    said->addWidget(title);
    said->addWidget(m_plot);
    auto* scroll = new QScrollArea;
    scroll->setObjectName(QStringLiteral("houses-scroll"));
    scroll->setAccessibleName(tr("Statements, the newest first"));
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setWidget(m_statements);
    said->addWidget(scroll, 1);
    auto* figures = new QVBoxLayout;
    figures->addWidget(m_figures, 1);
    figures->addWidget(m_detail);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(14);
    middle->addLayout(figures, 3);
    middle->addLayout(said, 1);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 10, 6);
    layout->addLayout(top);
    layout->addLayout(middle, 1);
    connect(m_used, &QCheckBox::clicked, &m_library, &LibraryModel::setUsed);
    auto* use = new QShortcut(Qt::Key_U, this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
    connect(use, &QShortcut::activated, m_used, &QCheckBox::click);
    connect(m_figures, &RangeList::chosen, this, [this](int row) {
        m_detail->setText(row < 0 ? QString() : m_figures->rows()[static_cast<std::size_t>(row)].id);
    });
    connect(&m_library, &LibraryModel::changed, this, &OwnHousesPage::fill);
    connect(&m_library, &LibraryModel::problem, this,
            [this](const QString& text) { Q_EMIT OwnHousesPage::said(text, true); });
    fill();
}

void OwnHousesPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (!m_isRead) m_library.refresh();
    m_isRead = true;
}

void OwnHousesPage::fill() {
    const QSignalBlocker quiet(m_used);
    m_used->setChecked(m_library.isUsed());
    std::vector<RangeRow> rows;
    for (const job::ClassFigures& f : m_library.contents().figures) {
        RangeRow row;
        row.title = QString::fromStdString(f.label);
        row.forward = f.catalogue; // as the catalog has it; below it, refined by these houses
        row.backward = f.refined;
        row.measured = f.median;
        row.figure = f.refined.p50;
        const auto houses = static_cast<int>(f.experience.houses.size());
        row.detail = counted(f.pairs + f.atLeast, tr("%1 pair"), tr("%1 pairs")) +
                     counted(houses, tr(" in %1 house"), tr(" in %1 houses"));
        if (f.median && f.tenth)
            row.detail += tr(", median %1, tenth %2").arg(rateText(*f.median), rateText(*f.tenth));
        // The whole evidence, for below.
        row.id = tr("%1. Catalog: %2; refined: %3.")
                     .arg(row.title + QStringLiteral(": ") + row.detail, rangeText(f.catalogue),
                          rangeText(f.refined));
        if (f.atLeast > 0)
            row.id +=
                QLatin1Char(' ') +
                counted(
                    f.atLeast,
                    tr("Of %1 pair only “at least so much” is known, since something else held it back."),
                    tr("Of %1 pairs only “at least so much” is known, since something else held them back."));
        rows.push_back(std::move(row));
    }
    m_figures->setRows(std::move(rows));
    if (!m_figures->rows().empty()) {
        m_figures->setCurrent(std::max(m_figures->current(), 0));
        m_detail->setText(m_figures->rows()[static_cast<std::size_t>(m_figures->current())].id);
    } else {
        m_detail->clear();
    }
    std::vector<benchmark::Statement> statements = m_library.contents().statements;
    std::stable_sort(
        statements.begin(), statements.end(),
        [](const benchmark::Statement& a, const benchmark::Statement& b) { return a.at > b.at; });
    const auto spans = benchmark::calibrationOf(statements);
    m_plot->setCalibration(spans);
    QStringList lines{capitalised(benchmark::sentenceOf(spans)) + QLatin1Char('.')};
    for (const benchmark::Statement& s : statements)
        lines << tr("%1, said %2: %3; %4.")
                     .arg(capitalised(s.text), percentText(s.said), fateText(s.fate),
                          QString::fromStdString(s.sentence));
    m_statements->setText(lines.mid(0, 1 + mostStatements).join(QLatin1Char('\n')));
}

void OwnHousesPage::askForFile(bool isExport) {
    askFile(this, isExport ? tr("Save the figures") : tr("Take over figures"),
            isExport ? QStringLiteral("houses.json") : QString(), tr("Figures (*.json)"),
            [this, isExport](const QString& file) { isExport ? exportTo(file) : importFrom(file); });
}

void OwnHousesPage::exportTo(const QString& file) {
    const auto written = m_library.exportFigures(file.toStdString());
    Q_EMIT said(written ? tr("The figures are in %1, without a word of whose houses they are.").arg(file)
                        : QString::fromStdString(written.error().sentence()),
                !written);
}

void OwnHousesPage::importFrom(const QString& file) {
    const auto read = m_library.importFigures(file.toStdString());
    Q_EMIT said(read ? counted(static_cast<int>(*read), tr("Figures of %1 class and situation taken over."),
                               tr("Figures of %1 classes and situations taken over."))
                     : QString::fromStdString(read.error().sentence()),
                !read);
}

QString OwnHousesPage::sentence() const {
    if (!m_library.progress().isEmpty()) return tr("Reading the library: %1 …").arg(m_library.progress());
    const auto n = static_cast<int>(m_library.contents().figures.size());
    return (m_library.isUsed()
                ? tr("Predictions use %1 of your own houses; U takes that back.")
                : tr("Predictions use the catalog alone; U has them use %1 of your own houses."))
        .arg(counted(n, tr("%1 range"), tr("%1 ranges")));
}

} // namespace metrodos::desktop
