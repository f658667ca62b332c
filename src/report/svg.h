// Pieces of SVG that the drawings share, and drawings as pictures.
#pragma once

#include "quantity/problem.h"

#include <string>
#include <string_view>

namespace metrodos::report {

/// Fit to stand between tags and in attributes of XML and HTML; control characters become blanks.
[[nodiscard]] std::string xmlText(std::string_view text);
/// With one decimal and a point, whatever the locale.
[[nodiscard]] std::string svgNumber(double value);
/// A drawing without its XML declaration, to stand within HTML.
[[nodiscard]] std::string withoutProlog(const std::string& svg);

/// The colours of drawings.
namespace ink {
inline constexpr const char* black = "#26221b";
inline constexpr const char* quiet = "#6a6252";
inline constexpr const char* line = "#d9d2c2";
inline constexpr const char* cool = "#1a6a86"; ///< what is measured
inline constexpr const char* warm = "#b23c12"; ///< what limits
} // namespace ink

/// How a shape looks: filled with a colour, let through by so much (0–1), with an edge of another (empty:
/// none).
[[nodiscard]] std::string svgFill(const char* colour, double opacity = 1, const char* edge = "");
[[nodiscard]] std::string svgRect(double x, double y, double width, double height, const std::string& look);
[[nodiscard]] std::string svgLine(double x1, double y1, double x2, double y2, const char* colour,
                                  double wide);
/// `anchor`: "start", "middle" or "end".
[[nodiscard]] std::string svgText(double x, double y, const char* anchor, const char* colour,
                                  const std::string& words, double size = 12, bool isBold = false);
/// The drawing around its pieces; `title` is read to who does not see it.
[[nodiscard]] std::string svgDrawing(double width, double height, const std::string& title,
                                     const std::string& pieces);
/// What a drawing of so many ranges takes (report/document.h).
struct DrawingSize {
    double width = 0;
    double height = 0;
};
[[nodiscard]] DrawingSize rangesSize(std::size_t rows);

/// A drawing as PNG, `scale` pixels to its unit and at most 12,000 a side.
[[nodiscard]] quantity::Result<std::string> toPng(const std::string& svg, double scale = 2);

} // namespace metrodos::report
