// Where jobs are kept, and which were open last. Of the machine, not of a job.
#pragma once

#include <QStringList>
#include <filesystem>

namespace metrodos::desktop {

/// The folder that new jobs are made in; METRODOS_JOBS in the environment goes before the user's documents.
[[nodiscard]] std::filesystem::path jobFolder();

/// A file in that folder that is not there yet, named after the house as far as file names go.
[[nodiscard]] std::filesystem::path freshJobFile(const QString& house);

/// The jobs that were open last and are still there, the newest first, at most 12.
[[nodiscard]] QStringList recentJobs();
void noteRecent(const std::filesystem::path& job);

} // namespace metrodos::desktop
