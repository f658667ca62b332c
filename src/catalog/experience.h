// What one's own houses say of a class, against the catalog: ranges refined by them, few houses moving
// little.
#pragma once

#include "catalog/catalog.h"
#include "quantity/problem.h"

#include <nlohmann/json_fwd.hpp>
#include <optional>

namespace metrodos::catalog {

/// All pairs of one class in one situation that were measured in one house, without a word of whose it is.
struct HouseFigure {
    double meanLog = 0; ///< mean of ln(bit/s) over the pairs
    int pairs = 1;
    /// Something else held every one of them back: the medium carries at least so much.
    bool isAtLeast = false;

    friend bool operator==(const HouseFigure&, const HouseFigure&) = default;
};

struct ClassExperience {
    house::Medium medium = house::Medium::mains;
    std::string deviceClass; ///< catalog id
    std::string situation;   ///< catalog id of the medium's
    std::vector<HouseFigure> houses;

    friend bool operator==(const ClassExperience&, const ClassExperience&) = default;
};

using Experience = std::vector<ClassExperience>;

/// The range of a class in a situation after so many houses. The logarithms of houses are taken as normal;
/// the catalog's own range counts as `priorHouses` of them, in a normal and inverse-χ² prior, and the rest is
/// Bayes' rule. Houses of which only "at least" is known count by what is expected above that bound, found by
/// iteration (EM). Nothing where the catalog has no such range.
[[nodiscard]] std::optional<RateSpread> refined(const Catalog& catalog, const ClassExperience& experience);
inline constexpr double priorHouses = 8;

/// The catalog with all refined ranges, and how many houses each rests on.
[[nodiscard]] Catalog withExperience(const Catalog& catalog, const Experience& experience);

/// Houses that are in both count once.
[[nodiscard]] Experience joined(const Experience& a, const Experience& b);

/// {"format": "metrodos-experience", "version": 1, "classes": [{"medium", "class", "situation", "houses":
/// [{"mean_bps", "pairs", "at_least"}]}]}: figures only, and nothing of whose houses they are.
[[nodiscard]] nlohmann::json toJson(const Experience& experience);
[[nodiscard]] quantity::Result<Experience> experienceFromJson(const nlohmann::json& document);

} // namespace metrodos::catalog
