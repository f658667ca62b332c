#include "desktop/weigh/weigh_rows.h"

#include "benchmark/watch_report.h"
#include "desktop/widgets/rate_text.h"
#include "weigh/compare.h"
#include "weigh/way_choice.h"

#include <QCoreApplication>
#include <QLocale>
#include <cmath>

namespace metrodos::desktop {
namespace {

struct Rows {
    Q_DECLARE_TR_FUNCTIONS(WeighRows)
};

// What a way takes by itself: its own parts and work, and what is shared the first time.
QString takes(const weigh::SpotWay& way, const weigh::Prices& prices) {
    const weigh::WayCost cost = weigh::costOf(way, prices);
    QStringList out{QString::fromStdString(weigh::amount(prices, cost.each))};
    if (!way.nicClass.empty()) out << Rows::tr("new network adapter");
    if (cost.first().inUnits() >= 1)
        out << Rows::tr("%1 once").arg(QString::fromStdString(weigh::amount(prices, cost.first())));
    out << timeText(way.minutes);
    if (way.holes > 0) out << holesText(way.holes);
    out << (way.measuredLoadedUs ? Rows::tr("delay up to %1, measured") : Rows::tr("delay up to %1"))
               .arg(delayText(way.delayUs()));
    out << (way.watchedSeconds() > 0
                ? Rows::tr("steady %1, watched for %2")
                      .arg(percentText(way.steadiness),
                           QString::fromStdString(benchmark::spanWords(way.watchedSeconds())))
                : Rows::tr("steady %1").arg(percentText(way.steadiness)));
    return out.join(QStringLiteral(" · "));
}

// The same way with adapters of other classes.
QStringList otherClasses(const weigh::SpotOptions& spot, const weigh::SpotWay& shown,
                         const weigh::Prices& prices) {
    QStringList out;
    for (const weigh::SpotWay& way : spot.ways) {
        if (way.id != shown.id || way.deviceClass == shown.deviceClass || !way.isPossible()) continue;
        out << Rows::tr("%1 %2 for %3")
                   .arg(QString::fromStdString(prices.label(way.deviceClass)), rateText(way.down.p50),
                        QString::fromStdString(weigh::amount(prices, weigh::costOf(way, prices).each)));
    }
    return out;
}

// What any list shows of a way that can be.
void showRates(RangeRow& row, const weigh::SpotWay& way) {
    row.forward = way.down;
    row.backward = way.up;
    row.promise = way.promise.bps() > 0 ? std::optional(way.promise) : std::nullopt;
    row.measured = way.measuredDown;
    row.measuredBackward = way.measuredUp;
    row.forwardName = Rows::tr("Towards the spot");
    row.backwardName = Rows::tr("From the spot");
}

void showNeeds(RangeRow& row, const weigh::Need& need) {
    if (need.down.bps() > 0) row.need = need.down;
    if (need.up.bps() > 0) row.needBackward = need.up;
}

} // namespace

QString timeText(double minutes) {
    const int whole = static_cast<int>(std::lround(minutes));
    return whole < 60 ? Rows::tr("%1 min").arg(whole)
                      : Rows::tr("%1 h %2 min").arg(whole / 60).arg(whole % 60);
}

QString holesText(int holes) {
    return counted(holes, Rows::tr("%1 hole"), Rows::tr("%1 holes"));
}

RangeRow spotRow(const weigh::SpotOptions& spot, const weigh::SpotResult* result,
                 const catalog::Catalog& catalog) {
    RangeRow row;
    row.id = QString::fromStdString(spot.spot);
    row.title = QString::fromStdString(spot.label);
    showNeeds(row, spot.need);
    if (result == nullptr || result->way < 0) {
        row.instead = Rows::tr("no way found");
        row.detail = Rows::tr("nothing reaches it");
        return row;
    }
    const weigh::SpotWay& way = spot.way(result->way);
    const catalog::WayClass* cls = catalog.planning.way(way.id);
    if (spot.isPeer) row.title = Rows::tr("%1 (others draw from it)").arg(row.title);
    row.title =
        Rows::tr("%1 – %2").arg(row.title, QString::fromStdString(cls == nullptr ? way.id : cls->label));
    if (!spot.pin.empty()) row.title = Rows::tr("%1 (pinned)").arg(row.title);
    showRates(row, way);
    // A wire of its own carries what its port at the hub does.
    if (way.hubShare.empty())
        for (auto* s : {&*row.forward, &*row.backward})
            *s = {std::min(s->p10, result->p50), std::min(s->p50, result->p50),
                  std::min(s->p90, result->p50)};
    row.note = result->need.bps() > 0 ? Rows::tr("for %1").arg(rateText(result->need)) : Rows::tr("no need");
    if (!result->carried)
        row.detail = Rows::tr("falls short: %1").arg(QString::fromStdString(result->limit));
    else if (!result->isFed)
        row.detail = Rows::tr("the service brings less; the way would carry %1 times the need")
                         .arg(QLocale().toString(result->houseHeadroom, 'g', 2));
    else
        row.detail = Rows::tr("%1 likely to be enough, %2 before faults are put right")
                         .arg(percentText(result->soundShare), percentText(result->carriedShare));
    row.isShort = !result->isMet();
    return row;
}

RangeRow wayRow(const weigh::SpotOptions& spot, const weigh::SpotWay& way, bool inPlan,
                const weigh::Options& options, const weigh::Prices& prices, bool isOneOfSeveral) {
    RangeRow row;
    row.id = QString::fromStdString(way.key());
    row.title = capitalised(way.label);
    // Most labels name the class of the adapters by themselves.
    const QString cls = QString::fromStdString(prices.label(way.deviceClass));
    if (isOneOfSeveral && !way.deviceClass.empty() && !row.title.contains(cls, Qt::CaseInsensitive))
        row.title = Rows::tr("%1: %2").arg(row.title, cls);
    if (inPlan) row.title = Rows::tr("%1 – in the plan").arg(row.title);
    if (spot.isPinned(way)) row.title = Rows::tr("%1 – pinned").arg(row.title);
    if (!way.isPossible()) {
        row.detail = Rows::tr("ruled out: %1").arg(QString::fromStdString(way.ruledOut));
        row.instead = Rows::tr("ruled out");
        return row;
    }
    showRates(row, way);
    row.detail = takes(way, prices);
    row.isShort = weigh::carriedBy(way, spot, options) < 1;
    showNeeds(row, spot.need);
    if (row.isShort)
        row.note = Rows::tr("too little");
    else if (spot.need.down.bps() > 0 || spot.need.up.bps() > 0)
        row.detail =
            Rows::tr("enough by itself, %1 sure or more · %2").arg(percentText(options.share), row.detail);
    return row;
}

QString wayWords(const weigh::SpotOptions& spot, const weigh::SpotWay& way, const weigh::Prices& prices) {
    QStringList words{capitalised(way.security) + QLatin1Char('.')};
    if (!way.rulesOut.empty()) words << Rows::tr("%1.").arg(capitalised(way.rulesOut));
    for (const std::string& caution : way.cautions)
        words << QString::fromStdString(caution) + QLatin1Char('.');
    words << Rows::tr("Lasts about %1 years. P pins it; C lists each class of adapter.")
                 .arg(QLocale().toString(way.years, 'f', 0));
    const QStringList others = otherClasses(spot, way, prices);
    if (!others.isEmpty()) words << Rows::tr("Also: %1.").arg(others.join(QStringLiteral("; ")));
    return words.join(QLatin1Char(' '));
}

} // namespace metrodos::desktop
