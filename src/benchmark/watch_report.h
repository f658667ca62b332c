// What a watch of hours or days has found, as it is kept, drawn and said.
#pragma once

#include "benchmark/test_report.h"
#include "benchmark/watch.h"

namespace metrodos::benchmark {

struct WatchReport {
    ReportHead head;
    RunConfig config; ///< protocol, direction, streams and pace of what went on
    double seconds = 0;
    double measuredSeconds = 0;
    double sleptSeconds = 0;       ///< of this machine: nobody measured
    std::vector<DropOut> dropOuts; ///< the first thousand
    std::uint64_t dropOutCount = 0;
    double dropOutSeconds = 0;
    std::optional<BitRate> goodputP10;
    std::optional<BitRate> goodputP50;
    std::optional<BitRate> goodputP90;
    std::optional<Percentiles> rttUs;
    std::vector<WatchHour> hours;
};

[[nodiscard]] WatchReport reportOf(const Watch& watch, const ReportHead& head, const RunConfig& config);

/// {"format": "metrodos-watch", "version": 1, "simulated", "started_at", "about", "route", "order": {…},
/// "seconds", "measured_s", "slept_s", "drop_outs": [{"start_s", "seconds", "lost"}], "drop_out_count",
/// "drop_out_s", "goodput": {"p10_bps", "p50_bps", "p90_bps"}, "rtt_us": {…}, "hours": [{"measured_s",
/// "goodput_p10_bps", "goodput_p50_bps", "rtt_us", "drop_outs", "drop_out_s"}]}; null for what there is none
/// of.
[[nodiscard]] nlohmann::json toJson(const WatchReport& report);
[[nodiscard]] quantity::Result<WatchReport> readWatchReport(const nlohmann::json& document);

/// The answer first, then the first six drop-outs, the delay and how long this machine slept.
[[nodiscard]] std::vector<std::string> sentences(const WatchReport& report, const TimeWords& at);

/// "12 s", "3.5 min", "7.9 h".
[[nodiscard]] std::string spanWords(double seconds);

} // namespace metrodos::benchmark
