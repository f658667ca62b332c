// Why a fluid of windows and not packets: a run of ten seconds at 10 Gbit/s is eight million segments; in
// steps of a tenth of the round trip it is some thousand states, and what a limit shows (queue, delay,
// window, retransmits) is there all the same. What each element carries is drawn from the beliefs of capacity
// (standin/truth.h): these runs show whether the limit is found, not whether the ceilings are right; that is
// for hand calculation and real links. Cost: steps × streams.
#include "standin/flow_model.h"

#include "benchmark/statistics.h"

#include <algorithm>
#include <cmath>

namespace metrodos::standin {
namespace {

constexpr double segment = 1448;
constexpr double initialWindow = 10 * segment; // RFC 6928
constexpr double backOff = 0.7;                // RFC 9438, 4.6
constexpr double growth = 0.53; // segments a round trip: 3 (1 − 0.7) / (1 + 0.7), RFC 9438, 4.3
constexpr double memory = 1.0;  // s, of the media's variation

} // namespace

FlowModel::FlowModel(RouteTruth truth, const benchmark::RunConfig& config, std::uint64_t seed)
    : m_truth(std::move(truth))
    , m_config(config)
    , m_streams(static_cast<std::size_t>(config.streams), Stream{initialWindow})
    , m_drift(m_truth.elements.size(), 0.0)
    , m_random(seed) {
    if (config.windowBytes > 0)
        m_truth.windowBytes = std::min(m_truth.windowBytes, static_cast<double>(config.windowBytes));
    std::normal_distribution<double> normal;
    for (double& drift : m_drift)
        drift = normal(m_random);
}

double FlowModel::capacity(double step) {
    std::normal_distribution<double> normal;
    const double keep = std::exp(-step / memory);
    double least = 1e15;
    for (std::size_t i = 0; i < m_drift.size(); ++i) {
        const ElementTruth& element = m_truth.elements[i];
        double now = element.capacityBps;
        if (element.variation > 0) {
            m_drift[i] = keep * m_drift[i] + std::sqrt(1 - keep * keep) * normal(m_random);
            now *= std::exp(element.variation * m_drift[i]);
        }
        if (!m_shares.empty()) now *= m_shares[i];
        least = std::min(least, now);
    }
    // A paced TCP never offers more than its pace.
    if (m_config.rate && m_config.protocol == benchmark::Protocol::tcp)
        least = std::min(least, m_config.rate->bps());
    return least;
}

void FlowModel::move(double step) {
    m_capacity = capacity(step);
    const double perByte = 8 / m_capacity;
    if (m_config.protocol == benchmark::Protocol::udp) {
        movePaced(step, perByte);
        return;
    }
    const double rtt = m_truth.rttUs * 1e-6 + m_queue * perByte;
    double offered = 0;
    double held = 0;
    for (const Stream& stream : m_streams) {
        const double window = std::min(stream.window, m_truth.windowBytes);
        offered += window / rtt * step;
        if (stream.window >= m_truth.windowBytes) held += 1;
    }
    // A window that is held back by the receiver, not by a full queue, is what the kernel counts as such.
    if (m_queue < 0.1 * m_truth.queueBytes &&
        (m_truth.heldAt == HeldAt::network || offered <= step / perByte))
        m_windowTime += step * held / static_cast<double>(m_streams.size());
    const double served = std::min(m_queue + offered, step / perByte);
    // A machine that sends or reads slowly leaves no queue in the network.
    if (m_truth.heldAt != HeldAt::network && offered > step / perByte)
        (m_truth.heldAt == HeldAt::sender ? m_bufferTime : m_windowTime) += step;
    m_queue = m_truth.heldAt == HeldAt::network ? m_queue + offered - served : 0;
    m_bytes += served;
    m_now += step;
    double excess = m_queue - m_truth.queueBytes;
    for (Stream& stream : m_streams) {
        const double acked =
            served * std::min(stream.window, m_truth.windowBytes) / std::max(offered / step * rtt, 1.0);
        if (stream.slowStart)
            stream.window += acked;
        else
            stream.window += growth * segment * acked / stream.window;
        stream.window = std::min(stream.window, 2 * m_truth.windowBytes);
        if (m_truth.loss > 0) loseOnTheWay(stream, acked / segment, rtt);
    }
    if (excess <= 0) return;
    m_lost += excess / segment;
    m_queue = m_truth.queueBytes;
    // The overflow meets streams in proportion to what they have in flight.
    std::vector<double> weights;
    for (const Stream& stream : m_streams)
        weights.push_back(stream.window);
    std::discrete_distribution<std::size_t> pick(weights.begin(), weights.end());
    for (int hit = 0; hit < 2 && excess > 0; ++hit) {
        Stream& stream = m_streams[pick(m_random)];
        if (m_now < stream.holdUntil) continue;
        const double inFlight = std::min(stream.window, m_truth.windowBytes);
        stream.window = std::max(inFlight * backOff, 2 * segment);
        stream.slowStart = false;
        stream.holdUntil = m_now + rtt;
        excess -= inFlight * (1 - backOff);
    }
}

// Each segment is lost with the same chance, whatever the queue; one back-off a round trip.
void FlowModel::loseOnTheWay(Stream& stream, double segments, double rtt) {
    m_lost += m_truth.loss * segments;
    const double any = 1 - std::exp(-m_truth.loss * segments);
    if (m_now < stream.holdUntil || std::uniform_real_distribution<double>()(m_random) > any) return;
    stream.window = std::max(std::min(stream.window, m_truth.windowBytes) * backOff, 2 * segment);
    stream.slowStart = false;
    stream.holdUntil = m_now + rtt;
}

void FlowModel::movePaced(double step, double perByte) {
    const double offered = m_config.rate->bps() / 8 * step;
    m_sentBytes += offered;
    const double served = std::min(m_queue + offered, step / perByte);
    m_queue += offered - served;
    m_bytes += served * (1 - m_truth.loss);
    m_now += step;
    m_queue = std::min(m_queue, m_truth.queueBytes); // what overflows is gone
}

double FlowModel::jitterShare() const {
    double variation = 0.03;
    for (const ElementTruth& element : m_truth.elements)
        variation = std::max(variation, element.variation);
    return variation;
}

benchmark::DatagramCount FlowModel::datagrams() const {
    const double size = m_config.segmentBytes > 0 ? m_config.segmentBytes : benchmark::usualDatagram;
    benchmark::DatagramCount out;
    out.sent = static_cast<std::uint64_t>(m_sentBytes / size);
    // What still waits in the queue arrives after the end.
    out.received = std::min(out.sent, static_cast<std::uint64_t>(std::llround((m_bytes + m_queue) / size)));
    out.jitterUs = m_truth.rttUs / 2 * jitterShare();
    return out;
}

FlowModel::Tenth FlowModel::next(const std::vector<double>& shares) {
    m_shares = shares;
    const double sentBefore = m_sentBytes;
    const double queueBefore = m_queue;
    const double before = m_bytes;
    const double end = m_now + benchmark::sampleSeconds;
    const double fine = std::clamp(m_truth.rttUs * 1e-7, 0.0002, 0.001);
    std::vector<double> rtts;
    std::exponential_distribution<double> jitter(1 / 0.03);
    double nextProbe = m_now;
    while (end - m_now > 1e-9) {
        move(std::min(fine, end - m_now));
        if (m_now < nextProbe) continue;
        nextProbe += 0.02;
        rtts.push_back((m_truth.rttUs + m_queue * 8e6 / m_capacity) * (1 + jitter(m_random)));
    }
    Tenth out;
    out.goodputBps = (m_bytes - before) * 8 / benchmark::sampleSeconds;
    m_lastGoodput = out.goodputBps;
    out.rttUs = benchmark::quantile(rtts, 0.5);
    if (const double sent = m_sentBytes - sentBefore; sent > 0)
        out.lossRatio = std::clamp((sent - (m_bytes - before) - (m_queue - queueBefore)) / sent, 0.0, 1.0);
    if (m_config.protocol == benchmark::Protocol::tcp)
        for (const Stream& stream : m_streams)
            out.windowBytes += stream.window;
    out.retransmits = static_cast<std::uint64_t>(m_lost);
    out.senderCpu = std::min(1.0, 0.02 + out.goodputBps / m_truth.senderCpuBps);
    out.receiverCpu = std::min(1.0, 0.02 + out.goodputBps / m_truth.receiverCpuBps);
    return out;
}

double FlowModel::idleRttUs() {
    std::exponential_distribution<double> jitter(1 / 0.03);
    return m_truth.rttUs * (1 + jitter(m_random));
}

benchmark::SenderLimited FlowModel::limited() const {
    const double window = m_now > 0 ? std::clamp(m_windowTime / m_now, 0.0, 1.0) : 0;
    const double buffer = m_now > 0 ? std::clamp(m_bufferTime / m_now, 0.0, 1.0 - window) : 0;
    return {1 - window - buffer, window, buffer};
}

} // namespace metrodos::standin
