// Where files of the user's own lie that belong to the machine and not to a job.
#pragma once

#include <QStandardPaths>
#include <filesystem>

namespace metrodos::desktop {

/// In the user's configuration; what `variable` of the environment says goes before it.
inline std::filesystem::path configFile(const char* variable, const QString& name) {
    if (const QByteArray set = qgetenv(variable); !set.isEmpty()) return set.toStdString();
    return (QStandardPaths::writableLocation(QStandardPaths::ConfigLocation) + QStringLiteral("/metrodos/") +
            name)
        .toStdString();
}

} // namespace metrodos::desktop
