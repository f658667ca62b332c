// What lines of fast entry look like: the whole grammar for whoever asks, and what can be typed next here.
#pragma once

#include "job/entry_line.h"

namespace metrodos::job {

struct LineForm {
    std::string line;    ///< "Loft / coax / from Hall / RG-6 / 23 m"
    std::string meaning; ///< "a coax jack, with its run"
};

/// What is needed where, as a line that a house with a room “Study” understands.
inline constexpr const char* needExample = "Study / need / 200M down";

/// One form a kind of thing, in the order in which a house is surveyed; each is a line that is understood in
/// a house that has what it speaks of. Fields in brackets may be left out.
[[nodiscard]] const std::vector<LineForm>& lineForms();

/// Lines that this house understands now, what it lacks most first; at most 12.
[[nodiscard]] std::vector<LineForm> nextLines(const house::House& house, const catalog::Catalog& catalog);

} // namespace metrodos::job
