// Orders of runs that the user has given names, kept in his configuration.
#pragma once

#include "benchmark/run.h"
#include "quantity/problem.h"

#include <QString>
#include <filesystem>
#include <vector>

namespace metrodos::desktop {

/// Protocol and what is ordered otherwise than usual (benchmark/ordered.h); the rest of the order is that of
/// the run bar.
struct RunPreset {
    QString name;
    benchmark::RunConfig config;
};

class RunPresets {
  public:
    static constexpr std::size_t most = 50;

    explicit RunPresets(std::filesystem::path file)
        : m_file(std::move(file)) {}
    /// In the user's configuration; METRODOS_PRESETS in the environment goes before it.
    [[nodiscard]] static std::filesystem::path usualFile();

    /// By name. Those that cannot be read are left out; none where there is no file.
    [[nodiscard]] std::vector<RunPreset> load() const;
    /// In the place of one of the same name.
    [[nodiscard]] quantity::Result<void> keep(const RunPreset& preset) const;
    [[nodiscard]] quantity::Result<void> drop(const QString& name) const;

  private:
    [[nodiscard]] quantity::Result<void> write(const std::vector<RunPreset>& presets) const;
    std::filesystem::path m_file;
};

} // namespace metrodos::desktop
