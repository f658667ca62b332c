// How the programs that serve end: on SIGINT, SIGTERM or SIGHUP, in order.
#pragma once

#include <csignal>

namespace metrodos::programs {

/// Blocks the ending signals in this and all later threads; call before any thread starts.
inline sigset_t blockEndingSignals() {
    sigset_t signals;
    sigemptyset(&signals);
    for (const int signal : {SIGINT, SIGTERM, SIGHUP})
        sigaddset(&signals, signal);
    pthread_sigmask(SIG_BLOCK, &signals, nullptr);
    return signals;
}

/// Returns when one of them arrives.
inline void waitForEnd(const sigset_t& signals) {
    int received = 0;
    sigwait(&signals, &received);
}

} // namespace metrodos::programs
