#include "desktop/measure/run_plot.h"

#include "desktop/widgets/plot_style.h"

#include <QElapsedTimer>
#include <QVBoxLayout>
#include <qcustomplot.h>

namespace metrodos::desktop {
namespace {

int graphOf(benchmark::Direction d) {
    return d == benchmark::Direction::forward ? 0 : 1;
}

// "4 s" at the ticks, which saves a line of height for a label.
class SecondsTicker : public QCPAxisTicker {
  protected:
    QString getTickLabel(double tick, const QLocale& locale, QChar format, int precision) override {
        return RunPlot::tr("%1 s").arg(QCPAxisTicker::getTickLabel(tick, locale, format, precision));
    }
};

} // namespace

RunPlot::RunPlot(QWidget* parent)
    : QWidget(parent)
    , m_plot(new QCustomPlot) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(m_plot);
    setMinimumHeight(104);
    m_plot->setAttribute(Qt::WA_OpaquePaintEvent);
    m_delay = new QCPAxisRect(m_plot);
    m_plot->plotLayout()->addElement(1, 0, m_delay);
    m_plot->plotLayout()->setRowStretchFactors({2.2, 1});
    m_plot->plotLayout()->setRowSpacing(2);
    auto* margins = new QCPMarginGroup(m_plot);
    for (QCPAxisRect* rect : {m_plot->axisRect(), m_delay})
        rect->setMarginGroup(QCP::msLeft | QCP::msRight, margins);
    for (int i = 0; i < 2; ++i) {
        m_rate[i] = m_plot->addGraph();
        m_rtt[i] = m_plot->addGraph(m_delay->axis(QCPAxis::atBottom), m_delay->axis(QCPAxis::atLeft));
    }
    m_warmup = new QCPItemRect(m_plot);
    m_warmup->setVisible(false);
    m_warmup->topLeft->setType(QCPItemPosition::ptPlotCoords);
    m_plot->yAxis->setLabel(tr("Mbit/s"));
    m_delay->axis(QCPAxis::atLeft)->setLabel(tr("ms"));
    m_delay->axis(QCPAxis::atBottom)->setTicker(QSharedPointer<SecondsTicker>::create());
    m_plot->xAxis->setTickLabels(false);
    m_plot->yAxis->ticker()->setTickCount(3);
    m_delay->axis(QCPAxis::atLeft)->ticker()->setTickCount(2);
    restyle();
    clear();
}

void RunPlot::restyle() {
    const Theme& t = theme();
    m_plot->setBackground(t.panel);
    for (QCPAxisRect* rect : {m_plot->axisRect(), m_delay})
        for (QCPAxis* axis : rect->axes())
            styleAxis(axis, t.quiet, 7.5, 8);
    for (int i = 0; i < 2; ++i) {
        const QPen pen(t.cool, 2, i == 0 ? Qt::SolidLine : Qt::DashLine);
        m_rate[i]->setPen(pen);
        m_rtt[i]->setPen(QPen(t.ink, 1.3, i == 0 ? Qt::SolidLine : Qt::DashLine));
    }
    m_warmup->setPen(Qt::NoPen);
    m_warmup->setBrush(QBrush(t.line, Qt::BDiagPattern));
    m_plot->replot();
}

void RunPlot::clear() {
    for (int i = 0; i < 2; ++i) {
        m_rate[i]->data()->clear();
        m_rtt[i]->data()->clear();
    }
    m_warmup->setVisible(false);
    redraw();
}

void RunPlot::begin(benchmark::Direction direction, double seconds) {
    m_seconds = seconds;
    m_slowest = 0;
    m_rate[graphOf(direction)]->data()->clear();
    m_rtt[graphOf(direction)]->data()->clear();
    m_warmup->setVisible(false);
    redraw();
}

void RunPlot::add(benchmark::Direction direction, const benchmark::Sample& sample) {
    QElapsedTimer timer;
    timer.start();
    m_rate[graphOf(direction)]->addData(sample.t, sample.goodputBps / 1e6);
    if (sample.rttUs) m_rtt[graphOf(direction)]->addData(sample.t, *sample.rttUs / 1000);
    redraw();
    m_slowest = std::max(m_slowest, static_cast<double>(timer.nsecsElapsed()) / 1e6);
}

void RunPlot::showRun(const benchmark::Run& run) {
    const int i = graphOf(run.config.direction);
    m_seconds = std::max(run.seconds, 1.0);
    m_rate[i]->data()->clear();
    m_rtt[i]->data()->clear();
    for (const benchmark::Sample& sample : run.samples) {
        m_rate[i]->addData(sample.t, sample.goodputBps / 1e6);
        if (sample.rttUs) m_rtt[i]->addData(sample.t, *sample.rttUs / 1000);
    }
    m_warmup->setVisible(run.warmupSeconds > 0);
    m_warmup->topLeft->setCoords(0, 1e9);
    m_warmup->bottomRight->setCoords(run.warmupSeconds, 0);
    redraw();
}

void RunPlot::redraw() {
    double top = 1;
    double slow = 1;
    for (int i = 0; i < 2; ++i) {
        for (const QCPGraphData& point : *m_rate[i]->data())
            top = std::max(top, point.value);
        for (const QCPGraphData& point : *m_rtt[i]->data())
            slow = std::max(slow, point.value);
    }
    m_plot->xAxis->setRange(0, m_seconds);
    m_delay->axis(QCPAxis::atBottom)->setRange(0, m_seconds);
    m_plot->yAxis->setRange(0, top * 1.12);
    m_delay->axis(QCPAxis::atLeft)->setRange(0, slow * 1.15);
    m_plot->replot(QCustomPlot::rpImmediateRefresh);
}

} // namespace metrodos::desktop
