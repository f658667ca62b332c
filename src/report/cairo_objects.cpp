#include "report/cairo_objects.h"

#include "catalog/load.h"

#include <algorithm>
#include <cmath>
#include <fontconfig/fontconfig.h>
#include <librsvg/rsvg.h>
#include <pango/pangofc-fontmap.h>

namespace metrodos::report {
namespace {

using Config = std::unique_ptr<FcConfig, With<&FcConfigDestroy>>;
using Options = std::unique_ptr<cairo_font_options_t, With<&cairo_font_options_destroy>>;
using Svg = std::unique_ptr<RsvgHandle, With<&g_object_unref>>;

// librsvg takes its letters from the thread's usual map of fonts.
class UsualFonts {
  public:
    explicit UsualFonts(PangoFontMap* map) { pango_cairo_font_map_set_default(PANGO_CAIRO_FONT_MAP(map)); }
    ~UsualFonts() { pango_cairo_font_map_set_default(nullptr); }
    UsualFonts(const UsualFonts&) = delete;
    UsualFonts& operator=(const UsualFonts&) = delete;
    UsualFonts(UsualFonts&&) = delete;
    UsualFonts& operator=(UsualFonts&&) = delete;
};

quantity::Result<Svg> opened(const std::string& svg) {
    GError* error = nullptr;
    // Whole texts only: nothing is loaded from anywhere.
    Svg handle(rsvg_handle_new_from_data(reinterpret_cast<const guint8*>(svg.data()), svg.size(),
                                         &error)); // NOLINT(*-reinterpret-cast)
    if (error != nullptr) g_error_free(error);
    if (!handle) return quantity::problem("a drawing cannot be read", "", "leave it out");
    return handle;
}

} // namespace

FontMap fontMap() {
    const Config config(FcInitLoadConfigAndFonts());
    if (const auto data = catalog::dataFolder()) {
        std::error_code none;
        for (const auto& folder : {*data / "fonts", *data / "../assets/fonts"})
            if (std::filesystem::exists(folder / "B612-Regular.otf", none))
                FcConfigAppFontAddDir(config.get(), reinterpret_cast<const FcChar8*>(
                                                        folder.c_str())); // NOLINT(*-reinterpret-cast)
    }
    FontMap map(pango_cairo_font_map_new_for_font_type(CAIRO_FONT_TYPE_FT));
    pango_fc_font_map_set_config(PANGO_FC_FONT_MAP(map.get()), config.get());
    return map;
}

Words wordsOn(cairo_t* cairo, PangoFontMap* map) {
    const Options options(cairo_font_options_create());
    cairo_font_options_set_hint_metrics(options.get(), CAIRO_HINT_METRICS_OFF);
    Words words(pango_font_map_create_context(map));
    pango_cairo_context_set_font_options(words.get(), options.get());
    pango_context_set_round_glyph_positions(words.get(), FALSE);
    pango_cairo_update_context(cairo, words.get());
    return words;
}

cairo_status_t appendBytes(void* closure, const unsigned char* data, unsigned int size) {
    static_cast<std::string*>(closure)->append(reinterpret_cast<const char*>(data),
                                               size); // NOLINT(*-reinterpret-cast)
    return CAIRO_STATUS_SUCCESS;
}

Surface pngSurface(const std::string& bytes) {
    struct Source {
        const std::string& bytes;
        std::size_t at = 0;
    } source{bytes};
    return Surface(cairo_image_surface_create_from_png_stream(
        [](void* closure, unsigned char* to, unsigned int length) {
            auto& from = *static_cast<Source*>(closure);
            if (from.bytes.size() - from.at < length) return CAIRO_STATUS_READ_ERROR;
            std::copy_n(from.bytes.begin() + static_cast<std::ptrdiff_t>(from.at), length, to);
            from.at += length;
            return CAIRO_STATUS_SUCCESS;
        },
        &source));
}

quantity::Result<void> drawSvg(cairo_t* cairo, PangoFontMap* map, const std::string& svg, double x, double y,
                               double width, double height) {
    const UsualFonts ours(map);
    const auto handle = opened(svg);
    if (!handle) return tl::unexpected(handle.error());
    const RsvgRectangle box{x, y, width, height};
    GError* error = nullptr;
    if (!rsvg_handle_render_document(handle->get(), cairo, &box, &error)) {
        if (error != nullptr) g_error_free(error);
        return quantity::problem("a drawing cannot be drawn", "", "leave it out");
    }
    return {};
}

quantity::Result<DrawingSize> sizeOfSvg(const std::string& svg) {
    const auto handle = opened(svg);
    if (!handle) return tl::unexpected(handle.error());
    gboolean hasBox = FALSE;
    RsvgRectangle box{};
    rsvg_handle_get_intrinsic_dimensions(handle->get(), nullptr, nullptr, nullptr, nullptr, &hasBox, &box);
    if (hasBox == FALSE || box.width <= 0 || box.height <= 0)
        return quantity::problem("a drawing has no size", "", "leave it out");
    return DrawingSize{box.width, box.height};
}

quantity::Result<std::string> toPng(const std::string& svg, double scale) {
    const auto size = sizeOfSvg(svg);
    if (!size) return tl::unexpected(size.error());
    constexpr double most = 12'000; // pixels a side
    const double factor = std::min(scale, most / std::max(size->width, size->height));
    const int width = std::max(1, static_cast<int>(std::ceil(size->width * factor)));
    const int height = std::max(1, static_cast<int>(std::ceil(size->height * factor)));
    const Surface surface(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, width, height));
    const Context cairo(cairo_create(surface.get()));
    cairo_set_source_rgb(cairo.get(), 1, 1, 1);
    cairo_paint(cairo.get());
    const FontMap map = fontMap();
    if (const auto drawn =
            drawSvg(cairo.get(), map.get(), svg, 0, 0, size->width * factor, size->height * factor);
        !drawn)
        return tl::unexpected(drawn.error());
    std::string out;
    if (cairo_surface_write_to_png_stream(surface.get(), &appendBytes, &out) != CAIRO_STATUS_SUCCESS)
        return quantity::problem("a drawing cannot be written as a picture", "", "write it as SVG");
    return out;
}

} // namespace metrodos::report
