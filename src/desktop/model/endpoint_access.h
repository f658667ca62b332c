// How the window reaches the machines of the job: their addresses and the key.
#pragma once

#include "house/house.h"
#include "probe/endpoint_link.h"
#include "probe/guest_end.h"
#include "probe/known_machines.h"

#include <QString>
#include <filesystem>
#include <functional>
#include <optional>
#include <string>

namespace metrodos::desktop {

struct EndpointAccess {
    std::string address;          ///< "here" or host:port; empty: not known
    std::vector<probe::Key> keys; ///< that the agent there may know, the likeliest first
    /// Where it is noted that the machine was seen; nullptr: nowhere.
    std::shared_ptr<const probe::KnownMachines> known = nullptr;
    std::shared_ptr<probe::GuestEnd> guest = nullptr; ///< a device with a browser; then there is no link
    int ipVersion = 0;                                ///< 4 or 6: which kind of address will do; 0: any
};

/// In the place of an address: the machine takes part by the page of a guest, which this machine serves.
/// "guest@ADDRESS": which the agent there serves, started with --guest.
inline constexpr const char* guestAddress = "guest";
/// Who serves the page of a guest, "here" or the address of an agent; nothing: the address is no guest's.
[[nodiscard]] std::optional<std::string> servesGuest(const std::string& address);
/// Whether two addresses name the same agent, with the usual port or without.
[[nodiscard]] bool isSameAgent(const std::string& a, const std::string& b);
/// Asked when a test begins; a Problem while the simulated house is still starting.
using AccessTo = std::function<quantity::Result<EndpointAccess>(const house::Id& endpoint)>;

/// Where the key of the agents lies on this machine; METRODOS_KEY_FILE in the environment goes before it.
[[nodiscard]] std::filesystem::path keyFile();

/// The machines that this computer has met; METRODOS_MACHINES in the environment goes before the usual
/// folder.
[[nodiscard]] std::filesystem::path machinesFolder();

/// Machines of which ranges may join runs with this one, besides those nearby; METRODOS_ALLOWED in the
/// environment names another file than the usual one. What cannot be read is left out.
[[nodiscard]] std::vector<probe::AddressRange> allowedRanges();
[[nodiscard]] QString allowedRangesText();
/// Blanks and commas part the ranges; a Problem names one that is none.
[[nodiscard]] quantity::Result<void> setAllowedRanges(const QString& text);

/// "here", a name or an address with or without a port, as far as its form goes: names are looked up when a
/// run begins.
[[nodiscard]] bool isAgentAddress(const QString& text);

/// Opens the link, from any thread; a Problem says what is missing.
/// `folder`: on this machine, where files of transfers may lie; agents have their own.
[[nodiscard]] quantity::Result<probe::EndpointLink> openLink(const EndpointAccess& access,
                                                             const std::stop_token& stop = {},
                                                             const std::filesystem::path& folder = {});

} // namespace metrodos::desktop
