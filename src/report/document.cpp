#include "report/document.h"

#include <algorithm>

namespace metrodos::report {
namespace {

constexpr std::string_view mark = "Records: SHA-256 ";
constexpr std::size_t digits = 64;

} // namespace

std::string proofWords(const std::vector<int>& runs) {
    std::vector<int> sorted = runs;
    std::sort(sorted.begin(), sorted.end());
    sorted.erase(std::unique(sorted.begin(), sorted.end()), sorted.end());
    std::string out;
    for (std::size_t i = 0; i < sorted.size();) {
        std::size_t last = i;
        while (last + 1 < sorted.size() && sorted[last + 1] == sorted[last] + 1)
            ++last;
        out += (out.empty() ? "[" : ", ") + std::to_string(sorted[i]);
        if (last > i) out += "–" + std::to_string(sorted[last]);
        i = last + 1;
    }
    return out.empty() ? out : out + "]";
}

std::string digestIn(std::string_view document) {
    for (std::size_t at = document.find(mark); at != std::string_view::npos;
         at = document.find(mark, at + 1)) {
        const std::string_view found = document.substr(at + mark.size(), digits);
        if (found.size() == digits && found.find_first_not_of("0123456789abcdef") == std::string_view::npos)
            return std::string(found);
    }
    return {};
}

} // namespace metrodos::report
