#include "report/svg.h"

#include "quantity/format.h"
#include "quantity/text.h"

namespace metrodos::report {

std::string xmlText(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (c == '&')
            out += "&amp;";
        else if (c == '<')
            out += "&lt;";
        else if (c == '>')
            out += "&gt;";
        else if (c == '"')
            out += "&quot;";
        else if (c == '\'')
            out += "&#39;";
        else if (static_cast<unsigned char>(c) < 0x20)
            out += ' ';
        else
            out += c;
    }
    return out;
}

std::string svgNumber(double value) {
    return quantity::fixed(value, 1);
}

std::string svgFill(const char* colour, double opacity, const char* edge) {
    std::string out = "fill=\"";
    out += colour;
    out += '"';
    if (opacity < 1) out += " fill-opacity=\"" + quantity::fixed(opacity, 2) + "\"";
    if (*edge != '\0') {
        out += " stroke=\"";
        out += edge;
        out += '"';
    }
    return out;
}

std::string svgRect(double x, double y, double width, double height, const std::string& look) {
    return "<rect x=\"" + svgNumber(x) + "\" y=\"" + svgNumber(y) + "\" width=\"" + svgNumber(width) +
           "\" height=\"" + svgNumber(height) + "\" " + look + "/>\n";
}

std::string svgLine(double x1, double y1, double x2, double y2, const char* colour, double wide) {
    return "<line x1=\"" + svgNumber(x1) + "\" y1=\"" + svgNumber(y1) + "\" x2=\"" + svgNumber(x2) +
           "\" y2=\"" + svgNumber(y2) + "\" stroke=\"" + colour + "\" stroke-width=\"" + svgNumber(wide) +
           "\"/>\n";
}

std::string svgText(double x, double y, const char* anchor, const char* colour, const std::string& words,
                    double size, bool isBold) {
    return "<text x=\"" + svgNumber(x) + "\" y=\"" + svgNumber(y) + "\" text-anchor=\"" + anchor +
           "\" fill=\"" + colour + "\" font-size=\"" + svgNumber(size) + "\"" +
           (isBold ? " font-weight=\"bold\"" : "") + ">" + xmlText(quantity::oneLine(words)) + "</text>\n";
}

std::string svgDrawing(double width, double height, const std::string& title, const std::string& pieces) {
    return "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 " + svgNumber(width) + " " +
           svgNumber(height) +
           "\" role=\"img\" font-family=\"'Metrodos B612', B612, 'DejaVu Sans', sans-serif\">\n<title>" +
           xmlText(quantity::oneLine(title)) + "</title>\n" + pieces + "</svg>\n";
}

std::string withoutProlog(const std::string& svg) {
    const std::size_t begin = svg.find("<svg");
    return begin == std::string::npos ? std::string() : svg.substr(begin);
}

} // namespace metrodos::report
