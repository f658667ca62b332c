// The keys that an agent has made with controllers at first meetings, kept on its machine.
#pragma once

#include "probe/key.h"

#include <filesystem>
#include <string_view>
#include <vector>

namespace metrodos::probe {

/// A folder that only its owner reads, a key file for each controller.
class PairStore {
  public:
    explicit PairStore(std::filesystem::path folder)
        : m_folder(std::move(folder)) {}
    /// In the configuration of the user that the agent runs as; empty: there is none.
    [[nodiscard]] static std::filesystem::path usualFolder();

    /// A Problem names a file that cannot be read, or that others can; none where the folder is not there.
    [[nodiscard]] quantity::Result<std::vector<Key>> load() const;
    [[nodiscard]] quantity::Result<void> keep(const Key& key) const;
    /// By the identity of its credential (key_ring.h).
    [[nodiscard]] quantity::Result<void> forget(std::string_view identity) const;

  private:
    [[nodiscard]] std::filesystem::path fileOf(std::string_view identity) const;
    std::filesystem::path m_folder;
};

} // namespace metrodos::probe
