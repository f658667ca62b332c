// The runs that the figures of a document stand on: each gets its number when a figure first names it.
// Internal to the layer.
#pragma once

#include "benchmark/route_runs.h"
#include "report/document.h"

#include <map>
#include <string>
#include <vector>

namespace metrodos::report {

/// The day of a run by the clock of this machine's time zone, "2026-05-04"; empty: not known.
[[nodiscard]] std::string dayOf(const benchmark::RouteRun& run);

class Proof {
  public:
    explicit Proof(const house::House& house)
        : m_house(house) {}

    /// Their numbers, in this order. The runs must stay where they are.
    std::vector<int> numbersOf(const std::vector<const benchmark::RouteRun*>& runs);
    /// Of one way, each direction by itself, but for some that say nothing of it.
    std::vector<int> numbersOf(const benchmark::RouteRuns& runs, const house::Id& route,
                               const std::vector<std::string>& leftOut = {});
    /// All that were named, by their numbers; many of one day that differ in nothing but hour and figure are
    /// one entry.
    [[nodiscard]] std::vector<ProofRun> list() const;

  private:
    [[nodiscard]] std::string howWords(const benchmark::RouteRun& run) const;
    [[nodiscard]] std::string runWords(const benchmark::RouteRun& run) const;
    [[nodiscard]] std::string groupWords(std::size_t from, std::size_t to) const;

    const house::House& m_house;
    std::vector<const benchmark::RouteRun*> m_named;
    std::map<std::string, int> m_numbers; // by id
};

} // namespace metrodos::report
