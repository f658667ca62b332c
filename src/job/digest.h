// What a library of jobs knows of one of them: worked out from the file, and never its master.
#pragma once

#include "benchmark/statements.h"
#include "catalog/experience.h"
#include "job/document.h"

namespace metrodos::job {

/// A pair of adapters of one class that was measured in place.
struct MeasuredPair {
    house::Medium medium = house::Medium::mains;
    std::string deviceClass;   ///< the slower one's
    std::string situation;     ///< catalog id
    quantity::BitRate goodput; ///< geometric mean of both directions, where both were measured
    bool isAtLeast = false;    ///< something else held the way back, as far as can be told
};

struct Digest {
    std::string label;
    std::string places;   ///< rooms, with commas
    std::string firstDay; ///< of runs, "2026-05-04" in UTC; empty: none
    std::string lastDay;
    int runs = 0;
    std::string limit;    ///< of the measured way with the least doubt: "Loft adapter (93 %)"; empty: none
    std::string open;     ///< "3 findings, 4 steps"; empty: nothing
    std::string classes;  ///< labels of the classes of its devices and cables
    std::string findings; ///< open findings, verdicts, problems of steps
    std::string notes;    ///< what people wrote: notes, reasons, what was changed before a run
    std::vector<MeasuredPair> pairs;
    std::vector<benchmark::Statement> statements;
};

/// Judges every measured route: some ten to a hundred milliseconds each.
[[nodiscard]] Digest digestOf(const Document& document, const catalog::Catalog& catalog);

/// How the ends of a medium lie to each other: as the survey says, or on the mains by their circuits. Empty:
/// not known.
[[nodiscard]] std::string situationOf(const house::House& house, const house::Connection& connection);

} // namespace metrodos::job
