#include "probe/cross.h"

#include <algorithm>

namespace metrodos::probe {
namespace {

using benchmark::Matrix;
using benchmark::Pair;
using quantity::Result;

Result<void> addTogether(const MatrixConfig& config, Matrix& matrix, const std::stop_token& stop) {
    std::vector<std::pair<EndpointLink, EndpointLink>> ends; // one run a link
    for (const Pair& pair : config.atOnce) {
        auto from = config.ends.at(pair.from)(stop);
        if (!from) return tl::unexpected(from.error());
        auto to = config.ends.at(pair.to)(stop);
        if (!to) return tl::unexpected(to.error());
        ends.emplace_back(std::move(*from), std::move(*to));
    }
    std::vector<Leg> legs;
    for (auto& [from, to] : ends)
        legs.push_back({from, to, config.run, {}});
    const auto runs = conductAll(legs, stop);
    if (!runs) return tl::unexpected(runs.error());
    for (std::size_t i = 0; i < config.atOnce.size(); ++i) {
        const auto alone = std::find_if(matrix.cells.begin(), matrix.cells.end(),
                                        [&](const auto& cell) { return cell.pair == config.atOnce[i]; });
        if (alone != matrix.cells.end())
            matrix.together.push_back({config.atOnce[i], alone->summary.goodput, (*runs)[i].goodput});
    }
    return {};
}

} // namespace

Result<Matrix> measureMatrix(const MatrixConfig& config, const std::function<void(const Matrix&)>& done,
                             const std::stop_token& stop) {
    Matrix out{config.names, false, {}, {}};
    std::vector<EndpointLink> links;
    for (const auto& open : config.ends) {
        auto one = open(stop);
        if (!one) return tl::unexpected(one.error());
        if (config.names.empty()) out.names.push_back(one->name());
        links.push_back(std::move(*one));
    }
    const auto stopped = quantity::problem("the matrix was stopped", "", "start it again");
    for (const Pair& pair : config.onlyThose ? config.atOnce : benchmark::pairsOf(links.size())) {
        std::vector<benchmark::Run> runs;
        for (int i = 0; i < config.repeats; ++i) {
            auto run = conduct(links[pair.from], links[pair.to], config.run, {}, stop);
            if (!run) return tl::unexpected(run.error());
            if (!run->complete) return stopped;
            out.simulated = out.simulated || run->simulated;
            runs.push_back(std::move(*run));
        }
        out.cells.push_back({pair, *benchmark::summarise(runs, benchmark::Direction::forward, config.rule)});
        if (done) done(out);
    }
    if (config.atOnce.empty()) return out;
    if (const auto added = addTogether(config, out, stop); !added) return tl::unexpected(added.error());
    if (stop.stop_requested()) return stopped;
    return out;
}

} // namespace metrodos::probe
