#include "report/section.h"

#include <algorithm>
#include <map>
#include <set>

namespace metrodos::report {
namespace {

using namespace house;

constexpr double roomHeight = 108;
constexpr double slab = 24; // between two floors; wires run in it
constexpr double minRoomWidth = 190;
constexpr double markSize = 16;
constexpr double markStep = 62;
constexpr double gapBetweenBuildings = 70;
constexpr double margin = 12;
constexpr double titleHeight = 14; // of a room
constexpr int lanes = 5;           // side by side in a slab

const char* const unknownRoom = "?";

class Layout {
  public:
    explicit Layout(const House& house)
        : m_house(house) {}

    Section draw() {
        sortThings();
        placeRooms();
        placeMarks();
        drawConnections();
        drawCircuits();
        return std::move(m_out);
    }

  private:
    struct Thing {
        Id id;
        MarkKind kind;
        std::string label;
    };
    // What stands in a room, in three rows: parts and panels, devices, jacks with their appliances.
    struct Content {
        std::vector<Thing> rows[3];
        [[nodiscard]] double width() const {
            std::size_t most = 0;
            for (const auto& row : rows)
                most = std::max(most, row.size());
            return std::max(minRoomWidth, static_cast<double>(most) * markStep + 16);
        }
    };

    Content& contentOf(const Id& room) { return m_content[room.empty() ? unknownRoom : room]; }

    void sortThings() {
        for (const Panel& p : m_house.panels)
            contentOf(p.room).rows[0].push_back({p.id, MarkKind::panel, p.label});
        for (const CoaxPart& p : m_house.coaxParts)
            contentOf(p.room).rows[0].push_back(
                {p.id, p.kind == CoaxPartKind::splitter ? MarkKind::splitter : MarkKind::coax_part, p.label});
        for (const Device& d : m_house.devices)
            contentOf(d.room).rows[1].push_back({d.id,
                                                 d.kind == DeviceKind::host      ? MarkKind::host
                                                 : d.kind == DeviceKind::adapter ? MarkKind::adapter
                                                                                 : MarkKind::box,
                                                 d.label});
        for (const Jack& j : m_house.jacks) {
            const MarkKind kind = j.kind == JackKind::data    ? MarkKind::data_jack
                                  : j.kind == JackKind::coax  ? MarkKind::coax_jack
                                  : j.kind == JackKind::mains ? MarkKind::outlet
                                                              : MarkKind::phone_jack;
            contentOf(j.room).rows[2].push_back({j.id, kind, j.label});
        }
        for (const Appliance& a : m_house.appliances) {
            const Jack* outlet = m_house.jack(a.outlet);
            contentOf(outlet == nullptr ? Id() : outlet->room)
                .rows[1]
                .push_back({a.id, MarkKind::appliance, a.label});
        }
        for (const Connection& c : m_house.connections) {
            if (!jackOf(c.medium)) continue;
            for (const PortRef& end : c.ends)
                if (m_house.room(end.device) != nullptr)
                    contentOf(end.device).rows[0].push_back({c.id + "@", MarkKind::loose_end, c.label});
        }
    }

    void placeRooms() {
        // Buildings in the order in which they are met, the house itself first.
        std::vector<std::string> buildings{""};
        for (const Room& r : m_house.rooms)
            if (std::find(buildings.begin(), buildings.end(), r.building) == buildings.end())
                buildings.push_back(r.building);
        int top = 0;
        int bottom = 0;
        for (const Room& r : m_house.rooms) {
            top = std::max(top, r.floor);
            bottom = std::min(bottom, r.floor);
        }
        const auto floorTop = [&](int floor) { return margin + (top - floor) * (roomHeight + slab); };
        m_out.ground = floorTop(0) + roomHeight;
        m_out.height = floorTop(bottom) + roomHeight + slab + margin;
        double x = margin;
        for (const std::string& building : buildings) {
            std::map<int, std::vector<const Room*>> floors;
            for (const Room& r : m_house.rooms)
                if (r.building == building) floors[r.floor].push_back(&r);
            if (floors.empty()) continue;
            double width = 0;
            for (const auto& [floor, rooms] : floors) {
                double sum = 0;
                for (const Room* r : rooms)
                    sum += contentOf(r->id).width();
                width = std::max(width, sum);
            }
            for (const auto& [floor, rooms] : floors) {
                double sum = 0;
                for (const Room* r : rooms)
                    sum += contentOf(r->id).width();
                double at = x;
                for (const Room* r : rooms) {
                    const double own = contentOf(r->id).width() * width / sum;
                    add({r->id, r->label, {at, floorTop(floor), own, roomHeight}});
                    at += own;
                }
                m_out.floors.push_back({floorName(floor), building, {x, floorTop(floor), width, roomHeight}});
            }
            x += width + gapBetweenBuildings;
        }
        if (m_content.contains(unknownRoom)) {
            const double width = m_content.at(unknownRoom).width();
            add({unknownRoom, "room not known", {x, floorTop(0), width, roomHeight}});
            x += width + gapBetweenBuildings;
        }
        m_out.width = std::max(x - gapBetweenBuildings + margin, 2 * margin + minRoomWidth);
    }

    void add(DrawnRoom room) {
        m_boxes[room.id] = room.box;
        m_out.rooms.push_back(std::move(room));
    }

    void placeMarks() {
        for (const DrawnRoom& room : m_out.rooms) {
            const Content& content = m_content[room.id];
            for (int row = 0; row < 3; ++row) {
                const auto& things = content.rows[row];
                const double y = room.box.y + titleHeight + row * (roomHeight - titleHeight) / 3 + 2;
                const double step =
                    (room.box.width - 12) / static_cast<double>(std::max<std::size_t>(things.size(), 1));
                for (std::size_t i = 0; i < things.size(); ++i) {
                    const double x = room.box.x + 6 + step * (static_cast<double>(i) + 0.5) - markSize / 2;
                    const Box box{x, y, markSize, markSize};
                    m_marks[things[i].id] = box;
                    std::string id = things[i].id;
                    if (things[i].kind == MarkKind::loose_end) id.pop_back();
                    m_out.marks.push_back({std::move(id), things[i].kind, things[i].label, box});
                }
            }
        }
    }

    // From one mark down to the slab below its room, along it, and up or down at the other's side.
    std::vector<Point> way(const Box& a, const Box& b) {
        const int lane = m_wires++ % lanes;
        const int offset = lane - lanes / 2;
        const double shift = offset * 3.0;
        const Point from = a.centre();
        const Point to = b.centre();
        const double y = slabBelow(from.y > to.y ? from : to) + 5 + lane * 4;
        return {{from.x + shift, from.y + markSize / 2},
                {from.x + shift, y},
                {to.x + shift, y},
                {to.x + shift, to.y + markSize / 2}};
    }

    [[nodiscard]] double slabBelow(Point p) const {
        for (const DrawnRoom& room : m_out.rooms)
            if (p.y >= room.box.y && p.y < room.box.y + room.box.height) return room.box.y + room.box.height;
        return p.y;
    }

    [[nodiscard]] const Box* markOf(const Connection& c, const PortRef& end) const {
        const Id id = m_house.room(end.device) != nullptr ? c.id + "@" : end.device;
        const auto hit = m_marks.find(id);
        return hit == m_marks.end() ? nullptr : &hit->second;
    }

    void drawConnections() {
        for (const Connection& c : m_house.connections) {
            if (c.medium == Medium::bus || c.ends.size() < 2) continue;
            for (std::size_t i = 0; i + 1 < c.ends.size(); ++i) {
                const Box* a = markOf(c, c.ends[i]);
                const Box* b = markOf(c, c.ends[i + 1]);
                // Where the plant is surveyed, it is drawn instead of the network that adapters form on it.
                const Port* pa = m_house.port(c.ends[i]);
                const Port* pb = m_house.port(c.ends[i + 1]);
                const bool surveyed =
                    pa != nullptr && pb != nullptr && !pa->jack.empty() && !pb->jack.empty();
                if (a == nullptr || b == nullptr || surveyed) continue;
                m_out.wires.push_back({c.id, c.medium, c.label, way(*a, *b)});
            }
        }
        // Leads from what is plugged in to its jack.
        for (const Device& d : m_house.devices)
            for (const Port& p : d.ports) {
                const auto a = m_marks.find(d.id);
                const auto b = m_marks.find(p.jack);
                const Jack* jack = m_house.jack(p.jack);
                if (jack == nullptr || a == m_marks.end() || b == m_marks.end()) continue;
                const Medium medium = jack->kind == JackKind::coax    ? Medium::coax
                                      : jack->kind == JackKind::mains ? Medium::mains
                                      : jack->kind == JackKind::phone ? Medium::phone
                                                                      : Medium::data_cable;
                const Point from = a->second.centre();
                const Point to = b->second.centre();
                m_out.wires.push_back(
                    {d.id, medium, d.label, {{from.x, from.y + markSize / 2}, {to.x, to.y - markSize / 2}}});
            }
    }

    void drawCircuits() {
        for (const Circuit& circuit : m_house.circuits) {
            const Box* before = nullptr;
            if (const auto panel = m_marks.find(circuit.panel); panel != m_marks.end())
                before = &panel->second;
            for (const CircuitOutlet& outlet : circuit.outlets) {
                const auto here = m_marks.find(outlet.jack);
                if (here == m_marks.end()) continue;
                if (before != nullptr)
                    m_out.wires.push_back(
                        {circuit.id, Medium::mains, circuit.label, way(*before, here->second)});
                before = &here->second;
            }
        }
        for (const Panel& panel : m_house.panels) {
            const auto a = m_marks.find(panel.fedBy);
            const auto b = m_marks.find(panel.id);
            if (a != m_marks.end() && b != m_marks.end())
                m_out.wires.push_back({panel.id, Medium::mains, panel.label, way(a->second, b->second)});
        }
    }

    const House& m_house;
    Section m_out;
    std::map<Id, Content> m_content;
    std::map<Id, Box> m_boxes;
    std::map<Id, Box> m_marks; // loose ends under "connection@"
    int m_wires = 0;
};

} // namespace

std::string floorName(int floor) {
    if (floor == 0) return "ground floor";
    if (floor == -1) return "cellar";
    if (floor < -1) return "cellar " + std::to_string(-floor);
    return "floor " + std::to_string(floor);
}

Section drawSection(const House& house) {
    return Layout(house).draw();
}

} // namespace metrodos::report
