// Conducts runs in a thread of its own, keeps them in the job as they go, and tells the window.
#pragma once

#include "benchmark/run.h"
#include "house/house.h"
#include "probe/key.h"

#include <QObject>
#include <filesystem>
#include <optional>
#include <thread>

namespace metrodos::desktop {

/// What the window asks for with one press of Space.
struct RunRequest {
    std::string from; ///< "here" or host:port
    std::string to;
    std::optional<probe::Key> key; ///< needed unless both are here
    house::Id route;
    std::filesystem::path job;
    std::vector<benchmark::RunOrder> orders; ///< in turn
};

class RunController : public QObject {
    Q_OBJECT

  public:
    using QObject::QObject;
    ~RunController() override;

    [[nodiscard]] bool isRunning() const { return m_running; }
    /// Starts unless something runs already.
    void start(RunRequest request);
    /// Ends the run within a fifth of a second; what was measured is kept.
    void stop();

  Q_SIGNALS:
    void started();
    void runStarted(const benchmark::Run& run, int index, int count); ///< links are open, idle delay is known
    void sampleArrived(const benchmark::Sample& sample);
    void runFinished(const benchmark::Run& run);
    void ended(const QString& problem); ///< empty: all went well

  private:
    bool m_running = false;
    std::jthread m_thread;
};

} // namespace metrodos::desktop
