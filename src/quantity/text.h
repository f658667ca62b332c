// Words of people and machines outside, made fit to be shown; and numbers with their nouns.
#pragma once

#include <string>
#include <string_view>

namespace metrodos::quantity {

/// `text` as one line that changes nothing around it: line breaks and tabs become blanks; other control
/// characters (C0, DEL, C1, among them the escape that begins a terminal's commands), line and paragraph
/// separators and the marks that turn the direction of writing (Unicode 9.0, UAX #9) are left out; what is
/// not UTF-8 becomes U+FFFD. Applied where text enters: files, peers, the network, fields that are typed
/// into.
[[nodiscard]] std::string oneLine(std::string_view text);

/// `text` where it has at most so many letters, at least 2; else its first ones and "…". Letters are code
/// points of UTF-8.
[[nodiscard]] std::string shortened(std::string_view text, std::size_t letters);
/// The first whole letters of `text` that take at most so many bytes: what a place of limited size holds.
[[nodiscard]] std::string cutTo(std::string_view text, std::size_t bytes);
/// What was typed or read, as a Problem quotes it: “…”, one line, shortened to 60 letters.
[[nodiscard]] std::string inQuotes(std::string_view text);
[[nodiscard]] std::size_t lettersOf(std::string_view text);

/// "1 hole", "4 holes": `many` is `one` + "s" where it is not given.
[[nodiscard]] std::string counted(long long n, std::string_view one, std::string_view many = {});

} // namespace metrodos::quantity
