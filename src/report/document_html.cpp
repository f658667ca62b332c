#include "job/photo.h"
#include "report/document.h"
#include "report/svg.h"

#include <algorithm>

namespace metrodos::report {
namespace {

constexpr const char* style = R"(
:root { --ground: #fbf9f3; --ink: #26221b; --quiet: #6a6252; --line: #d9d2c2; --cool: #1a6a86; }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 46rem; padding: 1.2rem; background: var(--ground); color: var(--ink);
       font: 1rem/1.5 "B612", "DejaVu Sans", sans-serif; }
h1, h2 { color: var(--firm); }
h1 { font-size: 1.6rem; line-height: 1.2; margin: 0.4rem 0 0; }
h2 { font-size: 1.15rem; margin: 2rem 0 0.5rem; border-bottom: 1px solid var(--line); padding-bottom: 0.2rem; }
p.quiet, .proof, footer { color: var(--quiet); font-size: 0.9rem; }
p.note { border-left: 3px solid var(--line); padding-left: 0.8rem; }
.wide { overflow-x: auto; }
table { border-collapse: collapse; width: 100%; font-size: 0.92rem; }
th, td { text-align: left; vertical-align: top; padding: 0.3rem 0.6rem 0.3rem 0; border-bottom: 1px solid var(--line); }
th { color: var(--quiet); font-weight: normal; }
td.date { white-space: nowrap; }
td.figure, th.figure { text-align: right; font-variant-numeric: tabular-nums; }
figure { margin: 0; }
svg { width: 100%; min-width: 34rem; height: auto; display: block; }
img.logo { float: right; max-width: 9rem; max-height: 4.5rem; margin-left: 1rem; }
a { color: inherit; }
sup a { text-decoration: none; color: var(--cool); }
nav ol { padding-left: 1.2rem; }
.digest { overflow-wrap: anywhere; }
@media print { svg { min-width: 0; } .wide { overflow: visible; } body { background: none; max-width: none; padding: 0; font-size: 10pt; }
  nav { display: none; } h2 { break-after: avoid; } table, svg, li { break-inside: avoid; } section.own { break-before: page; break-after: page; } @page { margin: 18mm; } }
)";

std::string html(const Cell& cell) {
    std::string out = xmlText(cell.text);
    if (!cell.runs.empty())
        out += " <sup><a href=\"#run-" + std::to_string(cell.runs.front()) + "\">" +
               xmlText(proofWords(cell.runs)) + "</a></sup>";
    return out;
}

struct HtmlWriter {
    std::string operator()(const Paragraph& p) const { return "<p>" + html(p.text) + "</p>\n"; }
    std::string operator()(const List& l) const {
        const char* tag = l.isNumbered ? "ol" : "ul";
        std::string out = std::string("<") + tag + ">\n";
        for (const Cell& item : l.items)
            out += "<li>" + html(item) + "</li>\n";
        return out + "</" + tag + ">\n";
    }
    std::string operator()(const Table& t) const {
        const auto cls = [&](std::size_t column) {
            return std::string(t.isFigure(column) ? " class=\"figure\"" : "");
        };
        // A date is not broken at its hyphens.
        const auto clsOf = [&](std::size_t column, const std::string& text) {
            const bool isDate = text.size() == 10 && text[4] == '-' && text[7] == '-';
            return isDate ? std::string(" class=\"date\"") : cls(column);
        };
        std::string out = "<div class=\"wide\"><table>\n<thead><tr>";
        for (std::size_t i = 0; i < t.columns.size(); ++i)
            out += "<th scope=\"col\"" + cls(i) + ">" + xmlText(t.columns[i]) + "</th>";
        out += "</tr></thead>\n<tbody>\n";
        for (const auto& row : t.rows) {
            out += "<tr>";
            for (std::size_t i = 0; i < row.size(); ++i)
                out += "<td" + clsOf(i, row[i].text) + ">" + html(row[i]) + "</td>";
            out += "</tr>\n";
        }
        return out + "</tbody></table></div>\n";
    }
    // On a telephone a picture keeps its letters readable, and is moved under the finger.
    static std::string picture(const std::string& svg) {
        return "<div class=\"wide picture\">" + withoutProlog(svg) + "</div>\n";
    }
    std::string operator()(const Ranges& r) const { return picture(toSvg(r)); }
    std::string operator()(const WayStrip& s) const { return picture(toSvg(s)); }
    std::string operator()(const WeekHours& w) const { return picture(toSvg(w)); }
    std::string operator()(const Drawing& d) const {
        return "<figure>" + picture(d.svg) + "<figcaption class=\"proof\">" + xmlText(d.words) +
               "</figcaption></figure>\n";
    }
};

} // namespace

std::string toHtml(const Document& d) {
    std::string out = "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
                      "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n"
                      "<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; style-src "
                      "'unsafe-inline'; img-src data:\">\n"
                      "<title>" +
                      xmlText(d.title) + "</title>\n<style>:root { --firm: " +
                      (isColour(d.firm.colour) ? d.firm.colour : ink::black) + "; }" + style +
                      "</style>\n</head>\n<body>\n<header>\n";
    if (!d.firm.logo.empty())
        out += "<img class=\"logo\" alt=\"" + xmlText(d.firm.name) + "\" src=\"data:image/png;base64," +
               job::base64(d.firm.logo) + "\">\n";
    if (!d.firm.name.empty()) out += "<p class=\"quiet\">" + xmlText(d.firm.name) + "</p>\n";
    out += "<h1>" + xmlText(d.title) + "</h1>\n<p class=\"quiet\">" + xmlText(d.subtitle) +
           "</p>\n</header>\n<nav><ol>\n";
    for (const Chapter& c : d.chapters)
        out += "<li><a href=\"#" + xmlText(c.id) + "\">" + xmlText(c.title) + "</a></li>\n";
    out += "</ol></nav>\n<main>\n";
    for (const Chapter& c : d.chapters) {
        out += "<section id=\"" + xmlText(c.id) + "\"" + (c.hasOwnPage ? " class=\"own\"" : "") + ">\n<h2>" +
               xmlText(c.title) + "</h2>\n";
        for (const Block& block : c.blocks)
            out += std::visit(HtmlWriter{}, block);
        if (!c.note.empty()) out += "<p class=\"note\">" + xmlText(c.note) + "</p>\n";
        out += "</section>\n";
    }
    if (!d.proof.empty()) {
        out += "<section id=\"proof\">\n<h2>";
        out += proofTitle;
        out += "</h2>\n<ol class=\"proof\">\n";
        for (const auto& [first, run] : numbered(d.proof)) {
            out += "<li value=\"" + std::to_string(first) + "\" id=\"run-" + std::to_string(first) + "\">";
            for (int i = 1; i < run->count; ++i)
                out += "<a id=\"run-" + std::to_string(first + i) + "\"></a>";
            if (run->count > 1) out += xmlText(numberWords(first, *run)) + ": ";
            out += xmlText(run->words) + "</li>\n";
        }
        out += "</ol>\n</section>\n";
    }
    return out + "</main>\n<footer><p class=\"digest\">" + xmlText(d.date) + ". Records: SHA-256 " +
           xmlText(d.digest) + "</p></footer>\n</body>\n</html>\n";
}

} // namespace metrodos::report
