// How much of the processors the host of a virtual machine kept for itself while something was measured.
#pragma once

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

} // namespace metrodos::testing
