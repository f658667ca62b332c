// The controller's side: a link to an endpoint, on another machine or in this process.
#pragma once

#include "probe/channel.h"
#include "probe/key.h"
#include "probe/performer.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <stop_token>
#include <thread>

namespace metrodos::probe {

/// An endpoint that has greeted. Closing it ends its run.
class EndpointLink {
  public:
    /// Connects to an agent (or a simulated one) within five seconds. `family` is AF_INET or AF_INET6 where
    /// only such an address will do; the runs use the address of this link.
    /// A stop ends it at once.
    static quantity::Result<EndpointLink> connect(const std::string& address, const Key& key,
                                                  int family = AF_UNSPEC, const std::stop_token& stop = {});
    /// This machine itself, through the same session code in-process. `allowed`: who may join its runs
    /// besides nearby machines; `folder`: where files of transfers may lie, empty: nowhere.
    static quantity::Result<EndpointLink> here(const std::string& name,
                                               const std::vector<AddressRange>& allowed = {},
                                               const std::filesystem::path& folder = {});
    /// Greets over a channel that is already there; `peer` is how to call it in messages.
    static quantity::Result<EndpointLink> greet(std::unique_ptr<Channel> channel, const std::string& peer,
                                                const std::stop_token& stop = {});

    EndpointLink(EndpointLink&&) = default;
    EndpointLink& operator=(EndpointLink&&) = delete;
    ~EndpointLink();

    [[nodiscard]] const std::string& name() const { return m_name; }
    [[nodiscard]] bool simulated() const { return m_simulated; }
    [[nodiscard]] bool isHere() const { return m_server.joinable(); }
    /// Address at which this controller sees the endpoint, and its own address on that link; empty for here.
    [[nodiscard]] std::string remoteHost() const { return m_channel->peerHost(); }
    [[nodiscard]] std::string localHost() const { return m_channel->localHost(); }

    [[nodiscard]] quantity::Result<nlohmann::json> facts();
    /// Sends an order and waits for the answer of type `answer`; events in between are dropped.
    /// A stop ends the waiting at once.
    [[nodiscard]] quantity::Result<nlohmann::json> ask(const nlohmann::json& order, const char* answer,
                                                       std::chrono::milliseconds limit,
                                                       const std::stop_token& stop = {});
    [[nodiscard]] Channel& channel() { return *m_channel; }
    /// A problem with this endpoint's name as its place.
    [[nodiscard]] quantity::Problem placed(quantity::Problem problem) const;

  private:
    EndpointLink() = default;
    std::unique_ptr<Channel> m_channel;
    std::string m_name;
    bool m_simulated = false;
    std::thread m_server; // serves the in-process endpoint
};

/// Opens a link when it is needed; a stop ends that at once.
using OpenLink = std::function<quantity::Result<EndpointLink>(const std::stop_token&)>;

} // namespace metrodos::probe
