#include "desktop/measure/watch_page.h"

#include "desktop/measure/test_fields.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "probe/watch.h"
#include "quantity/parse.h"

#include <QPainter>
#include <algorithm>
#include <chrono>

namespace metrodos::desktop {
namespace {

using benchmark::Direction;
using nlohmann::json;
using quantity::BitRate;

QString spanText(double seconds) {
    return QString::fromStdString(benchmark::spanWords(seconds));
}

// One unit for all marks of an axis.
struct Unit {
    double seconds;
    QString name;
};
Unit unitFor(double whole) {
    if (whole < 120) return {1, WatchPage::tr("s")};
    if (whole < 2.0 * 3600) return {60, WatchPage::tr("min")};
    return {3600, WatchPage::tr("h")};
}

} // namespace

WatchPage::WatchPage(RouteModel& model, AccessTo access)
    : TestPage(
          model, std::move(access), QStringLiteral("watch"),
          tr("Press Space and leave it: a low-rate stream runs over the route for hours, and every gap in it "
             "is kept with its time. The watch carries on when a cable is pulled, an agent restarts or this "
             "machine sleeps.")) {
    m_direction =
        choice(QStringLiteral("watch-direction"), {{tr("forward"), static_cast<int>(Direction::forward)},
                                                   {tr("backward"), static_cast<int>(Direction::backward)}});
    addField({}, m_direction);
    m_load = choice(QStringLiteral("watch-load"), {{tr("a low-rate stream, 200 kbit/s"), 200e3},
                                                   {tr("like a call, 2 Mbit/s"), 2e6},
                                                   {tr("at full rate"), 0.0}});
    addField({}, m_load);
    m_lasting =
        entry(QStringLiteral("watch-for"), QStringLiteral("8 h"), tr("How long, like 30 min or 8 h"), 76);
    addField(tr("&for"), m_lasting);
}

quantity::Result<TestRunner::Work> WatchPage::work() {
    const house::Route* route = model().route();
    if (route == nullptr) return quantity::problem("there is no route to watch", "", "choose one above");
    const auto from = access()(route->from);
    if (!from) return tl::unexpected(from.error());
    const auto to = access()(route->to);
    if (!to) return tl::unexpected(to.error());
    const auto lasting = quantity::parseDuration(m_lasting->text().toStdString());
    if (!lasting) return tl::unexpected(lasting.error());
    if (lasting->count() < 1 || lasting->count() > probe::maxWatch)
        return quantity::problem("a watch lasts from 1 s to 30 days", "", "choose a length between");
    probe::WatchConfig config;
    config.from = [from = *from](const std::stop_token& stop) { return openLink(from, stop); };
    config.to = [to = *to](const std::stop_token& stop) { return openLink(to, stop); };
    config.seconds = lasting->count();
    config.run.direction = static_cast<Direction>(m_direction->currentData().toInt());
    config.run.seconds = 60;
    if (const double pace = m_load->currentData().toDouble(); pace > 0) {
        config.run.protocol = benchmark::Protocol::udp;
        config.run.rate = BitRate::bitsPerSecond(pace);
    }
    return TestRunner::Work([config =
                                 std::move(config)](const TestRunner::Progress& progress,
                                                    const std::stop_token& stop) -> quantity::Result<json> {
        probe::WatchObserver observer;
        auto last = std::chrono::steady_clock::now() - std::chrono::hours(1);
        observer.sample = [&](double t, const benchmark::Sample&) {
            if (std::chrono::steady_clock::now() - last < std::chrono::seconds(1)) return;
            last = std::chrono::steady_clock::now();
            progress(tr("%1 of %2").arg(spanText(t), spanText(config.seconds)), json(), t / config.seconds);
        };
        observer.lost = [&](double t, const quantity::Problem&) {
            progress(tr("%1: the ends cannot be reached; trying again").arg(spanText(t)), json());
        };
        observer.kept = [&](const benchmark::WatchReport& report) {
            progress(tr("%1 of %2").arg(spanText(report.seconds), spanText(config.seconds)), toJson(report),
                     report.seconds / config.seconds);
        };
        return probe::watch(config, observer, stop).map([](const benchmark::WatchReport& report) {
            return toJson(report);
        });
    });
}

quantity::Result<std::vector<std::string>> WatchPage::take(const json& document) {
    auto report = benchmark::readWatchReport(document);
    if (!report) return tl::unexpected(report.error());
    m_report = std::move(*report);
    const QDateTime start =
        QDateTime::fromString(QString::fromStdString(m_report.head.startedAt), Qt::ISODate).toLocalTime();
    return benchmark::sentences(m_report, [start](double seconds) {
        const QDateTime at = start.addMSecs(static_cast<qint64>(seconds * 1000));
        return momentText(at, true).toStdString();
    });
}

// The whole time as one band, drop-outs as gaps that are never thinner than the eye sees; below, hour by
// hour, what most of the delays stayed under.
void WatchPage::paintReport(QPainter& p, const QRectF& field) {
    const double seconds = std::max(m_report.seconds, 1.0);
    const QRectF area = field.adjusted(120, 14, -30, 0);
    const QRectF band(area.left(), area.top(), area.width(), 40);
    const auto x = [&](double t) { return band.left() + std::clamp(t / seconds, 0.0, 1.0) * band.width(); };
    p.setPen(theme().quiet);
    p.setFont(textFont(10));
    p.drawText(QRectF(field.left() + 4, band.top(), 110, band.height()), Qt::AlignLeft | Qt::AlignVCenter,
               tr("arrived"));
    p.fillRect(band, theme().cool);
    for (const benchmark::DropOut& d : m_report.dropOuts) {
        const double left = x(d.start);
        const double right = x(d.start + d.seconds);
        const QRectF gap(left - 0.5, band.top() - 4, std::max(right - left, 3.0), band.height() + 8);
        p.fillRect(gap, theme().ground);
        p.setPen(QPen(theme().ink, 1.4));
        p.drawLine(gap.topLeft(), gap.bottomLeft());
        p.drawLine(gap.topRight(), gap.bottomRight());
    }
    p.setFont(figureFont(8));
    constexpr int marks = 8;
    const Unit unit = unitFor(seconds);
    const auto markText = [&](int i) {
        const double value = seconds / unit.seconds * i / marks;
        return QLocale().toString(value, 'g', 3);
    };
    for (int i = 0; i <= marks; ++i) {
        const double at = band.left() + band.width() * i / marks;
        p.setPen(QPen(theme().line, 1));
        p.drawLine(QPointF(at, band.bottom() + 6), QPointF(at, band.bottom() + 11));
        p.setPen(theme().quiet);
        const double width = 70;
        const QRectF text(i == 0       ? at
                          : i == marks ? at - width
                                       : at - width / 2,
                          band.bottom() + 12, width, 14);
        p.drawText(text,
                   i == 0       ? Qt::AlignLeft
                   : i == marks ? Qt::AlignRight
                                : Qt::AlignHCenter,
                   i == marks ? tr("%1 %2").arg(markText(i), unit.name) : markText(i));
    }
    const std::vector<benchmark::WatchHour>& hours = m_report.hours;
    const QRectF delays(area.left(), band.bottom() + 46, area.width(),
                        std::min(110.0, area.bottom() - band.bottom() - 60));
    if (hours.empty() || delays.height() < 30) return;
    double most = 1;
    for (const benchmark::WatchHour& h : hours)
        if (h.rttUs) most = std::max(most, h.rttUs->p95);
    p.setPen(theme().quiet);
    p.setFont(textFont(10));
    p.drawText(QRectF(field.left() + 4, delays.bottom() - 40, 112, 40), Qt::AlignLeft | Qt::AlignBottom,
               tr("delay, hour\nby hour"));
    p.setFont(figureFont(8));
    p.drawText(QRectF(field.left() + 4, delays.top() - 8, 108, 16), Qt::AlignRight | Qt::AlignVCenter,
               delayText(most));
    const double width = delays.width() / static_cast<double>(std::max<std::size_t>(hours.size(), 1));
    for (std::size_t i = 0; i < hours.size(); ++i) {
        if (!hours[i].rttUs) continue;
        const double p50 = hours[i].rttUs->p50 / most * delays.height();
        const double p95 = hours[i].rttUs->p95 / most * delays.height();
        const double left = delays.left() + static_cast<double>(i) * width;
        p.fillRect(QRectF(left, delays.bottom() - p95, width - 1, p95),
                   QBrush(theme().quiet, Qt::BDiagPattern));
        p.fillRect(QRectF(left, delays.bottom() - p50, width - 1, p50), theme().line);
        p.setPen(QPen(theme().ink, 1.5));
        p.drawLine(QPointF(left, delays.bottom() - p50), QPointF(left + width - 1, delays.bottom() - p50));
    }
    p.setPen(QPen(theme().line, 1));
    p.drawLine(delays.bottomLeft(), delays.bottomRight());
}

} // namespace metrodos::desktop
