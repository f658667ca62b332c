// Says which element limits a route, how sure that is and why, and what to test next.
#pragma once

#include "benchmark/summary.h"
#include "trace/observation.h"

#include <optional>
#include <string>
#include <vector>

namespace metrodos::trace {

using quantity::BitRate;

/// What one observation did to a suspicion.
struct Evidence {
    std::string text; ///< "4 streams forward: 94.1 Mbit/s, steady"
    double before = 0;
    double after = 0;              ///< probability of the suspect
    std::vector<std::string> runs; ///< ids
};

struct Suspect {
    std::string element; ///< id of the element, or `unlisted`
    std::string label;
    double probability = 0;
    BitRate ceiling; ///< of the direction that speaks most; as measured where it is the limiter
    std::optional<BitRate> ifReplaced; ///< what the rest of the route would carry; nothing for `unlisted`
    std::optional<catalog::RateSpread> ifReplacedSpread;
    std::optional<quantity::Money> cost; ///< guide price of the box that would carry it; nothing: not known
    std::string next;                    ///< label of what would limit then
    std::string state;               ///< how it is likely to be, beyond its class; empty: as its class says
    double stateProbability = 0;     ///< of that, given that it is the limiter
    std::vector<std::string> equals; ///< labels of others with the same ceiling: they are one limit
    std::vector<house::Id> equalIds; ///< their ids
    std::vector<Evidence> evidence;  ///< by time; those that moved it by more than two in a hundred
    std::vector<std::string> because;
};

enum class TestKind { run, read, service, copy, together };

/// What would be seen if one suspect were the limiter.
struct Outcome {
    std::string sees; ///< "about 94 Mbit/s"
    std::string means;
    double probability = 0;
};

struct NextTest {
    std::string id;
    std::string does;           ///< what to do, in the imperative
    double informationBits = 0; ///< expected
    double minutes = 0;
    TestKind kind = TestKind::run;
    RunShape shape;               ///< of a run, which goes in both directions in turn
    std::vector<house::Id> reads; ///< elements whose state a reading tells
    std::optional<BitRate> pace;  ///< of datagrams; nothing: TCP
    house::Id beside;             ///< together: the route that runs at the same time
    /// A reading of the PHY rates that a medium's adapters show: the share of them that TCP gets.
    std::optional<double> phyShare;
    bool isFirst = false; ///< before what would tell more: without it nothing that is told is worth much
    std::vector<Outcome> outcomes; ///< of the first test: by falling probability
};

/// What limits one direction.
struct DirectionLimit {
    std::string element;
    std::string label;
    double probability = 0;
    BitRate ceiling; ///< as measured where it is more likely than not
};

/// A least set of elements to exchange, and what the route would carry then, in the direction that speaks.
struct Lift {
    std::vector<house::Id> exchange;
    std::vector<std::string> labels;
    BitRate then;
    std::optional<quantity::Money> cost; ///< guide prices of the boxes; nothing: one of them has none
    std::string next;                    ///< label of what would limit then
};

struct Diagnosis {
    std::string route;
    std::vector<Suspect> suspects;   ///< by falling probability, those above 0.5 %
    std::vector<NextTest> nextTests; ///< by falling information per minute
    std::vector<std::string> warnings;
    std::optional<BitRate> measuredForward; ///< by the job's rule of summary
    std::optional<BitRate> measuredBackward;
    std::optional<benchmark::Summary> summaryForward; ///< the same with its interval and its runs
    std::optional<benchmark::Summary> summaryBackward;
    std::string nextElement; ///< label of what would limit if the first suspect were replaced
    std::string sentence;    ///< "what is the limit now, and what next?"
    BitRate carried;         ///< as the sentence says: measured where it was, else what is expected
    bool needMet = false;    ///< a need is known, and what the route carries that way meets it
    std::optional<DirectionLimit> limitForward;
    std::optional<DirectionLimit> limitBackward;
    std::optional<bool> forwardMet; ///< nothing: no need is stated
    std::optional<bool> backwardMet;
    std::vector<Lift> lifts; ///< each more than the one before, up to the need and to the next rate
    std::string sold;        ///< what was promised against what was measured; empty: one is not known
    std::vector<std::string> leftOut; ///< ids of runs that say nothing of this route; warned of
};

/// What is asked.
struct Case {
    const capacity::RoutePrediction& prediction;
    const house::House& house; ///< that the prediction speaks of
    const catalog::Catalog& catalog;
    std::vector<benchmark::Run> runs = {};  ///< of this route; with none the prediction speaks alone
    std::vector<PredictedRuns> others = {}; ///< routes that may share elements with it
    std::vector<std::string> declined = {}; ///< ids of tests that cannot be made
    bool runsFromMemory = false; ///< runs never reach the disks of a route over which files are copied
    std::size_t particles = 600;
    std::uint64_t seed = 1;
};

[[nodiscard]] Diagnosis diagnose(const Case& asked);

/// The same for a route of a house with all the runs of its job, by route id; without the tests that the
/// route declines.
[[nodiscard]] quantity::Result<Diagnosis> diagnoseRoute(const house::House& house,
                                                        const catalog::Catalog& catalog,
                                                        const house::Route& route,
                                                        const benchmark::RouteRuns& runs);

} // namespace metrodos::trace
