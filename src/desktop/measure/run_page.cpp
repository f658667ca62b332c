#include "desktop/measure/run_page.h"

#include "benchmark/remarks.h"
#include "benchmark/run_sheet.h"
#include "desktop/widgets/key_button.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/plot_style.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/time_text.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <qcustomplot.h>

namespace metrodos::desktop {
namespace {

QString nameOf(const benchmark::Run& run) {
    QString out = RunPage::tr("%1, %2").arg(momentText(run.startedAt),
                                            run.config.direction == benchmark::Direction::forward
                                                ? RunPage::tr("▸ forward")
                                                : RunPage::tr("◂ backward"));
    out += run.config.protocol == benchmark::Protocol::udp
               ? RunPage::tr(", datagrams at %1").arg(shortRate(run.config.rate.value_or(run.goodput)))
               : counted(run.config.streams, RunPage::tr(", %1 stream"), RunPage::tr(", %1 streams"));
    if (run.simulated) out += RunPage::tr(", simulated");
    if (!run.complete) out += RunPage::tr(", stopped");
    return out;
}

QCPAxisRect* rectBelow(QCustomPlot* plot, int row, QCPMarginGroup* margins, const QString& unit) {
    auto* rect = row == 0 ? plot->axisRect() : new QCPAxisRect(plot);
    if (row > 0) plot->plotLayout()->addElement(row, 0, rect);
    rect->setMarginGroup(QCP::msLeft | QCP::msRight, margins);
    rect->axis(QCPAxis::atLeft)->setLabel(unit);
    rect->axis(QCPAxis::atLeft)->ticker()->setTickCount(3);
    return rect;
}

constexpr double mega = 1e6;

} // namespace

RunPage::RunPage(RouteModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_title(plainLabel())
    , m_plot(new QCustomPlot)
    , m_figures(plainTable(QStringLiteral("run-sheet"), tr("Figures of the run"),
                           {tr("Figure"), tr("This run"), tr("The other")}, {186, 262})) {
    setObjectName(QStringLiteral("run-page"));
    m_title->setObjectName(QStringLiteral("run-title"));
    m_figures->verticalHeader()->setDefaultSectionSize(24);
    m_title->setFont(textFont(13, true));
    m_title->setWordWrap(true);
    auto* margins = new QCPMarginGroup(m_plot);
    m_rate = rectBelow(m_plot, 0, margins, tr("Mbit/s"));
    m_delay = rectBelow(m_plot, 1, margins, tr("ms"));
    m_window = rectBelow(m_plot, 2, margins, tr("kB window"));
    m_window->axis(QCPAxis::atBottom)->setLabel(tr("seconds"));
    m_plot->plotLayout()->setRowStretchFactors({2, 1.4, 1});
    m_plot->plotLayout()->setRowSpacing(2);
    m_plot->setMinimumWidth(300);
    m_plot->setAttribute(Qt::WA_OpaquePaintEvent);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    layout->addWidget(m_title);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(keyButton(this, QStringLiteral("run-older"), tr("Older  (,)"), tr("The run before"),
                                 Qt::Key_Comma, [this] { step(-1); }));
    buttons->addWidget(keyButton(this, QStringLiteral("run-newer"), tr("Newer  (.)"), tr("The run after"),
                                 Qt::Key_Period, [this] { step(1); }));
    buttons->addWidget(
        keyButton(this, QStringLiteral("run-compare"), tr("Beside another  (C)"),
                  tr("Lays the next older run over it, on the same axes; at the end of them none"), Qt::Key_C,
                  [this] { compare(); }));
    buttons->addStretch();
    layout->addLayout(buttons);
    auto* body = new QHBoxLayout;
    body->addWidget(m_plot, 2);
    body->addWidget(m_figures, 3);
    layout->addLayout(body, 1);
    restyle();
    connect(&m_model, &RouteModel::changed, this, [this] {
        if (isVisible()) fill();
    });
}

void RunPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    fill();
}

const benchmark::Run* RunPage::run(const std::string& id) const {
    const auto& runs = m_model.runs();
    const auto it =
        std::find_if(runs.begin(), runs.end(), [&](const benchmark::Run& r) { return r.id == id; });
    return it == runs.end() ? nullptr : &*it;
}

void RunPage::showRun(const std::string& id) {
    m_shown = id;
    m_other.clear();
    fill();
    m_figures->setFocus();
}

QString RunPage::text() const {
    QStringList lines{m_title->text()};
    for (int row = 0; row < m_figures->rowCount(); ++row) {
        QStringList cells;
        for (int column = 0; column < m_figures->columnCount(); ++column)
            if (const auto* item = m_figures->item(row, column)) cells << item->text();
        lines << cells.join(QStringLiteral(" | "));
    }
    return lines.join(QLatin1Char('\n'));
}

void RunPage::step(int by) {
    const auto& runs = m_model.runs();
    const benchmark::Run* shown = run(m_shown);
    if (shown == nullptr) return Q_EMIT said(tr("This way has no run yet: Space makes one."), true);
    const auto at = shown - runs.data() + by;
    if (at < 0 || at >= static_cast<std::ptrdiff_t>(runs.size()))
        return Q_EMIT said(by < 0 ? tr("This is the first run.") : tr("This is the newest run."), false);
    showRun(runs[static_cast<std::size_t>(at)].id);
}

void RunPage::compare() {
    const benchmark::Run* shown = run(m_shown);
    if (shown == nullptr) return Q_EMIT said(tr("This way has no run yet: Space makes one."), true);
    // Of its direction, the newest before it first; then those after it; then none.
    std::vector<std::string> others;
    const auto& runs = m_model.runs();
    const auto at = static_cast<std::size_t>(shown - runs.data());
    for (std::size_t i = at; i-- > 0;)
        if (runs[i].config.direction == shown->config.direction) others.push_back(runs[i].id);
    for (std::size_t i = runs.size(); --i > at;)
        if (runs[i].config.direction == shown->config.direction) others.push_back(runs[i].id);
    if (others.empty()) return Q_EMIT said(tr("There is no other run of this direction."), true);
    auto next = std::find(others.begin(), others.end(), m_other);
    next = next == others.end() ? others.begin() : next + 1;
    m_other = next == others.end() ? std::string() : *next;
    fill();
    Q_EMIT said(m_other.empty() ? tr("By itself again.") : tr("Dashed: %1").arg(nameOf(*run(m_other))),
                false);
}

void RunPage::fill() {
    const benchmark::Run* shown = run(m_shown);
    if (shown == nullptr && !m_model.runs().empty()) {
        shown = &m_model.runs().back();
        m_shown = shown->id;
    }
    const benchmark::Run* other = shown == nullptr ? nullptr : run(m_other);
    if (other == nullptr) m_other.clear();
    m_plot->clearGraphs();
    m_plot->clearItems();
    m_plot->setVisible(shown != nullptr);
    m_figures->setVisible(shown != nullptr);
    if (shown == nullptr) {
        m_title->setText(
            tr("This way has no run yet. Space makes one; then everything that was taken of it stands "
               "here."));
        m_figures->setRowCount(0);
        return;
    }
    m_title->setText(other == nullptr
                         ? nameOf(*shown)
                         : tr("%1  –  beside it, dashed: %2").arg(nameOf(*shown), nameOf(*other)));
    for (double& most : m_most)
        most = 0;
    if (other != nullptr) draw(*other, true);
    draw(*shown, false);
    setRanges(std::max(shown->seconds, other != nullptr ? other->seconds : 0));
    std::optional<quantity::BitRate> expected;
    if (const auto& p = m_model.prediction(); p && shown->showsCeiling())
        expected =
            shown->config.direction == benchmark::Direction::forward ? p->forward.p50 : p->backward.p50;
    const auto sheet = benchmark::sheetOf(*shown, expected);
    const auto pairs = benchmark::beside(sheet, other != nullptr ? benchmark::sheetOf(*other, expected)
                                                                 : std::vector<benchmark::SheetGroup>{});
    m_figures->setColumnHidden(2, other == nullptr);
    m_figures->setRowCount(0);
    std::string group;
    for (const benchmark::SheetPair& p : pairs) {
        if (p.group != group) {
            group = p.group;
            const int head = m_figures->rowCount();
            m_figures->insertRow(head);
            auto* cell = plainCell(QString::fromStdString(group));
            cell->setFont(textFont(10, true));
            m_figures->setItem(head, 0, cell);
        }
        const int row = m_figures->rowCount();
        m_figures->insertRow(row);
        const QString meaning = QString::fromStdString(p.meaning);
        const std::string* cells[] = {&p.name, &p.first, &p.second};
        for (int column = 0; column < 3; ++column) {
            auto* cell = plainCell(QString::fromStdString(*cells[column]));
            if (!meaning.isEmpty()) cell->setToolTip(plainTip(cell->text() + QStringLiteral(": ") + meaning));
            m_figures->setItem(row, column, cell);
        }
    }
    m_figures->setAccessibleDescription(text());
}

// Streams thin, all together thick; what was left out as warm-up is hatched, spikes have a line down.
void RunPage::draw(const benchmark::Run& run, bool isOther) {
    const Theme& t = theme();
    const Qt::PenStyle style = isOther ? Qt::DashLine : Qt::SolidLine;
    const auto graph = [this](QCPAxisRect* rect, const QPen& pen) {
        QCPGraph* g = m_plot->addGraph(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
        g->setPen(pen);
        return g;
    };
    std::vector<QCPGraph*> streams;
    QCPGraph* rate = graph(m_rate, QPen(t.cool, 2, style));
    QCPGraph* delay = graph(m_delay, QPen(t.ink, 1.4, style));
    QCPGraph* window = graph(m_window, QPen(t.ink, 1.2, style));
    for (const benchmark::Sample& s : run.samples) {
        rate->addData(s.t, s.goodputBps / mega);
        m_most[0] = std::max(m_most[0], s.goodputBps / mega);
        if (!isOther)
            for (std::size_t i = 0; i < s.streamBps.size(); ++i) {
                if (i >= streams.size()) streams.push_back(graph(m_rate, QPen(t.cool, 0.7)));
                streams[i]->addData(s.t, s.streamBps[i] / mega);
            }
        if (s.rttUs) {
            delay->addData(s.t, *s.rttUs / 1000);
            m_most[1] = std::max(m_most[1], *s.rttUs / 1000);
        }
        if (s.windowBytes) {
            window->addData(s.t, *s.windowBytes / 1000);
            m_most[2] = std::max(m_most[2], *s.windowBytes / 1000);
        }
    }
    if (isOther) return;
    const auto level = [&](QCPAxisRect* rect, double value, const QString& name) {
        auto* line = new QCPItemStraightLine(m_plot);
        for (QCPItemPosition* p : {line->point1, line->point2}) {
            p->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
            p->setAxisRect(rect);
        }
        line->setClipAxisRect(rect);
        line->point1->setCoords(0, value);
        line->point2->setCoords(1, value);
        line->setPen(QPen(t.quiet, 1, Qt::DotLine));
        auto* label = new QCPItemText(m_plot);
        label->position->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
        label->position->setAxisRect(rect);
        label->setClipAxisRect(rect);
        label->position->setCoords(0, value);
        label->setPositionAlignment(Qt::AlignLeft | Qt::AlignBottom);
        label->setPadding({0, 0, 0, 2});
        label->setText(name);
        label->setFont(textFont(8));
        label->setColor(t.ink);
    };
    if (run.rttIdleUs) level(m_delay, run.rttIdleUs->p50 / 1000, tr(" idle"));
    if (const auto needed = benchmark::bandwidthDelayBytes(run); needed && m_most[2] > 0) {
        m_most[2] = std::max(m_most[2], *needed / 1000);
        level(m_window, *needed / 1000, tr(" bandwidth × delay"));
    }
    QCPGraph* spikes = graph(m_delay, Qt::NoPen);
    spikes->setLineStyle(QCPGraph::lsImpulse);
    spikes->setPen(QPen(t.ink, 0.8, Qt::DotLine));
    spikes->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssTriangleInverted, t.ink, t.panel, 7));
    for (const benchmark::DelaySpike& s : run.spikes) {
        spikes->addData(s.t, s.rttUs / 1000);
        m_most[1] = std::max(m_most[1], s.rttUs / 1000);
    }
    if (run.warmupSeconds > 0) {
        auto* left = new QCPItemRect(m_plot);
        left->topLeft->setCoords(0, 1e9);
        left->bottomRight->setCoords(run.warmupSeconds, 0);
        left->setPen(Qt::NoPen);
        left->setBrush(QBrush(t.line, Qt::BDiagPattern));
    }
}

void RunPage::setRanges(double seconds) {
    int row = 0;
    for (QCPAxisRect* rect : {m_rate, m_delay, m_window}) {
        rect->axis(QCPAxis::atBottom)->setRange(0, std::max(seconds, 0.5));
        rect->axis(QCPAxis::atLeft)->setRange(0, std::max(m_most[row], 1e-3) * 1.15);
        rect->axis(QCPAxis::atBottom)->setTickLabels(rect == m_window || (rect == m_delay && m_most[2] <= 0));
        ++row;
    }
    // Without the kernel's figures of a sender there is no window to draw.
    m_window->setVisible(m_most[2] > 0);
    m_plot->plotLayout()->setRowStretchFactors({2, 1.4, m_most[2] > 0 ? 1 : 0.01});
    m_plot->replot();
}

void RunPage::restyle() {
    const Theme& t = theme();
    m_plot->setBackground(t.panel);
    for (QCPAxisRect* rect : {m_rate, m_delay, m_window})
        for (QCPAxis* axis : rect->axes())
            styleAxis(axis, t.quiet, 7.5, 8);
    if (isVisible()) fill();
}

} // namespace metrodos::desktop
