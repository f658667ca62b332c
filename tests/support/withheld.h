// How much of the processors the host of a virtual machine kept for itself while something was measured.
#pragma once

#include <algorithm>
#include <chrono>
#include <fstream>
#include <string>

namespace metrodos::testing {

/// From its construction on; what proc(5) counts in /proc/stat.
class Withheld {
  public:
    /// 0–1, of all processors' time.
    [[nodiscard]] double share() const {
        const Ticks now = read();
        return now.total > m_begin.total ? (now.stolen - m_begin.stolen) / (now.total - m_begin.total) : 0;
    }

  private:
    struct Ticks {
        double total = 0;
        double stolen = 0; // wanted by this machine and given to another
    };
    static Ticks read() {
        std::ifstream stat("/proc/stat");
        std::string word;
        stat >> word;
        Ticks ticks;
        double value = 0;
        for (int column = 0; column < 8 && stat >> value; ++column) {
            ticks.total += value;
            if (column == 7) ticks.stolen = value;
        }
        return ticks;
    }
    Ticks m_begin = read();
};

/// Attempts at a figure that the host of this machine can spoil by withholding the processors: such an
/// attempt proves nothing and is repeated; undisturbed ones must hold.
class Attempts {
  public:
    /// Up to `most`; an attempt is disturbed when more than `bearable` (0–1) of the processors' time was
    /// withheld.
    explicit Attempts(int most, double bearable = 0.05)
        : m_left(most)
        , m_bearable(bearable) {}
    /// Begins the next one; false when all are used up, or when the repeats of this program have taken so
    /// long that the rest of it would not be finished in its time.
    bool next() {
        close();
        if (m_left == 0 || (m_made > 0 && repeats() > longest)) return false;
        --m_left;
        m_isOpen = true;
        m_begin = Clock::now();
        m_withheld = Withheld();
        return true;
    }
    /// Nothing can be said here now: there was no attempt that was not disturbed.
    [[nodiscard]] bool allDisturbed() {
        close();
        return m_least > m_bearable;
    }

  private:
    using Clock = std::chrono::steady_clock;
    static constexpr std::chrono::seconds longest{120};
    // What the attempts after each first one took, in all figures of this program.
    static Clock::duration& repeats() {
        static Clock::duration sum{};
        return sum;
    }
    void close() {
        if (!m_isOpen) return;
        m_least = std::min(m_least, m_withheld.share());
        if (++m_made > 1) repeats() += Clock::now() - m_begin;
        m_isOpen = false;
    }
    int m_made = 0;
    Clock::time_point m_begin;
    int m_left;
    double m_bearable;
    double m_least = 1;
    bool m_isOpen = false;
    Withheld m_withheld;
};

inline constexpr const char* disturbed =
    "The host withheld the processors in every attempt: no figure can be taken here now.";

} // namespace metrodos::testing
