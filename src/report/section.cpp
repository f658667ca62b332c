#include "report/section.h"

#include "quantity/text.h"

#include <algorithm>
#include <map>
#include <optional>
#include <set>

namespace metrodos::report {
namespace {

using namespace house;

constexpr double titleHeight = 22; // of a room
constexpr double rowHeight = 31;
constexpr double markSize = 17;
constexpr double gutter = 20; // left of a column of marks: its wires
constexpr double letterWidth = letterSize * 0.58;
constexpr std::size_t lineLetters = 14; // of a label
constexpr double columnWidth = gutter + markSize + 5 + lineLetters * letterWidth + 6;
constexpr int slabLanes = 7;
constexpr double lane = 3.4;
constexpr double slab = 10 + slabLanes * lane; // between two floors
constexpr int riserLanes = 10;
constexpr double riser = 8 + riserLanes * lane; // left of a building
constexpr double gapBetweenBuildings = 30;
constexpr double margin = 12;

const char* const unknownRoom = "?";

class Layout {
  public:
    /// A room with more things than `rows` has more columns.
    Layout(const House& house, std::size_t rows)
        : m_house(house)
        , m_rows(rows) {
        sortThings();
        placeRooms();
    }

    /// How large it can be drawn where the page is `aspect` times as wide as high.
    [[nodiscard]] double scaleIn(double aspect) const {
        return std::min(aspect / m_out.width, 1 / m_out.height);
    }

    Section draw() {
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
    // What stands in a room: parts and panels, devices and appliances, jacks.
    struct Content {
        std::vector<Thing> rows[3];
        [[nodiscard]] std::vector<Thing> all() const {
            std::vector<Thing> out;
            for (const auto& row : rows)
                out.insert(out.end(), row.begin(), row.end());
            return out;
        }
        [[nodiscard]] std::size_t count() const { return rows[0].size() + rows[1].size() + rows[2].size(); }
        [[nodiscard]] std::size_t columns(std::size_t rows) const {
            return std::max<std::size_t>(1, (count() + rows - 1) / rows);
        }
    };
    [[nodiscard]] double widthOf(const Content& content) const {
        return static_cast<double>(content.columns(m_rows)) * columnWidth + 6;
    }

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
        // A floor is as high as its fullest room needs, and as one of two rows.
        std::map<int, double> heights;
        for (int floor = bottom; floor <= top; ++floor)
            heights[floor] = titleHeight + rowHeight;
        for (const Room& r : m_house.rooms) {
            const double rows = static_cast<double>(std::min(contentOf(r.id).count(), m_rows));
            heights[r.floor] = std::max(heights[r.floor], titleHeight + rows * rowHeight);
        }
        if (m_content.contains(unknownRoom))
            heights[0] = std::max(heights[0], titleHeight + static_cast<double>(m_rows) * rowHeight);
        std::map<int, double> tops;
        double y = margin;
        for (int floor = top; floor >= bottom; --floor) {
            tops[floor] = y;
            y += heights[floor] + slab;
        }
        m_out.ground = tops[0] + heights[0];
        m_out.height = y + margin;
        double x = margin + riser;
        for (const std::string& building : buildings) {
            std::map<int, std::vector<const Room*>> floors;
            for (const Room& r : m_house.rooms)
                if (r.building == building) floors[r.floor].push_back(&r);
            if (floors.empty()) continue;
            double width = 0;
            for (const auto& [floor, rooms] : floors) {
                double sum = 0;
                for (const Room* r : rooms)
                    sum += widthOf(contentOf(r->id));
                width = std::max(width, sum);
            }
            for (const auto& [floor, rooms] : floors) {
                double sum = 0;
                for (const Room* r : rooms)
                    sum += widthOf(contentOf(r->id));
                double at = x;
                for (const Room* r : rooms) {
                    const double own = widthOf(contentOf(r->id)) * width / sum;
                    add({r->id, r->label, {at, tops[floor], own, heights[floor]}});
                    m_building[r->id] = x;
                    at += own;
                }
                m_out.floors.push_back({floorName(floor), building, {x, tops[floor], width, heights[floor]}});
            }
            x += width + gapBetweenBuildings + riser;
        }
        if (m_content.contains(unknownRoom)) {
            const double width = widthOf(m_content.at(unknownRoom));
            add({unknownRoom, "room not known", {x, tops[0], width, heights[0]}});
            m_building[unknownRoom] = x;
            x += width + gapBetweenBuildings + riser;
        }
        m_out.width = std::max(x - gapBetweenBuildings - riser + margin, 2 * margin + riser + columnWidth);
    }

    void add(DrawnRoom room) {
        m_boxes[room.id] = room.box;
        m_out.rooms.push_back(std::move(room));
    }

    void placeMarks() {
        for (const DrawnRoom& room : m_out.rooms) {
            const Content& content = m_content[room.id];
            const std::vector<Thing> things = content.all();
            const double step = room.box.width / static_cast<double>(content.columns(m_rows));
            // Jacks come last, so that they stand low and to the right.
            const std::size_t rows = (things.size() + content.columns(m_rows) - 1) / content.columns(m_rows);
            for (std::size_t i = 0; i < things.size(); ++i) {
                const double left = room.box.x + step * static_cast<double>(i / rows);
                const double y = room.box.y + titleHeight + static_cast<double>(i % rows) * rowHeight +
                                 (rowHeight - markSize) / 2;
                const Box box{left + gutter, y, markSize, markSize};
                m_marks[things[i].id] = {box, left, room.id};
                std::string id = things[i].id;
                if (things[i].kind == MarkKind::loose_end) id.pop_back();
                const Box words{box.x + markSize + 5, y + markSize / 2 - rowHeight / 2 + 1,
                                step - gutter - markSize - 8, rowHeight - 2};
                m_out.marks.push_back(
                    {std::move(id), things[i].kind, things[i].label, linesOf(things[i].label), box, words});
            }
        }
    }

    // Broken at blanks into at most two lines of so many letters (UTF-8); what is longer ends in "…".
    static std::vector<std::string> linesOf(const std::string& label) {
        std::vector<std::string> words;
        std::string word;
        for (const char c : label + " ") {
            if (c != ' ') {
                word += c;
            } else if (!word.empty()) {
                words.push_back(std::move(word));
                word.clear();
            }
        }
        std::vector<std::string> lines;
        for (std::string& next : words) {
            if (!lines.empty() &&
                (quantity::lettersOf(lines.back()) + 1 + quantity::lettersOf(next) <= lineLetters ||
                 lines.size() == 2))
                lines.back() += " " + next;
            else
                lines.push_back(std::move(next));
        }
        for (std::string& line : lines)
            line = quantity::shortened(line, lineLetters);
        return lines;
    }
    struct Place {
        Box box;
        double gutter = 0; // x of its left edge
        Id room;
    };

    // The next lane of something that many wires use, from the first again after the last.
    int laneOf(const std::string& road, int count) { return m_lanes[road]++ % count; }

    // Out to the left into the gutter of its column, down to the slab below its room, along it, over the
    // riser of its building to the slab of the other, and up in the other's gutter.
    std::vector<Point> way(const Place& a, const Place& b) {
        const Box& roomA = m_boxes.at(a.room);
        const Box& roomB = m_boxes.at(b.room);
        const auto gutterOf = [&](const Place& p) {
            return p.gutter + 3 +
                   lane * laneOf("gutter " + p.room + std::to_string(static_cast<int>(p.gutter)), 4);
        };
        const auto slabOf = [&](double below) {
            return below + 5 + lane * laneOf("slab " + std::to_string(static_cast<int>(below)), slabLanes);
        };
        const double xA = gutterOf(a);
        const double xB = gutterOf(b);
        const double yA = slabOf(roomA.y + roomA.height);
        std::vector<Point> out{{a.box.x, a.box.centre().y}, {xA, a.box.centre().y}, {xA, yA}};
        const double belowA = roomA.y + roomA.height;
        const double belowB = roomB.y + roomB.height;
        double y = yA;
        if (belowA != belowB) {
            const bool sameBuilding = m_building[a.room] == m_building[b.room];
            const auto riserOf = [&](const Id& room) {
                const double left = m_building[room];
                return left - 5 -
                       lane * laneOf("riser " + std::to_string(static_cast<int>(left)), riserLanes);
            };
            const double up = riserOf(a.room);
            out.push_back({up, y});
            if (!sameBuilding && belowA != m_out.ground) { // over the ground to the other building
                y = slabOf(m_out.ground);
                out.push_back({up, y});
                if (belowB != m_out.ground) {
                    const double other = riserOf(b.room);
                    out.push_back({other, y});
                    y = slabOf(belowB);
                    out.push_back({other, y});
                }
            } else if (!sameBuilding) {
                out.pop_back();
                const double other = riserOf(b.room);
                out.push_back({other, y});
                y = slabOf(belowB);
                out.push_back({other, y});
            } else {
                y = slabOf(belowB);
                out.push_back({up, y});
            }
        }
        out.push_back({xB, y});
        out.push_back({xB, b.box.centre().y});
        out.push_back({b.box.x, b.box.centre().y});
        return out;
    }

    [[nodiscard]] const Place* markOf(const Connection& c, const PortRef& end) const {
        const Id id = m_house.room(end.device) != nullptr ? c.id + "@" : end.device;
        const auto hit = m_marks.find(id);
        return hit == m_marks.end() ? nullptr : &hit->second;
    }

    void drawConnections() {
        for (const Connection& c : m_house.connections) {
            if (c.medium == Medium::bus || c.ends.size() < 2) continue;
            for (std::size_t i = 0; i + 1 < c.ends.size(); ++i) {
                const Place* a = markOf(c, c.ends[i]);
                const Place* b = markOf(c, c.ends[i + 1]);
                // Where the plant is surveyed, it is drawn instead of the network that adapters form on it.
                const Port* pa = m_house.port(c.ends[i]);
                const Port* pb = m_house.port(c.ends[i + 1]);
                const bool surveyed =
                    pa != nullptr && pb != nullptr && !pa->jack.empty() && !pb->jack.empty();
                if (a == nullptr || b == nullptr || surveyed) continue;
                m_out.wires.push_back(
                    {c.id, c.medium, c.label, way(*a, *b), c.ends[i].device, c.ends[i + 1].device});
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
                m_out.wires.push_back({d.id, medium, d.label, way(a->second, b->second), d.id, jack->id});
            }
    }

    void drawCircuits() {
        for (const Circuit& circuit : m_house.circuits) {
            const Place* before = nullptr;
            Id last = circuit.panel;
            if (const auto panel = m_marks.find(circuit.panel); panel != m_marks.end())
                before = &panel->second;
            for (const CircuitOutlet& outlet : circuit.outlets) {
                const auto here = m_marks.find(outlet.jack);
                if (here == m_marks.end()) continue;
                if (before != nullptr)
                    m_out.wires.push_back({circuit.id, Medium::mains, circuit.label,
                                           way(*before, here->second), last, outlet.jack});
                before = &here->second;
                last = outlet.jack;
            }
        }
        for (const Panel& panel : m_house.panels) {
            const auto a = m_marks.find(panel.fedBy);
            const auto b = m_marks.find(panel.id);
            if (a != m_marks.end() && b != m_marks.end())
                m_out.wires.push_back(
                    {panel.id, Medium::mains, panel.label, way(a->second, b->second), panel.fedBy, panel.id});
        }
    }

    const House& m_house;
    std::size_t m_rows;
    Section m_out;
    std::map<Id, Content> m_content;
    std::map<Id, Box> m_boxes;
    std::map<Id, double> m_building; // of a room: the left wall of its building
    std::map<Id, Place> m_marks;     // loose ends under "connection@"
    std::map<std::string, int> m_lanes;
};

} // namespace

std::string floorName(int floor) {
    if (floor == 0) return "ground floor";
    if (floor == -1) return "cellar";
    if (floor < -1) return "cellar " + std::to_string(-floor);
    return "floor " + std::to_string(floor);
}

Section drawSection(const House& house, double aspect) {
    constexpr std::size_t least = 2;
    constexpr std::size_t most = 8;
    std::optional<Layout> best;
    for (std::size_t rows = least; rows <= most; ++rows)
        if (Layout one(house, rows); !best || one.scaleIn(aspect) > best->scaleIn(aspect))
            best.emplace(std::move(one));
    return best->draw();
}

} // namespace metrodos::report
