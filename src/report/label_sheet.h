// Sheets of labels: plain geometry in millimetres, written as PDF here and printed by the desktop.
#pragma once

#include "fit/labels.h"
#include "quantity/problem.h"
#include "report/document.h"

#include <filesystem>
#include <string>
#include <vector>

namespace metrodos::report {

/// Millimetres from the upper left corner of a page.
struct PrintedText {
    double x = 0;
    double y = 0;     ///< of its top
    double width = 0; ///< what does not fit is cut short
    double size = 3;  ///< of the letters, from line to line
    bool isBold = false;
    std::string text;
};
struct PrintedBox {
    double x = 0;
    double y = 0;
    double width = 0;
    double height = 0;
};
struct PrintedPage {
    std::vector<PrintedText> texts;
    std::vector<PrintedBox> ink;   ///< filled black
    std::vector<PrintedBox> edges; ///< where to cut: thin and grey
};
struct PrintedSheet {
    std::string title;
    double width = 0; ///< of a page
    double height = 0;
    std::vector<PrintedPage> pages;
};

/// Each label as often as it is needed, 62 × 30 mm, from left to right and down; none: no page.
[[nodiscard]] PrintedSheet labelSheet(const house::House& house, const std::vector<fit::Label>& labels,
                                      Paper paper);

/// PDF with the program's own letters where they are installed, else the system's.
[[nodiscard]] quantity::Result<std::string> pdfOf(const PrintedSheet& sheet);

} // namespace metrodos::report
