#include "report/broken_text.h"

#include "quantity/text.h"

namespace metrodos::report {

Broken brokenText(PangoContext* words, const Cell& cell, const Look& look, double width, bool isRight) {
    Broken out;
    std::string text = quantity::oneLine(cell.text);
    out.linkFrom = static_cast<int>(text.size());
    if (!cell.runs.empty()) {
        text += (text.empty() ? "" : " ") + proofWords(cell.runs);
        out.target = "run-" + std::to_string(cell.runs.front());
    }
    out.layout.reset(pango_layout_new(words));
    out.colour = look.colour;
    PangoLayout* layout = out.layout.get();
    const Font font(pango_font_description_from_string(
        (std::string(plainLetters) + (look.isBold ? " Bold" : "")).c_str()));
    pango_font_description_set_absolute_size(font.get(), look.size * PANGO_SCALE);
    pango_layout_set_font_description(layout, font.get());
    if (width > 0) pango_layout_set_width(layout, static_cast<int>(width * PANGO_SCALE));
    pango_layout_set_wrap(layout, PANGO_WRAP_WORD_CHAR);
    pango_layout_set_line_spacing(layout, 1.15F);
    if (isRight) pango_layout_set_alignment(layout, PANGO_ALIGN_RIGHT);
    pango_layout_set_text(layout, text.data(), static_cast<int>(text.size()));
    if (!out.target.empty()) {
        const Attributes list(pango_attr_list_new());
        PangoAttribute* size = pango_attr_size_new_absolute(static_cast<int>(look.size * 0.8 * PANGO_SCALE));
        size->start_index = static_cast<guint>(out.linkFrom);
        pango_attr_list_insert(list.get(), size);
        pango_layout_set_attributes(layout, list.get());
    }
    using Lines = std::unique_ptr<PangoLayoutIter, With<&pango_layout_iter_free>>;
    const Lines at(pango_layout_get_iter(layout));
    do {
        PangoRectangle box;
        pango_layout_iter_get_line_extents(at.get(), nullptr, &box);
        int top = 0;
        int end = 0;
        pango_layout_iter_get_line_yrange(at.get(), &top, &end);
        const double scale = PANGO_SCALE;
        out.lines.push_back({pango_layout_iter_get_line_readonly(at.get()), box.x / scale,
                             (pango_layout_iter_get_baseline(at.get()) - top) / scale, (end - top) / scale});
        out.height += (end - top) / scale;
    } while (pango_layout_iter_next_line(at.get()) != FALSE);
    return out;
}

} // namespace metrodos::report
