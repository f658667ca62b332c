// How the window reaches the machines of the job: their addresses and the key.
#pragma once

#include "house/house.h"
#include "probe/endpoint_link.h"

#include <filesystem>
#include <functional>
#include <optional>
#include <string>

namespace metrodos::desktop {

struct EndpointAccess {
    std::string address; ///< "here" or host:port; empty: not known
    std::optional<probe::Key> key;
};
/// Asked when a test begins; a Problem while the simulated house is still starting.
using AccessTo = std::function<quantity::Result<EndpointAccess>(const house::Id& endpoint)>;

/// Where the key of the agents lies on this machine; METRODOS_KEY_FILE in the environment goes before it.
[[nodiscard]] std::filesystem::path keyFile();

/// Opens the link, from any thread; a Problem says what is missing.
[[nodiscard]] quantity::Result<probe::EndpointLink> openLink(const EndpointAccess& access);

} // namespace metrodos::desktop
