// Several runs at once: none starts before all are open, and when one fails the others end.
#pragma once

#include "benchmark/run.h"
#include "quantity/problem.h"

#include <condition_variable>
#include <functional>
#include <mutex>
#include <stop_token>
#include <vector>

namespace metrodos::probe {

/// Each says when it is open, and none goes on before all have said so. Thread-safe.
class Gate {
  public:
    explicit Gate(std::size_t legs)
        : m_missing(legs) {}

    /// False when one of the legs could not be opened.
    [[nodiscard]] bool pass();
    void breakDown();

  private:
    std::mutex m_mutex;
    std::condition_variable m_changed;
    std::size_t m_missing;
    bool m_broken = false;
};

/// One leg, in a thread of its own: opens, passes the gate, and carries. `group` is empty where it is alone.
using LegOf = std::function<quantity::Result<benchmark::Run>(std::size_t leg, const std::string& group,
                                                             const std::stop_token& stop, Gate& gate)>;

/// All runs, in the order of the legs; the first Problem where one of them fails.
[[nodiscard]] quantity::Result<std::vector<benchmark::Run>>
runTogether(std::size_t legs, const std::stop_token& stop, const LegOf& leg);

} // namespace metrodos::probe
