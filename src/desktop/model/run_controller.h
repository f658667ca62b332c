// Conducts runs in a thread of its own, keeps them in the job as they go, and tells the window.
#pragma once

#include "desktop/model/run_request.h"
#include "probe/machine.h"

#include <QObject>
#include <filesystem>
#include <optional>
#include <thread>

namespace metrodos::desktop {

/// The facts of a machine, and the address by which it was reached; empty for here.
struct MachineReading {
    probe::MachineFacts facts;
    std::string host;
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
    void waiting();               ///< a machine does not answer yet
    void resting(double seconds); ///< before the next run, as its trial asks
    /// What the machines at the ends say of themselves, once the links are open.
    void machinesRead(const metrodos::desktop::MachineReading& from,
                      const metrodos::desktop::MachineReading& to);
    void runStarted(const benchmark::Run& run, int index, int count); ///< links are open, idle delay is known
    void sampleArrived(benchmark::Direction direction, const benchmark::Sample& sample);
    void runFinished(const benchmark::Run& run);
    void ended(const QString& problem); ///< empty: all went well

  private:
    class Record;
    using Ends = std::pair<probe::EndpointLink, probe::EndpointLink>;
    quantity::Result<void> perform(const RunRequest& request, const std::stop_token& stop);
    quantity::Result<void> performService(const RunRequest& request, const std::stop_token& stop);
    quantity::Result<void> performGuest(const RunRequest& request, const std::stop_token& stop);
    quantity::Result<void> performStep(const RunRequest& request, std::size_t index, std::vector<Ends>& ends,
                                       std::optional<bool> radioUp, const std::stop_token& stop);

    bool m_running = false;
    std::jthread m_thread;
};

} // namespace metrodos::desktop
