// Whether a plan holds when everybody uses it at once: houses like this one are drawn from the beliefs, and
// all flows share what there is.
#pragma once

#include "weigh/plan.h"

#include <array>
#include <map>
#include <utility>
#include <vector>

namespace metrodos::weigh {

/// The houses that are drawn: several times as many as a path through the walls has draws
/// (capacity::drawsPerPath), since what is wrong is rare. Draw n of all paths is one house, in which what two
/// paths share is the same.
inline constexpr int drawnHouses = 256;

/// What ways carry in each of the houses, drawn once for all plans of the same options.
class DrawnWays {
  public:
    struct Draws {
        std::vector<double> sound;                ///< bit/s by passage and house
        std::vector<double> found;                ///< the same with what may be wrong
        std::array<std::vector<double>, 2> whole; ///< of the way up and down where it is known; by house
    };
    /// The options must outlive it and stay as they are.
    explicit DrawnWays(const Options& options)
        : m_options(options) {}
    [[nodiscard]] const Draws& of(std::size_t spot, int way);

  private:
    const Options& m_options;
    std::map<std::pair<std::size_t, int>, Draws> m_ways;
};

/// Sets the share of houses in which each spot gets all that it needs at once, and that in which all do,
/// which is never more than the least of those: of the houses as they are found, and of those in which
/// nothing is wrong. Notes what does not hold at the share that was asked for even where nothing is wrong.
/// Max–min fair sharing (capacity::maxMinShares) with the needs as demands, over shared media, the service,
/// and each spot's own way; the same draws for every plan, so that plans can be compared.
void estimateConfidence(const Options& options, Plan& plan, DrawnWays& drawn);
/// The same for a single plan.
void estimateConfidence(const Options& options, Plan& plan);

} // namespace metrodos::weigh
