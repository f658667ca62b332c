// Everything that was taken of one run, group by group, for a page of its own and for two runs beside each
// other.
#pragma once

#include "benchmark/run_measures.h"

#include <string>
#include <vector>

namespace metrodos::benchmark {

struct SheetGroup {
    std::string name; ///< "Delay"
    std::vector<NamedFigure> figures;
};

/// Rate, delay, sender, datagrams, streams, machines, interfaces, order and conditions; what was not taken is
/// left out, and a group without figures too. `attainable` as for measuresOf.
[[nodiscard]] std::vector<SheetGroup> sheetOf(const Run& run, std::optional<BitRate> attainable = {});

/// What the interface of one side says of the way: that all bytes crossed it, or that they did not. Empty:
/// nothing was counted.
[[nodiscard]] std::string crossing(const Run& run, const std::optional<InterfaceCount>& count);

/// The figures of two runs of the same name beside each other; empty where one of them has none.
struct SheetPair {
    std::string group;
    std::string name;
    std::string first;
    std::string second;
    std::string meaning;
};
[[nodiscard]] std::vector<SheetPair> beside(const std::vector<SheetGroup>& first,
                                            const std::vector<SheetGroup>& second);

} // namespace metrodos::benchmark
