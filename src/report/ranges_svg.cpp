#include "quantity/format.h"
#include "report/document.h"
#include "report/svg.h"

#include <algorithm>
#include <cmath>

namespace metrodos::report {
namespace {

constexpr double axisWidth = 680;
constexpr double rangeHeight = 46;
constexpr double axisHeight = 44; // with the key below
constexpr double axisLeft = 8;
constexpr double axisRight = 8;
constexpr double barHeight = 9;

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
        if (ranges.low) take(ranges.low->bps());
        if (ranges.high) take(ranges.high->bps());
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
        return axisLeft + std::clamp(share, 0.0, 1.0) * (axisWidth - axisLeft - axisRight);
    }
    [[nodiscard]] int low() const { return static_cast<int>(m_low); }
    [[nodiscard]] int high() const { return static_cast<int>(m_high); }

  private:
    double m_low = 6;
    double m_high = 9;
};

} // namespace

std::string toSvg(const Ranges& ranges) {
    const Axis axis(ranges);
    const double height = rangesSize(ranges.rows.size()).height;
    const double bottom = height - axisHeight;
    std::string out;
    for (int power = axis.low(); power <= axis.high(); ++power) {
        const double bps = std::pow(10, power);
        out += svgLine(axis.x(bps), 0, axis.x(bps), bottom, ink::line, 1);
        out += svgText(axis.x(bps), bottom + 15,
                       power == axis.low()    ? "start"
                       : power == axis.high() ? "end"
                                              : "middle",
                       ink::quiet, quantity::plain(quantity::BitRate::bitsPerSecond(bps)));
    }
    // Beside each sign what it stands for.
    const double key = bottom + 30;
    out += svgRect(axisLeft, key, 24, barHeight, svgFill("#ffffff", 1, ink::cool));
    out += svgText(axisLeft + 30, key + 9, "start", ink::quiet, "before", 11);
    out += svgRect(axisLeft + 92, key, 24, barHeight, svgFill(ink::cool));
    out += svgText(axisLeft + 122, key + 9, "start", ink::quiet, "now", 11);
    out += svgLine(axisLeft + 172, key - 2, axisLeft + 172, key + 11, ink::black, 3);
    out += svgText(axisLeft + 180, key + 9, "start", ink::quiet, "needed", 11);
    for (std::size_t i = 0; i < ranges.rows.size(); ++i) {
        const Ranges::Row& row = ranges.rows[i];
        const double top = static_cast<double>(i) * rangeHeight;
        out += svgText(axisLeft, top + 14, "start", ink::black, row.title);
        const auto drawn = [&](const std::optional<catalog::RateSpread>& spread, double y,
                               const std::string& look) {
            if (!spread) return;
            const double from = axis.x(spread->p10.bps());
            const double to = axis.x(spread->p90.bps());
            out += svgRect(from, y, std::max(to - from, 2.0), barHeight, look);
            out += svgLine(axis.x(spread->p50.bps()), y - 1, axis.x(spread->p50.bps()), y + barHeight + 1,
                           ink::black, 2);
        };
        drawn(row.before, top + 20, svgFill("#ffffff", 1, ink::cool));
        drawn(row.after, top + 31, svgFill(ink::cool));
        if (row.need) {
            const double x = axis.x(row.need->bps());
            out += svgLine(x, top + 17, x, top + 43, ink::black, 3);
        }
    }
    return svgDrawing(axisWidth, height, wordsOf(ranges), out);
}

DrawingSize rangesSize(std::size_t rows) {
    return {axisWidth, static_cast<double>(rows) * rangeHeight + axisHeight};
}

std::vector<Ranges> partsOf(const Ranges& ranges, std::size_t rows) {
    const Axis axis(ranges);
    std::vector<Ranges> out;
    for (std::size_t i = 0; i < ranges.rows.size(); i += rows) {
        Ranges part;
        const auto from = ranges.rows.begin() + static_cast<std::ptrdiff_t>(i);
        part.rows.assign(from, from + static_cast<std::ptrdiff_t>(std::min(rows, ranges.rows.size() - i)));
        part.low = quantity::BitRate::bitsPerSecond(std::pow(10, axis.low()));
        part.high = quantity::BitRate::bitsPerSecond(std::pow(10, axis.high()));
        out.push_back(std::move(part));
    }
    return out;
}

std::string wordsOf(const Ranges&) {
    return "Rates before and now, on one logarithmic axis; what is needed is a line across";
}

} // namespace metrodos::report
