#include "probe/words.h"

#include "quantity/ascii.h"
#include "quantity/text.h"

#include <algorithm>
#include <optional>
#include <stdexcept>

namespace metrodos::probe {
namespace {

constexpr std::size_t tellingLetters = 4;
constexpr std::size_t maxTypedBytes = 500;

const std::vector<std::string_view>& words() {
    static const std::vector<std::string_view> all = [] {
        std::vector<std::string_view> out;
        for (std::string_view rest = wordList(); !rest.empty();) {
            const auto end = std::min(rest.find('\n'), rest.size());
            if (end > 0) out.push_back(rest.substr(0, end));
            rest.remove_prefix(std::min(end + 1, rest.size()));
        }
        if (out.size() != 1U << bitsOfWord) throw std::logic_error("the list of words has another length");
        return out;
    }();
    return all;
}

// Nothing: it is none of them.
std::optional<std::uint16_t> numberOf(const std::string& typed) {
    const auto& all = words();
    const auto it = std::lower_bound(all.begin(), all.end(), typed);
    if (it == all.end() || !it->starts_with(typed)) return std::nullopt;
    if (typed.size() < std::min(tellingLetters, it->size())) return std::nullopt;
    return static_cast<std::uint16_t>(it - all.begin());
}

} // namespace

std::string toWords(std::span<const std::uint8_t> bits, std::size_t count) {
    std::string out;
    for (std::size_t n = 0; n < count; ++n) {
        std::size_t number = 0;
        for (std::size_t bit = n * bitsOfWord; bit < (n + 1) * bitsOfWord; ++bit)
            number = number << 1U | (static_cast<std::size_t>(bits[bit / 8]) >> (7 - bit % 8) & 1U);
        if (n > 0) out += ' ';
        out += words()[number];
    }
    return out;
}

quantity::Result<std::vector<std::uint16_t>> readWords(std::string_view text, std::size_t count) {
    std::vector<std::uint16_t> out;
    std::string word;
    std::optional<std::string> unknown;
    const auto take = [&] {
        if (word.empty()) return;
        const auto number = numberOf(word);
        if (!number && !unknown) unknown = word;
        out.push_back(number.value_or(0));
        word.clear();
    };
    for (const char c : text.substr(0, maxTypedBytes)) {
        if (c == ' ' || c == '-' || c == '\n' || c == '\r' || c == '\t')
            take();
        else
            word += quantity::ascii::lower(c);
    }
    take();
    if (unknown)
        return quantity::problem(quantity::inQuotes(*unknown) + " is none of the words that are used here",
                                 "", "type it as the other machine shows it, four letters at least");
    if (out.size() != count || text.size() > maxTypedBytes)
        return quantity::problem(
            quantity::counted(static_cast<long long>(out.size()), "word was given", "words were given"), "",
            "type all " + std::to_string(count) + " that the other machine shows");
    return out;
}

} // namespace metrodos::probe
