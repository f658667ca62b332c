// What moves the bytes of a run on one machine: TCP streams or a flow of datagrams.
#pragma once

#include "probe/socket.h"

#include <cstdint>
#include <optional>
#include <thread>
#include <vector>

namespace metrodos::probe {

/// Counts are read without locks while it runs.
class Load {
  public:
    virtual ~Load() = default;

    virtual void start() = 0;
    /// Within 100 ms all threads have left. Senders of streams end them in order, so that the receivers see
    /// the end; with `reset` what is queued is dropped.
    virtual void stop(bool reset) = 0;
    /// Payload bytes moved so far.
    [[nodiscard]] virtual std::uint64_t bytes() const = 0;
    /// By stream.
    [[nodiscard]] virtual std::vector<std::uint64_t> bytesByStream() const { return {bytes()}; }
    /// Of a receiver that has ended by itself: seconds from its first byte until the peer had closed and,
    /// into a file, all was on the disk. Nothing where that was not noted.
    [[nodiscard]] virtual std::optional<double> movedSeconds() const { return std::nullopt; }
    /// True when it has ended by itself: the peer has closed, the bound is reached, or it broke.
    [[nodiscard]] virtual bool ended() const = 0;
    [[nodiscard]] virtual const std::vector<Fd>& sockets() const = 0;

    /// Waits until the first byte has moved, or until all ended or `limit` passed: then false.
    [[nodiscard]] bool waitForFirstByte(std::chrono::milliseconds limit) const {
        const auto end = std::chrono::steady_clock::now() + limit;
        while (bytes() == 0) {
            if (ended() || std::chrono::steady_clock::now() >= end) return bytes() > 0;
            std::this_thread::sleep_for(std::chrono::microseconds(200));
        }
        return true;
    }
};

/// Not zeros: some media and some adapters compress. The same for the same `salt`.
inline void fillPayload(std::vector<unsigned char>& buffer, std::uint32_t salt) {
    std::uint32_t state = 0x9e3779b9U + salt;
    for (unsigned char& byte : buffer) {
        state = state * 1664525U + 1013904223U;
        byte = static_cast<unsigned char>(state >> 24U);
    }
}

} // namespace metrodos::probe
