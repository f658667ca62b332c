// A field of the survey: everything that files, tables and typed lines need to know of it, said once. The
// fields of each kind of thing stand in survey_fields*.cpp; a new one is a member of house and a line there.
#pragma once

#include "house/house.h"
#include "quantity/fields.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/problem.h"
#include "quantity/text.h"

#include <algorithm>
#include <functional>
#include <string>
#include <vector>

namespace metrodos::catalog {
struct Catalog;
}

namespace metrodos::job {

using house::House;
using json = nlohmann::json;

/// Something that a field may be: what is stored, and how it is shown. Several may be shown alike.
struct Choice {
    std::string value;
    std::string label;
};

template <typename Item>
struct Field {
    std::string key;   ///< in JSON; with its unit: "length_m"
    std::string title; ///< in words, over its column; what a typed line calls it. Empty: it is in files only
    json schema;       ///< what JSON Schema says of it
    std::string csv;   ///< its column in tables; empty: not in them
    std::function<json(const House&, const Item&)> write;
    /// From the object that has it or not. Throws quantity::BadField.
    std::function<void(Item&, const json& object)> read;
    /// As people read it, in the program's way of writing numbers; empty: not known. A Problem of `set` says
    /// what does not fit; what `show` gives is taken by it. Empty functions: it is in files only, or cannot
    /// be typed.
    std::function<std::string(const House&, const Item&)> show;
    std::function<quantity::Result<void>(House&, Item&, const std::string&)> set;
    std::function<std::vector<Choice>(const House&, const Item&)> choices;
};

namespace make {

namespace fields = quantity::fields;
using quantity::inQuotes;
using quantity::problem;
using quantity::Result;

inline constexpr std::size_t maxText = 200;
inline constexpr std::size_t maxId = 64;

inline json idSchema() {
    return {{"type", "string"}, {"pattern", "^[a-z0-9-]{1,64}$"}};
}

inline json arrayOf(json items, std::size_t maxItems) {
    return {{"type", "array"}, {"maxItems", maxItems}, {"items", std::move(items)}};
}

/// A list of the catalog; nullptr without one.
template <typename Catalog, typename Classes>
const Classes* in(const Catalog* catalog, Classes Catalog::*list) {
    return catalog == nullptr ? nullptr : &(catalog->*list);
}

/// Words of files have underscores where people have blanks.
inline std::string spaced(std::string_view word) {
    std::string out(word);
    std::replace(out.begin(), out.end(), '_', ' ');
    return out;
}

/// A text; empty is null in files where it may be missing.
template <typename Item>
Field<Item> text(const char* key, const char* title, std::string Item::*member, const char* csv = "",
                 bool isNeeded = false, std::size_t maxBytes = maxText) {
    return {
        key,
        title,
        isNeeded ? json{{"type", "string"}, {"maxLength", maxBytes}}
                 : json{{"type", {"string", "null"}}, {"maxLength", maxBytes}},
        csv,
        [=](const House&, const Item& i) { return isNeeded ? json(i.*member) : fields::orNull(i.*member); },
        [=, name = std::string(key)](Item& i, const json& o) {
            i.*member = isNeeded ? fields::neededText(o, name.c_str(), maxBytes * 4)
                                 : fields::text(o, name.c_str(), maxBytes * 4);
        },
        [=](const House&, const Item& i) { return i.*member; },
        [=](House&, Item& i, const std::string& typed) -> Result<void> {
            i.*member = typed;
            return {};
        },
        {}};
}

/// A text of at most an id's length that stands for something with a label, empty for nothing: what files
/// have of it. How it is shown, typed and chosen is for the caller.
template <typename Item>
Field<Item> reference(const char* key, const char* title, std::string Item::*member, const char* csv) {
    return {key,
            title,
            {{"type", {"string", "null"}}, {"maxLength", maxId}},
            csv,
            [=](const House&, const Item& i) { return fields::orNull(i.*member); },
            [=, name = std::string(key)](Item& i, const json& o) {
                i.*member = fields::text(o, name.c_str(), maxId);
            },
            {},
            {},
            {}};
}

/// The id of another thing, shown by its label; `list` are those that it may be, by `fits`.
template <typename Item, typename Other>
Field<Item> link(const char* key, const char* title, house::Id Item::*member, std::vector<Other> House::*list,
                 const char* csv = "", std::function<bool(const Other&)> fits = {}) {
    const auto choices = [=](const House& h, const Item&) {
        std::vector<Choice> out{{"", ""}};
        for (const Other& o : h.*list)
            if (!fits || fits(o)) out.push_back({o.id, o.label});
        return out;
    };
    Field<Item> out = reference(key, title, member, csv);
    out.show = [=](const House& h, const Item& i) {
        for (const Other& o : h.*list)
            if (o.id == i.*member) return o.label;
        return std::string();
    };
    out.set = [=](House& h, Item& i, const std::string& typed) -> Result<void> {
        const Other* found = nullptr;
        for (const Other& o : h.*list) {
            if (fits && !fits(o)) continue;
            if (o.id == typed) found = &o;
        }
        for (const Other& o : h.*list) {
            if (found != nullptr || (fits && !fits(o)) || o.label != typed) continue;
            // A label is no key: where two things have it, only the id says which is meant.
            for (const Other& other : h.*list)
                if (other.label == typed && other.id != o.id && (!fits || fits(other)))
                    return problem(inQuotes(typed) + " is the name of several things", "",
                                   "write " + o.id + " or " + other.id);
            found = &o;
        }
        if (found == nullptr && !typed.empty())
            return problem("there is no " + inQuotes(typed), "", "choose one of the list");
        i.*member = found == nullptr ? house::Id() : found->id;
        return {};
    };
    out.choices = choices;
    return out;
}

/// One of the choices that `of` gives for the thing, kept by its value.
template <typename Item>
Field<Item> oneOf(const char* key, const char* title, std::string Item::*member,
                  std::function<std::vector<Choice>(const House&, const Item&)> of, const char* csv = "") {
    Field<Item> out = reference(key, title, member, csv);
    out.show = [=](const House& h, const Item& i) {
        for (const Choice& c : of(h, i))
            if (c.value == i.*member) return c.label;
        return std::string();
    };
    out.set = [=](House& h, Item& i, const std::string& typed) -> Result<void> {
        for (const Choice& c : of(h, i))
            if (c.value == typed || c.label == typed) {
                i.*member = c.value;
                return {};
            }
        if (!typed.empty())
            return problem(inQuotes(typed) + " is not in the catalog", "", "choose one of the list");
        (i.*member).clear();
        return {};
    };
    out.choices = [=](const House& h, const Item& i) {
        std::vector<Choice> list{{"", ""}};
        for (Choice& c : of(h, i))
            list.push_back(std::move(c));
        return list;
    };
    return out;
}

/// A class of a list of the catalog.
template <typename Item, typename Classes>
Field<Item> classOf(const char* key, const char* title, std::string Item::*member, const Classes* classes,
                    const char* csv = "") {
    return oneOf<Item>(
        key, title, member,
        [classes](const House&, const Item&) {
            std::vector<Choice> out;
            if (classes != nullptr)
                for (const auto& c : *classes)
                    out.push_back({c.id, c.label});
            return out;
        },
        csv);
}

/// An enumeration by its word. `isFixed`: it decides what the thing is, and is not changed afterwards.
template <typename Item, typename Enum>
Field<Item> word(const char* key, const char* title, Enum Item::*member,
                 std::optional<Enum> (*valueOf)(std::string_view), std::vector<Enum> all,
                 bool isNeeded = true, bool isFixed = false, const char* csv = "") {
    json words = json::array();
    for (const Enum e : all)
        words.push_back(name(e));
    Field<Item> out{key,
                    title,
                    {{"enum", std::move(words)}},
                    csv,
                    [=](const House&, const Item& i) { return json(name(i.*member)); },
                    [=, field = std::string(key)](Item& i, const json& o) {
                        if (isNeeded || fields::find(o, field.c_str()) != nullptr)
                            i.*member = fields::word(o, field.c_str(), valueOf);
                    },
                    [=](const House&, const Item& i) { return spaced(name(i.*member)); },
                    {},
                    {}};
    if (isFixed) return out;
    out.set = [=](House&, Item& i, const std::string& typed) -> Result<void> {
        std::string id = typed;
        std::replace(id.begin(), id.end(), ' ', '_');
        const auto e = valueOf(id);
        if (!e) return problem(inQuotes(typed) + " is not a choice", "", "choose one of the list");
        i.*member = *e;
        return {};
    };
    out.choices = [=](const House&, const Item&) {
        std::vector<Choice> choices;
        for (const Enum e : all)
            choices.push_back({std::string(name(e)), spaced(name(e))});
        return choices;
    };
    return out;
}

/// What lies between an adapter and its outlet; of things that `has` one.
template <typename Item>
Field<Item> stripField(const char* key, house::Strip Item::*member, bool (*has)(const Item&),
                       const char* csv = "") {
    using house::Strip;
    Field<Item> out =
        word(key, "Strip", member, &house::strip,
             {Strip::unknown, Strip::wall, Strip::plain, Strip::surge_protected}, false, false, csv);
    out.show = [shown = out.show, has](const House& h, const Item& i) {
        return has(i) ? shown(h, i) : std::string();
    };
    out.set = [set = out.set, has](House& h, Item& i, const std::string& typed) -> Result<void> {
        if (!has(i) && typed.empty()) return {}; // as it is shown
        if (!has(i)) return problem("only an outlet has a strip", "", "choose a mains outlet");
        return set(h, i, typed);
    };
    return out;
}

template <typename Item>
Field<Item> yesNo(const char* key, const char* title, std::optional<bool> Item::*member) {
    return {
        key,
        title,
        {{"type", {"boolean", "null"}}},
        "",
        [=](const House&, const Item& i) { return fields::orNull(i.*member); },
        [=, name = std::string(key)](Item& i, const json& o) { i.*member = fields::flag(o, name.c_str()); },
        [=](const House&, const Item& i) {
            return i.*member ? std::string(*(i.*member) ? "yes" : "no") : std::string();
        },
        [=](House&, Item& i, const std::string& typed) -> Result<void> {
            if (typed != "yes" && typed != "no" && !typed.empty())
                return problem(inQuotes(typed) + " is neither yes nor no", "", "write yes, no or nothing");
            i.*member = typed.empty() ? std::nullopt : std::optional(typed == "yes");
            return {};
        },
        [](const House&, const Item&) {
            return std::vector<Choice>{{"", ""}, {"yes", "yes"}, {"no", "no"}};
        }};
}

/// A whole number within bounds; an optional one may be missing.
template <typename Item, typename Number>
Field<Item> whole(const char* key, const char* title, Number Item::*member, int low, int high,
                  const char* csv = "") {
    constexpr bool isOptional = !std::is_same_v<Number, int>;
    return {key,
            title,
            {{"type", isOptional ? json{"integer", "null"} : json("integer")},
             {"minimum", low},
             {"maximum", high}},
            csv,
            [=](const House&, const Item& i) {
                if constexpr (isOptional)
                    return fields::orNull(i.*member);
                else
                    return json(i.*member);
            },
            [=, name = std::string(key)](Item& i, const json& o) {
                const auto n = fields::number(o, name.c_str(), low, high);
                if (n && *n != static_cast<int>(*n)) throw quantity::BadField{name};
                if (n)
                    i.*member = static_cast<int>(*n);
                else if constexpr (isOptional)
                    i.*member = std::nullopt;
            },
            [=](const House&, const Item& i) {
                if constexpr (isOptional)
                    return i.*member ? std::to_string(*(i.*member)) : std::string();
                else
                    return std::to_string(i.*member);
            },
            [=](House&, Item& i, const std::string& typed) -> Result<void> {
                if constexpr (isOptional)
                    if (typed.empty()) {
                        (i.*member).reset();
                        return {};
                    }
                const auto n = quantity::parseWhole(typed, low, high);
                if (!n)
                    return problem(inQuotes(typed) + " does not fit here", "",
                                   "write a whole number from " + std::to_string(low) + " to " +
                                       std::to_string(high));
                i.*member = static_cast<int>(*n);
                return {};
            },
            {}};
}

/// Something measured: how it stands in files, how it is shown, and how it is typed. Empty: not known.
template <typename Item, typename Value>
Field<Item> measured(const char* key, const char* title, std::optional<Value> Item::*member, double low,
                     double high, std::function<double(const Value&)> inFile,
                     std::function<Value(double)> fromFile, std::function<std::string(const Value&)> shown,
                     std::function<Result<Value>(const std::string&)> typed, const char* csv = "") {
    return {
        key,
        title,
        {{"type", {"number", "null"}}, {"minimum", low}, {"maximum", high}},
        csv,
        [=](const House&, const Item& i) { return i.*member ? json(inFile(*(i.*member))) : json(nullptr); },
        [=, name = std::string(key)](Item& i, const json& o) {
            const auto n = fields::number(o, name.c_str(), low, high);
            i.*member = n ? std::optional(fromFile(*n)) : std::nullopt;
        },
        [=](const House&, const Item& i) { return i.*member ? shown(*(i.*member)) : std::string(); },
        [=](House&, Item& i, const std::string& text) -> Result<void> {
            if (text.empty()) {
                (i.*member).reset();
                return {};
            }
            auto value = typed(text);
            if (!value) return tl::unexpected(value.error());
            i.*member = std::move(*value);
            return {};
        },
        {}};
}

template <typename Item>
Field<Item> metres(const char* key, const char* title, std::optional<quantity::Length> Item::*member,
                   double high, const char* csv = "") {
    return measured<Item, quantity::Length>(
        key, title, member, 0, high, [](const quantity::Length& l) { return l.inMetres(); },
        [](double m) { return quantity::Length::metres(m); },
        [](const quantity::Length& l) { return quantity::plain(l); },
        [](const std::string& s) { return quantity::parseLength(s); }, csv);
}

template <typename Item>
Field<Item> rate(const char* key, const char* title, std::optional<quantity::BitRate> Item::*member) {
    return measured<Item, quantity::BitRate>(
        key, title, member, 1, 1e12, [](const quantity::BitRate& r) { return r.bps(); },
        [](double bps) { return quantity::BitRate::bitsPerSecond(bps); },
        [](const quantity::BitRate& r) { return quantity::plainBoth(r); },
        [](const std::string& s) { return quantity::parseBitRate(s.substr(0, s.find(" ·"))); });
}

/// Worked out from the rest: shown, never typed, in no file.
template <typename Item>
Field<Item> derived(const char* title, std::function<std::string(const House&, const Item&)> show) {
    Field<Item> out;
    out.title = title;
    out.show = std::move(show);
    return out;
}

/// In files only, or with a way of its own to be shown and typed.
template <typename Item>
Field<Item> special(const char* key, const json& schema, std::function<json(const House&, const Item&)> write,
                    std::function<void(Item&, const json&)> read) {
    Field<Item> out;
    out.key = key;
    out.schema = schema;
    out.write = std::move(write);
    out.read = std::move(read);
    return out;
}

template <typename Item>
Field<Item> id() {
    return special<Item>(
        "id", idSchema(), [](const House&, const Item& i) { return json(i.id); },
        [](Item& i, const json& o) { i.id = fields::neededText(o, "id", maxId); });
}

} // namespace make
} // namespace metrodos::job
