// Run records for tests that need none measured.
#pragma once

#include "benchmark/summary.h"

#include <random>

namespace metrodos::testing {

/// A run with this goodput, its seconds spread by `variation` (relative), ended and without warm-up.
inline benchmark::Run steadyRun(benchmark::Direction direction, double mbps, int streams = 4,
                                double variation = 0.002, const std::string& id = "run-1") {
    benchmark::Run run;
    run.id = id;
    run.startedAt = "2026-05-04T10:00:00Z";
    run.config.direction = direction;
    run.config.streams = streams;
    run.config.seconds = 10;
    run.config.warmup = 0;
    run.seconds = 10;
    std::mt19937 random(42);
    std::normal_distribution<double> noise; // scaled here: its own width may not be 0
    for (int i = 1; i <= 100; ++i) {
        benchmark::Sample s;
        s.t = i * 0.1;
        s.goodputBps = mbps * 1e6 * (1 + variation * noise(random));
        s.rttUs = 4000;
        run.samples.push_back(s);
    }
    benchmark::finish(run);
    return run;
}

} // namespace metrodos::testing
