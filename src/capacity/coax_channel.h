// What coax adapters carry between two jacks: loss of the path over frequency, bits per channel, class
// limits.
#pragma once

#include "capacity/coax_tree.h"
#include "capacity/contribution.h"
#include "capacity/distribution.h"

#include <memory>

namespace metrodos::capacity {

/// The loss budget between two jacks and what a network of adapters carries over it, one half-duplex total.
struct CoaxBudget {
    CoaxJoin join = CoaxJoin::unknown;
    std::vector<Contribution> contributions; ///< in the order of the path, at the middle of the band
    catalog::Spread<double> totalDb;
    Distribution rate = Distribution::certain(BitRate::bitsPerSecond(1));
    std::vector<std::string> rulings; ///< what rules it out or takes channels away, each a clause
    bool ruledOut = false;
    std::vector<Improvement> improvements; ///< by falling gain; empty unless asked for
};

struct CoaxQuestion {
    house::Id jackA;
    house::Id jackB;
    std::string deviceClass; ///< catalog id of the slower adapter; empty: the fastest class
    int nodes = 2;           ///< adapters on the network, 2–16
    bool withImprovements = false;
};

/// loss(f) = Σ k·√f·L/100 + connectors + splitters (in to out, or isolation from out to out, where a filter
/// on the input turns power back) + amplifiers + joints + ripple of open ports. Per channel bits = (SNR −
/// gone) / dB per bit, cut to full; rate = box goodput × Σ bits / (full × channels). Unknown values are drawn
/// from the catalog; the same thing draws the same in every budget. docs/models.md has the equations.
[[nodiscard]] CoaxBudget coaxBudget(const house::House& house, const catalog::Catalog& catalog,
                                    const CoaxQuestion& question);

/// The same for many pairs of one house: what a step of the way costs in each draw is worked out once. Holds
/// references to house and catalog; for one thread.
class CoaxPlant {
  public:
    CoaxPlant(const house::House& house, const catalog::Catalog& catalog);
    ~CoaxPlant();

    [[nodiscard]] CoaxBudget budget(const CoaxQuestion& question) const;
    /// All that the budget between two jacks depends on, as text: the same text, the same budget.
    [[nodiscard]] std::string key(const house::Id& jackA, const house::Id& jackB) const;

  private:
    struct Impl;
    std::unique_ptr<Impl> m_impl;
};

} // namespace metrodos::capacity
