// Makers of the survey's columns: a text, a number, a length, a rate, a class, a link to another thing.
// Internal to the columns of each kind (survey_columns.cpp).
#pragma once

#include "desktop/rate_text.h"
#include "desktop/survey_table.h"
#include "quantity/format.h"
#include "quantity/parse.h"

#include <QCoreApplication>

namespace metrodos::desktop::fields {

using namespace house;
using quantity::problem;
using quantity::Result;

inline QString tr(const char* text) {
    return QCoreApplication::translate("SurveyTable", text);
}

inline QString text(const std::string& s) {
    return QString::fromStdString(s);
}

template <typename Item>
using List = std::vector<Item> House::*;

// A plain text field.
template <typename Item>
SurveyColumn words(const char* title, List<Item> list, std::string Item::*field) {
    return {tr(title),
            [=](const House& h, int row) { return text((h.*list)[static_cast<std::size_t>(row)].*field); },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                (h.*list)[static_cast<std::size_t>(row)].*field = value;
                return {};
            },
            {}};
}

// A field that names another thing of the house by its label; empty: not known.
template <typename Item, typename Other>
SurveyColumn link(const char* title, List<Item> list, Id Item::*field, List<Other> others,
                  std::function<bool(const Other&)> fits = {}) {
    const auto byId = [others](const House& h, const Id& id) {
        for (const Other& o : h.*others)
            if (o.id == id) return text(o.label);
        return QString();
    };
    return {tr(title),
            [=](const House& h, int row) { return byId(h, (h.*list)[static_cast<std::size_t>(row)].*field); },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                Id& target = (h.*list)[static_cast<std::size_t>(row)].*field;
                if (value.empty()) {
                    target.clear();
                    return {};
                }
                for (const Other& o : h.*others)
                    if ((o.label == value || o.id == value) && (!fits || fits(o))) {
                        target = o.id;
                        return {};
                    }
                return problem("there is no “" + value.substr(0, 60) + "”", "", "choose one of the list");
            },
            [=](const House& h) {
                QStringList out{QString()};
                for (const Other& o : h.*others)
                    if (!fits || fits(o)) out << text(o.label);
                return out;
            }};
}

// A class of the catalog by its label; empty: not known.
template <typename Item, typename Classes>
SurveyColumn classOf(const char* title, List<Item> list, std::string Item::*field, const Classes& classes) {
    std::vector<std::pair<std::string, QString>> known;
    for (const auto& c : classes)
        known.emplace_back(c.id, text(c.label));
    return {tr(title),
            [=](const House& h, int row) {
                for (const auto& [id, label] : known)
                    if (id == (h.*list)[static_cast<std::size_t>(row)].*field) return label;
                return QString();
            },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                std::string& target = (h.*list)[static_cast<std::size_t>(row)].*field;
                for (const auto& [id, label] : known)
                    if (label == text(value)) {
                        target = id;
                        return {};
                    }
                if (!value.empty())
                    return problem("“" + value.substr(0, 60) + "” is not in the catalog", "",
                                   "choose one of the list");
                target.clear();
                return {};
            },
            [=](const House&) {
                QStringList out{QString()};
                for (const auto& [id, label] : known)
                    out << label;
                return out;
            }};
}

template <typename Item>
SurveyColumn yesNo(const char* title, List<Item> list, std::optional<bool> Item::*field) {
    return {tr(title),
            [=](const House& h, int row) {
                const auto& value = (h.*list)[static_cast<std::size_t>(row)].*field;
                return value ? (*value ? tr("yes") : tr("no")) : QString();
            },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                auto& target = (h.*list)[static_cast<std::size_t>(row)].*field;
                target = value.empty() ? std::nullopt : std::optional(text(value) == tr("yes"));
                return {};
            },
            [](const House&) {
                return QStringList{QString(), tr("yes"), tr("no")};
            }};
}

// A whole number; optional fields may be empty.
template <typename Item, typename Number>
SurveyColumn whole(const char* title, List<Item> list, Number Item::*field, int low, int high) {
    return {tr(title),
            [=](const House& h, int row) {
                const Number& value = (h.*list)[static_cast<std::size_t>(row)].*field;
                if constexpr (std::is_same_v<Number, int>)
                    return QString::number(value);
                else
                    return value ? QString::number(*value) : QString();
            },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                Number& target = (h.*list)[static_cast<std::size_t>(row)].*field;
                if constexpr (!std::is_same_v<Number, int>)
                    if (value.empty()) {
                        target.reset();
                        return {};
                    }
                const auto n = quantity::parseWhole(value, low, high);
                if (!n)
                    return problem("“" + value.substr(0, 40) + "” does not fit here", "",
                                   "write a whole number from " + std::to_string(low) + " to " +
                                       std::to_string(high));
                target = static_cast<int>(*n);
                return {};
            },
            {}};
}

template <typename Item>
SurveyColumn metres(const char* title, List<Item> list, std::optional<quantity::Length> Item::*field) {
    return {tr(title),
            [=](const House& h, int row) {
                const auto& value = (h.*list)[static_cast<std::size_t>(row)].*field;
                return value ? localised(quantity::plain(*value)) : QString();
            },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                auto& target = (h.*list)[static_cast<std::size_t>(row)].*field;
                target.reset();
                if (value.empty()) return {};
                const auto parsed = quantity::parseLength(value);
                if (!parsed) return tl::unexpected(parsed.error());
                target = *parsed;
                return {};
            },
            {}};
}

template <typename Item>
SurveyColumn rate(const char* title, List<Item> list, std::optional<quantity::BitRate> Item::*field) {
    return {tr(title),
            [=](const House& h, int row) {
                const auto& value = (h.*list)[static_cast<std::size_t>(row)].*field;
                return value ? bothText(*value) : QString();
            },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                auto& target = (h.*list)[static_cast<std::size_t>(row)].*field;
                target.reset();
                if (value.empty()) return {};
                const auto parsed = quantity::parseBitRate(value.substr(0, value.find(" ·")));
                if (!parsed) return tl::unexpected(parsed.error());
                target = *parsed;
                return {};
            },
            {}};
}

// An enumeration by its word.
template <typename Item, typename Enum>
SurveyColumn word(const char* title, List<Item> list, Enum Item::*field,
                  std::optional<Enum> (*parse)(std::string_view), std::vector<Enum> all) {
    const auto shown = [](Enum e) {
        return text(std::string(name(e))).replace(QLatin1Char('_'), QLatin1Char(' '));
    };
    return {tr(title),
            [=](const House& h, int row) { return shown((h.*list)[static_cast<std::size_t>(row)].*field); },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                std::string id = value;
                std::replace(id.begin(), id.end(), ' ', '_');
                const auto e = parse(id);
                if (!e)
                    return problem("“" + value.substr(0, 40) + "” is not a choice", "",
                                   "choose one of the list");
                (h.*list)[static_cast<std::size_t>(row)].*field = *e;
                return {};
            },
            [=](const House&) {
                QStringList out;
                for (const Enum e : all)
                    out << shown(e);
                return out;
            }};
}

inline SurveyColumn readOnly(const char* title, std::function<QString(const House&, int)> get) {
    return {tr(title), std::move(get), {}, {}};
}

} // namespace metrodos::desktop::fields
