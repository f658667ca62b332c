// The demo job and its stand-ins: a simulated house in a process of its own.
#pragma once

#include "probe/key.h"
#include "quantity/problem.h"

#include <QObject>
#include <QProcess>
#include <QTemporaryDir>
#include <filesystem>
#include <map>
#include <optional>

namespace metrodos::desktop {

/// Where the demo job is kept like any other.
[[nodiscard]] std::filesystem::path demoFolder();

/// Opens the demo job in `folder`, made from data/demo when it is not there yet.
[[nodiscard]] quantity::Result<std::filesystem::path> demoJob(const std::filesystem::path& folder);

/// Runs metrodos-standin for a job file and knows where its endpoints answer.
class Standins : public QObject {
    Q_OBJECT

  public:
    explicit Standins(QObject* parent = nullptr);
    ~Standins() override;

    void start(const std::filesystem::path& job);
    [[nodiscard]] bool isReady() const { return !m_addresses.empty(); }
    /// "host:port" of an endpoint of the job; empty when there is none.
    [[nodiscard]] std::string address(const std::string& endpoint) const;
    /// The web address of the simulated service, to be followed by "/" and an endpoint; empty: none.
    [[nodiscard]] const std::string& service() const { return m_service; }
    /// The web address of an adapter's status page; empty: none.
    [[nodiscard]] std::string page(const std::string& adapter) const;
    [[nodiscard]] const std::optional<probe::Key>& key() const { return m_key; }

  Q_SIGNALS:
    void ready();
    void failed(const QString& sentence);

  private:
    QProcess m_process;
    QTemporaryDir m_folder;
    std::optional<probe::Key> m_key;
    std::map<std::string, std::string> m_addresses;
    std::map<std::string, std::string> m_pages; ///< of adapters
    std::string m_service;
};

} // namespace metrodos::desktop
