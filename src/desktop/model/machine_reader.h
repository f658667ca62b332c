// Asks machines what they are, beside the window: their ports, links and sockets.
#pragma once

#include "desktop/model/endpoint_access.h"
#include "desktop/model/latest_worker.h"
#include "desktop/model/run_controller.h"

#include <QObject>
#include <map>

namespace metrodos::desktop {

using MachineReadings = std::map<house::Id, MachineReading>; ///< by endpoint

class MachineReader : public QObject {
    Q_OBJECT

  public:
    explicit MachineReader(QObject* parent = nullptr);

    /// Reads all of them, one after the other; a question that was not begun yet is dropped.
    void read(std::map<house::Id, EndpointAccess> machines);

  Q_SIGNALS:
    void done(const metrodos::desktop::MachineReadings& readings);
    /// The sentence is of the first machine that did not answer.
    void failed(const QString& sentence);

  private:
    using Machines = std::map<house::Id, EndpointAccess>;
    LatestWorker<Machines, quantity::Result<MachineReadings>> m_worker; // last: it answers into the above
};

} // namespace metrodos::desktop
