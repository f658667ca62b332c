// What a watch of hours or days keeps: drop-outs with their times, the spread of rate and delay, hour by
// hour.
#pragma once

#include "benchmark/histogram.h"
#include "benchmark/run.h"

#include <optional>
#include <string>
#include <vector>

namespace metrodos::benchmark {

/// A stretch in which hardly anything arrived.
struct DropOut {
    double start = 0; ///< s since the watch began
    double seconds = 0;
    std::string lost; ///< why the run broke; empty: it went on, and what was sent came again
};

/// One hour of a watch, or what there was of it.
struct WatchHour {
    double seconds = 0; ///< that were measured
    std::optional<double> goodputP10Bps;
    std::optional<double> goodputP50Bps;
    std::optional<Percentiles> rttUs; ///< of the medians of tenths of a second
    std::uint64_t dropOuts = 0;
    double dropOutSeconds = 0;
};

/// Takes samples as they come and forgets them: memory is bounded however long it lasts, by 30 days of hours
/// and the first thousand drop-outs; all are counted.
class Watch {
  public:
    /// A sample is low below a tenth of `reference`, or while that is nothing, of the median so far. Low for
    /// `shortest` seconds or more is a drop-out.
    explicit Watch(std::optional<BitRate> reference, double shortest = 0.3);

    /// The tenth of a second that ended `t` s after the watch began; times rise.
    void add(double t, const Sample& sample);
    /// The run broke at `t`, or could not be begun: a drop-out from the last byte until the next.
    void lose(double t, const std::string& why);
    /// This machine slept until `t`: no drop-out, nobody measured.
    void sleepUntil(double t);
    /// No sample is expected between the one before and the next: a new run is being opened.
    void pause();
    /// The watch has ended.
    void end(double t);

    [[nodiscard]] const std::vector<DropOut>& dropOuts() const { return m_dropOuts; }
    [[nodiscard]] std::uint64_t dropOutCount() const { return m_count; }
    [[nodiscard]] double dropOutSeconds() const { return m_dropped; }
    [[nodiscard]] double seconds() const { return m_end; }
    [[nodiscard]] double measuredSeconds() const { return m_measured; }
    [[nodiscard]] double sleptSeconds() const { return m_slept; }
    [[nodiscard]] std::optional<Percentiles> rttUs() const { return m_rtt.percentiles(); }
    [[nodiscard]] std::optional<double> goodputQuantile(double p) const { return m_goodput.quantile(p); }
    [[nodiscard]] std::vector<WatchHour> hours() const;

  private:
    struct Hour {
        WatchHour whole;
        LogHistogram goodput;
        LogHistogram rtt;
    };
    void closeLow();
    void closeHour();
    void enterHour(double t);
    void record(DropOut dropOut);

    std::optional<BitRate> m_reference;
    double m_shortest;
    LogHistogram m_goodput; // in kbit/s, to stay within the classes
    LogHistogram m_rtt;
    std::vector<DropOut> m_dropOuts;
    std::vector<WatchHour> m_hours;
    std::optional<Hour> m_hour;
    std::uint64_t m_count = 0;
    double m_dropped = 0;
    double m_measured = 0;
    double m_slept = 0;
    double m_end = 0;                 // of the last thing that was told
    std::optional<double> m_previous; // end of the sample before, while a run goes on
    std::optional<DropOut> m_low;     // goes on
};

} // namespace metrodos::benchmark
