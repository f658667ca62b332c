#include "quantity/format.h"
#include "report/document.h"
#include "report/svg.h"

#include <algorithm>
#include <cmath>

namespace metrodos::report {
namespace {

constexpr double width = 680;
constexpr double rangeHeight = 46;
constexpr double axisHeight = 26;
constexpr double left = 8;
constexpr double right = 8;
constexpr double bar = 9;

class Axis {
  public:
    explicit Axis(const Ranges& ranges) {
        double low = 1e12;
        double high = 0;
        const auto take = [&](double bps) {
            low = std::min(low, bps);
            high = std::max(high, bps);
        };
        for (const Ranges::Row& row : ranges.rows) {
            for (const auto& spread : {row.before, row.after})
                if (spread) {
                    take(spread->p10.bps());
                    take(spread->p90.bps());
                }
            if (row.need) take(row.need->bps());
        }
        if (high <= 0) {
            low = 1e6;
            high = 1e9;
        }
        // Whole powers of ten, so that two documents are read alike.
        m_low = std::floor(std::log10(std::max(low, 1.0)));
        m_high = std::max(std::ceil(std::log10(high)), m_low + 1);
    }
    [[nodiscard]] double x(double bps) const {
        const double share = (std::log10(std::max(bps, 1.0)) - m_low) / (m_high - m_low);
        return left + std::clamp(share, 0.0, 1.0) * (width - left - right);
    }
    [[nodiscard]] int low() const { return static_cast<int>(m_low); }
    [[nodiscard]] int high() const { return static_cast<int>(m_high); }

  private:
    double m_low = 6;
    double m_high = 9;
};

std::string rect(double x, double y, double w, double h, const std::string& look) {
    return "<rect x=\"" + svgNumber(x) + "\" y=\"" + svgNumber(y) + "\" width=\"" + svgNumber(w) +
           "\" height=\"" + svgNumber(h) + "\" " + look + "/>\n";
}

std::string line(double x1, double y1, double x2, double y2, const char* colour, double wide) {
    return "<line x1=\"" + svgNumber(x1) + "\" y1=\"" + svgNumber(y1) + "\" x2=\"" + svgNumber(x2) +
           "\" y2=\"" + svgNumber(y2) + "\" stroke=\"" + colour + "\" stroke-width=\"" + svgNumber(wide) +
           "\"/>\n";
}

std::string text(double x, double y, const char* anchor, const char* colour, const std::string& words) {
    return "<text x=\"" + svgNumber(x) + "\" y=\"" + svgNumber(y) + "\" text-anchor=\"" + anchor +
           "\" fill=\"" + colour + "\" font-size=\"12\">" + xmlText(words) + "</text>\n";
}

} // namespace

std::string toSvg(const Ranges& ranges) {
    const Axis axis(ranges);
    const double height = static_cast<double>(ranges.rows.size()) * rangeHeight + axisHeight;
    const double bottom = height - axisHeight;
    std::string out = "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 " + svgNumber(width) + " " +
                      svgNumber(height) +
                      "\" role=\"img\" font-family=\"B612, DejaVu Sans, sans-serif\">\n<title>" +
                      "Rates before and now, on one logarithmic axis</title>\n";
    for (int power = axis.low(); power <= axis.high(); ++power) {
        const double bps = std::pow(10, power);
        out += line(axis.x(bps), 0, axis.x(bps), bottom, "#d9d2c2", 1);
        out += text(axis.x(bps), height - 8,
                    power == axis.low()    ? "start"
                    : power == axis.high() ? "end"
                                           : "middle",
                    "#6a6252", quantity::plain(quantity::BitRate::bitsPerSecond(bps)));
    }
    for (std::size_t i = 0; i < ranges.rows.size(); ++i) {
        const Ranges::Row& row = ranges.rows[i];
        const double top = static_cast<double>(i) * rangeHeight;
        out += text(left, top + 14, "start", "#26221b", row.title);
        const auto drawn = [&](const std::optional<catalog::RateSpread>& spread, double y, const char* look) {
            if (!spread) return;
            const double from = axis.x(spread->p10.bps());
            const double to = axis.x(spread->p90.bps());
            out += rect(from, y, std::max(to - from, 2.0), bar, look);
            out +=
                line(axis.x(spread->p50.bps()), y - 1, axis.x(spread->p50.bps()), y + bar + 1, "#26221b", 2);
        };
        drawn(row.before, top + 20, "fill=\"#ffffff\" stroke=\"#1d6a85\"");
        drawn(row.after, top + 31, "fill=\"#1d6a85\"");
        if (row.need) {
            const double x = axis.x(row.need->bps());
            out += line(x, top + 17, x, top + 43, "#26221b", 3);
        }
    }
    return out + "</svg>\n";
}

} // namespace metrodos::report
