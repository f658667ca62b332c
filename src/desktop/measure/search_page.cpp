#include "desktop/measure/search_page.h"

#include "benchmark/rate_search.h"
#include "desktop/measure/test_fields.h"
#include "desktop/widgets/rate_axis.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "probe/conduct.h"
#include "quantity/parse.h"

#include <QPainter>

namespace metrodos::desktop {
namespace {

using benchmark::Direction;
using nlohmann::json;
using quantity::BitRate;

} // namespace

SearchPage::SearchPage(RouteModel& model, AccessTo access)
    : TestPage(
          model, std::move(access), QStringLiteral("search"),
          tr("Press Space: datagrams are sent over the route at one pace after another, until the highest is "
             "found at which hardly any is lost. Calls and live pictures go by this figure, not by what "
             "streams reach.")) {
    m_direction =
        choice(QStringLiteral("search-direction"), {{tr("forward"), static_cast<int>(Direction::forward)},
                                                    {tr("backward"), static_cast<int>(Direction::backward)}});
    addField({}, m_direction);
    m_high = entry(QStringLiteral("search-high"), QStringLiteral("1G"),
                   tr("Where the search begins, like 1G"), 76);
    addField(tr("&from"), m_high);
    m_loss = choice(QStringLiteral("search-loss"),
                    {{tr("no loss"), 0.0}, {tr("0.1 % lost"), 0.001}, {tr("1 % lost"), 0.01}}, 1);
    addField(tr("&with at most"), m_loss);
    m_seconds = choice(QStringLiteral("search-seconds"), {{tr("2 s"), 2}, {tr("5 s"), 5}, {tr("10 s"), 10}});
    addField(tr("&each"), m_seconds);
}

quantity::Result<TestRunner::Work> SearchPage::work() {
    const house::Route* route = model().route();
    if (route == nullptr) return quantity::problem("there is no route to measure", "", "choose one above");
    const auto from = access()(route->from);
    if (!from) return tl::unexpected(from.error());
    const auto to = access()(route->to);
    if (!to) return tl::unexpected(to.error());
    const auto high = quantity::parseBitRate(m_high->text().toStdString());
    if (!high || high->bps() < 10 * benchmark::minPace || high->bps() > benchmark::maxPace)
        return quantity::problem("“" + m_high->text().toStdString() + "” is no pace for datagrams", "",
                                 "write it like 300M or 1G");
    benchmark::SearchSettings settings;
    settings.high = *high;
    settings.low = std::min(settings.low, settings.high * 0.1);
    settings.acceptedLoss = m_loss->currentData().toDouble();
    benchmark::RunConfig config;
    config.protocol = benchmark::Protocol::udp;
    config.rate = *high;
    config.direction = static_cast<Direction>(m_direction->currentData().toInt());
    config.seconds = m_seconds->currentData().toDouble();
    return TestRunner::Work([=](const TestRunner::Progress& progress,
                                const std::stop_token& stop) -> quantity::Result<json> {
        auto a = openLink(*from, stop);
        if (!a) return tl::unexpected(a.error());
        auto b = openLink(*to, stop);
        if (!b) return tl::unexpected(b.error());
        benchmark::SearchResult soFar;
        const auto found = benchmark::searchRate(settings, config, [&](const benchmark::RunConfig& trial) {
            progress(tr("step %1, at %2").arg(soFar.trials.size() + 1).arg(rateText(*trial.rate)),
                     soFar.trials.empty() ? json() : toJson(benchmark::reportOf(soFar, settings)),
                     benchmark::doneOf(settings, soFar.trials));
            auto run = probe::conduct(*a, *b, trial, {}, stop);
            if (run) soFar.trials.push_back(*run);
            return run;
        });
        if (!found) return tl::unexpected(found.error());
        return toJson(benchmark::reportOf(*found, settings));
    });
}

quantity::Result<std::vector<std::string>> SearchPage::take(const json& document) {
    auto report = benchmark::readSearchReport(document);
    if (!report) return tl::unexpected(report.error());
    m_report = std::move(*report);
    return benchmark::sentences(m_report);
}

// A row a trial, from the first at the top: solid where the pace passed, open where it did not, with a line
// back to what arrived.
void SearchPage::paintReport(QPainter& p, const QRectF& field) {
    const std::vector<benchmark::SearchStep>& trials = m_report.trials;
    const double rows = std::max<double>(3, static_cast<double>(trials.size()));
    const double row = std::min(28.0, (field.height() - 56) / rows);
    const QRectF area(field.left() + 120, field.top() + 16, field.width() - 150, row * rows + 8);
    const RateAxis axis(area);
    axis.paint(p);
    int n = 0;
    for (const benchmark::SearchStep& trial : trials) {
        const double y = area.top() + (n + 0.5) * row;
        const BitRate rate = trial.pace;
        const BitRate arrived = trial.goodput;
        const bool passed = trial.passed;
        p.setPen(theme().quiet);
        p.setFont(figureFont(9));
        p.drawText(QRectF(field.left(), y - row / 2, 108, row), Qt::AlignRight | Qt::AlignVCenter,
                   rateText(rate));
        if (!passed) {
            p.setPen(QPen(theme().cool, 1.5, Qt::DotLine));
            p.drawLine(QPointF(axis.x(arrived), y), QPointF(axis.x(rate), y));
        }
        p.setPen(QPen(theme().cool, 2));
        p.setBrush(passed ? QBrush(theme().cool) : QBrush(theme().ground));
        p.drawEllipse(QPointF(axis.x(rate), y), 5, 5);
        p.setPen(theme().ink);
        p.setFont(textFont(8.5));
        const QString words =
            passed ? tr("passed") : tr("%1 % missing").arg(QLocale().toString(trial.shortfall * 100, 'f', 1));
        const bool right = axis.x(rate) < area.right() - 110;
        p.drawText(QRectF(right ? axis.x(rate) + 12 : axis.x(rate) - 132, y - row / 2, 120, row),
                   (right ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter, words);
        ++n;
    }
}

} // namespace metrodos::desktop
