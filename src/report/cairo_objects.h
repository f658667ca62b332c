// What is shared by all that draws with cairo and pango: owners of their objects, the fonts, and where the
// bytes go. Internal to the layer.
#pragma once

#include "quantity/problem.h"
#include "report/svg.h"

#include <cairo.h>
#include <memory>
#include <pango/pangocairo.h>
#include <string>

namespace metrodos::report {

inline constexpr double pointsPerMillimetre = 72 / 25.4;
inline constexpr const char* plainLetters = "Metrodos B612, B612, sans";

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
using FontMap = std::unique_ptr<PangoFontMap, With<&g_object_unref>>;
using Font = std::unique_ptr<PangoFontDescription, With<&pango_font_description_free>>;
using Attributes = std::unique_ptr<PangoAttrList, With<&pango_attr_list_unref>>;

/// The system's fonts and those that come with the program, from where it is installed or built. Of its own:
/// what a window has added to the usual ones lies in its memory, where nobody else finds it.
[[nodiscard]] FontMap fontMap();

/// For text that is no screen's: letters stand as they are drawn, to a fraction of a unit.
[[nodiscard]] Words wordsOn(cairo_t* cairo, PangoFontMap* map);

/// Appends to the std::string that `closure` is.
cairo_status_t appendBytes(void* closure, const unsigned char* data, unsigned int size);

/// Draws one of the program's own SVG drawings (librsvg) into a box of the surface; as vectors where the
/// surface keeps them. Fails for what is no drawing.
[[nodiscard]] quantity::Result<void> drawSvg(cairo_t* cairo, PangoFontMap* map, const std::string& svg,
                                             double x, double y, double width, double height);

/// The picture of a PNG file; one without width where it is none.
[[nodiscard]] Surface pngSurface(const std::string& bytes);

/// Width and height of a drawing in its own units.
[[nodiscard]] quantity::Result<DrawingSize> sizeOfSvg(const std::string& svg);

} // namespace metrodos::report
