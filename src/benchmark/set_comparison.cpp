#include "benchmark/set_comparison.h"

#include "benchmark/comparison.h"
#include "benchmark/run_filter.h"
#include "benchmark/statistics.h"
#include "benchmark/welch.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace metrodos::benchmark {
namespace {

constexpr double significance = 0.05;
constexpr double powerQuantile = 0.8416; // the normal quantile of four times of five
constexpr int mostRuns = 200;            // of a set: beyond, more of them are not the way to find out
constexpr int apartHours = 2;            // hours of the day that are as good as the same

// What a set has of one property, as words.
using Words = std::set<std::string>;

std::string joined(const Words& words) {
    std::string out;
    std::size_t n = 0;
    for (const std::string& word : words) {
        if (++n > 3) return out + " …";
        out += (out.empty() ? "" : ", ") + word;
    }
    return out.empty() ? "none" : out;
}

// The span of the hours on the clock's face: the narrowest that has them all.
struct Hours {
    int from = 0;
    int length = 0; ///< from the first to the last, 0–23
};
std::optional<Hours> hoursOf(const RouteRuns& runs) {
    std::set<int> hours;
    for (const RouteRun& r : runs)
        if (const auto hour = hourOf(r.run)) hours.insert(*hour);
    if (hours.empty()) return std::nullopt;
    Hours best{*hours.begin(), 23};
    for (const int from : hours) {
        int length = 0;
        for (const int hour : hours)
            length = std::max(length, (hour - from + 24) % 24);
        if (length < best.length || hours.size() == 1) best = {from, length};
    }
    return best;
}

// How far apart two spans are at the least, around the clock.
int apart(const Hours& a, const Hours& b) {
    const int ahead = (b.from - (a.from + a.length) + 48) % 24;
    const int behind = (a.from - (b.from + b.length) + 48) % 24;
    const bool overlap = (b.from - a.from + 24) % 24 <= a.length || (a.from - b.from + 24) % 24 <= b.length;
    return overlap ? 0 : std::min(ahead, behind);
}

std::string hourWords(const Hours& hours) {
    const auto clock = [](int hour) { return std::to_string(hour % 24) + " h"; };
    return hours.length == 0 ? clock(hours.from)
                             : clock(hours.from) + " to " + clock(hours.from + hours.length);
}

std::vector<std::string> differencesOf(const RouteRuns& a, const RouteRuns& b, const house::House& house) {
    std::vector<std::string> out;
    const auto look = [&](const std::string& what, const auto& wordOf) {
        Words ofA;
        Words ofB;
        for (const RouteRun& r : a)
            wordOf(r, ofA);
        for (const RouteRun& r : b)
            wordOf(r, ofB);
        if (ofA != ofB) out.push_back(what + ": " + joined(ofA) + " against " + joined(ofB));
    };
    look("the way", [&](const RouteRun& r, Words& to) {
        const house::Route* route = house.route(r.route);
        to.insert(route == nullptr ? r.route : "“" + route->label + "”");
    });
    look("the direction",
         [](const RouteRun& r, Words& to) { to.insert(std::string(name(r.run.config.direction))); });
    look("the streams",
         [](const RouteRun& r, Words& to) { to.insert(std::to_string(r.run.config.streams)); });
    look("the protocol", [](const RouteRun& r, Words& to) {
        to.insert(r.run.config.protocol == Protocol::tcp ? "TCP" : "UDP");
    });
    look("the set-up", [](const RouteRun& r, Words& to) {
        const Arrangement& how = r.run.config.arrangement;
        std::string word(house::name(how.setup));
        if (how.swapped) word += ", ends swapped";
        for (const house::Id& id : how.bypassed)
            word += ", without " + id;
        to.insert(word);
    });
    look("the place", [](const RouteRun& r, Words& to) {
        for (const Alteration& a : r.run.config.arrangement.altered)
            to.insert(a.place.empty() ? std::string(house::name(a.kind)) : a.place);
    });
    look("other people", [](const RouteRun& r, Words& to) {
        if (r.run.conditions.othersActive)
            to.insert(*r.run.conditions.othersActive ? "active" : "not active");
    });
    look("radio", [](const RouteRun& r, Words& to) {
        if (r.run.conditions.radioUp) to.insert(*r.run.conditions.radioUp ? "up" : "not up");
    });
    look("appliances", [](const RouteRun& r, Words& to) {
        to.insert(r.run.conditions.appliances.begin(), r.run.conditions.appliances.end());
    });
    look("what was changed", [](const RouteRun& r, Words& to) {
        if (!r.run.conditions.changed.empty()) to.insert(r.run.conditions.changed);
    });
    look("measured or simulated",
         [](const RouteRun& r, Words& to) { to.insert(r.run.simulated ? "simulated" : "measured"); });
    const auto hoursA = hoursOf(a);
    const auto hoursB = hoursOf(b);
    if (hoursA && hoursB && apart(*hoursA, *hoursB) > apartHours)
        out.push_back("the hour: " + hourWords(*hoursA) + " against " + hourWords(*hoursB));
    return out;
}

std::vector<double> logsOf(const RouteRuns& runs, Rule rule) {
    std::vector<double> out;
    for (const RouteRun& r : runs)
        if (r.run.complete && r.run.goodput.bps() > 0) out.push_back(std::log(figureOf(r.run, rule).bps()));
    return out;
}

std::string percentOff(double ratio) {
    return quantity::significant(std::fabs(ratio - 1) * 100, 2) + " %";
}

} // namespace

SetComparison compareSets(const RouteRuns& a, const RouteRuns& b, const std::string& nameA,
                          const std::string& nameB, const house::House& house, Rule rule) {
    SetComparison out;
    const std::vector<double> logsA = logsOf(a, rule);
    const std::vector<double> logsB = logsOf(b, rule);
    out.runsA = static_cast<int>(logsA.size());
    out.runsB = static_cast<int>(logsB.size());
    out.differs = differencesOf(a, b, house);
    if (out.differs.size() > 1) out.confoundedBy = out.differs;
    if (logsA.empty() || logsB.empty()) {
        out.runsNeeded = 3;
        out.sentence = "there are no whole runs of " + (logsA.empty() ? nameA : nameB);
        return out;
    }
    const double difference = mean(logsB) - mean(logsA);
    out.ratio = std::exp(difference);
    const std::string how = nameB + " is " + percentOff(*out.ratio) +
                            (*out.ratio < 1 ? " slower than " : " faster than ") + nameA;
    if (logsA.size() < 2 || logsB.size() < 2) {
        out.runsNeeded = 3;
        out.sentence = how + ", by single runs: three of each are the least that says how much they vary";
        return out;
    }
    const Welch test = welch(logsA, logsB, significance);
    const double half = test.half;
    out.low = std::exp(difference - half);
    out.high = std::exp(difference + half);
    const double worth = std::log(1 + negligible);
    if (std::fabs(difference) > half)
        out.real = true;
    else if (std::fabs(difference) + half < worth)
        out.real = false;
    const std::string interval =
        " (" + quantity::significant(*out.low, 3) + " to " + quantity::significant(*out.high, 3) + " times)";
    if (out.real == true && std::fabs(difference) < worth)
        out.sentence = how + interval + ": real, and too little to be worth anything";
    else if (out.real == true)
        out.sentence = how + interval + ": real";
    else if (out.real == false)
        out.sentence = nameA + " and " + nameB + " are alike" + interval;
    else {
        // Runs of each that make the interval as narrow as what is to be told from nothing.
        const double told = std::max(std::fabs(difference), worth);
        const double each = test.variances * std::pow(1.96 + powerQuantile, 2) / (told * told);
        out.runsNeeded =
            std::clamp(static_cast<int>(std::ceil(each)), std::max(out.runsA, out.runsB) + 1, mostRuns);
        out.sentence = how + interval + ": not settled; " + std::to_string(out.runsNeeded) +
                       " runs of each, in turns, would settle it";
    }
    if (!out.confoundedBy.empty())
        out.sentence += "; but more than one thing differs, and each may be the cause";
    return out;
}

} // namespace metrodos::benchmark
