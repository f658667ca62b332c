// What a search for the loss-free rate has found, as it is kept, drawn and said.
#pragma once

#include "benchmark/rate_search.h"
#include "benchmark/test_report.h"

namespace metrodos::benchmark {

struct SearchStep {
    BitRate pace;
    BitRate goodput;
    double shortfall = 0; ///< share of what was due that did not arrive
    bool passed = false;
};

struct SearchReport {
    ReportHead head;
    std::optional<Direction> direction; ///< nothing: not known
    double acceptedLoss = 0;
    std::optional<BitRate> best;   ///< the loss-free rate
    std::optional<BitRate> failed; ///< the lowest that did not
    std::vector<SearchStep> trials;
};

[[nodiscard]] SearchReport reportOf(const SearchResult& result, const SearchSettings& settings);

/// {"format": "metrodos-search", "version": 1, "simulated", "started_at", "about", "direction",
/// "accepted_loss", "best_bps", "failed_bps", "trials": [{"rate_bps", "goodput_bps", "shortfall",
/// "passed"}]}; null for what was not found.
[[nodiscard]] nlohmann::json toJson(const SearchReport& report);
[[nodiscard]] quantity::Result<SearchReport> readSearchReport(const nlohmann::json& document);

[[nodiscard]] std::vector<std::string> sentences(const SearchReport& report);

} // namespace metrodos::benchmark
