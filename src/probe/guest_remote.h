// The guest of an agent, from the controller's side.
#pragma once

#include "probe/guest_end.h"
#include "probe/key.h"

#include <memory>

namespace metrodos::probe {

/// Asks the agent at `address` for its guest, and again each second, on a thread of its own.
class RemoteGuest final : public GuestEnd {
  public:
    /// `connect` opens a link to the agent, from any thread.
    using Connect = std::function<quantity::Result<EndpointLink>()>;
    RemoteGuest(std::string address, Connect connect);
    ~RemoteGuest() override;
    RemoteGuest(const RemoteGuest&) = delete;
    RemoteGuest& operator=(const RemoteGuest&) = delete;

    [[nodiscard]] GuestState state() const override;
    [[nodiscard]] std::string servedBy() const override;
    [[nodiscard]] quantity::Result<std::vector<benchmark::Run>> runAll(std::vector<GuestLeg>& legs,
                                                                       const std::stop_token& stop) override;

  private:
    struct Impl;
    std::unique_ptr<Impl> m_impl;
};

} // namespace metrodos::probe
