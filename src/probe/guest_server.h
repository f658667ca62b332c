// Makes any device with a browser the other end of a run, without installing anything there: a page of ours,
// behind a short code, whose connections carry the bytes. What counts is taken on this side, by the kernel's
// figures of the same sockets.
#pragma once

#include "probe/conduct.h"

#include <chrono>
#include <memory>
#include <string>
#include <vector>

namespace metrodos::probe {

struct GuestSettings {
    std::string listen = "0.0.0.0:47720";   ///< numeric address and port; port 0: a free one
    std::chrono::seconds lifetime{3600};    ///< of the code
    std::vector<AddressRange> allowed = {}; ///< peers besides those nearby
    std::string page;                       ///< the HTML of the page, one file
};

/// The page as it ships, data/guest/page.html.
[[nodiscard]] quantity::Result<std::string> guestPage();

/// 40 random bits in Crockford base32, "K7QM-3FDA".
[[nodiscard]] std::string newGuestCode();

/// One code, one device at a time. Thread-safe.
class GuestServer {
  public:
    /// A Problem where nothing can be listened on.
    static quantity::Result<std::unique_ptr<GuestServer>> start(const GuestSettings& settings);
    ~GuestServer();
    GuestServer(const GuestServer&) = delete;
    GuestServer& operator=(const GuestServer&) = delete;

    [[nodiscard]] const std::string& code() const;
    [[nodiscard]] Address address() const;
    /// Where the device opens the page: one for each address of this machine, the code in it.
    [[nodiscard]] std::vector<std::string> urls() const;
    [[nodiscard]] std::chrono::seconds expiresIn() const; ///< 0: the code has ended
    /// Whether a device has opened the page and waits for work.
    [[nodiscard]] bool isPresent() const;
    /// What the device says of its own way into the network: "cable", "radio"; empty: not asked yet.
    [[nodiscard]] std::string medium() const;

    /// One run with the device: forward sends to it. TCP, one direction, 1 to 4 streams. A stop request ends
    /// it within 200 ms and returns what was measured so far, marked incomplete; so does the device. A
    /// Problem where no device is there, or it falls silent.
    [[nodiscard]] quantity::Result<benchmark::Run>
    run(const benchmark::RunConfig& config, const RunObserver& observer, const std::stop_token& stop);

  private:
    struct Impl;
    explicit GuestServer(std::unique_ptr<Impl> impl);
    std::unique_ptr<Impl> m_impl;
};

/// A browser opens six connections to one address; two are for the work and the delay.
inline constexpr int maxGuestStreams = 4;

} // namespace metrodos::probe
