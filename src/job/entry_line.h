// Fast entry: one line per thing, fields divided by "/", as one types it standing in the room.
#pragma once

#include "catalog/catalog.h"
#include "quantity/problem.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::job {

/// What a line made of the house.
struct Entered {
    house::House house;
    std::string label; ///< "Loft coax 1", for the undo step and the answer
    house::Id thing;   ///< what was added or changed first
};

/// Understands the forms of entry_grammar.h, in any case and with field names in any order after the first
/// two. Jacks are numbered by room and kind. A field that is not understood is one clear sentence; nothing is
/// changed then.
[[nodiscard]] quantity::Result<Entered> enterLine(const house::House& house, const catalog::Catalog& catalog,
                                                  std::string_view line);

/// Where the last field of an unfinished line begins, behind its slash; 0 where there is only one.
[[nodiscard]] std::size_t lastField(std::string_view line);

/// From where to where field `i`, from 0, stands in a line, blanks around it left out.
[[nodiscard]] std::pair<std::size_t, std::size_t> fieldAt(std::string_view line, std::size_t i);

/// What the last field of an unfinished line may become: whole fields, best first, at most 12.
[[nodiscard]] std::vector<std::string> completions(const house::House& house, const catalog::Catalog& catalog,
                                                   std::string_view line);

/// The field, from 0, for which a line is not understood; nothing where it is.
[[nodiscard]] std::optional<std::size_t> wrongField(const house::House& house,
                                                    const catalog::Catalog& catalog, std::string_view line);

/// What a dozen lines made of the house: those up to the first that is not understood.
struct EnteredLines {
    house::House house;
    std::size_t count = 0;                    ///< lines that were taken
    std::string label;                        ///< of the last of them
    std::optional<quantity::Problem> problem; ///< of the first line that was not
    std::vector<std::string> rest;            ///< that line and those behind it
};
/// Empty lines and those that begin with "#" are passed over.
[[nodiscard]] EnteredLines enterLines(const house::House& house, const catalog::Catalog& catalog,
                                      std::string_view lines);

/// A second room with the same jacks, numbered anew, and no runs.
[[nodiscard]] quantity::Result<Entered> duplicateRoom(const house::House& house, const std::string& room,
                                                      const std::string& label);

} // namespace metrodos::job
