// Random bits as words that can be read out, typed and compared: 2,048 common English ones, eleven bits each,
// told apart by their first four letters.
#pragma once

#include "quantity/problem.h"

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::probe {

/// The words, a line each, in the order of the alphabet: data/words/words.txt, which is built in.
[[nodiscard]] std::string_view wordList();

inline constexpr std::size_t bitsOfWord = 11;

/// The first 11 × count bits as words with a blank between; `bits` has at least so many, the highest of each
/// byte first.
[[nodiscard]] std::string toWords(std::span<const std::uint8_t> bits, std::size_t count);

/// The numbers of so many words. Either case; blanks, hyphens and line ends between them; the first four
/// letters of a word will do. A Problem names the word that is none, or says how many there should be.
[[nodiscard]] quantity::Result<std::vector<std::uint16_t>> readWords(std::string_view text,
                                                                     std::size_t count);

} // namespace metrodos::probe
