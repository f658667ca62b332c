#include "report/cairo_objects.h"
#include "report/label_sheet.h"

#include <cairo-pdf.h>

namespace metrodos::report {
namespace {

void draw(cairo_t* cairo, PangoFontMap* map, const PrintedPage& page) {
    cairo_set_source_rgb(cairo, 0, 0, 0);
    for (const PrintedBox& box : page.ink)
        cairo_rectangle(cairo, box.x, box.y, box.width, box.height);
    cairo_fill(cairo);
    for (const PrintedText& t : page.texts) {
        const Words words = wordsOn(cairo, map);
        const TextLayout layout(pango_layout_new(words.get()));
        const Font font(pango_font_description_from_string(t.isBold ? "Metrodos B612, sans Bold"
                                                                    : "Metrodos B612, sans"));
        constexpr double ofLine = 0.78; // letters of B612 against their line
        pango_font_description_set_absolute_size(font.get(), t.size * ofLine * PANGO_SCALE);
        pango_layout_set_font_description(layout.get(), font.get());
        pango_layout_set_width(layout.get(), static_cast<int>(t.width * PANGO_SCALE));
        pango_layout_set_ellipsize(layout.get(), PANGO_ELLIPSIZE_END);
        pango_layout_set_single_paragraph_mode(layout.get(), TRUE);
        pango_layout_set_text(layout.get(), t.text.data(), static_cast<int>(t.text.size()));
        cairo_move_to(cairo, t.x, t.y);
        pango_cairo_show_layout(cairo, layout.get());
    }
    cairo_set_source_rgb(cairo, 0.7, 0.7, 0.7);
    cairo_set_line_width(cairo, 0.15);
    for (const PrintedBox& box : page.edges)
        cairo_rectangle(cairo, box.x, box.y, box.width, box.height);
    cairo_stroke(cairo);
}

} // namespace

quantity::Result<std::string> pdfOf(const PrintedSheet& sheet) {
    const FontMap map = fontMap();
    std::string out;
    const Surface surface(cairo_pdf_surface_create_for_stream(
        &appendBytes, &out, sheet.width * pointsPerMillimetre, sheet.height * pointsPerMillimetre));
    cairo_pdf_surface_set_metadata(surface.get(), CAIRO_PDF_METADATA_TITLE, sheet.title.c_str());
    cairo_pdf_surface_set_metadata(surface.get(), CAIRO_PDF_METADATA_CREATOR, "Metrodos");
    const Context cairo(cairo_create(surface.get()));
    cairo_scale(cairo.get(), pointsPerMillimetre, pointsPerMillimetre);
    for (const PrintedPage& page : sheet.pages) {
        draw(cairo.get(), map.get(), page);
        cairo_show_page(cairo.get());
    }
    cairo_surface_finish(surface.get());
    if (cairo_status(cairo.get()) != CAIRO_STATUS_SUCCESS ||
        cairo_surface_status(surface.get()) != CAIRO_STATUS_SUCCESS)
        return quantity::problem("the sheet cannot be drawn", "", "try again with fewer labels");
    return out;
}

} // namespace metrodos::report
