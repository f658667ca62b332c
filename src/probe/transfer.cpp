#include "probe/transfer.h"

#include "probe/run_stamp.h"

#include <array>

namespace metrodos::probe {
namespace {

using benchmark::TransferPass;
using benchmark::TransferReport;
using benchmark::TransferSink;
using benchmark::TransferSource;
using quantity::problem;
using quantity::Result;

constexpr std::array<std::pair<TransferSource, TransferSink>, 5> passes{
    {{TransferSource::memory, TransferSink::memory},
     {TransferSource::coldDisk, TransferSink::memory},
     {TransferSource::warmDisk, TransferSink::memory},
     {TransferSource::memory, TransferSink::disk},
     {TransferSource::coldDisk, TransferSink::disk}}};

// A disk or a link slower than this is not waited for: 1 MB/s, and a minute for what comes before.
double longest(std::uint64_t bytes) {
    constexpr double slowest = 1e6; // byte/s
    constexpr double before = 60;
    return before + static_cast<double>(bytes) / slowest;
}

class Work {
  public:
    Work(EndpointLink& from, EndpointLink& to, const TransferSettings& settings, const TransferTold& told,
         const std::stop_token& stop)
        : m_from(from)
        , m_to(to)
        , m_sender(settings.direction == benchmark::Direction::forward ? from : to)
        , m_settings(settings)
        , m_told(told)
        , m_stop(stop) {
        m_report.head.startedAt = utcNow();
        m_report.head.simulated = from.simulated() || to.simulated();
        m_report.bytes = settings.bytes;
        m_report.from = m_sender.name();
        m_report.to = (&m_sender == &from ? to : from).name();
    }

    Result<TransferReport> all() {
        for (std::size_t i = 0; i < passes.size(); ++i) {
            TransferPass pass;
            pass.source = passes[i].first;
            pass.sink = passes[i].second;
            const double before = static_cast<double>(i) / static_cast<double>(passes.size());
            if (m_told) m_told(pass, m_report, before);
            auto made = make(pass, before);
            if (m_stop.stop_requested()) return problem("the copy was stopped", "", "start it again");
            if (!made) return tl::unexpected(made.error());
            m_report.passes.push_back(pass);
        }
        return std::move(m_report);
    }

  private:
    Result<void> make(TransferPass& pass, double before) {
        if (pass.source != TransferSource::memory) {
            const std::chrono::milliseconds limit(
                static_cast<std::int64_t>(1000 * longest(2 * m_settings.bytes)));
            const auto answer =
                m_sender.ask(toJson(FileOrder{m_settings.bytes, pass.source == TransferSource::coldDisk}),
                             "file-made", limit, m_stop);
            if (!answer) return tl::unexpected(answer.error());
            const auto made = readFileMade(*answer);
            if (!made) return tl::unexpected(m_sender.placed(made.error()));
            pass.cachedAtStart = made->cachedAtStart;
        }
        benchmark::RunConfig config;
        config.direction = m_settings.direction;
        config.streams = 1;
        config.maxBytes = m_settings.bytes;
        config.seconds = std::min(benchmark::maxRun, longest(m_settings.bytes));
        config.warmup = 0;
        RunObserver observer;
        double moved = 0;
        observer.sample = [&](const benchmark::Sample& s) {
            moved += s.goodputBps / 8 * benchmark::sampleSeconds;
            const double share = std::min(1.0, moved / static_cast<double>(m_settings.bytes));
            if (m_told) m_told(pass, m_report, before + share / static_cast<double>(passes.size()));
        };
        const FileEnds ends{pass.source != TransferSource::memory, pass.sink == TransferSink::disk};
        const auto done = conductFile(m_from, m_to, config, ends, observer, m_stop);
        if (!done) return tl::unexpected(done.error());
        // What is sent from memory ends at its bound as well, but for the rounding of its last piece.
        if (!m_stop.stop_requested() && done->received < m_settings.bytes)
            return problem("not all of the file arrived", m_report.to,
                           "look at the disks and the link of both machines");
        if (ends.toDisk && !m_stop.stop_requested() && !done->syncSeconds)
            return problem("the file did not reach the disk", m_report.to,
                           "look at the space and the disk of its folder");
        pass.syncSeconds = done->syncSeconds.value_or(0);
        pass.seconds = std::max(done->seconds, 1e-9);
        pass.rate = quantity::BitRate::bitsPerSecond(static_cast<double>(done->received) * 8 / pass.seconds);
        return {};
    }

    EndpointLink& m_from;
    EndpointLink& m_to;
    EndpointLink& m_sender;
    const TransferSettings& m_settings;
    const TransferTold& m_told;
    const std::stop_token& m_stop;
    TransferReport m_report;
};

} // namespace

Result<TransferReport> transfer(EndpointLink& from, EndpointLink& to, const TransferSettings& settings,
                                const TransferTold& told, const std::stop_token& stop) {
    auto out = Work(from, to, settings, told, stop).all();
    // Whatever became of it, no file stays behind: not even until the links are closed.
    for (EndpointLink* link : {&from, &to})
        (void)link->channel().send({{"type", "cancel"}});
    return out;
}

} // namespace metrodos::probe
