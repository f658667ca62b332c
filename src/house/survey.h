// What is found in the walls on a walk through the house: jacks, the coax tree, circuits, appliances, needs.
// Every optional or empty field means "not known", which is always a legal answer.
#pragma once

#include "quantity/quantity.h"

#include <chrono>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::house {

/// A stable name for a thing, unique among all things of the house: 1 to 64 of a–z, 0–9 and '-'.
using Id = std::string;

enum class JackKind { data, coax, mains, phone };

/// What lies between an adapter and its outlet: nothing, a plain strip or extension lead, one with surge
/// protection.
enum class Strip { unknown, wall, plain, surge_protected };

/// A place in a wall where something can be plugged in.
struct Jack {
    Id id;
    std::string label;
    Id room;
    JackKind kind = JackKind::data;
    Strip strip = Strip::unknown; ///< mains: what is plugged in there, and the rest into that

    friend bool operator==(const Jack&, const Jack&) = default;
};

/// How somebody knows which cable end belongs to which jack.
enum class FoundBy { unknown, seen, continuity, tone, flash };
inline constexpr FoundBy waysOfFinding[] = {FoundBy::unknown, FoundBy::seen, FoundBy::continuity,
                                            FoundBy::tone, FoundBy::flash};
[[nodiscard]] std::string_view name(FoundBy how); ///< "unknown", "tone" …
[[nodiscard]] std::optional<FoundBy> foundBy(std::string_view name);

/// What is screwed into the coax tree. An entry has one port, "out"; amplifiers, filters and joints have "in"
/// and "out"; a splitter has "in" and "out-1" … "out-N".
enum class CoaxPartKind { entry, splitter, amplifier, filter, joint };

struct CoaxPart {
    Id id;
    std::string label;
    CoaxPartKind kind = CoaxPartKind::splitter;
    Id room;
    int ways = 2;                   ///< splitter: outputs, 2–8
    std::optional<bool> rated;      ///< splitter: made for the adapters' band
    std::optional<bool> bypass;     ///< amplifier: lets the adapters' band pass
    std::optional<bool> terminated; ///< every port that nothing is screwed onto carries a terminator

    friend bool operator==(const CoaxPart&, const CoaxPart&) = default;
};

/// What else the coax tree carries.
struct CoaxUse {
    std::optional<bool> television;
    std::optional<bool> satellite;                       ///< a dish on the same tree: 950 to 2150 MHz
    std::optional<quantity::Frequency> cableInternetTop; ///< upper edge of cable internet; nothing: none

    friend bool operator==(const CoaxUse&, const CoaxUse&) = default;
};

/// A consumer unit; a sub-panel is fed by another one.
struct Panel {
    Id id;
    std::string label;
    Id room;
    Id fedBy; ///< empty: by the supply

    friend bool operator==(const Panel&, const Panel&) = default;
};

enum class Protection { unknown, breaker, fuse, residual_current, arc_fault };

struct CircuitOutlet {
    Id jack;
    std::optional<quantity::Length> fromPrevious; ///< wire from the outlet before, or from the panel

    friend bool operator==(const CircuitOutlet&, const CircuitOutlet&) = default;
};

/// One circuit of a panel with its outlets in the order in which the wire passes them.
struct Circuit {
    Id id;
    std::string label;
    Id panel;
    std::string leg; ///< "1", "2", "3" or a letter; empty: not known
    Protection protection = Protection::unknown;
    std::string wiring; ///< catalog id; empty: not known
    std::vector<CircuitOutlet> outlets;

    friend bool operator==(const Circuit&, const Circuit&) = default;
};

/// Whole hours of the day from `from` up to `to`, both 0–24; over midnight where to < from.
struct HourSpan {
    int from = 0;
    int to = 24;

    [[nodiscard]] constexpr bool contains(int hour) const {
        return from <= to ? hour >= from && hour < to : hour >= from || hour < to;
    }
    friend bool operator==(const HourSpan&, const HourSpan&) = default;
};

/// A consumer that disturbs the mains at its outlet.
struct Appliance {
    Id id;
    std::string label;
    std::string applianceClass;  ///< catalog id; empty: not known
    Id outlet;                   ///< jack of kind mains
    std::vector<HourSpan> hours; ///< empty: may run at any hour

    friend bool operator==(const Appliance&, const Appliance&) = default;
};

/// How disks work together (single, striped, mirrored, one of them parity).
enum class DiskLayout { single, stripe, mirror, parity };

struct Storage {
    std::string diskClass; ///< catalog id; empty: not known
    int disks = 1;         ///< 1–64
    DiskLayout layout = DiskLayout::single;

    friend bool operator==(const Storage&, const Storage&) = default;
};

/// The internet service at the box that it ends in. A route may end at it like at an endpoint.
struct Service {
    Id id;
    std::string label;
    Id device; ///< the box
    std::optional<quantity::BitRate> down;
    std::optional<quantity::BitRate> up;
    std::string testUrl = {}; ///< a web address to load from and to; empty: none is known
    std::string uplink =
        {}; ///< catalog id of the PHY of the box's port towards the operator; empty: not known

    friend bool operator==(const Service&, const Service&) = default;
};

/// The word for the internet service as the other end of a need.
inline constexpr std::string_view servicePeer = "service";

/// What somebody does at a spot, so many times at once.
struct Use {
    std::string useClass;                       ///< catalog id: "stream-4k", "call" …
    int count = 1;                              ///< 1–999
    std::optional<quantity::BitRate> rate = {}; ///< of one, the larger way, in place of the class's
    /// What is moved as a whole: so much within so long; at most 1 PB and 1000 h.
    std::optional<quantity::ByteCount> volume = {};
    std::optional<double> hours = {};
    /// The other end of its traffic: `servicePeer`, or the id of a device. Empty: as its class says.
    std::string peer = {};

    friend bool operator==(const Use&, const Use&) = default;
};

/// A place that needs a connection, and what it needs there. Figures go before what follows from the uses.
struct Spot {
    Id id;
    std::string label;
    Id room;
    Id device;                                 ///< empty: not there yet
    std::optional<quantity::BitRate> needDown; ///< towards the spot
    std::optional<quantity::BitRate> needUp;
    std::vector<Use> uses = {};                              ///< at most 32
    std::optional<std::chrono::microseconds> needDelay = {}; ///< idle round trip at most
    std::optional<bool> needSteady = {};                     ///< whether drop-outs and spikes would be felt
    std::string pin = {}; ///< the way that it must be reached by; empty: any
    std::string peer =
        {}; ///< the other end of the figures, as of a use. Empty: the service, where there is one

    friend bool operator==(const Spot&, const Spot&) = default;
};

/// The way by which a spot is to be reached, as `weigh` names it: "coax", "new-own" …
struct Choice {
    Id spot;
    std::string way;

    friend bool operator==(const Choice&, const Choice&) = default;
};

/// What plans are ranked by.
enum class Objective { cheapest, steadiest, no_drilling, fastest, lasting };
inline constexpr Objective objectives[] = {Objective::cheapest, Objective::steadiest, Objective::no_drilling,
                                           Objective::fastest, Objective::lasting};
[[nodiscard]] std::string_view name(Objective objective); ///< "cheapest", "no-drilling" …
[[nodiscard]] std::optional<Objective> objective(std::string_view name);

inline constexpr int maxQuoteRuns = 500;
inline constexpr quantity::Money maxQuote = quantity::Money::units(1e7);

/// What somebody else asks for the cabling of this house.
struct Quote {
    std::string from;       ///< who; empty: not said
    quantity::Money amount; ///< for all runs together, 0 to maxQuote
    int runs = 1;           ///< that it is for, 1 to maxQuoteRuns

    friend bool operator==(const Quote&, const Quote&) = default;
};

/// How the plans of the house are chosen.
struct Weighing {
    Objective objective = Objective::cheapest; ///< of the plans that carry every need
    double share =
        0.9;        ///< of the houses like this one that carry a need before it counts as carried, 0.5–0.99
    int years = 10; ///< that the plan is to last, 1–40
    std::vector<Choice> plan = {}; ///< the chosen one, by spot; empty: none yet
    bool drilling = true;          ///< whether holes are allowed at all
    double atOnce = 0.5; ///< share of what is not steady that goes on while everything steady does, 0–1
    std::optional<Quote> quote = {}; ///< to hold plans against

    friend bool operator==(const Weighing&, const Weighing&) = default;
};

/// How repeated runs become one figure.
enum class SummaryRule {
    trimmed, ///< best and worst dropped, mean of the rest; with fewer than five runs that is the median
    median,
    mean,
    best,      ///< the fastest run: what it can do
    sustained, ///< the tenth percentile of whole seconds: what can be counted on
};
inline constexpr SummaryRule summaryRules[] = {SummaryRule::trimmed, SummaryRule::median, SummaryRule::mean,
                                               SummaryRule::best, SummaryRule::sustained};
[[nodiscard]] std::string_view name(SummaryRule rule); ///< "trimmed", "median" …
[[nodiscard]] std::optional<SummaryRule> summaryRule(std::string_view name);

/// How the runs of the house are read.
struct Measuring {
    SummaryRule summary = SummaryRule::trimmed;

    friend bool operator==(const Measuring&, const Measuring&) = default;
};

/// The words used for the enumerations in files.
[[nodiscard]] std::string_view name(JackKind kind);
[[nodiscard]] std::string_view name(CoaxPartKind kind);
[[nodiscard]] std::string_view name(Protection protection);
[[nodiscard]] std::string_view name(Strip strip);
[[nodiscard]] std::string_view name(DiskLayout layout);
[[nodiscard]] std::optional<JackKind> jackKind(std::string_view name);
[[nodiscard]] std::optional<CoaxPartKind> coaxPartKind(std::string_view name);
[[nodiscard]] std::optional<Protection> protection(std::string_view name);
[[nodiscard]] std::optional<Strip> strip(std::string_view name);
[[nodiscard]] std::optional<DiskLayout> diskLayout(std::string_view name);

/// The ids of the ports of a part: {"in", "out-1", "out-2"}.
[[nodiscard]] std::vector<Id> portsOf(const CoaxPart& part);

} // namespace metrodos::house
