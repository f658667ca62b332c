// Every pair of machines as it is kept, drawn and said.
#pragma once

#include "benchmark/matrix.h"
#include "benchmark/test_report.h"

namespace metrodos::benchmark {

struct MatrixReport {
    ReportHead head;
    std::vector<std::string> names;   ///< of the endpoints
    std::vector<MatrixCell> cells;    ///< one pair after the other
    std::vector<SharedCell> together; ///< chosen pairs at once
};

[[nodiscard]] MatrixReport reportOf(const Matrix& matrix, const ReportHead& head);

/// {"format": "metrodos-matrix", "version": 1, "simulated", "started_at", "about", "endpoints", "cells":
/// [{"from", "to", "goodput_bps", "low_bps", "high_bps", "runs"}], "at_once": [{"from", "to", "goodput_bps",
/// "alone_bps", "share_of_alone"}], "common_ceiling_bps", "shared_limit"}; null for what there is none of.
[[nodiscard]] nlohmann::json toJson(const MatrixReport& report);
[[nodiscard]] quantity::Result<MatrixReport> readMatrixReport(const nlohmann::json& document);

/// The ceiling that several pairs share, the slowest pair, and what chosen pairs lose beside each other.
[[nodiscard]] std::vector<std::string> sentences(const MatrixReport& report);

} // namespace metrodos::benchmark
