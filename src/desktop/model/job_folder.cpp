#include "desktop/model/job_folder.h"

#include "desktop/model/config_file.h"

#include <QFileInfo>
#include <QSettings>

namespace metrodos::desktop {
namespace {

constexpr int maxRecent = 12;
constexpr int maxNameBytes = 80;

const QString recentKey = QStringLiteral("recent");

// Letters, digits, blanks, points and hyphens: what every file system takes, and no path.
QString asFileName(const QString& house) {
    QString out;
    for (const QChar c : house.simplified()) {
        out += c.isLetterOrNumber() || c == QLatin1Char(' ') || c == QLatin1Char('-') ? c : QLatin1Char('-');
        if (out.toUtf8().size() >= maxNameBytes) break;
    }
    out = out.trimmed();
    return out.isEmpty() ? QStringLiteral("house") : out;
}

} // namespace

std::filesystem::path jobFolder() {
    if (const QByteArray set = qgetenv("METRODOS_JOBS"); !set.isEmpty()) return set.toStdString();
    return (QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + QStringLiteral("/Metrodos"))
        .toStdString();
}

std::filesystem::path freshJobFile(const QString& house) {
    const std::filesystem::path folder = jobFolder();
    std::error_code error;
    std::filesystem::create_directories(folder, error); // a folder that cannot be made shows when the job is
    const std::string stem = asFileName(house).toStdString();
    for (int n = 1;; ++n) {
        std::filesystem::path file = folder / (stem + (n > 1 ? " " + std::to_string(n) : "") + ".metrodos");
        if (!std::filesystem::exists(file, error)) return file;
    }
}

QStringList recentJobs() {
    QStringList out;
    for (const QString& file : QSettings().value(recentKey).toStringList())
        if (QFileInfo(file).isFile()) out << file;
    return out.mid(0, maxRecent);
}

void noteRecent(const std::filesystem::path& job) {
    const QString file = QFileInfo(QString::fromStdString(job.string())).absoluteFilePath();
    QStringList all = QSettings().value(recentKey).toStringList();
    all.removeAll(file);
    all.prepend(file);
    QSettings().setValue(recentKey, QStringList(all.mid(0, maxRecent)));
}

} // namespace metrodos::desktop
