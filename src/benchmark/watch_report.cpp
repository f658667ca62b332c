#include "benchmark/watch_report.h"

#include "benchmark/run_parts.h"
#include "quantity/format.h"
#include "quantity/text.h"

namespace metrodos::benchmark {
namespace {

namespace fields = quantity::fields;
using fields::orNull;
using nlohmann::json;
using quantity::plainMicroseconds;

constexpr const char* watchFormat = "metrodos-watch";
constexpr double maxSpan = 40.0 * 86400; // s; a watch lasts 30 days
constexpr std::size_t maxReasonBytes = 400;
constexpr std::size_t maxHours = 1000;
constexpr std::size_t maxTold = 6;

// null where there is none, unlike the percentiles of a run.
json percentiles(const std::optional<Percentiles>& p) {
    return p ? toJson(p) : json(nullptr);
}

} // namespace

WatchReport reportOf(const Watch& watch, const ReportHead& head, const RunConfig& config) {
    WatchReport out;
    out.head = head;
    out.config = config;
    out.seconds = watch.seconds();
    out.measuredSeconds = watch.measuredSeconds();
    out.sleptSeconds = watch.sleptSeconds();
    out.dropOuts = watch.dropOuts();
    out.dropOutCount = watch.dropOutCount();
    out.dropOutSeconds = watch.dropOutSeconds();
    const auto quantile = [&](double p) {
        const auto kilobits = watch.goodputQuantile(p);
        return kilobits ? std::optional(BitRate::bitsPerSecond(*kilobits * 1e3)) : std::nullopt;
    };
    out.goodputP10 = quantile(0.1);
    out.goodputP50 = quantile(0.5);
    out.goodputP90 = quantile(0.9);
    out.rttUs = watch.rttUs();
    out.hours = watch.hours();
    return out;
}

json toJson(const WatchReport& r) {
    json dropOuts = json::array();
    for (const DropOut& d : r.dropOuts)
        dropOuts.push_back({{"start_s", d.start}, {"seconds", d.seconds}, {"lost", orNull(d.lost)}});
    json hours = json::array();
    for (const WatchHour& h : r.hours)
        hours.push_back({{"measured_s", h.seconds},
                         {"goodput_p10_bps", orNull(h.goodputP10Bps)},
                         {"goodput_p50_bps", orNull(h.goodputP50Bps)},
                         {"rtt_us", percentiles(h.rttUs)},
                         {"drop_outs", h.dropOuts},
                         {"drop_out_s", h.dropOutSeconds}});
    json out{{"order",
              {{"protocol", name(r.config.protocol)},
               {"direction", name(r.config.direction)},
               {"streams", r.config.streams},
               {"rate_bps", toJson(r.config.rate)}}},
             {"seconds", r.seconds},
             {"measured_s", r.measuredSeconds},
             {"slept_s", r.sleptSeconds},
             {"drop_outs", std::move(dropOuts)},
             {"drop_out_count", r.dropOutCount},
             {"drop_out_s", r.dropOutSeconds},
             {"goodput",
              {{"p10_bps", toJson(r.goodputP10)},
               {"p50_bps", toJson(r.goodputP50)},
               {"p90_bps", toJson(r.goodputP90)}}},
             {"rtt_us", percentiles(r.rttUs)},
             {"hours", std::move(hours)}};
    writeHead(out, watchFormat, r.head);
    return out;
}

quantity::Result<WatchReport> readWatchReport(const json& document) {
    return readingReport([&] {
        WatchReport r;
        r.head = readHead(document, watchFormat);
        if (const json* config = fields::find(document, "order")) {
            r.config.protocol = fields::word(*config, "protocol", &protocol);
            r.config.direction = fields::word(*config, "direction", &direction);
            r.config.streams = static_cast<int>(fields::neededNumber(*config, "streams", 1, maxStreams));
            r.config.rate = readRate(*config, "rate_bps");
        }
        r.seconds = fields::neededNumber(document, "seconds", 0, maxSpan);
        r.measuredSeconds = fields::neededNumber(document, "measured_s", 0, maxSpan);
        r.sleptSeconds = fields::neededNumber(document, "slept_s", 0, maxSpan);
        if (const json* list = fields::list(document, "drop_outs", 1000))
            for (const json& d : *list)
                r.dropOuts.push_back({fields::neededNumber(d, "start_s", 0, maxSpan),
                                      fields::neededNumber(d, "seconds", 0, maxSpan),
                                      fields::text(d, "lost", maxReasonBytes)});
        r.dropOutCount = fields::neededCount(document, "drop_out_count");
        r.dropOutSeconds = fields::neededNumber(document, "drop_out_s", 0, maxSpan);
        if (const json* goodput = fields::find(document, "goodput")) {
            r.goodputP10 = readRate(*goodput, "p10_bps");
            r.goodputP50 = readRate(*goodput, "p50_bps");
            r.goodputP90 = readRate(*goodput, "p90_bps");
        }
        r.rttUs = readPercentiles(document, "rtt_us");
        if (const json* list = fields::list(document, "hours", maxHours))
            for (const json& h : *list) {
                WatchHour hour;
                hour.seconds = fields::neededNumber(h, "measured_s", 0, maxSpan);
                hour.goodputP10Bps = fields::number(h, "goodput_p10_bps", 0, maxBps);
                hour.goodputP50Bps = fields::number(h, "goodput_p50_bps", 0, maxBps);
                hour.rttUs = readPercentiles(h, "rtt_us");
                hour.dropOuts = fields::neededCount(h, "drop_outs");
                hour.dropOutSeconds = fields::neededNumber(h, "drop_out_s", 0, maxSpan);
                r.hours.push_back(hour);
            }
        return r;
    });
}

std::string spanWords(double seconds) {
    const auto words = [](double value, int decimals, const char* unit) {
        // With the program's decimal mark, like every figure.
        return quantity::decimals(value, decimals) + " " + unit;
    };
    if (seconds < 120) return words(seconds, seconds < 10 ? 1 : 0, "s");
    if (seconds < 2 * 3600) return words(seconds / 60, 1, "min");
    return words(seconds / 3600, 1, "h");
}

std::vector<std::string> sentences(const WatchReport& r, const TimeWords& at) {
    std::vector<std::string> out;
    if (r.dropOutCount == 0)
        out.push_back("No drop-out in " + spanWords(r.seconds) + ".");
    else
        out.push_back(quantity::counted(static_cast<long long>(r.dropOutCount), "drop-out") + " in " +
                      spanWords(r.seconds) + ", together " + spanWords(r.dropOutSeconds) + ".");
    for (std::size_t i = 0; i < std::min(r.dropOuts.size(), maxTold); ++i) {
        const DropOut& d = r.dropOuts[i];
        out.push_back(at(d.start) + " for " + spanWords(d.seconds) +
                      (d.lost.empty() ? "." : ", the ends could not be reached."));
    }
    if (r.dropOutCount > maxTold) out.push_back("And " + std::to_string(r.dropOutCount - maxTold) + " more.");
    if (r.rttUs)
        out.push_back("Delay " + plainMicroseconds(r.rttUs->p50) + ", 95 % below " +
                      plainMicroseconds(r.rttUs->p95) + ".");
    if (r.sleptSeconds > 0) out.push_back("This machine slept for " + spanWords(r.sleptSeconds) + " of it.");
    return out;
}

} // namespace metrodos::benchmark
