#include "desktop/model/demo.h"

#include "catalog/load.h"
#include "job/open.h"
#include "job/store.h"

#include <QCoreApplication>
#include <QStandardPaths>
#include <nlohmann/json.hpp>

namespace metrodos::desktop {

std::filesystem::path demoFolder() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation).toStdString();
}

quantity::Result<std::filesystem::path> demoJob(const std::filesystem::path& folder) {
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    const std::filesystem::path file = folder / "quarry-house.metrodos";
    if (std::filesystem::exists(file, error)) return file;
    const auto data = catalog::dataFolder();
    if (!data) return tl::unexpected(data.error());
    const auto document = job::readJob(*data / "demo/quarry-house.json");
    if (!document) return tl::unexpected(document.error());
    const auto made = job::Store::create(file, *document);
    if (!made) return tl::unexpected(made.error());
    return file;
}

Standins::Standins(QObject* parent)
    : QObject(parent) {
    connect(&m_process, &QProcess::readyReadStandardOutput, this, [this] {
        if (!m_process.canReadLine() || isReady()) return;
        const auto line = nlohmann::json::parse(m_process.readLine().toStdString(), nullptr, false);
        if (!line.is_object() || !line.contains("endpoints")) return;
        for (const auto& e : line.at("endpoints"))
            m_addresses[e.value("id", "")] = e.value("host", "") + ":" + std::to_string(e.value("port", 0));
        for (const auto& a : line.value("adapters", nlohmann::json::array()))
            m_pages[a.value("id", "")] = a.value("url", "");
        m_service = line.value("service", "");
        Q_EMIT ready();
    });
    connect(&m_process, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error == QProcess::FailedToStart)
            Q_EMIT failed(tr(
                "The simulated house cannot be started; install metrodos-standin beside the application."));
    });
    connect(&m_process, &QProcess::finished, this, [this](int code) {
        m_addresses.clear();
        if (code != 0) Q_EMIT failed(QString::fromUtf8(m_process.readAllStandardError()).trimmed());
    });
}

Standins::~Standins() {
    disconnect(&m_process, nullptr, this, nullptr);
    m_process.terminate();
    if (!m_process.waitForFinished(2000)) m_process.kill();
    m_process.waitForFinished(1000);
}

void Standins::start(const std::filesystem::path& job) {
    m_key = probe::Key::generate();
    const std::string keyFile = m_folder.filePath(QStringLiteral("key")).toStdString();
    if (const auto saved = m_key->save(keyFile); !saved) {
        Q_EMIT failed(QString::fromStdString(saved.error().sentence()));
        return;
    }
    m_process.start(QCoreApplication::applicationDirPath() + QStringLiteral("/metrodos-standin"),
                    {QStringLiteral("--job"), QString::fromStdString(job.string()),
                     QStringLiteral("--key-file"), QString::fromStdString(keyFile),
                     QStringLiteral("--end-with-parent")});
}

std::string Standins::page(const std::string& adapter) const {
    const auto hit = m_pages.find(adapter);
    return hit == m_pages.end() ? std::string() : hit->second;
}

std::string Standins::address(const std::string& endpoint) const {
    const auto hit = m_addresses.find(endpoint);
    return hit == m_addresses.end() ? std::string() : hit->second;
}

} // namespace metrodos::desktop
