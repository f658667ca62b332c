#include "job/csv_table.h"

#include "quantity/text.h"

#include <algorithm>

namespace metrodos::job {
namespace {

constexpr std::size_t maxRows = 20'000;

} // namespace

std::string inQuotes(const std::string& field) {
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
    const std::string_view first = csv.substr(0, csv.find('\n'));
    char divider = ',';
    for (const char c : {';', '\t'})
        if (std::count(first.begin(), first.end(), c) > std::count(first.begin(), first.end(), divider))
            divider = c;
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
            field = quantity::oneLine(field);
    std::erase_if(rows, [](const auto& row) { return row.size() == 1 && row[0].empty(); });
    return rows;
}

} // namespace metrodos::job
