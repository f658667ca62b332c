#include "benchmark/summary.h"
#include "benchmark/delay_statistics.h"
#include "benchmark/statistics.h"

#include <algorithm>
#include <cmath>

namespace metrodos::benchmark {
namespace {

constexpr int fewestTrimmed = 5; // of which two can be left out

// Goodput of the samples after `warmup`, weighted by their lengths.
std::vector<double> settled(const Run& run) {
    std::vector<double> values;
    for (const Sample& sample : run.samples)
        if (sample.t > run.warmupSeconds + sampleSeconds / 2) values.push_back(sample.goodputBps);
    return values;
}

std::optional<Interval> withinRun(const Run& run) {
    return seriesInterval(settled(run));
}

} // namespace

std::string_view explanation(Rule rule) {
    switch (rule) {
    case Rule::trimmed:
        return "The best and the worst run are dropped and the rest averaged: one odd run cannot spoil the "
               "figure; below five runs it is their median.";
    case Rule::median:
        return "The middle run: half of the runs were faster, half slower, however odd the extremes.";
    case Rule::mean:
        return "All runs averaged: every one counts, the odd ones too.";
    case Rule::best:
        return "The fastest run: what the way can do when nothing is in its way, not what it usually does.";
    case Rule::sustained:
        return "Nine seconds of ten were at least this fast: what can be counted on.";
    }
    return {};
}

std::string_view appliedRule(Rule rule, int runs) {
    switch (rule) {
    case Rule::trimmed:
        return runs >= fewestTrimmed ? "mean without best and worst" : "median";
    case Rule::median:
        return "median";
    case Rule::mean:
        return "mean";
    case Rule::best:
        return "best";
    case Rule::sustained:
        return "tenth percentile of seconds";
    }
    return {};
}

std::optional<Summary> capacitySummary(const std::vector<Run>& runs, Direction direction, Rule rule) {
    constexpr std::size_t enoughSamples = 5;
    int most = 0;
    for (const Run& run : runs)
        if (run.config.direction == direction && run.samples.size() >= enoughSamples)
            most = std::max(most, run.config.streams);
    std::vector<Run> counted;
    std::copy_if(runs.begin(), runs.end(), std::back_inserter(counted), [&](const Run& run) {
        return run.config.direction == direction && run.samples.size() >= enoughSamples &&
               run.config.streams == most;
    });
    auto out = summarise(counted, direction, rule);
    if (out)
        out->leftOut = static_cast<int>(
                           std::count_if(runs.begin(), runs.end(),
                                         [&](const Run& run) { return run.config.direction == direction; })) -
                       out->runs;
    return out;
}

std::optional<int> runsToSettle(const Summary& summary, BitRate need) {
    if (summary.runs < 2 || !summary.low || !summary.high) return std::nullopt;
    const double centre = summary.goodput.bps();
    const double apart = std::fabs(centre - need.bps());
    // The interval is Student's: its half width is t · s / √n.
    const double half = std::max(centre - summary.low->bps(), summary.high->bps() - centre);
    if (half < apart) return 0;
    const auto n = static_cast<double>(summary.runs);
    const double spread = half * std::sqrt(n) / studentT(0.05, n - 1);
    constexpr int most = 50;
    for (int more = 1; more <= most; ++more)
        if (studentT(0.05, n + more - 1) * spread / std::sqrt(n + more) < apart) return more;
    return std::nullopt;
}

BitRate figureOf(const Run& run, Rule rule) {
    if (rule != Rule::sustained) return run.goodput;
    const std::vector<double> seconds = wholeSeconds(run);
    return seconds.empty() ? run.goodput : BitRate::bitsPerSecond(quantile(seconds, 0.1));
}

void finish(Run& run) {
    std::vector<double> values;
    for (const Sample& sample : run.samples)
        values.push_back(sample.goodputBps);
    run.warmupSeconds = run.config.warmup.value_or(static_cast<double>(warmupLength(values)) * sampleSeconds);
    const std::vector<double> rest = settled(run);
    if (rest.empty()) run.warmupSeconds = 0;
    const std::vector<double> counted = rest.empty() ? values : rest;
    run.goodput = BitRate::bitsPerSecond(counted.empty() ? 0 : mean(counted));
    std::vector<double> rtts;
    for (const Sample& sample : run.samples)
        if (sample.rttUs && sample.t > run.warmupSeconds) rtts.push_back(*sample.rttUs);
    if (!run.rttLoadedUs) run.rttLoadedUs = percentilesOf(rtts);
}

std::vector<double> wholeSeconds(const Run& run) {
    const auto perSecond = static_cast<std::size_t>(std::lround(1.0 / sampleSeconds));
    const std::vector<double> values = settled(run);
    std::vector<double> seconds;
    for (std::size_t i = 0; i + perSecond <= values.size(); i += perSecond)
        seconds.push_back(mean(std::span(values).subspan(i, perSecond)));
    return seconds;
}

std::optional<Summary> summarise(const std::vector<Run>& runs, Direction direction, Rule rule) {
    std::vector<double> rates;
    std::vector<double> seconds;
    const Run* last = nullptr;
    int streams = 0;
    // Paced runs and runs beside others are summed up only where there are no free ones.
    const bool anyFree = std::any_of(runs.begin(), runs.end(), [&](const Run& run) {
        return run.config.direction == direction && !run.samples.empty() && run.showsCeiling();
    });
    for (const Run& run : runs) {
        if (run.config.direction != direction || run.samples.empty()) continue;
        if (anyFree && !run.showsCeiling()) continue;
        rates.push_back(run.goodput.bps());
        const std::vector<double> own = wholeSeconds(run);
        seconds.insert(seconds.end(), own.begin(), own.end());
        last = &run;
        streams = rates.size() == 1 || streams == run.config.streams ? run.config.streams : 0;
    }
    if (rates.empty()) return std::nullopt;
    Summary out;
    out.rule = rule;
    out.runs = static_cast<int>(rates.size());
    const auto [least, most] = std::minmax_element(rates.begin(), rates.end());
    out.least = BitRate::bitsPerSecond(*least);
    out.most = BitRate::bitsPerSecond(*most);
    out.streams = streams;
    std::optional<Interval> interval = rates.size() == 1 ? withinRun(*last) : meanInterval(rates);
    double centre = rates.front();
    switch (rule) {
    case Rule::trimmed:
        if (out.runs >= fewestTrimmed) {
            interval = trimmedInterval(rates, 1);
            centre = interval->centre;
        } else {
            centre = quantile(rates, 0.5);
        }
        break;
    case Rule::median:
        centre = quantile(rates, 0.5);
        break;
    case Rule::mean:
        centre = mean(rates);
        break;
    case Rule::best:
        centre = *std::max_element(rates.begin(), rates.end());
        break;
    case Rule::sustained:
        centre = quantile(seconds.empty() ? rates : seconds, 0.1);
        break;
    }
    out.goodput = BitRate::bitsPerSecond(centre);
    // The interval speaks of a centre; a best run or a tenth percentile is none.
    if (interval && rule != Rule::best && rule != Rule::sustained) {
        out.low = BitRate::bitsPerSecond(std::max(0.0, std::min(interval->low, centre)));
        out.high = BitRate::bitsPerSecond(std::max(interval->high, centre));
    }
    return out;
}

} // namespace metrodos::benchmark
