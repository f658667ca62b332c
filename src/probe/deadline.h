// A moment after which nothing is waited for any more, on the clock that nobody sets.
#pragma once

#include <algorithm>
#include <chrono>

namespace metrodos::probe {

class Deadline {
  public:
    using Clock = std::chrono::steady_clock;
    explicit Deadline(Clock::time_point end)
        : m_end(end) {}
    explicit Deadline(Clock::duration limit)
        : Deadline(Clock::now() + limit) {}
    explicit Deadline(double seconds)
        : Deadline(std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(seconds))) {}

    [[nodiscard]] bool isOver() const { return Clock::now() >= m_end; }
    /// Rounded up, so that who waits so long has waited long enough; 0 once it is over.
    [[nodiscard]] std::chrono::milliseconds left() const {
        using std::chrono::milliseconds;
        return std::max(milliseconds(0), std::chrono::ceil<milliseconds>(m_end - Clock::now()));
    }
    /// The end of a piece of the wait, after which one looks around.
    [[nodiscard]] Clock::time_point endOf(Clock::duration piece) const {
        return std::min(m_end, Clock::now() + piece);
    }

  private:
    Clock::time_point m_end;
};

} // namespace metrodos::probe
