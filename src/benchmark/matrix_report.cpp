#include "benchmark/matrix_report.h"

#include "benchmark/run_parts.h"
#include "quantity/format.h"

#include <algorithm>

namespace metrodos::benchmark {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;
using quantity::BadField;

constexpr const char* matrixFormat = "metrodos-matrix";
constexpr std::size_t maxEndpoints = 64;
constexpr std::size_t maxCells = maxEndpoints * maxEndpoints;

Pair readPair(const json& cell, std::size_t endpoints) {
    const auto end = [&](const char* key) {
        const std::uint64_t n = fields::neededCount(cell, key);
        if (n >= endpoints) throw BadField{key};
        return static_cast<std::size_t>(n);
    };
    return {end("from"), end("to")};
}

} // namespace

MatrixReport reportOf(const Matrix& matrix, const ReportHead& head) {
    MatrixReport out{head, matrix.names, matrix.cells, matrix.together};
    out.head.simulated = matrix.simulated;
    return out;
}

json toJson(const MatrixReport& r) {
    json cells = json::array();
    for (const MatrixCell& c : r.cells)
        cells.push_back({{"from", c.pair.from},
                         {"to", c.pair.to},
                         {"goodput_bps", c.summary.goodput.bps()},
                         {"low_bps", toJson(c.summary.low)},
                         {"high_bps", toJson(c.summary.high)},
                         {"runs", c.summary.runs}});
    json together = r.together.empty() ? json(nullptr) : json::array();
    for (const SharedCell& c : r.together)
        together.push_back({{"from", c.pair.from},
                            {"to", c.pair.to},
                            {"goodput_bps", c.atOnce.bps()},
                            {"alone_bps", c.alone.bps()},
                            {"share_of_alone", c.share()}});
    const auto ceiling = commonCeiling(r.cells);
    json out{{"endpoints", r.names},
             {"cells", std::move(cells)},
             {"at_once", std::move(together)},
             {"common_ceiling_bps", ceiling ? json(ceiling->rate.bps()) : json(nullptr)},
             {"shared_limit", fields::orNull(sharedLimit(r.together, r.names))}};
    writeHead(out, matrixFormat, r.head);
    return out;
}

quantity::Result<MatrixReport> readMatrixReport(const json& document) {
    return readingReport([&] {
        MatrixReport r;
        r.head = readHead(document, matrixFormat);
        r.names = fields::texts(document, "endpoints", maxEndpoints, 400);
        if (const json* list = fields::list(document, "cells", maxCells))
            for (const json& c : *list) {
                MatrixCell cell;
                cell.pair = readPair(c, r.names.size());
                cell.summary.goodput =
                    BitRate::bitsPerSecond(fields::neededNumber(c, "goodput_bps", 0, maxBps));
                cell.summary.low = readRate(c, "low_bps");
                cell.summary.high = readRate(c, "high_bps");
                cell.summary.runs = static_cast<int>(fields::neededNumber(c, "runs", 0, 1000));
                r.cells.push_back(cell);
            }
        if (const json* list = fields::list(document, "at_once", maxCells))
            for (const json& c : *list)
                r.together.push_back({readPair(c, r.names.size()),
                                      readRate(c, "alone_bps").value_or(BitRate()),
                                      readRate(c, "goodput_bps").value_or(BitRate())});
        return r;
    });
}

std::vector<std::string> sentences(const MatrixReport& r) {
    if (r.cells.empty()) return {"No pair was measured."};
    std::vector<std::string> out;
    if (const auto ceiling = commonCeiling(r.cells))
        out.push_back(std::to_string(ceiling->pairs.size()) + " pairs have one ceiling of about " +
                      plain(ceiling->rate) + ": look at what they have in common.");
    const MatrixCell& slowest =
        *std::ranges::min_element(r.cells, {}, [](const MatrixCell& cell) { return cell.summary.goodput; });
    out.push_back("The slowest pair is " + r.names[slowest.pair.from] + " to " + r.names[slowest.pair.to] +
                  " with " + plainBoth(slowest.summary.goodput) + ".");
    if (const std::string sharing = sharedLimit(r.together, r.names); !sharing.empty())
        out.push_back(sharing + ".");
    return out;
}

} // namespace metrodos::benchmark
