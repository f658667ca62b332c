// From the chosen plan to a fitted house: what is to be done, in the order of the work, derived anew from the
// house each time.
//
// A plan that was made the house's has put devices, runs and jacks into it (house::Fitting::planned). Each of
// them is brought in by exactly one step; the steps around them, the bench before and the checks behind,
// follow from what those are. An id is made of what the step is about, so that what was recorded of it stays
// with it when the plan or the survey changes; what the step was about in detail goes with the record
// (Step::of), and where that differs now the step is open again.
#pragma once

#include "catalog/catalog.h"
#include "fit/cautions.h"

#include <string>
#include <string_view>
#include <vector>

namespace metrodos::fit {

enum class StepKind {
    baseline,     ///< the two test machines on one short cable
    bench,        ///< a pair of adapters side by side
    street,       ///< coax parted from the street
    entry_filter, ///< fitted, or why none
    splitter,     ///< exchanged, or the modem split off
    terminate,    ///< open coax ports
    part_phone,   ///< phone pair off the street
    switch_box,
    card,        ///< a network card into a host
    usb_adapter, ///< a network adapter into a socket
    lay,         ///< a new run with its jacks
    copper_ends, ///< of a new run, and its pairs tested
    find_run,    ///< which cable at the cupboard is which jack's
    coax_ends,   ///< of a jack's run, and its continuity
    adapter,     ///< into its place
    outlets,     ///< each of the room tried
    lead,        ///< between two boxes
    pair,        ///< adapters of one medium with each other
    privacy,     ///< proven: a stranger cannot join
    addresses,
    lights, ///< and negotiated rates
    check,  ///< a run over the finished way
    label,
};
[[nodiscard]] std::string_view name(StepKind kind); ///< "bench", "entry-filter" …

struct Part {
    std::string item; ///< catalog id; empty: something common
    std::string label;
    double count = 1;
    std::string unit = {}; ///< "m"; empty: pieces
};

struct Step {
    std::string id; ///< letters, digits and hyphens, at most 100
    StepKind kind = StepKind::adapter;
    std::string about; ///< the thing, route or medium that it is about; empty: there is one of the kind
    house::Id room;    ///< where; empty: the whole house
    std::string where; ///< jack, outlet, port; empty: it says so itself
    std::string label; ///< code to write on it; empty: it has none
    std::string what;  ///< in the imperative
    std::string why;   ///< empty: plain
    std::vector<Part> parts;
    std::vector<std::string> measures; ///< how, with the measures that matter, in order
    std::vector<Caution> cautions;
    std::string before;             ///< what to see before going on; empty: nothing
    std::string otherwise;          ///< what to do when that is not seen
    std::vector<std::string> needs; ///< ids of steps that come before, all earlier in the list
    std::vector<house::Id> fits;    ///< things of the plan that it brings in
    house::Id route;                ///< that a run can prove it on; empty: none
    house::Setup setup = house::Setup::place;
    std::string of; ///< what it is about in detail: a record of another is not of this step

    // As recorded:
    house::StepState state = house::StepState::open;
    std::string at; ///< ISO 8601, UTC; empty: never
    std::string reason;
    std::string note;
    std::size_t photos = 0; ///< how many were kept
    bool isChanged = false; ///< it was done for something else, and is open again
};

/// Nothing is left to do of it.
[[nodiscard]] constexpr bool isClosed(house::StepState state) {
    return state == house::StepState::done || state == house::StepState::skipped;
}

/// In the order of the work: the bench, what concerns the whole house, then place by place, then what proves
/// it. Empty where no plan has put anything into the house. Linear in the things of the house and the routes.
[[nodiscard]] std::vector<Step> stepsOf(const house::House& house, const catalog::Catalog& catalog);

/// Those of them that are left to do.
[[nodiscard]] std::vector<Step> openSteps(const house::House& house, const catalog::Catalog& catalog);

/// What was recorded of steps that are no longer needed.
[[nodiscard]] std::vector<house::StepRecord> noLongerNeeded(const house::House& house,
                                                            const std::vector<Step>& steps);

/// The house with what was done of a step; `at` is ISO 8601, UTC. Its note stays.
[[nodiscard]] house::House withState(const house::House& house, const Step& step, house::StepState state,
                                     const std::string& at, const std::string& reason = {});
[[nodiscard]] house::House withNote(const house::House& house, const Step& step, const std::string& note);
/// With a photo more, and without one; the photo's bytes are kept elsewhere.
[[nodiscard]] house::House withPhoto(const house::House& house, const Step& step, const house::Photo& photo);
[[nodiscard]] house::House withoutPhoto(const house::House& house, const std::string& step,
                                        const std::string& digest);
/// Without the record of a step.
[[nodiscard]] house::House withoutRecord(const house::House& house, const std::string& step);

} // namespace metrodos::fit
