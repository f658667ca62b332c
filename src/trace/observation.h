// What runs say about the unknowns: alike runs are one observation, with the rate they reached, what they
// passed and how they looked besides.
#pragma once

#include "benchmark/route_runs.h"
#include "trace/unknowns.h"

#include <map>

namespace metrodos::trace {

/// A route with the runs made on it.
struct PredictedRuns {
    const capacity::RoutePrediction* prediction = nullptr;
    std::vector<benchmark::Run> runs; ///< oldest first
};

/// An unknown in the way of a run: it allows exp(value + gain) bit/s.
struct Term {
    std::size_t unknown = 0;
    int sense = 0;
    double gain = 0;
    /// States, a bit each, in place of which another unknown speaks: what was lifted for the run.
    std::uint32_t lifted = 0;
    std::size_t twin = 0; ///< that other unknown, where anything is lifted

    /// The one that speaks in this state of `unknown`.
    [[nodiscard]] std::size_t speaks(int state) const {
        return (lifted >> static_cast<unsigned>(state) & 1U) != 0 ? twin : unknown;
    }
};
inline constexpr std::uint32_t allStates = ~std::uint32_t{0};

/// What of a run decides what it passes and how fast that may be.
struct RunShape {
    bool forward = true;
    int streams = 4;
    benchmark::Arrangement arrangement = {};

    friend auto operator<=>(const RunShape&, const RunShape&) = default;
};

/// The signs of catalog::Signature as a run showed them; nothing: not taken, or between yes and no.
struct Symptoms {
    std::optional<bool> queue;
    std::optional<bool> window;
    std::optional<bool> buffer;
    std::optional<bool> coreSender;
    std::optional<bool> coreReceiver;
    std::optional<bool> unsteady;
    std::optional<bool> errors;
    std::optional<bool> falls;
    std::optional<bool> stalls;
    std::optional<double> spread; ///< relative standard deviation of whole seconds
    std::optional<double> resent; ///< benchmark::resentShare
};

struct Observation {
    house::Id route;
    RunShape shape;
    std::vector<std::string> runs; ///< ids
    std::vector<Term> terms;
    house::Id link; ///< a reading of this link's rate or of the adapters at this medium, no run
    bool fromMemory =
        false; ///< of a route over which files are copied: the run met neither its disks nor its protocol
    bool atLeast = false; ///< the run was held by its own order: the route carries no less
    double lnRate = 0;    ///< ln bit/s of goodput
    double below = 0;     ///< how far a run may stay below the least ceiling, one standard deviation in ln
    double above = 0;
    Symptoms symptoms;
};

/// The unknowns of a route and of the routes that share elements with it.
class Model {
  public:
    Model(const capacity::RoutePrediction& prediction, const house::House& house,
          const catalog::Catalog& catalog);
    /// Adds a route; what it shares with those before is the same unknown.
    void add(const capacity::RoutePrediction& prediction);

    [[nodiscard]] const std::vector<Unknown>& unknowns() const { return m_unknowns; }
    [[nodiscard]] const capacity::RoutePrediction& prediction() const { return *m_routes.front().prediction; }
    /// What a run over the first route, or another one that was added, passes. `rttUs`: its idle round-trip
    /// time; nothing: as predicted.
    [[nodiscard]] std::vector<Term> terms(const RunShape& shape, const house::Id& route = {},
                                          std::optional<double> rttUs = std::nullopt) const;
    /// Alike runs together, in the order of the first of each.
    [[nodiscard]] std::vector<Observation> observations(const PredictedRuns& route) const;
    /// What the survey says that the links of the first route run at: the least of cable and ports; and what
    /// the adapters show of their PHY rates, which is a share of what the medium between them carries.
    [[nodiscard]] std::vector<Observation> readings() const;

  private:
    struct Route {
        const capacity::RoutePrediction* prediction = nullptr;
        std::vector<std::size_t> unknown; // by element
        std::vector<double> gain;
        std::vector<std::pair<std::size_t, std::size_t>> losses; // element, and its unknown
        std::size_t windowAtFrom = 0;
        std::size_t windowAtTo = 0;
        std::vector<std::pair<std::size_t, std::size_t>> unlisted; // a cable's element, and its unknown
    };
    [[nodiscard]] const Route* find(const house::Id& route) const;
    void lift(Term& term, house::AlterationKind how) const;
    [[nodiscard]] std::optional<Observation> phyReading(const Route& route, std::size_t element,
                                                        bool forward) const;

    const house::House& m_house;
    const catalog::Catalog& m_catalog;
    std::vector<Unknown> m_unknowns;
    std::vector<Route> m_routes;
    std::map<std::string, std::size_t> m_known; // element id, or "window " and the machine's
    std::map<std::size_t, std::size_t> m_twins; // of media
    std::map<std::size_t, double> m_middle;     // ln of the median where the unknown was first met
};

/// The signs of one run.
[[nodiscard]] Symptoms symptomsOf(const benchmark::Run& run);

} // namespace metrodos::trace
