// Reads what is left of a damaged job file, row by row.
//
// A damaged page breaks a walk along its table, not the rows before and behind it: each table is read from
// the front until it breaks and then from the back, and what both give is joined by its key. What was read is
// trusted no more than any other file: each thing is read by itself with the usual bounds, and what names
// things that are gone is left out and counted. The damaged file is opened read-only; the result is a new
// one. Cost: two passes.
#include "house/validate.h"
#include "job/file_format.h"
#include "job/house_json.h"
#include "job/json_text.h"
#include "job/store.h"

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

namespace metrodos::job {
namespace {

// Calls `row` for every row that can still be read, from the front and, where that breaks, from the back.
template <typename Row>
void salvage(SQLite::Database& database, const std::string& select, const std::string& order, Row row) {
    for (const char* direction : {" ASC", " DESC"}) {
        try {
            SQLite::Statement query(database, select + " ORDER BY " + order + direction);
            while (query.executeStep())
                row(query);
            return;
        } catch (const SQLite::Exception&) {
            continue;
        }
    }
}

// Clears references to rooms, jacks and panels that are gone.
void forgetWhatIsGone(house::House& house) {
    const auto inRoom = [&](auto& things) {
        for (auto& thing : things)
            if (house.room(thing.room) == nullptr) thing.room.clear();
    };
    inRoom(house.devices);
    inRoom(house.jacks);
    inRoom(house.coaxParts);
    inRoom(house.panels);
    inRoom(house.spots);
    for (house::Device& device : house.devices)
        for (house::Port& port : device.ports)
            if (house.jack(port.jack) == nullptr) port.jack.clear();
    for (house::Panel& panel : house.panels)
        if (house.panel(panel.fedBy) == nullptr) panel.fedBy.clear();
    for (house::Circuit& circuit : house.circuits)
        if (house.panel(circuit.panel) == nullptr) circuit.panel.clear();
    for (house::Appliance& appliance : house.appliances)
        if (house.jack(appliance.outlet) == nullptr) appliance.outlet.clear();
    for (house::Spot& spot : house.spots)
        if (house.device(spot.device) == nullptr) spot.device.clear();
}

// Leaves out what cannot be without things that are gone; the number of things left out.
std::size_t prune(house::House& house) {
    forgetWhatIsGone(house);
    std::size_t lost = 0;
    std::set<house::PortRef> taken;
    lost += std::erase_if(house.connections, [&](house::Connection& c) {
        std::erase_if(c.ends, [&](const house::PortRef& end) {
            const house::CoaxPart* part = house.coaxPart(end.device);
            const auto ports = part == nullptr ? std::vector<house::Id>{} : house::portsOf(*part);
            const bool there = house.port(end) != nullptr || house.jack(end.device) != nullptr ||
                               std::find(ports.begin(), ports.end(), end.port) != ports.end();
            if (house.room(end.device) != nullptr) return false;
            return !there || !taken.insert(end).second;
        });
        // A run with one end is a finding; a network of adapters needs two.
        const bool isNetwork =
            house::isShared(c.medium) && !c.ends.empty() && house.port(c.ends.front()) != nullptr;
        return c.ends.size() < (house::jackOf(c.medium) && !isNetwork ? 1U : 2U);
    });
    for (house::Trial& trial : house.trials)
        lost += std::erase_if(trial.steps,
                              [&](const house::TrialStep& s) { return house.route(s.route) == nullptr; });
    for (house::Circuit& circuit : house.circuits)
        lost += std::erase_if(circuit.outlets,
                              [&](const house::CircuitOutlet& o) { return house.jack(o.jack) == nullptr; });
    if (house.service && house.device(house.service->device) == nullptr) {
        house.service.reset();
        ++lost;
    }
    lost += std::erase_if(house.endpoints,
                          [&](const house::Endpoint& e) { return house.device(e.device) == nullptr; });
    lost += std::erase_if(house.routes, [&](const house::Route& r) {
        return house.deviceAt(r.from).empty() || house.deviceAt(r.to).empty();
    });
    return lost;
}

// One bad thing must not cost the others: each is read by itself first, of whatever kind. The number of those
// that cannot be read.
std::size_t leaveOutUnreadable(nlohmann::json& raw) {
    const nlohmann::json empty = job::toJson(house::House{});
    std::size_t lost = 0;
    for (auto& [kind, bodies] : raw.items()) {
        nlohmann::json alone = empty;
        if (!bodies.is_array()) {
            alone[kind] = bodies;
            if (houseFromJson(alone)) continue;
            bodies = empty.contains(kind) ? empty.at(kind) : nlohmann::json(nullptr);
            ++lost;
            continue;
        }
        nlohmann::json kept = nlohmann::json::array();
        for (nlohmann::json& body : bodies) {
            alone[kind] = nlohmann::json::array({body});
            if (houseFromJson(alone))
                kept.push_back(std::move(body));
            else
                ++lost;
        }
        bodies = std::move(kept);
    }
    return lost;
}

// Leaves out what still refers to something that is gone, if the house has fewer faults without it: one thing
// after the other, the last first, since later things refer to earlier ones. Costs a validation a thing, and
// nothing where there is no fault.
std::size_t leaveOutUnsound(house::House& house) {
    std::size_t faults = house::validate(house).size();
    std::size_t lost = 0;
    nlohmann::json raw = job::toJson(house);
    const nlohmann::json empty = job::toJson(house::House{});
    const auto isBetter = [&] {
        auto tried = houseFromJson(raw);
        if (!tried) return false;
        const std::size_t left = house::validate(*tried).size();
        if (left >= faults) return false;
        faults = left;
        house = std::move(*tried);
        ++lost;
        return true;
    };
    for (auto& [kind, bodies] : raw.items()) {
        if (faults == 0) break;
        if (!bodies.is_array()) {
            nlohmann::json body = empty.contains(kind) ? empty.at(kind) : nlohmann::json(nullptr);
            if (kind == "name" || body == bodies) continue;
            std::swap(bodies, body);
            if (!isBetter()) std::swap(bodies, body);
            continue;
        }
        for (std::size_t i = bodies.size(); i-- > 0 && faults > 0;) {
            const auto at = bodies.begin() + static_cast<std::ptrdiff_t>(i);
            nlohmann::json body = std::move(*at);
            bodies.erase(at);
            if (!isBetter()) bodies.insert(bodies.begin() + static_cast<std::ptrdiff_t>(i), std::move(body));
        }
    }
    return lost;
}

} // namespace

bool isDamage(const quantity::Problem& problem) {
    return problem.what.starts_with(damagedWords);
}

quantity::Result<Recovered> recoverCopy(const std::filesystem::path& damaged,
                                        const std::filesystem::path& copy) {
    try {
        const auto reader = openReader(damaged);
        SQLite::Database& database = *reader;
        const Deadline deadline(database, std::chrono::minutes(5)); // row by row, of a large job
        // A table that cannot be read at all is one more thing that is lost; one that is no table could do
        // anything.
        try {
            if (const auto whole = checkTables(database, damaged); !whole && !isDamage(whole.error()))
                return tl::unexpected(whole.error());
        } catch (const SQLite::Exception&) { // then the rows are asked one by one
        }
        Recovered report;
        std::map<std::pair<std::string, std::string>, Item> items;
        salvage(database, "SELECT kind, id, position, body FROM item", "kind, id", [&](SQLite::Statement& q) {
            Item item{q.getColumn(0).getString(), q.getColumn(1).getString(), q.getColumn(2).getInt64(),
                      q.getColumn(3).getString()};
            items.emplace(std::pair(item.kind, item.id), item);
        });
        std::vector<Item> list;
        for (auto& [key, item] : items)
            list.push_back(item);
        nlohmann::json raw = houseOf(list, report.lost);
        report.lost += leaveOutUnreadable(raw);
        auto house = houseFromJson(raw);
        if (!house) return tl::unexpected(house.error());
        report.lost += prune(*house);
        report.lost += leaveOutUnsound(*house);
        Document document{std::move(*house), {}};
        struct Head {
            std::string route;
            std::string body;
            bool ended = false;
        };
        std::map<std::string, Head> heads;
        salvage(database, "SELECT id, route, body, ended FROM run", "seq", [&](SQLite::Statement& q) {
            heads.emplace(
                q.getColumn(0).getString(),
                Head{q.getColumn(1).getString(), q.getColumn(2).getString(), q.getColumn(3).getInt() != 0});
        });
        for (const auto& [id, head] : heads) {
            std::map<std::int64_t, std::string> samples;
            try {
                SQLite::Statement rows(database, "SELECT n, body FROM sample WHERE run=? ORDER BY n");
                rows.bind(1, id);
                while (rows.executeStep())
                    samples.emplace(rows.getColumn(0).getInt64(), rows.getColumn(1).getString());
            } catch (const SQLite::Exception&) {
                ++report.lost; // the samples up to here are kept
            }
            std::vector<std::string> bodies;
            for (const auto& [n, body] : samples)
                bodies.push_back(body);
            auto run = runOf(head.body, bodies, head.ended);
            if (run && head.ended && samples.empty()) {
                try {
                    SQLite::Statement row(database, "SELECT body FROM series WHERE run=?");
                    row.bind(1, id);
                    auto series = row.executeStep() ? seriesOf(row.getColumn(0).getString())
                                                    : quantity::Result<std::vector<benchmark::Sample>>();
                    if (series)
                        run->samples = std::move(*series);
                    else
                        ++report.lost; // its figures are kept
                } catch (const SQLite::Exception&) {
                    ++report.lost; // its figures are kept
                }
            }
            if (run && document.house.route(head.route) != nullptr)
                document.runs.push_back({head.route, std::move(*run)});
            else
                ++report.lost;
        }
        try {
            if (database.tableExists("report"))
                salvage(database, "SELECT seq, kind, body FROM report", "seq", [&](SQLite::Statement& q) {
                    if (auto kept = reportOf(readJson(q.getColumn(2).getString())))
                        document.reports.push_back(std::move(*kept));
                    else
                        ++report.lost;
                });
        } catch (const SQLite::Exception&) {
            ++report.lost;
        }
        try {
            document.photos = readPhotos(database);
        } catch (const SQLite::Exception&) {
            ++report.lost;
        }
        report.items = list.size();
        report.runs = document.runs.size();
        if (report.items == 0)
            return quantity::problem("nothing could be read from the damaged job", damaged.string(),
                                     "go back to a copy of it");
        if (auto made = Store::create(copy, document); !made) return tl::unexpected(made.error());
        return report;
    } catch (const SQLite::Exception& error) {
        return tl::unexpected(explain(error, damaged));
    }
}

} // namespace metrodos::job
