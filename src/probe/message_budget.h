// How many orders an endpoint hears of one network: more wait, unread, until their turn.
#pragma once

#include <algorithm>
#include <chrono>
#include <mutex>

namespace metrodos::probe {

/// A token bucket for all sessions of one network. A controller of a run says something once a second, and
/// asks for facts when a page is opened; what fills a bucket is no controller's work. Thread-safe.
class MessageBudget {
  public:
    using Clock = std::chrono::steady_clock;
    static constexpr double perSecond = 200; ///< simple messages
    static constexpr double atOnce = 400;
    static constexpr double ofFacts = 20; ///< what reads the machine or writes a file costs so many

    /// Takes `cost` out of it, which may go below nothing; for how long the session reads no further.
    [[nodiscard]] Clock::duration take(double cost, Clock::time_point now = Clock::now()) {
        const std::lock_guard lock(m_mutex);
        const double passed = std::chrono::duration<double>(std::max(now, m_at) - m_at).count();
        m_left = std::min(atOnce, m_left + passed * perSecond);
        m_at = std::max(now, m_at);
        m_left -= cost;
        return m_left >= 0 ? Clock::duration{}
                           : std::chrono::duration_cast<Clock::duration>(
                                 std::chrono::duration<double>(-m_left / perSecond));
    }

  private:
    std::mutex m_mutex;
    double m_left = atOnce;
    Clock::time_point m_at = Clock::now();
};

} // namespace metrodos::probe
