#include "desktop/weigh/weigh_charts.h"

#include "desktop/weigh/weigh_model.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/plot_style.h"
#include "desktop/widgets/rate_text.h"
#include "weigh/compare.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr double maxHeadroomShown = 100; // beyond it nobody asks how much more

// Anew each time, since the scheme may have changed.
void stylePlot(QCustomPlot* plot) {
    plot->setBackground(theme().panel);
    for (QCPAxis* axis : plot->axisRect()->axes())
        styleAxis(axis, theme().ink, 9, 10);
}

// Media are told apart by the pattern of their lines, never by colour alone.
QPen penOf(int line) {
    static const std::vector<QVector<qreal>> patterns{
        {}, {6, 3}, {1, 2.5}, {8, 3, 1.5, 3}, {3, 2}, {12, 3}, {1, 2, 1, 2, 6, 2}, {2, 4}, {10, 2, 2, 2}};
    QPen pen(theme().ink, 1.8);
    const auto& pattern = patterns[static_cast<std::size_t>(line) % patterns.size()];
    if (!pattern.isEmpty()) pen.setDashPattern(pattern);
    return pen;
}

} // namespace

FrontChart::FrontChart(WeighModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_plot(new QCustomPlot)
    , m_words(plainLabel()) {
    setObjectName(QStringLiteral("front"));
    setAccessibleName(tr("Cost against headroom of the plans"));
    setFocusPolicy(Qt::StrongFocus);
    m_words->setWordWrap(true);
    m_words->setObjectName(QStringLiteral("frontWords"));
    m_words->setMargin(4);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(6, 6, 6, 2);
    layout->addWidget(m_plot, 1);
    layout->addWidget(m_words);
    m_plot->yAxis->setScaleType(QCPAxis::stLogarithmic);
    m_plot->yAxis->setTicker(QSharedPointer<QCPAxisTickerLog>::create());
    m_plot->yAxis->setNumberFormat(QStringLiteral("gb"));
    m_plot->yAxis->setNumberPrecision(3);
    m_plot->yAxis->setLabel(tr("tightest need: times it could grow"));
    connect(m_plot, &QCustomPlot::mousePress, this, [this](const QMouseEvent* event) {
        setFocus();
        openNearest(event->position());
    });
}

void FrontChart::fill() {
    m_points.clear();
    for (const std::string& id : m_model.weighed().front)
        if (const weigh::Plan* p = m_model.plan(id))
            m_points.push_back({p->cost.inUnits(), std::clamp(p->headroom, 0.01, maxHeadroomShown), id});
    stylePlot(m_plot);
    m_plot->clearPlottables();
    m_plot->clearItems();
    m_plot->xAxis->setLabel(tr("cost, %1").arg(QString::fromStdString(m_model.book().currency)));
    auto* line = m_plot->addGraph();
    line->setPen(QPen(theme().quiet, 1.2, Qt::DashLine));
    line->setLineStyle(QCPGraph::lsStepLeft);
    QCPScatterStyle open(QCPScatterStyle::ssCircle, 9);
    open.setPen(QPen(theme().ink, 1.6));
    open.setBrush(theme().panel);
    line->setScatterStyle(open);
    double low = 1e18;
    double high = 0;
    double top = 1;
    for (const Point& p : m_points) {
        line->addData(p.cost, p.headroom);
        low = std::min(low, p.cost);
        high = std::max(high, p.cost);
        top = std::max(top, p.headroom);
    }
    if (m_points.empty()) {
        m_words->setText(tr("Cost against headroom appears here once the house has been weighed."));
        m_plot->replot();
        return;
    }
    // The plan that is looked at, wherever it lies.
    if (const weigh::Plan* here = m_model.plan()) {
        auto* mark = m_plot->addGraph();
        mark->setLineStyle(QCPGraph::lsNone);
        QCPScatterStyle full(QCPScatterStyle::ssDisc, 13);
        full.setPen(QPen(theme().ink, 2));
        full.setBrush(theme().ink);
        mark->setScatterStyle(full);
        mark->addData(here->cost.inUnits(), std::clamp(here->headroom, 0.01, maxHeadroomShown));
        low = std::min(low, here->cost.inUnits());
        high = std::max(high, here->cost.inUnits());
        m_words->setText(
            tr("Open: %1, %2, tightest need %3 times. Left and right go along the line; what lies to the "
               "left costs less, what lies higher leaves more room.")
                .arg(QString::fromStdString(here->label),
                     QString::fromStdString(weigh::amount(m_model.prices(), here->cost)),
                     QLocale().toString(here->headroom, 'g', 3)));
    }
    const double margin = std::max((high - low) * 0.08, 20.0);
    m_plot->xAxis->setRange(low - margin, high + margin);
    m_plot->yAxis->setRange(0.8, std::max(top * 1.4, 3.0));
    m_plot->replot();
}

void FrontChart::openNearest(const QPointF& at) {
    double best = 40 * 40; // points: further off nothing was meant
    std::string plan;
    for (const Point& p : m_points) {
        const double dx = m_plot->xAxis->coordToPixel(p.cost) - at.x();
        const double dy = m_plot->yAxis->coordToPixel(p.headroom) - at.y();
        if (dx * dx + dy * dy >= best) continue;
        best = dx * dx + dy * dy;
        plan = p.plan;
    }
    if (!plan.empty()) m_model.open(plan);
}

void FrontChart::keyPressEvent(QKeyEvent* event) {
    const int step = event->key() == Qt::Key_Left ? -1 : event->key() == Qt::Key_Right ? 1 : 0;
    if (step == 0 || m_points.empty()) {
        QWidget::keyPressEvent(event);
        return;
    }
    const weigh::Plan* here = m_model.plan();
    const auto it = std::find_if(m_points.begin(), m_points.end(),
                                 [&](const Point& p) { return here != nullptr && p.plan == here->id; });
    const auto last = static_cast<std::ptrdiff_t>(m_points.size()) - 1;
    const auto at = it == m_points.end()
                        ? (step > 0 ? 0 : last)
                        : std::clamp((it - m_points.begin()) + step, std::ptrdiff_t{0}, last);
    m_model.open(m_points[static_cast<std::size_t>(at)].plan);
}

GrowthChart::GrowthChart(WeighModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_rooms(new QCustomPlot)
    , m_years(new QCustomPlot)
    , m_words(plainLabel()) {
    setObjectName(QStringLiteral("growth"));
    m_words->setWordWrap(true);
    m_words->setMargin(4);
    auto* plots = new QHBoxLayout;
    plots->addWidget(m_rooms, 1);
    plots->addWidget(m_years, 1);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(6, 6, 6, 2);
    layout->addLayout(plots, 1);
    layout->addWidget(m_words);
}

QString GrowthChart::words() const {
    return m_words->text();
}

void GrowthChart::fill() {
    const weigh::Options* options = m_model.options();
    if (options == nullptr) return;
    const int rooms = std::max(1, static_cast<int>(options->spots.size()));
    const int years = m_model.job().house().weighing.years;
    m_growth = weigh::growthOf(*options, m_model.prices(), rooms, years);
    draw(m_rooms, &weigh::GrowthLine::byRooms,
         counted(years, tr("rooms, over %1 year"), tr("rooms, over %1 years")));
    draw(m_years, &weigh::GrowthLine::byYears,
         counted(rooms, tr("years, with %1 room"), tr("years, with %1 rooms")));
    const auto labelOf = [&](const std::string& way) {
        const catalog::WayClass* cls = m_model.job().catalog().planning.way(way);
        return cls == nullptr ? QString::fromStdString(way) : QString::fromStdString(cls->brief);
    };
    QStringList said;
    for (const weigh::Crossing& c : m_growth.overRooms)
        said << tr("from %1 rooms on %2 is cheaper than %3")
                    .arg(c.at)
                    .arg(labelOf(c.after), labelOf(c.before));
    for (const weigh::Crossing& c : m_growth.overYears)
        said << tr("from %1 years on %2 is cheaper than %3")
                    .arg(c.at)
                    .arg(labelOf(c.after), labelOf(c.before));
    m_words->setText(said.isEmpty() ? tr("Of the ways that reach every spot the cheapest stays the cheapest.")
                                    : tr("Cost lines cross: %1.").arg(said.join(QStringLiteral("; "))));
}

void GrowthChart::draw(QCustomPlot* p, std::vector<weigh::Money> weigh::GrowthLine::*values,
                       const QString& axis) {
    stylePlot(p);
    p->clearPlottables();
    p->clearItems();
    constexpr int nameWidth = 72;
    p->axisRect()->setAutoMargins(QCP::msLeft | QCP::msBottom);
    p->axisRect()->setMargins(QMargins(0, 12, nameWidth, 0));
    p->xAxis->setLabel(axis);
    p->yAxis->setLabel(QString::fromStdString(m_model.book().currency));
    double top = 1;
    std::size_t count = 1;
    std::vector<std::pair<double, QString>> ends;
    for (std::size_t i = 0; i < m_growth.lines.size(); ++i) {
        const weigh::GrowthLine& line = m_growth.lines[i];
        auto* graph = p->addGraph();
        graph->setPen(penOf(static_cast<int>(i)));
        count = (line.*values).size();
        for (std::size_t n = 0; n < count; ++n) {
            const double y = (line.*values)[n].inUnits();
            graph->addData(static_cast<double>(n) + 1, y);
            top = std::max(top, y);
        }
        const catalog::WayClass* cls = m_model.job().catalog().planning.way(line.way);
        ends.emplace_back((line.*values).back().inUnits(), cls == nullptr
                                                               ? QString::fromStdString(line.way)
                                                               : QString::fromStdString(cls->brief));
    }
    // Names at the ends of the lines, pushed apart where they would lie over each other.
    std::sort(ends.begin(), ends.end());
    double before = -1e18;
    const double apart = top * 1.1 / 17;
    for (auto& [y, text] : ends) {
        auto* name = new QCPItemText(p);
        const double at = std::max(y, before + apart);
        before = at;
        name->position->setCoords(static_cast<double>(count) + 0.2, at);
        name->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        name->setText(text);
        name->setClipToAxisRect(false);
        name->setFont(textFont(8.5));
        name->setColor(theme().ink);
    }
    const QSharedPointer<QCPAxisTickerFixed> whole(new QCPAxisTickerFixed);
    whole->setTickStep(count > 15 ? 5 : 2);
    p->xAxis->setTicker(whole);
    p->xAxis->setRange(0.5, static_cast<double>(count) + 0.2);
    p->yAxis->setRange(0, std::max(top, before) * 1.1);
    p->replot();
}

} // namespace metrodos::desktop
