// What an endpoint tells of a run while it goes on, and at its end: one type, one writer and one reader for
// each event. Real and simulated endpoints write them; the controller reads them. A figure that could not be
// taken is nothing, and absent from the message.
#pragma once

#include "benchmark/run.h"
#include "quantity/problem.h"

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::probe {

/// Every tenth of a second, numbered from 1.
struct SampleEvent {
    std::string run; ///< id
    std::size_t number = 0;
    double t = 0; ///< s since the first byte
    std::optional<double> cpu = {};
    // At the receiver:
    std::optional<double> goodputBps = {};
    std::vector<double> streamBps = {}; ///< of each stream, where there are several
    std::optional<double> lossRatio = {};
    // At the sender of TCP, from the kernel:
    std::optional<double> tcpRttUs = {};
    std::optional<double> windowBytes = {};
    std::optional<std::uint64_t> retransmits = {};
    // At the side that joined, from the delay probe:
    std::optional<double> rttUs = {};
};

/// Once, at the end.
struct FinishedEvent {
    std::string run;
    double seconds = 0;
    std::uint64_t bytes = 0; ///< of payload that this end moved
    std::optional<double> cpu = {};
    std::optional<double> cpuProcess = {}; ///< cores
    std::optional<benchmark::InterfaceCount> interface = {};
    // At the sender:
    std::optional<benchmark::SenderLimited> senderLimited = {};
    std::optional<std::uint64_t> retransmits = {};
    std::optional<std::uint64_t> datagramsSent = {};
    std::optional<std::uint64_t> datagramsUnsent = {};
    // At the receiver; `sent` and `unsent` are what it received and 0 until the sender has told:
    std::optional<benchmark::DatagramCount> datagrams = {};
    std::optional<double> movedSeconds =
        {}; ///< from the first byte until the sender had closed and all was where it should be
    std::optional<double> syncSeconds = {}; ///< into a file: from the last byte until it was on the disk
    // At the side that joined:
    std::optional<benchmark::Percentiles> rttLoadedUs = {};
    std::optional<std::uint64_t> delayLost = {};
    std::vector<benchmark::DelaySpike> spikes = {};
};

/// Messages of type "sample" and "finished".
[[nodiscard]] nlohmann::json toJson(const SampleEvent& event);
[[nodiscard]] nlohmann::json toJson(const FinishedEvent& event);

/// A Problem names the field that is missing or out of its bounds: such an endpoint is not to be believed in
/// the rest.
[[nodiscard]] quantity::Result<SampleEvent> readSampleEvent(const nlohmann::json& message);
[[nodiscard]] quantity::Result<FinishedEvent> readFinishedEvent(const nlohmann::json& message);

} // namespace metrodos::probe
