#include "benchmark/run_measures.h"

#include "benchmark/delay_statistics.h"
#include "benchmark/remarks.h"
#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>
#include <functional>

namespace metrodos::benchmark {
namespace {

using quantity::plainMicroseconds;
using quantity::significant;

constexpr std::size_t namedSpikes = 3;

std::string percent(double share) {
    return significant(share * 100, 3) + " %";
}

std::string spikesText(const std::vector<DelaySpike>& spikes) {
    std::vector<DelaySpike> highest = spikes;
    std::ranges::sort(highest, std::ranges::greater(), &DelaySpike::rttUs);
    highest.resize(std::min(highest.size(), namedSpikes));
    std::ranges::sort(highest, {}, &DelaySpike::t);
    std::string out;
    for (const DelaySpike& spike : highest)
        out += (out.empty() ? "" : ", ") + plainMicroseconds(spike.rttUs) + " at " + significant(spike.t, 3) +
               " s";
    if (spikes.size() > highest.size())
        out += " and " + std::to_string(spikes.size() - highest.size()) + " more";
    return out;
}

} // namespace

double segmentPayload(const Run& run) {
    constexpr double usual = 1448;
    return run.config.segmentBytes > 0 ? static_cast<double>(run.config.segmentBytes) : usual;
}

std::optional<double> secondsSpread(const Run& run) {
    const std::vector<double> seconds = wholeSeconds(run);
    if (seconds.size() < 3) return std::nullopt;
    const double centre = mean(seconds);
    if (centre <= 0) return std::nullopt;
    return standardDeviation(seconds) / centre;
}

std::string bytesText(double bytes) {
    if (bytes >= 1e6) return significant(bytes / 1e6, 3) + " MB";
    return significant(std::max(bytes / 1e3, 0.1), 3) + " kB";
}

std::optional<double> resentShare(const Run& run) {
    constexpr double enough = 1000;
    const double segments = payloadBytes(run) / segmentPayload(run);
    if (run.config.protocol != Protocol::tcp || !run.retransmits || segments < enough) return std::nullopt;
    return static_cast<double>(*run.retransmits) / segments;
}

RunMeasures measuresOf(const Run& run, std::optional<BitRate> attainable) {
    RunMeasures out;
    if (run.rttLoadedUs && run.rttLoadedUs->p50 > 0)
        out.roundTripsPerMinute = roundTripsPerMinute(run.rttLoadedUs->p50);
    if (run.rttIdleUs && run.rttLoadedUs && run.rttIdleUs->p50 > 0)
        out.bufferDelay = std::max(0.0, run.rttLoadedUs->p50 / run.rttIdleUs->p50 - 1);
    out.queueBytes = queueBytes(run);
    if (run.config.protocol != Protocol::tcp) return out;
    const double payload = payloadBytes(run);
    if (run.retransmits && payload > 0) {
        const double again = static_cast<double>(*run.retransmits) * segmentPayload(run);
        out.tcpEfficiency = payload / (payload + again);
    }
    if (attainable && attainable->bps() > 0 && run.goodput.bps() > 0)
        out.transferTimeRatio = attainable->bps() / run.goodput.bps();
    return out;
}

std::vector<NamedFigure> figuresOf(const Run& run, std::optional<BitRate> attainable) {
    const RunMeasures m = measuresOf(run, attainable);
    std::vector<NamedFigure> out;
    if (m.roundTripsPerMinute)
        out.push_back(
            {"loaded round trips a minute", significant(*m.roundTripsPerMinute, 3),
             "How often something can be asked and answered while the way is full; above 1000 nobody "
             "notices (the IETF's work on responsiveness under load)."});
    if (m.bufferDelay)
        out.push_back({"buffer delay", percent(*m.bufferDelay),
                       "By how much the delay under load lies above the idle one (RFC 6349, 4.1.3)."});
    if (m.queueBytes)
        out.push_back({"queue", bytesText(*m.queueBytes),
                       "What waited in front of the narrowest element: the added delay times the rate."});
    if (m.tcpEfficiency)
        out.push_back({"TCP efficiency", percent(*m.tcpEfficiency),
                       "The share of what was sent that was not sent again (RFC 6349, 4.1.2)."});
    if (m.transferTimeRatio)
        out.push_back(
            {"transfer time ratio", significant(*m.transferTimeRatio, 3),
             "The time that the bytes took, to the time at the rate expected of the route; 1 is the "
             "best (RFC 6349, 4.1.1)."});
    if (!run.spikes.empty())
        out.push_back({run.spikes.size() == 1 ? "spike" : "spikes", spikesText(run.spikes),
                       "Round trips far above the others, with the second of the run."});
    return out;
}

} // namespace metrodos::benchmark
