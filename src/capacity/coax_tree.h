// The coax plant as it is joined: finds the way between two of its jacks.
#pragma once

#include "house/house.h"

#include <map>
#include <vector>

namespace metrodos::capacity {

/// One thing passed on the way: a run, or a part from one of its ports to another.
struct CoaxStep {
    const house::Connection* run = nullptr;
    const house::CoaxPart* part = nullptr;
    house::Id entry; ///< part: its ports
    house::Id exit;

    /// From one output of a splitter to another.
    [[nodiscard]] bool isAcross() const {
        return part != nullptr && part->kind == house::CoaxPartKind::splitter && entry != "in" &&
               exit != "in";
    }
};

enum class CoaxJoin {
    joined,
    unjoined, ///< every run is known and none joins the two
    unknown,  ///< a run is missing or its far end has not been found
};

struct CoaxPath {
    CoaxJoin join = CoaxJoin::unknown;
    std::vector<CoaxStep> steps; ///< when joined
    house::Id looseRun;          ///< when not: the first run on the way that leads nowhere; may be empty
};

/// Holds pointers into the house, which must stay where it is, unchanged.
class CoaxTree {
  public:
    explicit CoaxTree(const house::House& house);

    [[nodiscard]] CoaxPath path(const house::Id& jackA, const house::Id& jackB) const;
    /// Ports of a part that nothing is screwed onto, and those whose run ends loose without a terminator.
    [[nodiscard]] std::vector<house::Id> openPorts(const house::CoaxPart& part) const;
    /// Whether a filter sits on the input of a splitter, directly or at the far end of the run from it.
    [[nodiscard]] bool hasFilterAtInput(const house::CoaxPart& splitter) const;
    /// Whether nothing but the entry lies beyond a splitter's input, so that a filter there cuts off no jack.
    [[nodiscard]] bool isNextToEntry(const house::CoaxPart& splitter) const;
    [[nodiscard]] const house::House& house() const { return m_house; }

  private:
    [[nodiscard]] const house::CoaxPart* partAtInput(const house::CoaxPart& splitter) const;
    [[nodiscard]] const house::Connection* runAt(const house::PortRef& end) const;
    [[nodiscard]] std::optional<house::PortRef> across(const house::Connection& run,
                                                       const house::PortRef& end) const;

    const house::House& m_house;
    std::map<house::PortRef, const house::Connection*> m_runs; // by end
};

} // namespace metrodos::capacity
