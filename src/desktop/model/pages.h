// The stages of the work and their pages: the one place that knows their names and their order. A new page is
// a line in `pages` and a tab of its stage's view at the same place.
#pragma once

#include <algorithm>
#include <array>
#include <optional>
#include <string_view>

namespace metrodos::desktop {

/// In the order of the work, which is that of the rail.
enum class Stage { walk, weigh, fit, measure, trace, log, handover };

struct StageName {
    Stage stage;
    std::string_view name; ///< on the command line
};
inline constexpr std::array<StageName, 7> stages{{{Stage::walk, "walk"},
                                                  {Stage::weigh, "weigh"},
                                                  {Stage::fit, "fit"},
                                                  {Stage::measure, "measure"},
                                                  {Stage::trace, "trace"},
                                                  {Stage::log, "log"},
                                                  {Stage::handover, "handover"}}};
inline constexpr int stageCount = static_cast<int>(stages.size());

enum class Page {
    section,
    things,
    routes,
    coax,
    mains,
    find,
    practices,
    ways,
    front,
    compare,
    parts,
    growth,
    prices,
    steps,
    adapters,
    addresses,
    cupboard,
    labels,
    runs,
    run,
    matrix,
    together,
    search,
    watch,
    copy,
    transfer,
    facts,
    machines,
    timeline,
    hours,
    library,
    houses,
};

struct PageName {
    Page page;
    Stage stage;
    std::string_view name; ///< on the command line, and of the tab's widget
};
/// Those of one stage in the order of its tabs.
inline constexpr std::array<PageName, 32> pages{
    {{Page::section, Stage::walk, "section"},     {Page::things, Stage::walk, "things"},
     {Page::routes, Stage::walk, "routes"},       {Page::coax, Stage::walk, "coax"},
     {Page::mains, Stage::walk, "mains"},         {Page::find, Stage::walk, "find"},
     {Page::practices, Stage::walk, "practices"}, {Page::ways, Stage::weigh, "ways"},
     {Page::front, Stage::weigh, "front"},        {Page::compare, Stage::weigh, "compare"},
     {Page::parts, Stage::weigh, "parts"},        {Page::growth, Stage::weigh, "growth"},
     {Page::prices, Stage::weigh, "prices"},      {Page::steps, Stage::fit, "steps"},
     {Page::adapters, Stage::fit, "adapters"},    {Page::addresses, Stage::fit, "addresses"},
     {Page::cupboard, Stage::fit, "cupboard"},    {Page::labels, Stage::fit, "labels"},
     {Page::runs, Stage::measure, "runs"},        {Page::run, Stage::measure, "run"},
     {Page::matrix, Stage::measure, "matrix"},    {Page::together, Stage::measure, "together"},
     {Page::search, Stage::measure, "search"},    {Page::watch, Stage::measure, "watch"},
     {Page::copy, Stage::measure, "copy"},        {Page::transfer, Stage::measure, "transfer"},
     {Page::facts, Stage::measure, "facts"},      {Page::machines, Stage::measure, "machines"},
     {Page::timeline, Stage::log, "log"},         {Page::hours, Stage::log, "hours"},
     {Page::library, Stage::log, "library"},      {Page::houses, Stage::log, "houses"}}};

[[nodiscard]] constexpr std::optional<Stage> stageNamed(std::string_view name) {
    for (const StageName& s : stages)
        if (s.name == name) return s.stage;
    return std::nullopt;
}

[[nodiscard]] constexpr std::optional<Page> pageNamed(std::string_view name) {
    for (const PageName& p : pages)
        if (p.name == name) return p.page;
    return std::nullopt;
}

[[nodiscard]] constexpr Stage stageOf(Page page) {
    return std::find_if(pages.begin(), pages.end(), [&](const PageName& p) { return p.page == page; })->stage;
}

/// Its place among the tabs of its stage.
[[nodiscard]] constexpr int tabOf(Page page) {
    int tab = 0;
    for (const PageName& p : pages) {
        if (p.page == page) return tab;
        if (p.stage == stageOf(page)) ++tab;
    }
    return 0;
}

} // namespace metrodos::desktop
