// Ceilings of coax, mains and air from the survey of the plant, where there is one.
#pragma once

#include "capacity/ceiling.h"
#include "capacity/coax_channel.h"
#include "capacity/mains_channel.h"
#include "catalog/catalog.h"

#include <optional>

#include <set>
#include <string>

namespace metrodos::capacity {

/// The plants of one house with what has been worked out of them.
/// Of the mains adapters of a house whose class is known: which languages they speak.
[[nodiscard]] std::set<std::string> mainsLanguagesOf(const house::House& house,
                                                     const catalog::Catalog& catalog);

struct Plants {
    Plants(const house::House& house, const catalog::Catalog& catalog)
        : coax(house, catalog)
        , mains(house, catalog)
        , mainsLanguages(mainsLanguagesOf(house, catalog)) {}
    CoaxPlant coax;
    MainsPlant mains;
    std::set<std::string> mainsLanguages;
};

/// The ceiling of a shared medium between two adapters whose jacks (coax, mains) or distance, walls or
/// stations (air) are known; nothing where the survey does not reach: then the catalog's range of the
/// situation speaks.
[[nodiscard]] std::optional<Ceiling> ofPlant(const house::House& house, const catalog::Catalog& catalog,
                                             const house::Element& element,
                                             const house::Connection& connection, const Plants& plants);

/// Whether the adapters at the ends of a medium are known to speak different languages, so that they do not
/// hear each other.
[[nodiscard]] bool speakDifferently(const house::House& house, const catalog::Catalog& catalog,
                                    const house::Element& element, catalog::Family family);

/// The slower class of the two adapters at the ends of a medium; nullptr when neither is known.
[[nodiscard]] const catalog::DeviceClass* slowerClass(const house::House& house,
                                                      const catalog::Catalog& catalog,
                                                      const house::Element& element, catalog::Family family);

} // namespace metrodos::capacity
