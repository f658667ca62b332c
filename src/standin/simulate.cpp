#include "standin/simulate.h"

#include "benchmark/delay_statistics.h"
#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "standin/competition.h"

namespace metrodos::standin {
namespace {

using benchmark::Run;
using benchmark::RunConfig;

// A run that is being simulated, with its sums.
struct Going {
    Run run;
    FlowModel model;
    double sender = 0;
    double receiver = 0;
    std::size_t samples = 0;
};

void step(Going& going, const std::vector<const FlowModel*>& others) {
    const FlowModel::Tenth tenth =
        going.model.next(others.empty() ? std::vector<double>() : sharesLeft(going.model, others));
    const bool tcp = going.run.config.protocol == benchmark::Protocol::tcp;
    benchmark::Sample sample;
    sample.t = static_cast<double>(going.run.samples.size() + 1) * benchmark::sampleSeconds;
    sample.goodputBps = tenth.goodputBps;
    sample.rttUs = tenth.rttUs;
    if (tcp) {
        sample.tcpRttUs = tenth.rttUs;
        sample.windowBytes = tenth.windowBytes;
        sample.retransmits = tenth.retransmits;
    } else {
        sample.lossRatio = tenth.lossRatio;
    }
    sample.cpuSender = tenth.senderCpu;
    sample.cpuReceiver = tenth.receiverCpu;
    going.sender += tenth.senderCpu;
    going.receiver += tenth.receiverCpu;
    going.run.samples.push_back(std::move(sample));
}

// One frame in a thousand.
std::uint64_t countedErrors(double payload) {
    return 1 + static_cast<std::uint64_t>(payload / 1448 / 1000);
}

Run ended(Going&& going) {
    Run run = std::move(going.run);
    const auto count = static_cast<double>(run.samples.size());
    run.seconds = count * benchmark::sampleSeconds;
    if (run.config.protocol == benchmark::Protocol::tcp) {
        run.retransmits = run.samples.back().retransmits;
        run.senderLimited = going.model.limited();
    } else {
        run.datagrams = going.model.datagrams();
    }
    run.cpuSender = going.sender / count;
    run.cpuReceiver = going.receiver / count;
    run.interfaceSender = benchmark::InterfaceCount{"simulated", countedBytes(going.model.bytes())};
    run.interfaceReceiver = run.interfaceSender;
    run.interfaceReceiver->errors = going.model.truth().errors ? countedErrors(going.model.bytes()) : 0;
    benchmark::finish(run);
    return run;
}

} // namespace

std::uint64_t countedBytes(double payload) {
    return static_cast<std::uint64_t>(payload * 1514 / 1448);
}

quantity::Result<std::vector<Run>> simulate(const house::House& house, const catalog::Catalog& catalog,
                                            const house::Route& route, const std::vector<RunConfig>& configs,
                                            std::uint64_t seed, int repeat, const Situation& situation) {
    std::vector<Going> all;
    std::size_t most = 0;
    for (std::size_t i = 0; i < configs.size(); ++i) {
        const RunConfig& config = configs[i];
        auto truth = truthOf(house, catalog, route, config.direction, seed, situation);
        if (!truth) return tl::unexpected(truth.error());
        const std::uint64_t runSeed = seed * 1000003 + static_cast<std::uint64_t>(repeat) * 2 +
                                      (config.direction == benchmark::Direction::forward ? 0 : 1);
        Going going{{}, FlowModel(std::move(*truth), config, runSeed)};
        Run& run = going.run;
        run.id = "simulated-" + std::to_string(seed) + "-" + std::to_string(repeat + 1) + "-" +
                 benchmark::name(config.direction);
        run.startedAt = "1970-01-01T00:00:00Z"; // outside time, so that the same seed gives the same document
        run.simulated = true;
        run.config = config;
        run.config.arrangement = situation.arrangement;
        if (config.protocol == benchmark::Protocol::udp) run.id += "-udp";
        if (configs.size() > 1) run.id += "-together";
        if (configs.size() > 1)
            run.config.group = "simulated-" + std::to_string(seed) + "-" + std::to_string(repeat + 1);
        std::vector<double> idle;
        for (int n = 0; n < 25; ++n)
            idle.push_back(going.model.idleRttUs());
        run.rttIdleUs = benchmark::percentilesOf(idle);
        going.samples = static_cast<std::size_t>(benchmark::sampleCount(config.seconds));
        most = std::max(most, going.samples);
        all.push_back(std::move(going));
    }
    for (std::size_t n = 0; n < most; ++n)
        for (std::size_t i = 0; i < all.size(); ++i) {
            if (n >= all[i].samples) continue;
            std::vector<const FlowModel*> others;
            for (std::size_t k = 0; k < all.size(); ++k)
                if (k != i && n < all[k].samples) others.push_back(&all[k].model);
            step(all[i], others);
        }
    std::vector<Run> runs;
    for (Going& going : all)
        runs.push_back(ended(std::move(going)));
    return runs;
}

quantity::Result<Run> simulate(const house::House& house, const catalog::Catalog& catalog,
                               const house::Route& route, const RunConfig& config, std::uint64_t seed,
                               int repeat, const Situation& situation) {
    auto runs = simulate(house, catalog, route, std::vector<RunConfig>{config}, seed, repeat, situation);
    if (!runs) return tl::unexpected(runs.error());
    return std::move(runs->front());
}

} // namespace metrodos::standin
