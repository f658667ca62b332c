// Figures of one run beside its rate: the metrics of RFC 6349, responsiveness, queue and spikes.
#pragma once

#include "benchmark/run.h"

#include <string>
#include <vector>

namespace metrodos::benchmark {

/// Nothing where what a figure needs was not taken.
struct RunMeasures {
    /// Round trips per minute under load (the IETF's work on responsiveness): 60 s ÷ the loaded delay.
    std::optional<double> roundTripsPerMinute;
    /// RFC 6349, 4.1.1: the time that the transfer took ÷ the time at the attainable rate, warm-up left out.
    /// 1 is the best; below 1 the route carries more than was thought.
    std::optional<double> transferTimeRatio;
    /// RFC 6349, 4.1.2: the share of the bytes sent that were not sent again, 0–1.
    std::optional<double> tcpEfficiency;
    /// RFC 6349, 4.1.3: (loaded − idle delay) ÷ idle delay; 0.5 is "50 %".
    std::optional<double> bufferDelay;
    std::optional<double> queueBytes; ///< that waited in front of the narrowest element
};

/// `attainable`: the goodput that the route is expected to carry in the direction of the run; nothing: not
/// known.
[[nodiscard]] RunMeasures measuresOf(const Run& run, std::optional<BitRate> attainable = {});

/// bytes of payload in a segment: as ordered, or of 1500 bytes with IPv4 and timestamps.
[[nodiscard]] double segmentPayload(const Run& run);

/// Standard deviation ÷ mean of the whole seconds of goodput; nothing for fewer than three.
[[nodiscard]] std::optional<double> secondsSpread(const Run& run);

/// "256 kB", "1.20 MB"; no less than 100 bytes.
[[nodiscard]] std::string bytesText(double bytes);

/// Segments sent again, as a share of those that carried the payload; nothing where they were not counted or
/// the run is too short to tell, below a thousand segments.
[[nodiscard]] std::optional<double> resentShare(const Run& run);

/// A figure with its name, as shown in the window and by the command line.
struct NamedFigure {
    std::string name;    ///< "buffer delay"
    std::string figure;  ///< "202 %"
    std::string meaning; ///< what it says and where it is defined: one sentence
};
/// All that were taken, with the spikes and their times.
[[nodiscard]] std::vector<NamedFigure> figuresOf(const Run& run, std::optional<BitRate> attainable = {});

} // namespace metrodos::benchmark
