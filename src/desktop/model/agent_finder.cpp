#include "desktop/model/agent_finder.h"

#include "desktop/widgets/time_text.h"
#include "probe/discovery.h"

#include <algorithm>

namespace metrodos::desktop {
namespace {

using nlohmann::json;

constexpr std::chrono::milliseconds span{3000};

} // namespace

AgentFinder::AgentFinder(QObject* parent)
    : QObject(parent) {
    connect(&m_runner, &TestRunner::finished, this, [this](const json& found) {
        const QString now = momentText(QDateTime::currentDateTime(), true);
        for (const json& e : found.at("endpoints")) {
            const QString name = QString::fromStdString(e.at("name").get<std::string>());
            const QString address = QString::fromStdString(e.at("address").get<std::string>());
            const auto known = std::find_if(m_agents.begin(), m_agents.end(), [&](const SeenAgent& a) {
                return a.name == name && a.address == address;
            });
            if (known == m_agents.end())
                m_agents.push_back({name, address, now});
            else
                known->seen = now;
        }
        Q_EMIT looked();
    });
    connect(&m_runner, &TestRunner::failed, this, &AgentFinder::failed);
}

void AgentFinder::look() {
    if (isLooking()) return;
    m_runner.start([](const TestRunner::Progress&, const std::stop_token& stop) {
        return probe::findEndpoints(span, stop).map([](const std::vector<probe::FoundEndpoint>& found) {
            json list = json::array();
            for (const probe::FoundEndpoint& e : found)
                list.push_back({{"name", e.name}, {"address", e.address}});
            return json{{"endpoints", std::move(list)}};
        });
    });
}

} // namespace metrodos::desktop
