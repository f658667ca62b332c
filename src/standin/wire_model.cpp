#include "standin/wire_model.h"

#include <algorithm>

namespace metrodos::standin {

WireModel::WireModel(const WireSettings& settings)
    : m_settings(settings)
    , m_random(settings.seed) {}

bool WireModel::enter(int direction, std::size_t bytes, std::uint64_t number, double now) {
    Side& side = m_sides[index(direction)];
    const auto size = static_cast<double>(bytes);
    if (side.bytes + size > m_settings.queueBytes) return false;
    side.queue.push_back({number, size, now});
    side.bytes += size;
    Server& server = serverOf(direction);
    if (!server.until) begin(server, direction);
    return true;
}

// An idle medium takes the next packet, of the preferred direction where both wait.
void WireModel::begin(Server& server, int preferred) {
    for (const int direction : {preferred, 1 - preferred}) {
        const Side& side = m_sides[index(direction)];
        if (side.queue.empty() || &serverOf(direction) != &server) continue;
        const Waiting& first = side.queue.front();
        server.sends = direction;
        server.until = std::max(server.free, first.since) + first.bytes * 8 / m_settings.bps;
        return;
    }
}

std::optional<double> WireModel::next() const {
    std::optional<double> out;
    for (const Server& server : m_servers)
        if (server.until && (!out || *server.until < *out)) out = server.until;
    return out;
}

std::vector<WireModel::Arrival> WireModel::advance(double now) {
    std::vector<Arrival> out;
    std::uniform_real_distribution<double> even;
    for (auto due = next(); due && *due <= now; due = next()) {
        Server& server = m_servers[0].until == due ? m_servers[0] : m_servers[1];
        const int direction = server.sends;
        Side& side = m_sides[index(direction)];
        const Waiting sent = side.queue.front();
        side.queue.pop_front();
        side.bytes -= sent.bytes;
        server.free = *due;
        server.until.reset();
        begin(server, 1 - direction);
        const bool lost = even(m_random) < m_settings.lossRatio; // it took its time all the same
        const double jitter = even(m_random) * m_settings.jitterSeconds;
        if (lost) {
            out.push_back({direction, sent.number, std::nullopt});
            continue;
        }
        side.arrived = std::max(side.arrived, *due + m_settings.delaySeconds + jitter);
        out.push_back({direction, sent.number, side.arrived});
    }
    return out;
}

} // namespace metrodos::standin
