#include "catalog/load.h"
#include "report/label_sheet.h"

#include <cairo-pdf.h>
#include <fontconfig/fontconfig.h>
#include <memory>
#include <pango/pangocairo.h>
#include <pango/pangofc-fontmap.h>

namespace metrodos::report {
namespace {

constexpr double pointsPerMillimetre = 72 / 25.4;

template <auto Free>
struct With {
    template <typename T>
    void operator()(T* object) const {
        Free(object);
    }
};
using Surface = std::unique_ptr<cairo_surface_t, With<&cairo_surface_destroy>>;
using Context = std::unique_ptr<cairo_t, With<&cairo_destroy>>;
using TextLayout = std::unique_ptr<PangoLayout, With<&g_object_unref>>;
using Words = std::unique_ptr<PangoContext, With<&g_object_unref>>;
using Map = std::unique_ptr<PangoFontMap, With<&g_object_unref>>;
using Config = std::unique_ptr<FcConfig, With<&FcConfigDestroy>>;
using Options = std::unique_ptr<cairo_font_options_t, With<&cairo_font_options_destroy>>;
using Font = std::unique_ptr<PangoFontDescription, With<&pango_font_description_free>>;

// The system's fonts and those that come with the program, from where it is installed or built. Of its own:
// what a window has added to the usual ones lies in its memory, where nobody else finds it.
Map fontMap() {
    const Config config(FcInitLoadConfigAndFonts());
    if (const auto data = catalog::dataFolder()) {
        std::error_code none;
        for (const auto& folder : {*data / "fonts", *data / "../assets/fonts"})
            if (std::filesystem::exists(folder / "B612-Regular.otf", none))
                FcConfigAppFontAddDir(config.get(), reinterpret_cast<const FcChar8*>(
                                                        folder.c_str())); // NOLINT(*-reinterpret-cast)
    }
    Map map(pango_cairo_font_map_new_for_font_type(CAIRO_FONT_TYPE_FT));
    pango_fc_font_map_set_config(PANGO_FC_FONT_MAP(map.get()), config.get());
    return map;
}

cairo_status_t append(void* closure, const unsigned char* data, unsigned int size) {
    static_cast<std::string*>(closure)->append(reinterpret_cast<const char*>(data),
                                               size); // NOLINT(*-reinterpret-cast)
    return CAIRO_STATUS_SUCCESS;
}

void draw(cairo_t* cairo, PangoFontMap* map, const PrintedPage& page) {
    cairo_set_source_rgb(cairo, 0, 0, 0);
    for (const PrintedBox& box : page.ink)
        cairo_rectangle(cairo, box.x, box.y, box.width, box.height);
    cairo_fill(cairo);
    const Options options(cairo_font_options_create());
    cairo_font_options_set_hint_metrics(options.get(),
                                        CAIRO_HINT_METRICS_OFF); // no screen: letters stand as drawn
    for (const PrintedText& t : page.texts) {
        const Words words(pango_font_map_create_context(map));
        pango_cairo_context_set_font_options(words.get(), options.get());
        pango_context_set_round_glyph_positions(words.get(), FALSE); // to millimetres
        pango_cairo_update_context(cairo, words.get());
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
    const Map map = fontMap();
    std::string out;
    const Surface surface(cairo_pdf_surface_create_for_stream(
        &append, &out, sheet.width * pointsPerMillimetre, sheet.height * pointsPerMillimetre));
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
