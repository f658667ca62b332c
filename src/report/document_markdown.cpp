#include "quantity/format.h"
#include "quantity/text.h"
#include "report/document.h"

#include <algorithm>

namespace metrodos::report {
namespace {

// Every sign that means something in CommonMark, in a line that begins with none.
std::string escaped(std::string_view text) {
    std::string out;
    for (const char c : quantity::oneLine(text)) {
        if (std::string_view("\\`*_{}[]<>#+|~!&").find(c) != std::string_view::npos) out += '\\';
        out += c;
    }
    // "1." and "-" at the beginning would be lists.
    const std::size_t digits = out.find_first_not_of("0123456789");
    if (digits != std::string::npos && digits > 0 && (out[digits] == '.' || out[digits] == ')'))
        out.insert(digits, "\\");
    if (!out.empty() && (out.front() == '-' || out.front() == '=')) out.insert(0, "\\");
    return out;
}

std::string markdown(const Cell& cell) {
    const std::string proof = proofWords(cell.runs);
    return escaped(cell.text) + (proof.empty() ? "" : " " + escaped(proof));
}

struct MarkdownWriter {
    std::string operator()(const Paragraph& p) const { return markdown(p.text) + "\n\n"; }
    std::string operator()(const List& l) const {
        std::string out;
        int n = 0;
        for (const Cell& item : l.items)
            out += (l.isNumbered ? std::to_string(++n) + ". " : std::string("- ")) + markdown(item) + "\n";
        return out + "\n";
    }
    std::string operator()(const Table& t) const {
        std::string out = "|";
        for (const std::string& column : t.columns)
            out += " " + escaped(column) + " |";
        out += "\n|";
        for (std::size_t i = 0; i < t.columns.size(); ++i)
            out += t.isFigure(i) ? " ---: |" : " --- |";
        out += "\n";
        for (const auto& row : t.rows) {
            out += "|";
            for (const Cell& cell : row)
                out += " " + (cell.text.empty() ? "–" : markdown(cell)) + " |"; // readers join empty ones
            out += "\n";
        }
        return out + "\n";
    }
    // What a drawing says in figures.
    std::string operator()(const Ranges& r) const {
        std::string out;
        const auto words = [](const catalog::RateSpread& s) {
            return quantity::plain(s.p10) + " to " + quantity::plain(s.p90);
        };
        for (const Ranges::Row& row : r.rows)
            out += "- " +
                   escaped(row.title + ": " + (row.before ? "before " + words(*row.before) : "") +
                           (row.before && row.after ? ", " : "") +
                           (row.after ? "now " + words(*row.after) : "") +
                           (row.need ? ", needed " + quantity::plain(*row.need) : "")) +
                   "\n";
        return out + "\n";
    }
    std::string operator()(const WayStrip& s) const { return escaped(wordsOf(s)) + "\n\n"; }
    std::string operator()(const WeekHours& w) const {
        static constexpr const char* days[] = {"Monday", "Tuesday",  "Wednesday", "Thursday",
                                               "Friday", "Saturday", "Sunday"};
        Table table{{"Day", "Slowest hour", "Fastest hour", "Drop-outs"}, {}, {3}};
        for (std::size_t day = 0; day < w.week.size(); ++day) {
            const auto& hours = w.week[day];
            const benchmark::WeekHour* slow = nullptr;
            const benchmark::WeekHour* fast = nullptr;
            int drops = 0;
            for (const benchmark::WeekHour& h : hours) {
                drops += h.dropOuts;
                if (!h.p50) continue;
                if (slow == nullptr || h.p50->bps() < slow->p50->bps()) slow = &h;
                if (fast == nullptr || h.p50->bps() > fast->p50->bps()) fast = &h;
            }
            if (slow == nullptr && drops == 0) continue;
            const auto cell = [&](const benchmark::WeekHour* h) -> Cell {
                if (h == nullptr) return {"–", {}};
                return {std::to_string(h - hours.data()) + " h: " + quantity::plain(*h->p50), {}};
            };
            table.rows.push_back({{days[day], {}}, cell(slow), cell(fast), {std::to_string(drops), {}}});
        }
        return escaped(wordsOf(w)) + "\n\n" + (*this)(table);
    }
    std::string operator()(const Drawing& d) const { return "*" + escaped(d.words) + "*\n\n"; }
};

} // namespace

std::string toMarkdown(const Document& d) {
    std::string out = "# " + escaped(d.title) + "\n\n";
    if (!d.firm.name.empty()) out += escaped(d.firm.name) + "\n\n";
    out += escaped(d.subtitle) + "\n\n";
    for (const Chapter& c : d.chapters) {
        out += "## " + escaped(c.title) + "\n\n";
        for (const Block& block : c.blocks)
            out += std::visit(MarkdownWriter{}, block);
        if (!c.note.empty()) out += "> " + escaped(c.note) + "\n\n";
    }
    if (!d.proof.empty()) {
        out += "## ";
        out += proofTitle;
        out += "\n\n";
        for (const auto& [first, run] : numbered(d.proof))
            out += "- " + escaped(numberWords(first, *run) + ": " + run->words) + "\n";
        out += "\n";
    }
    return out + escaped(d.date) + ". Records: SHA-256 " + d.digest + "\n";
}

} // namespace metrodos::report
