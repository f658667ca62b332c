// The keys that an agent has for one holder each, made at first meetings or when a controller asked.
#pragma once

#include "probe/key_file.h"

#include <filesystem>
#include <functional>
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
    [[nodiscard]] quantity::Result<std::vector<KeptKey>> load() const;
    /// The same of those that can be read; of each other one `wrong` is told why.
    [[nodiscard]] std::vector<KeptKey>
    readable(const std::function<void(const quantity::Problem&)>& wrong) const;
    /// At most maxKeys.
    [[nodiscard]] quantity::Result<void> keep(const KeptKey& kept) const;
    [[nodiscard]] bool has(std::string_view identity) const;
    /// By the identity of its credential (key_ring.h).
    [[nodiscard]] quantity::Result<void> forget(std::string_view identity) const;
    /// Notes that a key which is not of this folder is known no longer; and which ones are.
    [[nodiscard]] quantity::Result<void> retire(std::string_view identity) const;
    [[nodiscard]] std::vector<std::string> retired() const;

    static constexpr std::size_t maxKeys = 200;

  private:
    [[nodiscard]] std::filesystem::path fileOf(std::string_view identity, const char* ending) const;
    [[nodiscard]] quantity::Result<void> makeFolder() const;
    std::filesystem::path m_folder;
};

} // namespace metrodos::probe
