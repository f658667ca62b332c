#include "desktop/model/machine_reader.h"

namespace metrodos::desktop {
namespace {

quantity::Result<MachineReadings> readAll(const std::map<house::Id, EndpointAccess>& machines) {
    MachineReadings out;
    for (const auto& [id, access] : machines) {
        auto link = openLink(access);
        if (!link) return tl::unexpected(link.error());
        const auto facts = link->facts();
        if (!facts) return tl::unexpected(facts.error());
        out[id] = {probe::readFacts(*facts), link->remoteHost()};
    }
    return out;
}

} // namespace

MachineReader::MachineReader(QObject* parent)
    : QObject(parent)
    , m_worker(&readAll, [this](std::uint64_t, quantity::Result<MachineReadings> answer) {
        QMetaObject::invokeMethod(
            this,
            [this, answer = std::move(answer)] {
                if (answer)
                    Q_EMIT done(*answer);
                else
                    Q_EMIT failed(QString::fromStdString(answer.error().sentence()));
            },
            Qt::QueuedConnection);
    }) {}

void MachineReader::read(std::map<house::Id, EndpointAccess> machines) {
    m_worker.ask(std::move(machines));
}

} // namespace metrodos::desktop
