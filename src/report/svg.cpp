#include "report/svg.h"

#include "quantity/format.h"

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

std::string withoutProlog(const std::string& svg) {
    const std::size_t begin = svg.find("<svg");
    return begin == std::string::npos ? std::string() : svg.substr(begin);
}

} // namespace metrodos::report
