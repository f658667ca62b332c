#include "benchmark/comparison_presets.h"

#include "benchmark/run_filter.h"
#include "house/edit.h"

#include <algorithm>
#include <set>
#include <sstream>

namespace metrodos::benchmark {
namespace {

constexpr std::size_t mostChanges = 3;
constexpr std::size_t mostOfAKind = 4;

// In a filter a value with blanks stands in quotes and cannot hold any itself. A part of a label is enough:
// the longest without.
std::string quoted(const std::string& label) {
    std::string longest;
    std::istringstream parts(label);
    for (std::string part; std::getline(parts, part, '"');)
        if (part.size() > longest.size()) longest = part;
    return "\"" + longest + "\"";
}

class Presets {
  public:
    Presets(const house::House& house, const RouteRuns& runs, const house::Id& route)
        : m_house(house)
        , m_runs(runs)
        , m_route(route.empty() ? "" : "route=" + route) {}

    std::vector<ComparisonPreset> all() {
        changes();
        // As the survey has it, and whole: what other tests were is not what a way carries.
        add("one way against the other", "direction=forward", "direction=backward");
        places();
        years();
        days();
        add("alone and with others", "others=no", "others=yes");
        appliances();
        add("on the bench and in place", "setup=bench", "setup=place");
        add("the machines alone and in place", "setup=baseline", "setup=place");
        add("with a part of the way left out and with it", "bypassed=yes", "bypassed=no");
        return std::move(m_out);
    }

  private:
    // Where both have runs.
    void add(const std::string& label, const std::string& first, const std::string& second) {
        const auto with = [&](const std::string& terms) {
            return m_route + (m_route.empty() ? "" : " ") + terms;
        };
        const auto any = [&](const std::string& terms) {
            const auto filter = parseRunFilter(with(terms));
            return filter && std::any_of(m_runs.begin(), m_runs.end(), [&](const RouteRun& r) {
                       return r.run.complete && filter->matches(r, m_house);
                   });
        };
        if (any(first) && any(second)) m_out.push_back({label, with(first), with(second)});
    }

    void changes() {
        const auto& all = m_house.changes;
        for (std::size_t i = 0; i < std::min(all.size(), mostChanges); ++i) {
            const house::DatedChange& c = all[all.size() - 1 - i];
            add("before and after: " + c.text, "until=" + c.at, "from=" + c.at);
        }
    }

    void places() {
        std::vector<std::string> found;
        for (const RouteRun& r : m_runs)
            for (const Alteration& a : r.run.config.arrangement.altered)
                if (!a.place.empty() && std::find(found.begin(), found.end(), a.place) == found.end())
                    found.push_back(a.place);
        for (std::size_t i = 1; i < std::min(found.size(), mostOfAKind + 1); ++i)
            add("“" + house::labelOfPlace(m_house, found.front()) + "” and “" +
                    house::labelOfPlace(m_house, found[i]) + "”",
                "place=" + found.front(), "place=" + found[i]);
    }

    void years() {
        std::set<std::string> found;
        for (const RouteRun& r : m_runs)
            if (!r.run.startedAt.empty()) found.insert(r.run.startedAt.substr(0, 4));
        if (found.size() < 2) return;
        const std::string last = *found.rbegin();
        const std::string before = *std::next(found.rbegin());
        add(before + " and " + last, "from=" + before + " until=" + before,
            "from=" + last + " until=" + last);
    }

    void days() {
        std::set<std::string> found;
        for (const RouteRun& r : m_runs)
            if (!r.run.startedAt.empty()) found.insert(r.run.startedAt.substr(0, 10));
        if (found.size() < 2) return;
        const auto day = [](const std::string& d) { return "from=" + d + " until=" + d; };
        add("the first day and the last", day(*found.begin()), day(*found.rbegin()));
    }

    void appliances() {
        std::set<std::string> found;
        for (const RouteRun& r : m_runs)
            found.insert(r.run.conditions.appliances.begin(), r.run.conditions.appliances.end());
        std::size_t n = 0;
        for (const std::string& label : found)
            if (++n <= mostOfAKind)
                add("“" + label + "” off and on", "without=" + quoted(label), "appliance=" + quoted(label));
    }

    const house::House& m_house;
    const RouteRuns& m_runs;
    std::string m_route;
    std::vector<ComparisonPreset> m_out;
};

} // namespace

std::vector<ComparisonPreset> presetsOf(const house::House& house, const RouteRuns& runs,
                                        const house::Id& route) {
    return Presets(house, runs, route).all();
}

} // namespace metrodos::benchmark
