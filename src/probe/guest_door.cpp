#include "probe/guest_door.h"

#include "benchmark/run_json.h"
#include "probe/guarded.h"
#include "probe/guest_messages.h"

namespace metrodos::probe {

using nlohmann::json;
using quantity::Result;

Result<std::shared_ptr<GuestServer>> GuestDoor::open() {
    const std::lock_guard lock(m_mutex);
    if (m_server && m_server->state().expiresIn.count() > 0) return m_server;
    m_server.reset(); // its port is wanted again
    auto server = GuestServer::startAnywhere(m_settings);
    if (!server) return tl::unexpected(server.error());
    m_server = std::move(*server);
    return m_server;
}

bool GuestSession::refuse(const quantity::Problem& problem) {
    return m_channel.send(problemMessage(problem)).has_value();
}

Result<std::shared_ptr<GuestServer>> GuestSession::open() {
    if (m_door == nullptr)
        return quantity::problem("this agent takes no devices with a browser", "", "start it with --guest");
    return m_door->open();
}

bool GuestSession::tell() {
    const auto server = open();
    if (!server) return refuse(server.error());
    json answer = toJson((*server)->state());
    answer["type"] = "guest";
    return m_channel.send(answer).has_value();
}

bool GuestSession::begin(const json& message) {
    auto server = open();
    if (!server) return refuse(server.error());
    if (m_isRunning.load())
        return refuse({"the guest is busy with another run", "", "wait until it has ended"});
    const auto orders = readGuestOrder(message);
    if (!orders) return refuse(orders.error());
    m_isRunning = true;
    const auto failed = [this](const std::string& why) {
        (void)refuse({"the machine there could not do it: " + why, "", "try again"});
        m_isRunning = false;
    };
    const auto work = [this, server = *server, orders = *orders](const std::stop_token& stop) {
        std::vector<GuestLeg> legs;
        for (std::size_t i = 0; i < orders.size(); ++i) {
            const auto tell = [this, i](const char* type, const char* what, const json& value) {
                (void)m_channel.send({{"type", type}, {"leg", i}, {what, value}});
            };
            RunObserver observer;
            observer.started = [tell](const benchmark::Run& run) {
                tell("guest-started", "run", benchmark::headToJson(run));
            };
            observer.sample = [tell](const benchmark::Sample& sample) {
                tell("guest-sample", "sample", benchmark::toJson(sample));
            };
            legs.push_back({orders[i], std::move(observer)});
        }
        const auto runs = server->runAll(legs, stop);
        if (runs) {
            json heads = json::array();
            for (const benchmark::Run& run : *runs)
                heads.push_back(benchmark::headToJson(run)); // their samples have been told
            (void)m_channel.send({{"type", "guest-runs"}, {"runs", heads}});
        } else {
            (void)refuse(runs.error());
        }
        m_isRunning = false;
    };
    try {
        m_thread = std::jthread(guarded(work, failed));
    } catch (const std::system_error& none) {
        failed(none.what());
    }
    return true;
}

void GuestSession::cancel() {
    if (!m_thread.joinable()) return;
    m_thread.request_stop();
    m_thread.join();
}

} // namespace metrodos::probe
