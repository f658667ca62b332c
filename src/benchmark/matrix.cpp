#include "benchmark/matrix.h"

#include "quantity/format.h"

#include <algorithm>

namespace metrodos::benchmark {
namespace {

constexpr double alike = 1.05;
constexpr double noticed = 0.9; // of what it gets alone
constexpr std::size_t minPairs = 3;

bool overlap(const Pair& a, const Pair& b) {
    return a.from == b.from || a.from == b.to || a.to == b.from || a.to == b.to;
}

} // namespace

std::vector<Pair> pairsOf(std::size_t endpoints) {
    std::vector<Pair> left;
    for (std::size_t a = 0; a < endpoints; ++a)
        for (std::size_t b = 0; b < endpoints; ++b)
            if (a != b) left.push_back({a, b});
    std::vector<Pair> out;
    while (!left.empty()) {
        auto next = left.begin();
        if (!out.empty()) {
            const auto apart = std::find_if(left.begin(), left.end(),
                                            [&](const Pair& p) { return !overlap(p, out.back()); });
            if (apart != left.end()) next = apart;
        }
        out.push_back(*next);
        left.erase(next);
    }
    return out;
}

std::string sharedLimit(const std::vector<SharedCell>& cells, const std::vector<std::string>& names) {
    std::vector<const SharedCell*> hit;
    for (const SharedCell& cell : cells)
        if (cell.share() < noticed) hit.push_back(&cell);
    if (cells.size() < 2 || hit.empty()) return {};
    std::string out;
    double sum = 0;
    for (const SharedCell* cell : hit) {
        out += (out.empty()          ? ""
                : cell == hit.back() ? " and "
                                     : ", ") +
               names.at(cell->pair.from) + " to " + names.at(cell->pair.to);
        sum += cell->atOnce.bps();
    }
    if (hit.size() == 1)
        return out + " loses beside the others: " + plain(hit[0]->atOnce) + " instead of " +
               plain(hit[0]->alone);
    return out + " share something: at once they get " + plain(BitRate::bitsPerSecond(sum)) + " together";
}

std::optional<CommonCeiling> commonCeiling(const std::vector<MatrixCell>& cells) {
    std::vector<MatrixCell> sorted = cells;
    std::ranges::sort(sorted, {}, [](const MatrixCell& cell) { return cell.summary.goodput; });
    std::size_t bestFirst = 0;
    std::size_t bestCount = 0;
    for (std::size_t first = 0, last = 0; first < sorted.size(); ++first) {
        while (last < sorted.size() &&
               sorted[last].summary.goodput.bps() <= alike * sorted[first].summary.goodput.bps())
            ++last;
        if (last - first > bestCount) {
            bestFirst = first;
            bestCount = last - first;
        }
    }
    if (bestCount < minPairs) return std::nullopt;
    CommonCeiling out;
    for (std::size_t i = bestFirst; i < bestFirst + bestCount; ++i)
        out.pairs.push_back(sorted[i].pair);
    out.rate = sorted[bestFirst + bestCount / 2].summary.goodput;
    return out;
}

} // namespace metrodos::benchmark
