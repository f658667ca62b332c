#include "standin/simulate.h"

#include "benchmark/statistics.h"
#include "benchmark/summary.h"

namespace metrodos::standin {

std::uint64_t countedBytes(double payload) {
    return static_cast<std::uint64_t>(payload * 1514 / 1448);
}

quantity::Result<benchmark::Run> simulate(const house::House& house, const catalog::Catalog& catalog,
                                          const house::Route& route, const benchmark::RunOrder& order,
                                          std::uint64_t seed, int repeat) {
    auto truth = truthOf(house, catalog, route, order.direction, seed);
    if (!truth) return tl::unexpected(truth.error());
    const std::uint64_t runSeed = seed * 1000003 + static_cast<std::uint64_t>(repeat) * 2 +
                                  (order.direction == benchmark::Direction::forward ? 0 : 1);
    FlowModel model(std::move(*truth), order.streams, runSeed);
    benchmark::Run run;
    run.id = "simulated-" + std::to_string(seed) + "-" + std::to_string(repeat + 1) + "-" +
             benchmark::name(order.direction);
    run.startedAt = "1970-01-01T00:00:00Z"; // outside time, so that the same seed gives the same document
    run.simulated = true;
    run.order = order;
    std::vector<double> idle;
    for (int i = 0; i < 25; ++i)
        idle.push_back(model.idleRttUs());
    run.rttIdleUs = benchmark::Percentiles{benchmark::quantile(idle, 0.5), benchmark::quantile(idle, 0.95)};
    const int count = benchmark::sampleCount(order.seconds);
    double sender = 0;
    double receiver = 0;
    for (int n = 1; n <= count; ++n) {
        const FlowModel::Tenth tenth = model.next();
        benchmark::Sample sample;
        sample.t = n * benchmark::sampleSeconds;
        sample.goodputBps = tenth.goodputBps;
        sample.rttUs = tenth.rttUs;
        sample.tcpRttUs = tenth.rttUs;
        sample.windowBytes = tenth.windowBytes;
        sample.retransmits = tenth.retransmits;
        sample.cpuSender = tenth.senderCpu;
        sample.cpuReceiver = tenth.receiverCpu;
        sender += tenth.senderCpu / count;
        receiver += tenth.receiverCpu / count;
        run.samples.push_back(sample);
    }
    run.seconds = count * benchmark::sampleSeconds;
    run.retransmits = run.samples.back().retransmits;
    run.senderLimited = model.limited();
    run.cpuSender = sender;
    run.cpuReceiver = receiver;
    run.interfaceSender = benchmark::InterfaceCount{"simulated", countedBytes(model.bytes())};
    run.interfaceReceiver = run.interfaceSender;
    benchmark::finish(run);
    return run;
}

} // namespace metrodos::standin
