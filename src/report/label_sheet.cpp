#include "report/label_sheet.h"

#include "probe/qr_code.h"

namespace metrodos::report {
namespace {

constexpr double labelWidth = 62;
constexpr double labelHeight = 30;
constexpr double paperMargin = 8; // that printers leave free, and a bit more
constexpr double codeSide = 24;   // of the QR code with its quiet zone
constexpr double inset = 3;

void draw(PrintedPage& page, double x, double y, const house::House& house, const fit::Label& label) {
    page.edges.push_back({x, y, labelWidth, labelHeight});
    // A name that is too long for a code leaves the label readable all the same.
    if (const auto code = probe::encodeQr(fit::qrTextOf(house, label))) {
        const double module = codeSide / (code->side + 2 * probe::quietZone);
        const double left = x + inset + module * probe::quietZone;
        const double top = y + (labelHeight - codeSide) / 2 + module * probe::quietZone;
        // Modules beside each other as one: no hair lines between them.
        for (int row = 0; row < code->side; ++row)
            for (int from = 0; from < code->side; ++from) {
                if (!code->isDark(from, row)) continue;
                int to = from;
                while (code->isDark(to + 1, row))
                    ++to;
                page.ink.push_back(
                    {left + module * from, top + module * row, module * (to - from + 1), module});
                from = to;
            }
    }
    const double textX = x + inset + codeSide + 1;
    const double width = labelWidth - codeSide - 2 * inset;
    page.texts.push_back({textX, y + 4, width, 7.5, true, label.code});
    page.texts.push_back({textX, y + 13, width, 3.4, false, label.what});
    page.texts.push_back({textX, y + 17.5, width, 3.4, false, label.where});
    page.texts.push_back({textX, y + 23, width, 2.6, false, house.name});
}

} // namespace

PrintedSheet labelSheet(const house::House& house, const std::vector<fit::Label>& labels, Paper paper) {
    PrintedSheet out;
    out.title = "Labels of " + house.name;
    out.width = paper == Paper::a4 ? 210 : 215.9;
    out.height = paper == Paper::a4 ? 297 : 279.4;
    const int columns = static_cast<int>((out.width - 2 * paperMargin) / labelWidth);
    const int rows = static_cast<int>((out.height - 2 * paperMargin) / labelHeight);
    const double left = (out.width - columns * labelWidth) / 2;
    const double top = (out.height - rows * labelHeight) / 2;
    int at = 0;
    for (const fit::Label& label : labels)
        for (int copy = 0; copy < label.copies; ++copy, ++at) {
            const int onPage = at % (columns * rows);
            if (onPage == 0) out.pages.emplace_back();
            const int row = onPage / columns;
            const int column = onPage % columns;
            draw(out.pages.back(), left + column * labelWidth, top + row * labelHeight, house, label);
        }
    return out;
}

} // namespace metrodos::report
