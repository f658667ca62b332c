// Ctrl-C as a stop token.
#pragma once

#include <csignal>
#include <ctime>
#include <stop_token>
#include <thread>

namespace metrodos::programs {

// Ctrl-C ends a run in order and keeps what was measured.
class Interrupt {
  public:
    [[nodiscard]] std::stop_token token() const { return m_stop.get_token(); }

  private:
    std::stop_source m_stop;
    std::jthread m_waiter{[stop = m_stop](const std::stop_token& done) mutable {
        sigset_t signals;
        sigemptyset(&signals);
        sigaddset(&signals, SIGINT);
        sigaddset(&signals, SIGTERM);
        const timespec tick{0, 50'000'000};
        while (!done.stop_requested())
            if (sigtimedwait(&signals, nullptr, &tick) > 0) stop.request_stop();
    }};
};

} // namespace metrodos::programs
