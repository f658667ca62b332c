// The machines that this computer has met as endpoints: what they are, and the keys made with them.
#pragma once

#include "probe/endpoint_link.h"

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::probe {

enum class MachineKind { agent, browser };

struct KnownMachine {
    std::string id;   ///< of this record, 1–64 letters and digits
    std::string name; ///< what it calls itself, or of a browser what the job calls it
    MachineKind kind = MachineKind::agent;
    std::string address;    ///< host:port where it was seen last; of a browser the host
    std::string seenAt;     ///< ISO 8601, UTC; empty: never
    std::string identity;   ///< of the key that it was seen with; empty: a browser
    bool hasOwnKey = false; ///< made at a meeting, for this pair alone
    std::string pairedAt;
    std::string pairedBy; ///< account here that met it; empty: it has the key that all agents here share
    bool isRevoked = false;

    friend bool operator==(const KnownMachine&, const KnownMachine&) = default;
};

inline constexpr std::size_t maxKnownMachines = 500; ///< the longest unseen gives way

/// Reads and writes a folder: machines.json, and a key file with mode 0600 for each pair. Several programs
/// may use it at once; thread-safe. Nothing of it is ever in a job.
class KnownMachines {
  public:
    explicit KnownMachines(std::filesystem::path folder)
        : m_folder(std::move(folder)) {}

    /// By name. None where there is no folder; a Problem where the list cannot be read.
    [[nodiscard]] quantity::Result<std::vector<KnownMachine>> load() const;
    /// A machine that is being met; returns the id of its record. One of the same name whose key was revoked
    /// goes.
    [[nodiscard]] quantity::Result<std::string> add(const KnownMachine& machine, const Key& key) const;
    /// A machine has answered, with a key of its own or with the shared one, or has opened the page of a
    /// guest: its record is made or brought up to date.
    [[nodiscard]] quantity::Result<void> see(const KnownMachine& machine) const;
    /// Its key is deleted, and it is not linked to any more. The record stays, and says so.
    [[nodiscard]] quantity::Result<void> revoke(const std::string& id) const;
    /// The record too.
    [[nodiscard]] quantity::Result<void> drop(const std::string& id) const;
    /// The keys made at meetings that may fit a machine at this address: of those seen there first.
    [[nodiscard]] std::vector<Key> keysFor(const std::string& address) const;

  private:
    struct Locked;
    [[nodiscard]] std::filesystem::path keyFile(const std::string& id) const;
    std::filesystem::path m_folder;
};

/// Links to the agent at `address` with the first of the keys that it accepts, and notes in `known` that it
/// was seen. `known` may be nullptr. `family` as for EndpointLink::connect.
[[nodiscard]] quantity::Result<EndpointLink>
connectKnown(const std::string& address, const std::vector<Key>& keys, const KnownMachines* known,
             const std::stop_token& stop = {}, int family = AF_UNSPEC);

} // namespace metrodos::probe
