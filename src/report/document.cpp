#include "report/document.h"

#include "report/cairo_objects.h"

#include <algorithm>
#include <cstdint>

namespace metrodos::report {
namespace {

constexpr std::string_view mark = "Records: SHA-256 ";
constexpr std::size_t digits = 64;

} // namespace

std::string proofWords(const std::vector<int>& runs) {
    std::vector<int> sorted = runs;
    std::sort(sorted.begin(), sorted.end());
    sorted.erase(std::unique(sorted.begin(), sorted.end()), sorted.end());
    std::string out;
    for (std::size_t i = 0; i < sorted.size();) {
        std::size_t last = i;
        while (last + 1 < sorted.size() && sorted[last + 1] == sorted[last] + 1)
            ++last;
        out += (out.empty() ? "[" : ", ") + std::to_string(sorted[i]);
        if (last > i) out += "–" + std::to_string(sorted[last]);
        i = last + 1;
    }
    return out.empty() ? out : out + "]";
}

std::vector<std::pair<int, const ProofRun*>> numbered(const std::vector<ProofRun>& proof) {
    std::vector<std::pair<int, const ProofRun*>> out;
    int next = 1;
    for (const ProofRun& r : proof) {
        out.emplace_back(next, &r);
        next += r.count;
    }
    return out;
}

std::string numberWords(int first, const ProofRun& runs) {
    return std::to_string(first) + (runs.count > 1 ? "–" + std::to_string(first + runs.count - 1) : "");
}

std::string digestIn(std::string_view document) {
    for (std::size_t at = document.find(mark); at != std::string_view::npos;
         at = document.find(mark, at + 1)) {
        const std::string_view found = document.substr(at + mark.size(), digits);
        if (found.size() == digits && found.find_first_not_of("0123456789abcdef") == std::string_view::npos)
            return std::string(found);
    }
    return {};
}

bool isColour(std::string_view text) {
    return text.size() == 7 && text[0] == '#' &&
           text.find_first_not_of("0123456789abcdefABCDEF", 1) == std::string_view::npos;
}

quantity::Result<std::string> checkedLogo(std::string bytes) {
    if (bytes.size() > maxLogoBytes)
        return quantity::problem("the logo is larger than 512 kB", "", "make the picture smaller");
    // Width and height stand in the first chunk (ISO/IEC 15948, 11.2.2): nothing vast is unpacked.
    constexpr std::size_t head = 24;
    constexpr std::uint32_t mostPixels = 4000;
    const auto number = [&](std::size_t at) {
        std::uint32_t out = 0;
        for (std::size_t i = at; i < at + 4; ++i)
            out = out << 8U | static_cast<unsigned char>(bytes[i]);
        return out;
    };
    const bool isPng = bytes.size() > head && bytes.starts_with("\x89PNG\r\n\x1a\n");
    if (!isPng || number(16) > mostPixels || number(20) > mostPixels ||
        cairo_image_surface_get_width(pngSurface(bytes).get()) <= 0)
        return quantity::problem("the logo is no PNG picture of at most 4000 by 4000 pixels", "",
                                 "save it as PNG");
    return bytes;
}

quantity::Result<std::string> written(const Document& document, std::string_view ending, Paper paper) {
    if (ending == ".html") return toHtml(document);
    if (ending == ".md") return toMarkdown(document);
    if (ending == ".pdf") return toPdf(document, paper);
    return quantity::problem("a document cannot be written in this form", std::string(ending),
                             "choose a name that ends in .html, .pdf or .md");
}

} // namespace metrodos::report
