// What went wrong, in words for the person at the machine. Every error that a caller can act on is one.
#pragma once

#include "quantity/text.h"

#include <string>
#include <tl/expected.hpp>

namespace metrodos::quantity {

/// One fault: what happened, where it is, and what to do about it. Each part is a clause without a full stop.
struct Problem {
    std::string what;   ///< "the key file cannot be read"
    std::string where;  ///< a path, an address, a JSON pointer; may be empty
    std::string advice; ///< "create one with metrodos-cli key new FILE"; may be empty

    /// The whole as one sentence on one line: "WHERE: WHAT; ADVICE."
    [[nodiscard]] std::string sentence() const {
        std::string text = where.empty() ? what : where + ": " + what;
        if (!advice.empty()) text += "; " + advice;
        text = oneLine(text); // what it quotes may come from anywhere, and goes to terminals
        if (text.empty() || text.back() != '.') text += '.';
        return text;
    }

    friend bool operator==(const Problem&, const Problem&) = default;
};

template <typename T>
using Result = tl::expected<T, Problem>;

/// Shorthand for returning a Problem from a function that returns a Result.
inline tl::unexpected<Problem> problem(std::string what, std::string where = {}, std::string advice = {}) {
    return tl::unexpected<Problem>(Problem{std::move(what), std::move(where), std::move(advice)});
}

} // namespace metrodos::quantity
