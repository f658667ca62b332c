// How far each figure, text and list of a form may go before it is refused, found by trying: one table that
// notices when any of them moves, or takes its own bound in or out.
#pragma once

#include <QString>
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <functional>
#include <nlohmann/json.hpp>
#include <set>
#include <string>
#include <vector>

namespace metrodos::testing {

/// Says whether a form is taken with this in the one place that is looked at.
using Taken = std::function<bool(const nlohmann::json&)>;

/// The last whole number in direction `sign` that is taken, from one that is; "any" where there is no end.
inline nlohmann::json lastWhole(std::int64_t from, int sign, const Taken& isTaken) {
    constexpr std::int64_t most = 1LL << 60;
    const auto taken = [&](std::int64_t n) {
        return isTaken(n < 0 ? nlohmann::json(n) : nlohmann::json(static_cast<std::uint64_t>(n)));
    };
    std::int64_t good = from;
    std::int64_t step = 1;
    for (; taken(good + sign * step); step *= 8) {
        good += sign * step;
        if (std::abs(good) + 8 * step > most) return "any";
    }
    std::int64_t bad = good + sign * step;
    while (std::abs(bad - good) > 1) {
        const std::int64_t middle = good + (bad - good) / 2;
        (taken(middle) ? good : bad) = middle;
    }
    return good;
}

/// To six digits, as it is kept.
inline double sixDigits(double value) {
    return QString::number(value, 'g', 6).toDouble(); // just the number that is written so
}

/// The same of other numbers, to six digits, and whether that number itself is taken.
inline nlohmann::json lastNumber(double from, int sign, const Taken& isTaken) {
    double good = from;
    double step = std::max(1e-6, std::fabs(from));
    for (; isTaken(good + sign * step); step *= 8) {
        good += sign * step;
        if (std::fabs(good) > 1e18) return "any";
    }
    double bad = good + sign * step;
    while (std::fabs(bad - good) > 1e-8 * std::max(1e-3, std::fabs(bad))) {
        const double middle = good + (bad - good) / 2;
        (isTaken(middle) ? good : bad) = middle;
    }
    const double told = sixDigits(bad);
    return {told, isTaken(told)};
}

/// Where each member of an object, or item of a list, of the form stands; of anything else, none.
inline std::vector<nlohmann::json::json_pointer> inside(const nlohmann::json& form,
                                                        const nlohmann::json::json_pointer& at) {
    std::vector<nlohmann::json::json_pointer> out;
    const nlohmann::json& place = form[at];
    for (std::size_t i = 0; place.is_array() && i < place.size(); ++i)
        out.push_back(at / i);
    if (place.is_object())
        for (const auto& [key, value] : place.items())
            out.push_back(at / key);
    return out;
}

/// The paths of all figures and texts in it, the places in lists left out.
inline void addPaths(const nlohmann::json& at, const std::string& name, std::set<std::string>& out) {
    if (!at.is_structured()) {
        out.insert(name);
        return;
    }
    for (const auto& [key, value] : at.items())
        addPaths(value, name + (at.is_array() ? "/*" : "/" + key), out);
}

/// The form without what is in its lists more than once and may be missing: what is tried often is read
/// faster.
inline nlohmann::json shortened(nlohmann::json whole, const Taken& isTaken) {
    using nlohmann::json;
    const auto paths = [](const json& form) {
        std::set<std::string> out;
        addPaths(form, "", out);
        return out;
    };
    const auto all = paths(whole);
    const std::function<void(const json::json_pointer&)> look = [&](const json::json_pointer& at) {
        if (whole[at].is_array())
            for (std::size_t i = whole[at].size(); i-- > 0;) {
                json less = whole;
                less[at].erase(i);
                if (isTaken(less) && paths(less) == all) whole = std::move(less);
            }
        for (const json::json_pointer& one : inside(whole, at))
            look(one);
    };
    look(json::json_pointer());
    return whole;
}

/// By the path of each in `form`, the places in lists left out: {least, most} of a number, the length of the
/// longest text and list, "any" beyond what is tried. A text or a list that may not be another one at all is
/// left out.
inline nlohmann::json boundsOf(const nlohmann::json& form, const Taken& isTaken,
                               std::int64_t longestList = 1 << 13) {
    using nlohmann::json;
    const json whole = shortened(form, isTaken);
    json out = json::object();
    const std::function<void(const json&, const json::json_pointer&, const std::string&)> look =
        [&](const json& at, const json::json_pointer& path, const std::string& name) {
            json changed = whole;
            json& place = changed[path];
            const Taken with = [&](const json& value) {
                place = value;
                return isTaken(changed);
            };
            const auto longest = [&](std::int64_t most, const std::function<json(std::int64_t)>& ofLength) {
                if (!with(ofLength(2))) return;
                const auto taken = [&](const json& n) { return with(ofLength(n.get<std::int64_t>())); };
                std::int64_t good = 2;
                while (good < most && taken(2 * good))
                    good *= 2;
                if (good >= most)
                    out[name] = "any";
                else
                    out[name] = lastWhole(good, 1, taken);
            };
            if (at.is_number_integer()) {
                if (!out.contains(name))
                    out[name] = {lastWhole(at.get<std::int64_t>(), -1, with),
                                 lastWhole(at.get<std::int64_t>(), 1, with)};
            } else if (at.is_number()) {
                if (!out.contains(name))
                    out[name] = {lastNumber(at.get<double>(), -1, with),
                                 lastNumber(at.get<double>(), 1, with)};
            } else if (at.is_string()) {
                if (!out.contains(name))
                    longest(1 << 13,
                            [](std::int64_t n) { return std::string(static_cast<std::size_t>(n), 'x'); });
            } else if (at.is_array()) {
                if (!at.empty() && !out.contains(name))
                    longest(longestList,
                            [&](std::int64_t n) { return json(static_cast<std::size_t>(n), at.back()); });
                for (std::size_t i = 0; i < at.size(); ++i)
                    look(at[i], path / i, name + "/*");
            } else if (at.is_object()) {
                for (const auto& [key, value] : at.items())
                    look(value, path / key, name + "/" + key);
            }
        };
    look(whole, json::json_pointer(), "");
    return out;
}

/// What is answered to the form without each of its members in turn, by the path of that.
inline nlohmann::json withoutEach(const nlohmann::json& form,
                                  const std::function<nlohmann::json(const nlohmann::json&)>& answer) {
    using nlohmann::json;
    json out = json::object();
    const std::function<void(const json::json_pointer&)> look = [&](const json::json_pointer& at) {
        for (const json::json_pointer& place : inside(form, at)) {
            if (form[at].is_object()) {
                json less = form;
                less[at].erase(place.back());
                out[place.to_string()] = answer(less);
            }
            look(place);
        }
    };
    look(json::json_pointer());
    return out;
}

/// Text with each number in it as "#": what is said, whatever the figures.
inline std::string withoutFigures(const std::string& text) {
    std::string out;
    for (const char c : text) {
        const bool isFigure = (c >= '0' && c <= '9') || (c == '.' && !out.empty() && out.back() == '#');
        if (!isFigure)
            out += c;
        else if (out.empty() || out.back() != '#')
            out += '#';
    }
    return out;
}

/// Where an answer turns while one figure goes from `from` to `to`: {the figure to six digits, the answer
/// before, at it, behind}, for each turn that a step of the way shows.
inline nlohmann::json turnsOf(double from, double to, const std::function<std::string(double)>& answer,
                              int steps = 200) {
    nlohmann::json out = nlohmann::json::array();
    double last = from;
    std::string before = answer(from);
    for (int i = 1; i <= steps; ++i) {
        const double next = from + (to - from) * i / steps;
        const std::string behind = answer(next);
        if (behind != before) {
            double a = last;
            double b = next;
            const double nothing = 1e-9 * std::fabs(to - from);
            while (std::fabs(b - a) > 1e-10 * std::max({std::fabs(a), std::fabs(b), nothing})) {
                const double middle = a + (b - a) / 2;
                (answer(middle) == before ? a : b) = middle;
            }
            const double told = sixDigits(b);
            out.push_back({told, before, answer(told), behind});
        }
        last = next;
        before = behind;
    }
    return out;
}

/// The turns of an answer while each figure of a document goes by itself from nothing to twice what it is, by
/// its path. Whole numbers stay whole.
inline nlohmann::json turnsOfEach(const nlohmann::json& whole,
                                  const std::function<std::string(const nlohmann::json&)>& answer,
                                  int steps = 200) {
    using nlohmann::json;
    json out = json::object();
    const json flat = whole.flatten();
    for (const auto& [path, value] : flat.items()) {
        if (!value.is_number() || value == 0) continue;
        json changed = whole;
        json& place = changed[json::json_pointer(path)];
        json turns = turnsOf(
            0, 2 * value.get<double>(),
            [&](double x) {
                place = value.is_number_integer() ? json(static_cast<std::uint64_t>(x)) : json(x);
                return answer(changed);
            },
            steps);
        if (!turns.empty()) out[path] = std::move(turns);
    }
    return out;
}

} // namespace metrodos::testing
