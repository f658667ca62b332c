#include "job/entry_line.h"

#include "job/entry_reader.h"

#include <algorithm>

namespace metrodos::job {

using quantity::Result;

Result<Entered> enterLine(const House& house, const catalog::Catalog& catalog, std::string_view line) {
    return EntryReader(house, catalog, fieldsOf(line)).read();
}

std::optional<std::size_t> wrongField(const House& house, const catalog::Catalog& catalog,
                                      std::string_view line) {
    const auto whole = enterLine(house, catalog, line);
    if (whole) return std::nullopt;
    // It is quoted, or else the shortest beginning of the line that is wrong for the same reason ends in it.
    const std::vector<std::string> fields = fieldsOf(line);
    for (std::size_t i = 0; i < fields.size(); ++i)
        if (!fields[i].empty() && whole.error().what.find("“" + fields[i] + "”") != std::string::npos)
            return i;
    std::vector<std::string> begun;
    for (std::size_t i = 0; i + 1 < fields.size(); ++i) {
        begun.push_back(fields[i]);
        const auto part = EntryReader(house, catalog, begun).read();
        if (!part && part.error().what == whole.error().what) return i;
    }
    return fields.size() - 1;
}

EnteredLines enterLines(const House& house, const catalog::Catalog& catalog, std::string_view lines) {
    EnteredLines out{house, 0, {}, {}, {}};
    for (std::size_t from = 0; from < lines.size();) {
        const std::size_t to = std::min(lines.find('\n', from), lines.size());
        const std::string line = trimmed(lines.substr(from, to - from));
        from = to + 1;
        if (line.empty() || line.front() == '#') continue;
        if (!out.problem) {
            auto entered = enterLine(out.house, catalog, line);
            if (entered) {
                out.house = std::move(entered->house);
                out.label = std::move(entered->label);
                ++out.count;
                continue;
            }
            out.problem = entered.error();
        }
        out.rest.push_back(line);
    }
    return out;
}

} // namespace metrodos::job
