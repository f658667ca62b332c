// Pieces of SVG that the drawings share.
#pragma once

#include <string>
#include <string_view>

namespace metrodos::report {

/// Fit to stand between tags and in attributes of XML and HTML; control characters become blanks.
[[nodiscard]] std::string xmlText(std::string_view text);
/// With one decimal and a point, whatever the locale.
[[nodiscard]] std::string svgNumber(double value);
/// A drawing without its XML declaration, to stand within HTML.
[[nodiscard]] std::string withoutProlog(const std::string& svg);

} // namespace metrodos::report
