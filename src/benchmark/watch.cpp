#include "benchmark/watch.h"

#include <algorithm>

namespace metrodos::benchmark {
namespace {

constexpr double lowShare = 0.1;
constexpr double hourSeconds = 3600;
constexpr std::size_t maxHours = 720;
constexpr std::size_t maxDropOuts = 1000;
constexpr std::size_t maxReasonBytes = 300;
constexpr std::uint64_t minSamples = 50; // samples before the median so far means something

std::optional<double> inBits(const std::optional<double>& kilobits) {
    return kilobits ? std::optional(*kilobits * 1e3) : std::nullopt;
}

} // namespace

Watch::Watch(std::optional<BitRate> reference, double shortest)
    : m_reference(reference)
    , m_shortest(shortest) {}

void Watch::add(double t, const Sample& sample) {
    // What lies between a lost run and the first sample of the next belongs to the drop-out.
    const double begin = m_previous.value_or(t - sampleSeconds);
    if (m_low && !m_low->lost.empty()) {
        m_low->seconds = std::max(begin - m_low->start, 0.0);
        closeLow();
    }
    enterHour(begin + lowShare * sampleSeconds); // not the hour before for a rounding error
    const double lasted = std::max(t - begin, 0.0);
    m_measured += lasted;
    m_hour->whole.seconds += lasted;
    double reference = 0;
    if (m_reference)
        reference = m_reference->bps();
    else if (m_goodput.count() >= minSamples)
        reference = m_goodput.quantile(0.5).value_or(0) * 1e3;
    if (sample.goodputBps < lowShare * reference) {
        if (!m_low) m_low = DropOut{begin, 0, {}};
        m_low->seconds = t - m_low->start;
    } else {
        closeLow();
    }
    m_goodput.add(sample.goodputBps / 1e3);
    m_hour->goodput.add(sample.goodputBps / 1e3);
    if (sample.rttUs) {
        m_rtt.add(*sample.rttUs);
        m_hour->rtt.add(*sample.rttUs);
    }
    m_previous = t;
    m_end = std::max(m_end, t);
}

void Watch::lose(double t, const std::string& why) {
    if (!m_low) m_low = DropOut{m_previous.value_or(m_end), 0, {}};
    if (m_low->lost.empty()) m_low->lost = why.empty() ? std::string("lost") : why.substr(0, maxReasonBytes);
    m_low->seconds = std::max(t - m_low->start, m_low->seconds);
    m_previous.reset();
    m_end = std::max(m_end, t);
}

void Watch::sleepUntil(double t) {
    closeLow();
    m_slept += std::max(t - m_end, 0.0);
    m_previous.reset();
    m_end = std::max(m_end, t);
}

void Watch::pause() {
    if (m_low && m_low->lost.empty()) closeLow();
    m_previous.reset();
}

void Watch::end(double t) {
    m_end = std::max(m_end, t);
    if (m_low && !m_low->lost.empty()) m_low->seconds = m_end - m_low->start;
    closeLow();
    closeHour();
}

void Watch::closeLow() {
    if (m_low && (m_low->seconds >= m_shortest - 1e-9 || !m_low->lost.empty())) record(*m_low);
    m_low.reset();
}

void Watch::record(DropOut dropOut) {
    ++m_count;
    m_dropped += dropOut.seconds;
    enterHour(dropOut.start);
    ++m_hour->whole.dropOuts;
    m_hour->whole.dropOutSeconds += dropOut.seconds;
    if (m_dropOuts.size() < maxDropOuts) m_dropOuts.push_back(std::move(dropOut));
}

// Hours without a sample are there, but empty.
void Watch::enterHour(double t) {
    const auto index = std::min(static_cast<std::size_t>(std::max(t, 0.0) / hourSeconds), maxHours - 1);
    while (m_hours.size() + (m_hour ? 1 : 0) < index + 1) {
        closeHour();
        m_hour.emplace();
    }
    if (!m_hour) m_hour.emplace();
}

void Watch::closeHour() {
    if (!m_hour) return;
    m_hours.push_back(m_hour->whole);
    m_hours.back().goodputP10Bps = inBits(m_hour->goodput.quantile(0.1));
    m_hours.back().goodputP50Bps = inBits(m_hour->goodput.quantile(0.5));
    m_hours.back().rttUs = m_hour->rtt.percentiles();
    m_hour.reset();
}

std::vector<WatchHour> Watch::hours() const {
    Watch whole = *this; // with the hour that goes on
    whole.closeHour();
    return std::move(whole.m_hours);
}

} // namespace metrodos::benchmark
