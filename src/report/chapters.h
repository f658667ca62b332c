// Chapters that follow from the house alone, shared by the documents of a job. One that has nothing to say
// has no blocks.
#pragma once

#include "catalog/catalog.h"
#include "fit/steps.h"
#include "job/kept_document.h"
#include "report/document.h"

namespace metrodos::report {

/// With a capital letter and a full stop.
[[nodiscard]] std::string sentence(std::string text);
/// "41.0 Mbit/s to 46.6 Mbit/s", from the tenth to the ninetieth percentile.
[[nodiscard]] std::string rangeWords(const catalog::RateSpread& spread);
/// "1 piece", "4.63 hours".
[[nodiscard]] std::string countWords(double count, const std::string& unit);
/// "more than 99 % sure", "84 % sure".
[[nodiscard]] std::string sureWords(double probability);

[[nodiscard]] Chapter wantedChapter(const house::House& house, const catalog::Catalog& catalog);
[[nodiscard]] Chapter houseChapter(const house::House& house);
[[nodiscard]] Chapter addressesChapter(const house::House& house);
[[nodiscard]] Chapter keysChapter(const house::House& house);
[[nodiscard]] Chapter cautionsChapter(const house::House& house);
[[nodiscard]] Chapter againChapter();
[[nodiscard]] Chapter topologyChapter(const house::House& house, const catalog::Catalog& catalog);
[[nodiscard]] Chapter changesChapter(const house::House& house);
[[nodiscard]] Chapter methodChapter(const house::House& house);

/// Parts and cost as they were offered, and of each what the steps say was fitted, at the offer's prices.
[[nodiscard]] Chapter quoteChapter(const job::KeptDocument& offer, const std::vector<fit::Step>& steps);

} // namespace metrodos::report
