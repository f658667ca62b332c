// The unknowns after the runs: weighted particles, each a whole state of affairs that agrees with all of
// them.
#pragma once

#include "trace/observation.h"

#include <cstdint>
#include <functional>

namespace metrodos::trace {

/// One state of affairs.
struct Particle {
    double weight = 0;                        ///< all sum to 1
    std::vector<int> state;                   ///< by unknown
    std::vector<std::array<double, 2>> value; ///< by unknown and sense, in ln
    std::vector<bool> outlier;                ///< by observation: the run was not what it was taken for
};

/// Is shown particles before the first observation and after each; every other one but for the last time.
using Watch = std::function<void(const std::vector<Particle>&)>;

/// Sequential importance sampling in which what cannot be decided stays a distribution (Rao–Blackwell): a
/// particle only fixes, run by run, which unknown held the run back and at what value; of all others it keeps
/// that they allow at least as much. Given these, the unknowns are independent, and their truncated beliefs
/// are known in closed form. What held a run is drawn more evenly than
/// it is likely, and the weight of the particle makes up for that. So a route that is held elsewhere says of
/// the rest only "at least so much". Where the weights grow uneven the particles are drawn anew,
/// systematically. At the end what is left open is drawn.
///
/// The cost is particles × observations × unknowns. Deterministic for a seed.
[[nodiscard]] std::vector<Particle> infer(const std::vector<Unknown>& unknowns,
                                          const std::vector<Observation>& observations, std::size_t particles,
                                          std::uint64_t seed, const Watch& watch = {});

/// The unknown that holds a run back in a state of affairs, as an index into `terms`, and what it allows. Of
/// several that allow the same the first. `terms` must not be empty.
struct Held {
    std::size_t term = 0;
    double lnRate = 0;
};
[[nodiscard]] Held heldBack(const Particle& particle, const std::vector<Term>& terms);

} // namespace metrodos::trace
