// Reads what is left of a damaged job file, row by row.
#include "house/validate.h"
#include "job/house_json.h"
#include "job/sql.h"
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

// Leaves out what refers to things that are gone; the number of things left out.
std::size_t prune(house::House& house) {
    const auto before = house.connections.size() + house.endpoints.size() + house.routes.size();
    for (house::Device& device : house.devices)
        if (house.room(device.room) == nullptr) device.room.clear();
    std::set<house::PortRef> taken;
    std::erase_if(house.connections, [&](const house::Connection& c) {
        for (const house::PortRef& end : c.ends)
            if (house.port(end) == nullptr || !taken.insert(end).second) return true;
        return c.ends.size() < 2;
    });
    std::erase_if(house.endpoints,
                  [&](const house::Endpoint& e) { return house.device(e.device) == nullptr; });
    std::erase_if(house.routes, [&](const house::Route& r) {
        return house.endpoint(r.from) == nullptr || house.endpoint(r.to) == nullptr;
    });
    return before - house.connections.size() - house.endpoints.size() - house.routes.size();
}

} // namespace

bool isDamage(const quantity::Problem& problem) {
    return problem.what.starts_with(damagedWords);
}

quantity::Result<Recovered> recoverCopy(const std::filesystem::path& damaged,
                                        const std::filesystem::path& copy) {
    try {
        SQLite::Database database(damaged.string(), SQLite::OPEN_READONLY);
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
        // One bad thing must not cost the others: each is read by itself first.
        for (const char* kind : {"rooms", "devices", "connections", "endpoints", "routes"}) {
            nlohmann::json kept = nlohmann::json::array();
            for (const nlohmann::json& body : raw.at(kind)) {
                nlohmann::json alone = toJson(house::House{});
                alone[kind].push_back(body);
                if (houseFromJson(alone))
                    kept.push_back(body);
                else
                    ++report.lost;
            }
            raw[kind] = std::move(kept);
        }
        auto house = houseFromJson(raw);
        if (!house) return tl::unexpected(house.error());
        report.lost += prune(*house);
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
            if (run && document.house.route(head.route) != nullptr)
                document.runs.push_back({head.route, std::move(*run)});
            else
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
