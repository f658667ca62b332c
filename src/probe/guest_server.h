// Makes any device with a browser the other end of a run, without installing anything there: a page of ours,
// behind a short code, whose connections carry the bytes. What counts is taken on this side, by the kernel's
// figures of the same sockets.
#pragma once

#include "probe/guest_end.h"

#include <chrono>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::probe {

/// The page as it ships, data/guest/page.html, which is built in.
[[nodiscard]] std::string_view guestPage();

inline constexpr std::uint16_t guestPort = 47720;

struct GuestSettings {
    std::string listen = "0.0.0.0:47720";   ///< numeric address and port; port 0: a free one
    std::chrono::seconds lifetime{3600};    ///< of the code
    std::vector<AddressRange> allowed = {}; ///< peers besides those nearby
    std::string page{guestPage()};          ///< the HTML of the page, one file
};

/// 40 random bits in Crockford base32, "K7QM-3FDA".
[[nodiscard]] std::string newGuestCode();

/// One code, one device at a time. Thread-safe.
class GuestServer final : public GuestEnd {
  public:
    /// A Problem where nothing can be listened on.
    static quantity::Result<std::unique_ptr<GuestServer>> start(const GuestSettings& settings);
    /// The same at the address of `settings`, on any free port where its own is taken by another guest.
    static quantity::Result<std::unique_ptr<GuestServer>> startAnywhere(GuestSettings settings);
    ~GuestServer() override;
    GuestServer(const GuestServer&) = delete;
    GuestServer& operator=(const GuestServer&) = delete;

    [[nodiscard]] Address address() const;
    [[nodiscard]] GuestState state() const override;
    [[nodiscard]] std::string servedBy() const override { return "here"; }
    [[nodiscard]] quantity::Result<std::vector<benchmark::Run>> runAll(std::vector<GuestLeg>& legs,
                                                                       const std::stop_token& stop) override;

  private:
    struct Impl;
    explicit GuestServer(std::unique_ptr<Impl> impl);
    std::unique_ptr<Impl> m_impl;
};

} // namespace metrodos::probe
