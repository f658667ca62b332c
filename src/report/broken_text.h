// A text broken into lines of a width, which can be drawn from any line on. Internal to the layer.
#pragma once

#include "report/cairo_objects.h"
#include "report/document.h"

#include <string>
#include <vector>

namespace metrodos::report {

inline constexpr double textSize = 10; ///< pt

struct Look {
    double size = textSize; ///< pt
    bool isBold = false;
    const char* colour = ink::black;
};

struct Broken {
    TextLayout layout;
    struct Line {
        PangoLayoutLine* line; ///< of the layout
        double x;
        double baseline; ///< from the line's top
        double height;
    };
    std::vector<Line> lines;
    double height = 0;
    std::string target; ///< of the link that its last letters are, to the first run of the cell; empty: none
    int linkFrom = 0;   ///< byte
    const char* colour = ink::black;
};

/// `width` in pt; 0: all on one line. The numbers of the cell's runs stand behind its text, smaller.
[[nodiscard]] Broken brokenText(PangoContext* words, const Cell& cell, const Look& look, double width,
                                bool isRight);

} // namespace metrodos::report
