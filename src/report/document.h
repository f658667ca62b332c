// A document of a job, whatever it is written as: chapters of blocks, and figures that lead to their runs.
//
// The writers (document_html.cpp, document_markdown.cpp, document_pdf.cpp) know nothing of houses, and what
// fills a document (handover.cpp, offer.cpp) nothing of forms: one description is all that they share. Texts
// are plain text; writers escape them.
#pragma once

#include "benchmark/week.h"
#include "catalog/spread.h"
#include "quantity/problem.h"

#include <algorithm>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace metrodos::report {

/// A text, or a figure with the numbers of the runs that it stands on (Document::proof), rising from 1.
struct Cell {
    std::string text;
    std::vector<int> runs = {};
};

struct Paragraph {
    Cell text;
};
struct List {
    std::vector<Cell> items;
    bool isNumbered = false;
};
struct Table {
    std::vector<std::string> columns;
    std::vector<std::vector<Cell>> rows;   ///< as long as the columns
    std::vector<std::size_t> figures = {}; ///< columns that are set to the right

    [[nodiscard]] bool isFigure(std::size_t column) const {
        return std::find(figures.begin(), figures.end(), column) != figures.end();
    }
};
/// Ranges on one logarithmic axis of rates.
struct Ranges {
    struct Row {
        std::string title;
        std::optional<catalog::RateSpread> before;
        std::optional<catalog::RateSpread> after;
        std::optional<quantity::BitRate> need;
    };
    std::vector<Row> rows;
    std::optional<quantity::BitRate> low = {}; ///< ends of the axis; nothing: by the rows
    std::optional<quantity::BitRate> high = {};
};
/// A way as a channel from end to end, as wide at each element as that lets through.
struct WayStrip {
    std::string title;
    struct Element {
        std::string label;
        quantity::BitRate forward; ///< the median of its ceiling
        quantity::BitRate backward;
        bool isLimit = false;
    };
    std::vector<Element> elements;
    std::optional<quantity::BitRate> measuredForward;
    std::optional<quantity::BitRate> measuredBackward;
};
struct WeekHours {
    std::string title;
    benchmark::Week week;
};
struct Drawing {
    std::string svg;   ///< a whole document of its own
    std::string words; ///< what it shows, for who does not see it
};
using Block = std::variant<Paragraph, List, Table, Ranges, WayStrip, WeekHours, Drawing>;

struct Chapter {
    std::string id; ///< of letters and hyphens: "wanted"
    std::string title;
    std::vector<Block> blocks;
    std::string note = {};   ///< added by hand
    bool hasOwnPage = false; ///< on paper: to be hung up
};

/// A run that a figure stands on, or many alike.
struct ProofRun {
    std::string id;    ///< of the first
    std::string words; ///< when, which way, how, and what it carried
    int count = 1;     ///< runs, whose numbers follow one another
};

/// Who hands the document over.
struct Firm {
    std::string name;               ///< empty: none
    std::string logo = {};          ///< a PNG file of at most maxLogoBytes (checkedLogo); empty: none
    std::string colour = "#1d6a85"; ///< of headings, isColour
};

struct Document {
    std::string title;
    std::string subtitle;
    std::string date; ///< "2026-05-04"
    Firm firm;
    std::vector<Chapter> chapters;
    std::vector<ProofRun> proof; ///< in the order of their numbers
    std::string digest;          ///< of the job's records (job/record_digest.h), 64 hexadecimal digits
};

/// Each entry of the proof with the first of its numbers.
[[nodiscard]] std::vector<std::pair<int, const ProofRun*>> numbered(const std::vector<ProofRun>& proof);
/// "4", "4–27".
[[nodiscard]] std::string numberWords(int first, const ProofRun& runs);
inline constexpr const char* proofTitle = "The runs that the figures stand on";

/// "[1–3, 7]"; empty for no runs.
[[nodiscard]] std::string proofWords(const std::vector<int>& runs);

/// One file without scripts, for a telephone, a screen and paper; pictures are SVG.
[[nodiscard]] std::string toHtml(const Document& document);
[[nodiscard]] std::string toMarkdown(const Document& document);

enum class Paper { a4, letter };
/// Tagged, with its letters embedded, links, page numbers and pictures as vectors (ISO 32000-1). A drawing
/// that cannot be drawn becomes its words.
[[nodiscard]] quantity::Result<std::string> toPdf(const Document& document, Paper paper = Paper::a4);

/// By the ending of the file's name: ".html", ".pdf", ".md".
[[nodiscard]] quantity::Result<std::string> written(const Document& document, std::string_view ending,
                                                    Paper paper = Paper::a4);

/// Blocks as SVG drawings of their own.
[[nodiscard]] std::string toSvg(const Ranges& ranges);
[[nodiscard]] std::string toSvg(const WayStrip& strip);
[[nodiscard]] std::string toSvg(const WeekHours& hours);
/// The same in pieces of at most so many rows, on the axis of the whole.
[[nodiscard]] std::vector<Ranges> partsOf(const Ranges& ranges, std::size_t rows);
/// What they show, in one line.
[[nodiscard]] std::string wordsOf(const Ranges& ranges);
[[nodiscard]] std::string wordsOf(const WayStrip& strip);
[[nodiscard]] std::string wordsOf(const WeekHours& hours);

/// The digest that a document written by toHtml, toMarkdown or toPdf carries; empty: none.
[[nodiscard]] std::string digestIn(std::string_view document);

inline constexpr std::size_t maxLogoBytes = 512U * 1024;
/// The bytes of a PNG file that can be drawn; else what is wrong with it.
[[nodiscard]] quantity::Result<std::string> checkedLogo(std::string bytes);
/// "#1d6a85".
[[nodiscard]] bool isColour(std::string_view text);

} // namespace metrodos::report
