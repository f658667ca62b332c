#include "job/csv_table.h"

#include "quantity/text.h"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace metrodos::job {
namespace {

constexpr std::size_t maxRows = 20'000;
constexpr char mark = '\''; // before what a spreadsheet would run

bool isNumber(std::string_view text) {
    double value = 0;
    if (text.starts_with('+')) text.remove_prefix(1);
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    return error == std::errc() && end == text.data() + text.size() && std::isfinite(value);
}

// Whether a spreadsheet would take it for a formula, by itself or behind marks.
bool isFormula(std::string_view text) {
    while (text.starts_with(mark))
        text.remove_prefix(1);
    return !text.empty() && std::string_view("=+-@\t\r").find(text.front()) != std::string_view::npos;
}

// The commonest outside of quotation marks in the first line.
char dividerOf(std::string_view csv) {
    std::size_t commas = 0;
    std::size_t semicolons = 0;
    std::size_t tabs = 0;
    bool inside = false;
    for (const char c : csv) {
        if (c == '"') inside = !inside;
        if (inside) continue;
        if (c == '\n') break;
        commas += c == ',' ? 1 : 0;
        semicolons += c == ';' ? 1 : 0;
        tabs += c == '\t' ? 1 : 0;
    }
    if (semicolons > commas) return tabs > semicolons ? '\t' : ';';
    return tabs > commas ? '\t' : ',';
}

} // namespace

std::string inQuotes(const std::string& text) {
    std::string field = isFormula(text) && !isNumber(text) ? mark + text : text;
    if (field.find_first_of(",\"\r\n;\t") == std::string::npos) return field;
    std::string out = "\"";
    for (const char c : field) {
        if (c == '"') out += '"';
        out += c;
    }
    return out + '"';
}

std::string csvRow(const std::vector<std::string>& fields) {
    std::string out;
    for (const std::string& field : fields)
        out += (&field == &fields.front() ? "" : ",") + inQuotes(field);
    return out + "\r\n";
}

quantity::Result<std::vector<std::vector<std::string>>> rowsOf(std::string_view csv) {
    const char divider = dividerOf(csv);
    std::vector<std::vector<std::string>> rows{{""}};
    bool inside = false;
    for (std::size_t i = 0; i < csv.size(); ++i) {
        const char c = csv[i];
        std::string& field = rows.back().back();
        if (inside) {
            if (c == '"' && i + 1 < csv.size() && csv[i + 1] == '"') {
                field += '"';
                ++i;
            } else if (c == '"') {
                inside = false;
            } else {
                field += c;
            }
        } else if (c == '"' && field.empty()) {
            inside = true;
        } else if (c == divider) {
            rows.back().emplace_back();
        } else if (c == '\n') {
            rows.push_back({""});
            if (rows.size() > maxRows)
                return quantity::problem("the table has more than 20000 rows", "", "split it");
        } else if (c != '\r') {
            field += c;
        }
    }
    if (inside)
        return quantity::problem("a quotation mark is not closed", "",
                                 "close it, or check that the file is whole");
    for (auto& row : rows)
        for (std::string& field : row)
            if (field = quantity::oneLine(field); field.starts_with(mark) && isFormula(field))
                field.erase(0, 1);
    std::erase_if(rows, [](const auto& row) { return row.size() == 1 && row[0].empty(); });
    return rows;
}

} // namespace metrodos::job
