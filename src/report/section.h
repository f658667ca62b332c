// The house as a section through its floors with the wiring that the survey tells of: plain geometry, drawn
// by the desktop and written as SVG.
#pragma once

#include "house/house.h"

#include <string>
#include <vector>

namespace metrodos::report {

/// Units are those of the drawing, about one pixel at natural size; y grows downwards.
struct Point {
    double x = 0;
    double y = 0;
};
struct Box {
    double x = 0;
    double y = 0;
    double width = 0;
    double height = 0;

    [[nodiscard]] bool contains(Point p) const {
        return p.x >= x && p.x < x + width && p.y >= y && p.y < y + height;
    }
    [[nodiscard]] Point centre() const { return {x + width / 2, y + height / 2}; }
};

enum class MarkKind {
    data_jack,
    coax_jack,
    outlet,
    phone_jack,
    host,
    box, ///< switch, router
    adapter,
    splitter,
    coax_part, ///< entry, filter, amplifier, joint
    panel,
    appliance,
    loose_end,
};

struct DrawnRoom {
    house::Id id;
    std::string label;
    Box box;
};
struct DrawnMark {
    house::Id id; ///< of the thing; of the connection for a loose end
    MarkKind kind = MarkKind::data_jack;
    std::string label;
    std::vector<std::string> lines; ///< the label in at most two, the second cut short where it is too long
    Box box;
    Box words; ///< where the lines stand: right of the mark
};
struct DrawnWire {
    house::Id id; ///< of the connection or circuit
    house::Medium medium = house::Medium::data_cable;
    std::string label;
    std::vector<Point> points;
    house::Id from; ///< ids of the things that it joins
    house::Id to;
};
struct DrawnFloor {
    std::string label;
    std::string building; ///< empty: the house itself
    Box box;
};

struct Section {
    double width = 0;
    double height = 0;
    double ground = 0; ///< y of the ground outside
    std::vector<DrawnFloor> floors;
    std::vector<DrawnRoom> rooms;
    std::vector<DrawnMark> marks;
    std::vector<DrawnWire> wires;
};

inline constexpr double letterSize = 13; ///< height of the letters of labels, in units of the drawing

/// Rooms stand on their floors, side by side in the order of the data, detached buildings to the right.
/// Things whose room is not known stand in a room of their own, "room not known", at the far right. Wires
/// leave a thing to its left, run down beside its column, along the slab below the room, and up or down
/// between floors left of the building, each in a lane of its own as far as there are lanes: none crosses a
/// label.
/// Arranged so that it can be drawn large on a page that is `aspect` times as wide as high.
[[nodiscard]] Section drawSection(const house::House& house, double aspect = 2);

/// The drawing as a whole SVG document, for the media named; all when `media` is empty.
[[nodiscard]] std::string toSvg(const Section& section, const std::vector<house::Medium>& media = {});

/// "ground floor", "floor 2", "cellar".
[[nodiscard]] std::string floorName(int floor);

} // namespace metrodos::report
