// A document of a job, whatever it is written as: chapters of blocks, and figures that lead to their runs.
//
// The writers (document_html.cpp, document_markdown.cpp) know nothing of houses, and what fills a document
// (handover.cpp) nothing of forms: one description is all that they share. Texts are plain text; writers
// escape them.
#pragma once

#include "catalog/spread.h"
#include "report/section.h"

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
};
struct Drawing {
    Section section;
    std::string words; ///< what it shows, for who does not see it
};
using Block = std::variant<Paragraph, List, Table, Ranges, Drawing>;

struct Chapter {
    std::string id; ///< of letters and hyphens: "wanted"
    std::string title;
    std::vector<Block> blocks;
    std::string note = {}; ///< added by hand
};

/// A run that a figure stands on.
struct ProofRun {
    std::string id;
    std::string words; ///< when, which way, how, and what it carried
};

struct Document {
    std::string title;
    std::string subtitle;
    std::string date; ///< "2026-05-04"
    std::string firm; ///< empty: none
    std::vector<Chapter> chapters;
    std::vector<ProofRun> proof; ///< number n is the n-th
    std::string digest;          ///< of the job's records (job/record_digest.h), 64 hexadecimal digits
};

/// "[1–3, 7]"; empty for no runs.
[[nodiscard]] std::string proofWords(const std::vector<int>& runs);

/// One file without scripts, for a telephone, a screen and paper; pictures are SVG.
[[nodiscard]] std::string toHtml(const Document& document);
[[nodiscard]] std::string toMarkdown(const Document& document);

/// Ranges as an SVG drawing of its own.
[[nodiscard]] std::string toSvg(const Ranges& ranges);

/// The digest that a document written by toHtml or toMarkdown carries; empty: none.
[[nodiscard]] std::string digestIn(std::string_view document);

} // namespace metrodos::report
