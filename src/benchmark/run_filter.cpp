#include "benchmark/run_filter.h"

#include "quantity/ascii.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <algorithm>
#include <cctype>
#include <functional>
#include <map>

namespace metrodos::benchmark {
namespace {

using quantity::inQuotes;
using quantity::problem;
using quantity::Result;

constexpr std::size_t maxTyped = 1000; // bytes
constexpr std::size_t maxWords = 20;

// "route=dome-loft", "appliance=\"old kettle\"", "loft".
Result<std::vector<std::string>> termsOf(std::string_view text) {
    std::vector<std::string> out;
    std::string term;
    bool quoted = false;
    bool any = false;
    for (const char c : text) {
        if (c == '"') {
            quoted = !quoted;
            any = true;
        } else if (!quoted && std::isspace(static_cast<unsigned char>(c)) != 0) {
            if (any) out.push_back(term);
            term.clear();
            any = false;
        } else {
            term += c;
            any = true;
        }
    }
    if (quoted) return problem("a quotation mark is not closed", "", "close it, or leave it out");
    if (any) out.push_back(term);
    return out;
}

std::optional<bool> yesOrNo(const std::string& text) {
    if (text == "yes") return true;
    if (text == "no") return false;
    return std::nullopt;
}

std::optional<std::string> kindOf(const std::string& text) {
    for (const char* kind : {"run", "watch", "copy", "transfer", "search", "matrix", "reading", "document"})
        if (text == kind) return text;
    return std::nullopt;
}

std::optional<Direction> directionOf(const std::string& text) {
    for (const Direction d : {Direction::forward, Direction::backward})
        if (name(d) == text) return d;
    return std::nullopt;
}

// A beginning of "2026-05-04T10:00:00Z", cut behind a whole part.
bool isMoment(const std::string& text) {
    constexpr std::string_view form = "dddd-dd-ddTdd:dd:ddZ";
    if (text.size() < 4 || text.size() > form.size()) return false;
    for (std::size_t i = 0; i < text.size(); ++i)
        if (form[i] == 'd' ? !quantity::ascii::isDigit(text[i]) : text[i] != form[i]) return false;
    return text.size() == form.size() || form[text.size()] != 'd';
}

std::optional<house::HourSpan> hoursOf(const std::string& text) {
    const std::size_t dash = text.find('-');
    if (dash == std::string::npos) return std::nullopt;
    const auto from = quantity::parseWhole(text.substr(0, dash), 0, 24);
    const auto to = quantity::parseWhole(text.substr(dash + 1), 0, 24);
    if (!from || !to) return std::nullopt;
    return house::HourSpan{static_cast<int>(*from), static_cast<int>(*to)};
}

} // namespace

bool hasWord(const std::string& text, const std::string& part) {
    return quantity::ascii::inLowerCase(text).find(quantity::ascii::inLowerCase(part)) != std::string::npos;
}

bool hasMachine(const house::House& house, const house::Id& route, const std::string& machine) {
    const house::Route* its = house.route(route);
    if (its == nullptr) return false;
    for (const house::Id& end : {its->from, its->to})
        if (end == machine || house.deviceAt(end) == machine || hasWord(house.endLabel(end), machine))
            return true;
    return false;
}

std::optional<int> hourOf(const Run& run) {
    if (run.conditions.hour) return run.conditions.hour;
    constexpr std::size_t at = 11; // of "2026-05-04T10"
    if (run.startedAt.size() < at + 2) return std::nullopt;
    const auto hour = quantity::parseWhole(run.startedAt.substr(at, 2), 0, 23);
    return hour ? std::optional(static_cast<int>(*hour)) : std::nullopt;
}

bool RunFilter::matches(const RouteRun& one, const house::House& house) const {
    const Run& run = one.run;
    const Arrangement& how = run.config.arrangement;
    if (!kind.empty() && kind != "run") return false;
    if (used && *used != (run.complete && house.whySetAside(run.id) == nullptr)) return false;
    if (!route.empty() && one.route != route) return false;
    if (!machine.empty() && !hasMachine(house, one.route, machine)) return false;
    if (direction && run.config.direction != *direction) return false;
    if (setup && how.setup != *setup) return false;
    if (streams && run.config.streams != *streams) return false;
    // Moments of one form are in order as their texts are; one that is cut off is its whole span.
    if (!from.empty() && run.startedAt < from) return false;
    if (!until.empty() && run.startedAt.substr(0, until.size()) > until) return false;
    if (hours) {
        const auto hour = hourOf(run);
        if (!hour || !hours->contains(*hour)) return false;
    }
    if (others && run.conditions.othersActive != others) return false;
    if (simulated && run.simulated != *simulated) return false;
    const auto& appliances = run.conditions.appliances;
    const auto anyHas = [&](const std::string& part) {
        return std::any_of(appliances.begin(), appliances.end(),
                           [&](const std::string& label) { return hasWord(label, part); });
    };
    if (!appliance.empty() && !anyHas(appliance)) return false;
    if (!without.empty() && anyHas(without)) return false;
    if (bypassed && *bypassed == how.bypassed.empty()) return false;
    if (!place.empty() && std::none_of(how.altered.begin(), how.altered.end(),
                                       [&](const Alteration& a) { return a.place == place; }))
        return false;
    if (!step.empty() && run.step != step) {
        const auto trial = std::find_if(house.trials.begin(), house.trials.end(),
                                        [&](const house::Trial& t) { return t.id == step; });
        if (trial == house.trials.end() ||
            std::none_of(trial->steps.begin(), trial->steps.end(),
                         [&](const house::TrialStep& s) { return s.id == run.step; }))
            return false;
    }
    const house::Route* its = house.route(one.route);
    return std::all_of(words.begin(), words.end(), [&](const std::string& word) {
        return hasWord(one.route, word) || (its != nullptr && hasWord(its->label, word)) ||
               hasWord(run.conditions.changed, word) || anyHas(word);
    });
}

Result<RunFilter> parseRunFilter(std::string_view text) {
    if (text.size() > maxTyped) return problem("the filter is longer than 1000 bytes", "", "ask for less");
    const auto terms = termsOf(text);
    if (!terms) return tl::unexpected(terms.error());
    RunFilter out;
    using Take = std::function<bool(const std::string&)>;
    const auto into = [](auto& to, auto read) -> Take {
        return [&to, read](const std::string& value) {
            const auto found = read(value);
            if (found) to = *found;
            return found.has_value();
        };
    };
    const auto copied = [](std::string& to) -> Take {
        return [&to](const std::string& value) {
            to = value;
            return !value.empty();
        };
    };
    const auto moment = [](std::string& to) -> Take {
        return [&to](const std::string& value) {
            to = value;
            return isMoment(value);
        };
    };
    const auto streamsOf = [](const std::string& value) -> std::optional<int> {
        const auto n = quantity::parseWhole(value, 1, maxStreams);
        return n ? std::optional(static_cast<int>(*n)) : std::nullopt;
    };
    const std::map<std::string, std::pair<Take, const char*>> keys{
        {"route", {copied(out.route), "the id of a route"}},
        {"machine", {copied(out.machine), "a part of its name"}},
        {"direction", {into(out.direction, &directionOf), "forward or backward"}},
        {"setup",
         {into(out.setup, [](const std::string& v) { return house::setup(v); }), "place, baseline or bench"}},
        {"streams", {into(out.streams, streamsOf), "a number from 1 to 32"}},
        {"from", {moment(out.from), "a date like 2026-05-04"}},
        {"until", {moment(out.until), "a date like 2026-05-04"}},
        {"hours", {into(out.hours, &hoursOf), "hours like 18-22"}},
        {"others", {into(out.others, &yesOrNo), "yes or no"}},
        {"simulated", {into(out.simulated, &yesOrNo), "yes or no"}},
        {"appliance", {copied(out.appliance), "a part of its name"}},
        {"without", {copied(out.without), "a part of its name"}},
        {"bypassed", {into(out.bypassed, &yesOrNo), "yes or no"}},
        {"place", {copied(out.place), "a jack, or device.port"}},
        {"kind",
         {into(out.kind, &kindOf), "run, watch, copy, transfer, search, matrix, reading or document"}},
        {"used", {into(out.used, &yesOrNo), "yes or no"}},
        {"step", {copied(out.step), "the id of a trial or of one of its steps"}}};
    for (const std::string& term : *terms) {
        const std::size_t equals = term.find('=');
        if (equals == std::string::npos) {
            if (out.words.size() == maxWords)
                return problem("the filter has more than 20 words", "", "ask for less");
            out.words.push_back(term);
            continue;
        }
        const auto key = keys.find(quantity::ascii::inLowerCase(term.substr(0, equals)));
        if (key == keys.end()) {
            std::string known;
            for (const auto& [name, take] : keys)
                known += (known.empty() ? "" : ", ") + name;
            return problem("runs have no " + inQuotes(term.substr(0, equals)), "", "ask for " + known);
        }
        if (!key->second.first(term.substr(equals + 1)))
            return problem(inQuotes(term) + " cannot be read", "",
                           "write " + std::string(key->second.second));
    }
    return out;
}

RouteRuns matching(const RouteRuns& runs, const RunFilter& filter, const house::House& house) {
    RouteRuns out;
    std::copy_if(runs.begin(), runs.end(), std::back_inserter(out),
                 [&](const RouteRun& run) { return filter.matches(run, house); });
    return out;
}

} // namespace metrodos::benchmark
