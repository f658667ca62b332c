#include "standin/simulated_adapters.h"

#include "house/machine_ports.h"
#include "house/route.h"
#include "probe/adapter_status.h"
#include "standin/truth.h"

#include <algorithm>
#include <httplib.h>
#include <nlohmann/json.hpp>
#include <thread>

namespace metrodos::standin {
namespace {

using house::Connection;
using house::Device;
using house::House;
using house::Id;
using house::isOn;
using quantity::BitRate;
using quantity::problem;
using quantity::Result;

// The rate that the modem of `from` shows of its way to `to`: what the simulation lets through, and what
// coding and framing take of it. Nothing where no route passes there.
std::optional<BitRate> shownRate(const House& house, const SimulationSettings& settings,
                                 const Connection& medium, const Id& from, const Id& to) {
    const catalog::MediumClass* cls = settings.catalog.medium(medium.medium);
    if (cls == nullptr) return std::nullopt;
    const house::RouteFinder finder(house);
    for (const house::Route& route : house.routes) {
        const auto elements = finder.find(route);
        if (!elements) continue;
        for (std::size_t i = 0; i < elements->size(); ++i) {
            const house::Element& e = (*elements)[i];
            if (e.connection != medium.id) continue;
            const bool forward = e.entry.device == from && e.exit.device == to;
            const bool backward = e.entry.device == to && e.exit.device == from;
            if (!forward && !backward) continue;
            const auto truth = truthOf(
                house, settings.catalog, route,
                forward ? benchmark::Direction::forward : benchmark::Direction::backward, settings.seed);
            if (truth && i < truth->elements.size())
                return BitRate::bitsPerSecond(truth->elements[i].capacityBps) * (1 / cls->phyShare.p50);
        }
    }
    return std::nullopt;
}

house::AdapterStatus statusOf(const House& house, const SimulationSettings& settings, const Device& adapter) {
    const house::AdapterRecord& record = adapter.setUp;
    house::AdapterStatus out;
    out.simulated = true;
    out.name = record.name.empty() ? adapter.label : record.name;
    out.firmware = record.firmware.empty() ? "simulated 1.0" : record.firmware;
    out.powerSaving = record.powerSaving.value_or(true);
    out.priority = record.priority.empty() ? "none" : record.priority;
    out.lightsOff = record.lightsOff.value_or(false);
    out.modemProtection = record.modemProtection.value_or(false);
    // Out of the box it is on the public network of its kind; once paired it has one of its own.
    out.isPrivate = record.isPrivate.value_or(!record.pairedAt.empty());
    for (const Connection& c : house.connections) {
        if (!house::isShared(c.medium) || !isOn(c, adapter.id)) continue;
        for (const Device& other : house.devices) {
            if (other.id == adapter.id || !isOn(c, other.id)) continue;
            out.peers.push_back({other.setUp.name.empty() ? other.label : other.setUp.name,
                                 shownRate(house, settings, c, adapter.id, other.id),
                                 shownRate(house, settings, c, other.id, adapter.id)});
        }
    }
    return out;
}

} // namespace

struct SimulatedAdapters::Server {
    SimulationSettings settings;
    httplib::Server http;
    int port = 0;
    std::thread thread;
    std::vector<SimulatedPage> pages;

    void answer() {
        http.Get("/adapter/([a-z0-9-]{1,64})",
                 [this](const httplib::Request& request, httplib::Response& response) {
                     const auto house = settings.house();
                     const Device* adapter = house ? house->device(request.matches[1].str()) : nullptr;
                     if (adapter == nullptr) {
                         response.status = 404;
                         return;
                     }
                     response.set_content(probe::toJson(statusOf(*house, settings, *adapter)).dump(),
                                          "application/json");
                 });
    }
};

Result<std::unique_ptr<SimulatedAdapters>> SimulatedAdapters::start(SimulationSettings settings) {
    const auto house = settings.house();
    if (!house) return tl::unexpected(house.error());
    auto out = std::unique_ptr<SimulatedAdapters>(new SimulatedAdapters);
    out->m_server = std::make_unique<Server>();
    Server& server = *out->m_server;
    server.settings = std::move(settings);
    server.answer();
    server.port = server.http.bind_to_any_port("127.0.0.1");
    if (server.port <= 0) return problem("no port of this machine is free for the simulated adapters");
    for (const Device& d : house->devices)
        if (std::any_of(house->connections.begin(), house->connections.end(),
                        [&](const Connection& c) { return house::isShared(c.medium) && isOn(c, d.id); }))
            server.pages.push_back(
                {d.id, "http://127.0.0.1:" + std::to_string(server.port) + "/adapter/" + d.id});
    server.thread = std::thread([&server] { server.http.listen_after_bind(); });
    // Before it listens it cannot be stopped.
    while (!server.http.is_running())
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    return out;
}

SimulatedAdapters::~SimulatedAdapters() {
    m_server->http.stop();
    m_server->thread.join();
}

const std::vector<SimulatedPage>& SimulatedAdapters::pages() const {
    return m_server->pages;
}

} // namespace metrodos::standin
