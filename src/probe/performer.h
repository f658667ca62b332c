// What an endpoint does when it is told to: facts and one run at a time. Real ones move bytes; simulated
// ones, in layer standin, move them through a model. Both speak through the same session.
#pragma once

#include "probe/data_port.h"
#include "probe/message.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <optional>

namespace metrodos::probe {

/// Sends one event to the controller; false when it is gone.
using Emit = std::function<bool(const nlohmann::json&)>;

/// One endpoint's part in one session. Calls come from the session's thread; events leave from the run's own.
///
/// Events (run_events.h): a SampleEvent every 100 ms, numbered from 1, and a FinishedEvent at the end.
class Performer {
  public:
    virtual ~Performer() = default;

    [[nodiscard]] virtual bool simulated() const = 0;
    [[nodiscard]] virtual nlohmann::json facts() = 0;
    /// Makes the file that the next runs of this session send, in the folder that the machine's owner has
    /// named for it. A Problem where there is none. Ends at once when it is interrupted.
    [[nodiscard]] virtual quantity::Result<FileMade> makeFile(const FileOrder& order,
                                                              const Interrupted& interrupted);
    /// The file that was made is not needed any more.
    virtual void dropFile() {}
    /// Waits for the data connections of a run on `host`, the address at which the controller reached this
    /// machine.
    [[nodiscard]] virtual quantity::Result<DataTarget> prepare(const RunTask& task,
                                                               const std::string& host) = 0;
    /// Opens the data connections of a run to the endpoint that prepared. Ends at once when it is
    /// interrupted.
    [[nodiscard]] virtual quantity::Result<void> join(const RunTask& task, const DataTarget& target,
                                                      const Interrupted& interrupted) = 0;
    /// Round-trip times without load, taken for half a second or until it is interrupted; only on the side
    /// that joined.
    [[nodiscard]] virtual std::optional<benchmark::Percentiles> idleDelay(const Interrupted& interrupted) = 0;
    /// Begins to move bytes; returns at once.
    [[nodiscard]] virtual quantity::Result<void> start(Emit emit) = 0;
    /// Ends the run, if any, within 200 ms, and leaves no thread or socket of it.
    virtual void cancel() = 0;
};

/// An endpoint on this machine. `allowed` says who may open data connections, and to whom it opens some: who
/// commands an agent cannot make it knock at any door. `dialsAnyone`: the user's own, in his process.
/// `folder`: where files of transfers may lie; empty: nowhere.
[[nodiscard]] std::unique_ptr<Performer> makePerformer(const std::string& name, PeerFilter allowed,
                                                       bool dialsAnyone = false,
                                                       const std::filesystem::path& folder = {});

} // namespace metrodos::probe
