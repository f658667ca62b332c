#include "report/section.h"

#include "report/svg.h"

#include <algorithm>

namespace metrodos::report {
namespace {

const char* classOf(house::Medium medium) {
    switch (medium) {
    case house::Medium::coax:
        return "coax";
    case house::Medium::mains:
        return "mains";
    case house::Medium::air:
        return "air";
    case house::Medium::phone:
        return "phone";
    default:
        return "data";
    }
}

const char* letterOf(MarkKind kind) {
    switch (kind) {
    case MarkKind::data_jack:
        return "D";
    case MarkKind::coax_jack:
        return "C";
    case MarkKind::outlet:
        return "M";
    case MarkKind::phone_jack:
        return "T";
    case MarkKind::splitter:
        return "Y";
    case MarkKind::panel:
        return "P";
    case MarkKind::loose_end:
        return "?";
    default:
        return "";
    }
}

std::string box(const Box& b, const char* cls, double round) {
    return "<rect class=\"" + std::string(cls) + "\" x=\"" + svgNumber(b.x) + "\" y=\"" + svgNumber(b.y) +
           "\" width=\"" + svgNumber(b.width) + "\" height=\"" + svgNumber(b.height) + "\" rx=\"" +
           svgNumber(round) + "\"/>\n";
}

std::string text(double x, double y, const char* cls, const std::string& words) {
    return "<text class=\"" + std::string(cls) + "\" x=\"" + svgNumber(x) + "\" y=\"" + svgNumber(y) + "\">" +
           xmlText(words) + "</text>\n";
}

} // namespace

std::string toSvg(const Section& section, const std::vector<house::Medium>& media) {
    std::string out =
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"" +
        svgNumber(section.width) + "\" height=\"" + svgNumber(section.height) + "\" viewBox=\"0 0 " +
        svgNumber(section.width) + " " + svgNumber(section.height) + "\">\n";
    out += "<style>text{font-family:'Metrodos "
           "B612',B612,sans-serif;fill:#23211c}.room{fill:#fdfbf6;stroke:#23211c}"
           ".title{font-size:13px;font-weight:bold}.mark{fill:#fdfbf6;stroke:#23211c}.small{font-size:12px}"
           ".letter{font-size:9px;text-anchor:middle}.wire{fill:none;stroke:#23211c;stroke-width:1.2}"
           ".coax{stroke-width:2.6;stroke-dasharray:none;stroke-opacity:.75}.mains{stroke-dasharray:6 2 1 2}"
           ".air{stroke-dasharray:1 4}.phone{stroke-dasharray:2 "
           "2;stroke-width:.8}.ground{stroke:#655f54;stroke-width:3}</style>\n";
    out += "<rect width=\"100%\" height=\"100%\" fill=\"#f4efe4\"/>\n";
    out += "<line class=\"ground\" x1=\"0\" y1=\"" + svgNumber(section.ground) + "\" x2=\"" +
           svgNumber(section.width) + "\" y2=\"" + svgNumber(section.ground) + "\"/>\n";
    for (const DrawnRoom& room : section.rooms) {
        out += box(room.box, "room", 0);
        out += text(room.box.x + 6, room.box.y + 14, "title", room.label);
    }
    for (const DrawnWire& wire : section.wires) {
        if (!media.empty() && std::find(media.begin(), media.end(), wire.medium) == media.end()) continue;
        out += "<polyline class=\"wire " + std::string(classOf(wire.medium)) + "\" points=\"";
        for (const Point& p : wire.points)
            out += svgNumber(p.x) + "," + svgNumber(p.y) + " ";
        out += "\"><title>" + xmlText(wire.label) + "</title></polyline>\n";
    }
    for (const DrawnMark& mark : section.marks) {
        const Point c = mark.box.centre();
        out +=
            box(mark.box, "mark", mark.kind == MarkKind::loose_end || mark.kind == MarkKind::outlet ? 8 : 2);
        out += text(c.x, c.y + 3, "letter", letterOf(mark.kind));
        const double first = mark.words.centre().y + 4 - (mark.lines.size() > 1 ? letterSize / 2 : 0);
        for (std::size_t i = 0; i < mark.lines.size(); ++i)
            out += text(mark.words.x, first + letterSize * static_cast<double>(i), "small", mark.lines[i]);
    }
    return out + "</svg>\n";
}

} // namespace metrodos::report
