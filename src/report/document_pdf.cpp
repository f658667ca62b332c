#include "quantity/text.h"
#include "report/broken_text.h"
#include "report/document.h"
#include "report/svg.h"

#include <algorithm>
#include <cairo-pdf.h>
#include <functional>
#include <map>
#include <utility>

namespace metrodos::report {
namespace {

constexpr double side = 51;  // pt left and right of the text: 18 mm
constexpr double above = 48; // pt
constexpr double below = 56; // pt, with the page's number in it
constexpr double smallSize = 8.5;
constexpr double cellGap = 8;
constexpr double rowGap = 3;
constexpr double afterBlock = 8;
constexpr double leastScale = 0.7; // of a picture that would else leave a page half empty
constexpr std::size_t fewestRanges = 3;

struct PageSize {
    double width;
    double height;
};
constexpr PageSize sizeOf(Paper paper) {
    return paper == Paper::letter ? PageSize{612, 792} : PageSize{595.276, 841.89};
}

// What is no colour is black: it may have been typed only in part.
void setColour(cairo_t* cairo, std::string_view hex) {
    if (!isColour(hex)) hex = ink::black;
    const auto part = [&](std::size_t at) {
        return static_cast<double>(std::stoi(std::string(hex.substr(at, 2)), nullptr, 16)) / 255;
    };
    cairo_set_source_rgb(cairo, part(1), part(3), part(5));
}

// Opens a mark of the structure and closes it again.
class Marked {
  public:
    Marked(cairo_t* cairo, const char* tag, const std::string& attributes = {})
        : m_cairo(cairo)
        , m_tag(tag) {
        cairo_tag_begin(cairo, tag, attributes.c_str());
    }
    ~Marked() { cairo_tag_end(m_cairo, m_tag); }
    Marked(const Marked&) = delete;
    Marked& operator=(const Marked&) = delete;
    Marked(Marked&&) = delete;
    Marked& operator=(Marked&&) = delete;

  private:
    cairo_t* m_cairo;
    const char* m_tag;
};

// Draws a document; asked twice, since only the first time shows on which page each chapter begins.
class PdfWriter {
  public:
    PdfWriter(const Document& document, Paper paper, PangoFontMap* map, std::map<std::string, int> pages,
              int count)
        : m_document(document)
        , m_page(sizeOf(paper))
        , m_map(map)
        , m_pagesBefore(std::move(pages))
        , m_countBefore(count)
        , m_surface(cairo_pdf_surface_create_for_stream(&appendBytes, &m_bytes, m_page.width, m_page.height))
        , m_cairo(cairo_create(m_surface.get()))
        , m_words(wordsOn(m_cairo.get(), map)) {}

    bool write() {
        const auto data = [&](cairo_pdf_metadata_t what, const std::string& text) {
            cairo_pdf_surface_set_metadata(m_surface.get(), what, text.c_str());
        };
        data(CAIRO_PDF_METADATA_TITLE, quantity::oneLine(m_document.title));
        data(CAIRO_PDF_METADATA_SUBJECT, quantity::oneLine(m_document.subtitle));
        data(CAIRO_PDF_METADATA_AUTHOR, quantity::oneLine(m_document.firm.name));
        data(CAIRO_PDF_METADATA_CREATOR, "Metrodos");
        data(CAIRO_PDF_METADATA_KEYWORDS, digestLine());
        m_y = above;
        {
            const Marked whole(m_cairo.get(), "Document");
            head();
            contents();
            for (const Chapter& c : m_document.chapters)
                chapter(c);
            proof();
            say("P", digestLine(), {smallSize, false, ink::quiet});
        }
        endPage();
        cairo_surface_finish(m_surface.get());
        return cairo_status(m_cairo.get()) == CAIRO_STATUS_SUCCESS &&
               cairo_surface_status(m_surface.get()) == CAIRO_STATUS_SUCCESS;
    }
    [[nodiscard]] std::string bytes() { return std::move(m_bytes); }
    [[nodiscard]] const std::map<std::string, int>& pages() const { return m_pages; }
    [[nodiscard]] int count() const { return m_number; }

    void operator()(const Paragraph& p) { say("P", p.text, {}); }
    void operator()(const List& l) {
        const Marked list(m_cairo.get(), "L");
        int n = 0;
        for (const Cell& item : l.items) {
            constexpr double indent = 16;
            const Broken text = broken(item, {}, bodyWidth() - indent);
            keep(std::min(text.height, 2 * textSize));
            const Marked one(m_cairo.get(), "LI");
            {
                const Marked label(m_cairo.get(), "Lbl");
                const std::string sign = l.isNumbered ? std::to_string(++n) + "." : "•";
                const Broken dot = broken({sign, {}}, {}, indent);
                draw(dot, 0, side, m_y);
            }
            flow("LBody", text, side + indent);
            m_y += rowGap;
        }
        m_y += afterBlock - rowGap;
    }
    void operator()(const Table& t);
    void operator()(const Ranges& r) {
        // As many as the page has room for, the others on the next.
        Ranges left = r;
        const std::vector<Ranges> whole = partsOf(r, std::max<std::size_t>(r.rows.size(), 1));
        if (!whole.empty()) left = whole.front(); // with the ends of its axis
        while (!left.rows.empty()) {
            const double scale = scaleFor(rangesSize(1).width);
            const double room = (bottom() - m_y) / scale - rangesSize(0).height;
            auto rows =
                static_cast<std::size_t>(std::max(room, 0.0) / (rangesSize(1).height - rangesSize(0).height));
            if (rows < std::min(fewestRanges, left.rows.size())) {
                nextPage();
                continue;
            }
            rows = std::min(rows, left.rows.size());
            Ranges part = left;
            part.rows.resize(rows);
            picture(toSvg(part), wordsOf(part));
            left.rows.erase(left.rows.begin(), left.rows.begin() + static_cast<std::ptrdiff_t>(rows));
        }
    }
    void operator()(const WayStrip& s) { picture(toSvg(s), wordsOf(s)); }
    void operator()(const WeekHours& w) { picture(toSvg(w), wordsOf(w)); }
    void operator()(const Drawing& d) {
        picture(d.svg, d.words, 2 * afterBlock + smallSize);
        say("P", d.words, {smallSize, false, ink::quiet});
    }

  private:
    // On one line, with what it leads to.
    [[nodiscard]] double widthOf(const std::string& text, bool isProof = false) const {
        const Broken line = broken({text, {}}, {isProof ? smallSize * 0.8 : smallSize}, 0);
        double width = 0;
        for (const Broken::Line& l : line.lines) {
            PangoRectangle box;
            pango_layout_line_get_extents(l.line, nullptr, &box);
            width = std::max(width, static_cast<double>(box.width) / PANGO_SCALE);
        }
        return width;
    }
    [[nodiscard]] std::vector<double> columnWidths(const Table& t) const;
    [[nodiscard]] double bodyWidth() const { return m_page.width - 2 * side; }
    [[nodiscard]] double bottom() const { return m_page.height - below; }
    [[nodiscard]] std::string digestLine() const {
        return m_document.date + ". Records: SHA-256 " + m_document.digest;
    }

    Broken broken(const Cell& cell, const Look& look, double width, bool isRight = false) const {
        return brokenText(m_words.get(), cell, look, width, isRight);
    }

    // From one line on as many as there is room for above `until`; the line that comes next.
    std::size_t draw(const Broken& text, std::size_t from, double x, double y, double until = 1e9) {
        std::size_t i = from;
        for (; i < text.lines.size(); ++i) {
            const Broken::Line& l = text.lines[i];
            if (y + l.height > until && i > from) break;
            setColour(m_cairo.get(), text.colour);
            cairo_move_to(m_cairo.get(), x + l.x, y + l.baseline);
            pango_cairo_show_layout_line(m_cairo.get(), l.line);
            if (!text.target.empty()) link(text, l, x, y);
            y += l.height;
        }
        return i;
    }
    // The letters from linkFrom on lead to the target.
    void link(const Broken& text, const Broken::Line& l, double x, double y) {
        const int from = std::max(text.linkFrom, l.line->start_index);
        const int to = l.line->start_index + l.line->length;
        if (from >= to) return;
        int left = 0;
        int right = 0;
        pango_layout_line_index_to_x(l.line, from, FALSE, &left);
        pango_layout_line_index_to_x(l.line, to - 1, TRUE, &right);
        const double scale = PANGO_SCALE;
        linkBox(text.target, x + l.x + left / scale, y, (right - left) / scale, l.height);
    }
    void linkBox(const std::string& target, double x, double y, double width, double height) {
        const Marked mark(m_cairo.get(), CAIRO_TAG_LINK,
                          "dest='" + target + "' rect=[" + svgNumber(x) + " " + svgNumber(y) + " " +
                              svgNumber(width) + " " + svgNumber(height) + "]");
    }

    // Over as many pages as it takes, each piece marked.
    void flow(const char* tag, const Broken& text, double x) {
        for (std::size_t from = 0; from < text.lines.size();) {
            if (m_y + text.lines[from].height > bottom()) nextPage();
            std::size_t next = from;
            {
                const Marked mark(m_cairo.get(), tag);
                next = draw(text, from, x, m_y, bottom());
            }
            for (; from < next; ++from)
                m_y += text.lines[from].height;
        }
    }
    void say(const char* tag, const Cell& cell, const Look& look) {
        const Broken text = broken(cell, look, bodyWidth());
        keep(std::min(text.height, 2.5 * look.size));
        flow(tag, text, side);
        m_y += afterBlock;
    }
    void say(const char* tag, const std::string& text, const Look& look) { say(tag, Cell{text, {}}, look); }

    // A new page where this much does not fit on this one.
    void keep(double height) {
        if (std::exchange(m_isPageFull, false)) return nextPage();
        if (m_y + height > bottom() && m_y > above) nextPage();
    }
    void nextPage() {
        endPage();
        ++m_number;
        m_y = above;
    }
    void endPage() {
        cairo_t* c = m_cairo.get();
        const double y = m_page.height - below + 22;
        const Look look{smallSize, false, ink::quiet};
        const Broken left = broken(
            {quantity::shortened(quantity::oneLine(m_document.title), 50) + " · " + m_document.date, {}},
            look, bodyWidth() * 0.75);
        draw(left, 0, side, y);
        const Broken right = broken(
            {"page " + std::to_string(m_number) + " of " + std::to_string(std::max(m_countBefore, m_number)),
             {}},
            look, bodyWidth(), true);
        draw(right, 0, side, y);
        cairo_show_page(c);
    }

    void head() {
        cairo_t* c = m_cairo.get();
        double logoBottom = m_y;
        if (!m_document.firm.logo.empty()) {
            const Surface logo = pngSurface(m_document.firm.logo);
            const double width = cairo_image_surface_get_width(logo.get());
            const double height = cairo_image_surface_get_height(logo.get());
            if (width > 0 && height > 0) {
                constexpr double mostWide = 130;
                constexpr double mostHigh = 50;
                const double scale = std::min({mostWide / width, mostHigh / height, 1.0});
                const Marked figure(c, "Figure");
                cairo_save(c);
                cairo_translate(c, m_page.width - side - width * scale, m_y);
                cairo_scale(c, scale, scale);
                cairo_set_source_surface(c, logo.get(), 0, 0);
                // Not painted: a recorded surface forgets what stands before that, the marks among it.
                cairo_rectangle(c, 0, 0, width, height);
                cairo_fill(c);
                cairo_restore(c);
                logoBottom = m_y + height * scale + 6;
            }
        }
        if (!m_document.firm.name.empty()) say("P", m_document.firm.name, {textSize, false, ink::quiet});
        m_y = std::max(m_y, logoBottom);
        say("H1", m_document.title, {20, true, m_document.firm.colour.c_str()});
        say("P", m_document.subtitle + ", " + m_document.date, {textSize, false, ink::quiet});
    }

    void contents() {
        if (m_document.chapters.size() < 2) return;
        const Marked list(m_cairo.get(), "TOC");
        const auto entry = [&](const std::string& id, const std::string& title) {
            const auto page = m_pagesBefore.find(id);
            const Broken text = broken({title, {}}, {}, bodyWidth() - 40);
            const Broken number = broken(
                {page == m_pagesBefore.end() ? "" : std::to_string(page->second), {}}, {}, bodyWidth(), true);
            keep(text.height);
            const Marked one(m_cairo.get(), "TOCI");
            linkBox(id, side, m_y, bodyWidth(), text.height);
            draw(number, 0, side, m_y);
            flow("Reference", text, side);
            m_y += 1;
        };
        for (const Chapter& c : m_document.chapters)
            entry(c.id, c.title);
        if (!m_document.proof.empty()) entry("proof", proofTitle);
        m_y += afterBlock;
    }

    void heading(const std::string& id, const std::string& title) {
        m_y += 10;
        keep(70); // with the first lines of what follows
        {
            const Marked dest(m_cairo.get(), CAIRO_TAG_DEST, "name='" + id + "'");
            m_pages[id] = m_number;
            cairo_pdf_surface_add_outline(m_surface.get(), CAIRO_PDF_OUTLINE_ROOT,
                                          quantity::oneLine(title).c_str(), ("dest='" + id + "'").c_str(),
                                          static_cast<cairo_pdf_outline_flags_t>(0));
            flow("H2", broken({title, {}}, {13, true, m_document.firm.colour.c_str()}, bodyWidth()), side);
        }
        rule(m_y + 2);
        m_y += afterBlock;
    }
    void rule(double y) {
        setColour(m_cairo.get(), ink::line);
        cairo_set_line_width(m_cairo.get(), 0.6);
        cairo_move_to(m_cairo.get(), side, y);
        cairo_line_to(m_cairo.get(), m_page.width - side, y);
        cairo_stroke(m_cairo.get());
    }

    void chapter(const Chapter& c) {
        if (c.hasOwnPage) keep(m_page.height);
        const Marked section(m_cairo.get(), "Sect");
        heading(c.id, c.title);
        for (const Block& block : c.blocks)
            std::visit(*this, block);
        if (!c.note.empty()) say("Note", c.note, {textSize, false, ink::quiet});
        m_isPageFull = c.hasOwnPage;
    }

    void proof() {
        if (m_document.proof.empty()) return;
        const Marked section(m_cairo.get(), "Sect");
        heading("proof", proofTitle);
        const Marked list(m_cairo.get(), "L");
        for (const auto& [first, run] : numbered(m_document.proof)) {
            constexpr double indent = 44;
            const Look look{smallSize, false, ink::black};
            const Broken text = broken({run->words, {}}, look, bodyWidth() - indent);
            keep(text.height);
            const Marked one(m_cairo.get(), "LI");
            for (int i = 1; i < run->count; ++i)
                const Marked dest(m_cairo.get(), CAIRO_TAG_DEST,
                                  "name='run-" + std::to_string(first + i) + "'");
            {
                const Marked dest(m_cairo.get(), CAIRO_TAG_DEST, "name='run-" + std::to_string(first) + "'");
                const Marked label(m_cairo.get(), "Lbl");
                draw(broken({numberWords(first, *run) + ".", {}}, look, indent), 0, side, m_y);
            }
            flow("LBody", text, side + indent);
            m_y += 1;
        }
        m_y += afterBlock;
    }

    [[nodiscard]] double scaleFor(double width) const { return std::min(bodyWidth() / width, 0.95); }
    void picture(const std::string& svg, const std::string& words, double underneath = 0) {
        const auto size = sizeOfSvg(svg);
        if (!size) return say("P", words, {});
        const double most = bottom() - above - underneath;
        double scale = std::min(scaleFor(size->width), most / size->height);
        // Somewhat smaller rather than on a page of its own.
        const double room = (bottom() - m_y - underneath) / size->height;
        if (room < scale && room >= scale * leastScale) scale = room;
        keep(size->height * scale + underneath);
        bool isDrawn = false;
        {
            const Marked figure(m_cairo.get(), "Figure");
            isDrawn = drawSvg(m_cairo.get(), m_map, svg, side, m_y, size->width * scale, size->height * scale)
                          .has_value();
        }
        if (!isDrawn) return say("P", words, {});
        m_y += size->height * scale + afterBlock;
    }

    const Document& m_document;
    PageSize m_page;
    PangoFontMap* m_map;
    std::map<std::string, int> m_pagesBefore;
    int m_countBefore;
    std::string m_bytes;
    Surface m_surface;
    Context m_cairo;
    Words m_words;
    std::map<std::string, int> m_pages;
    int m_number = 1;
    double m_y = above;
    bool m_isPageFull = false; ///< what was drawn last stands alone
};

std::string longestWord(std::string_view text) {
    std::string_view longest;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(' '), text.size());
        if (end > longest.size()) longest = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    return std::string(longest);
}

// Columns as wide as their longest text where all fit; else each at least as its longest word, and of what
// is left by how much it lacks.
std::vector<double> PdfWriter::columnWidths(const Table& t) const {
    const double width = bodyWidth();
    constexpr double mostOfWord = 120; // pt: longer ones are broken
    std::vector<double> natural(t.columns.size());
    std::vector<double> least(t.columns.size());
    const auto take = [&](std::size_t i, const Cell& cell) {
        double whole = widthOf(cell.text);
        double word = widthOf(longestWord(cell.text));
        if (!cell.runs.empty()) {
            const std::string proof = proofWords(cell.runs);
            whole += widthOf(" " + proof, true);
            word = std::max(word, widthOf(longestWord(proof), true));
        }
        constexpr double gap = cellGap + 1;
        natural[i] = std::max(natural[i], whole + gap);
        least[i] = std::max(least[i], std::min(word, mostOfWord) + gap);
    };
    for (std::size_t i = 0; i < t.columns.size(); ++i) {
        take(i, {t.columns[i], {}});
        for (const auto& row : t.rows)
            if (i < row.size()) take(i, row[i]);
    }
    double sum = 0;
    double leastSum = 0;
    for (std::size_t i = 0; i < natural.size(); ++i) {
        sum += natural[i];
        leastSum += least[i];
    }
    if (sum <= width) {
        constexpr double mostStretch = 1.6;
        for (double& w : natural)
            w *= std::min(width / sum, mostStretch);
        return natural;
    }
    if (leastSum >= width) {
        for (double& w : least)
            w *= width / leastSum;
        return least;
    }
    for (std::size_t i = 0; i < natural.size(); ++i)
        least[i] += (width - leastSum) * (natural[i] - least[i]) / (sum - leastSum);
    return least;
}

void PdfWriter::operator()(const Table& t) {
    const std::vector<double> widths = columnWidths(t);
    std::function<void()> again;
    const auto row = [&](const std::vector<Cell>& cells, const char* tag, const Look& look) {
        std::vector<Broken> texts;
        double height = 0;
        for (std::size_t i = 0; i < cells.size(); ++i) {
            texts.push_back(broken(cells[i], look, widths[i] - cellGap, t.isFigure(i)));
            height = std::max(height, texts.back().height);
        }
        // As a whole where a page can hold it, else line by line.
        std::vector<std::size_t> next(cells.size());
        const int page = m_number;
        if (height <= bottom() - above - 40) keep(height + rowGap);
        if (m_number != page && again) again(); // a page that begins within a table begins with its titles
        const auto isLeft = [&] {
            for (std::size_t i = 0; i < texts.size(); ++i)
                if (next[i] < texts[i].lines.size()) return true;
            return false;
        };
        while (isLeft()) {
            const Marked one(m_cairo.get(), "TR");
            double x = side;
            double used = 0;
            for (std::size_t i = 0; i < texts.size(); ++i) {
                const std::size_t from = next[i];
                {
                    const Marked cell(m_cairo.get(), tag);
                    next[i] = draw(texts[i], from, x, m_y, bottom());
                }
                double drawn = 0;
                for (std::size_t k = from; k < next[i]; ++k)
                    drawn += texts[i].lines[k].height;
                used = std::max(used, drawn);
                x += widths[i];
            }
            m_y += used + rowGap;
            if (isLeft()) nextPage();
        }
        rule(m_y - 1);
        m_y += rowGap;
    };
    std::vector<Cell> titles;
    for (const std::string& column : t.columns)
        titles.push_back({column, {}});
    const Marked table(m_cairo.get(), "Table");
    keep(50);
    const auto head = [&] { row(titles, "TH", {smallSize, false, ink::quiet}); };
    head();
    again = head;
    for (const auto& cells : t.rows)
        row(cells, "TD", {smallSize});
    m_y += afterBlock;
}

} // namespace

quantity::Result<std::string> toPdf(const Document& document, Paper paper) {
    const FontMap map = fontMap();
    const auto failed = [] {
        return quantity::problem("the document cannot be drawn", "",
                                 "leave chapters out, or save it as a page");
    };
    PdfWriter first(document, paper, map.get(), {}, 0);
    if (!first.write()) return failed();
    PdfWriter second(document, paper, map.get(), first.pages(), first.count());
    if (!second.write()) return failed();
    return second.bytes();
}

} // namespace metrodos::report
