#include "job/csv.h"

#include "house/validate.h"
#include "job/csv_table.h"
#include "job/survey_fields.h"
#include "quantity/ascii.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <algorithm>
#include <charconv>
#include <map>

namespace metrodos::job {
namespace {

using namespace house;
using quantity::problem;
using quantity::Result;

using Row = std::map<std::string, std::string>;

struct Fault {
    std::string what;
};

// A value of a field as it stands in a cell, and back: null is an empty cell.
std::string cellOf(const json& value) {
    if (value.is_null()) return "";
    if (value.is_string()) return value.get<std::string>();
    if (value.is_boolean()) return value.get<bool>() ? "yes" : "no";
    return value.dump(); // a number: the shortest that reads as the same
}

template <typename Item>
json valueOf(const Field<Item>& field, const std::string& cell) {
    if (cell.empty()) return nullptr;
    const json types = field.schema.value("type", json("string"));
    const auto is = [&](const char* type) {
        return types.is_array() ? std::find(types.begin(), types.end(), type) != types.end() : types == type;
    };
    if (is("boolean") && (cell == "yes" || cell == "no")) return cell == "yes";
    if (is("number") || is("integer")) {
        double value = 0;
        const auto [end, error] = std::from_chars(cell.data(), cell.data() + cell.size(), value);
        if (error == std::errc{} && end == cell.data() + cell.size()) return value;
    }
    return cell; // which the reader refuses where it is no text
}

template <typename Item>
const std::vector<Field<Item>>& columnsOf() {
    static const std::vector<Field<Item>> columns = [] {
        std::vector<Field<Item>> out = fieldsOf<Item>();
        std::erase_if(out, [](const Field<Item>& f) { return f.csv.empty(); });
        return out;
    }();
    return columns;
}

// All columns, in the order in which they are written.
std::vector<std::string> columnNames() {
    std::vector<std::string> out{"kind", "id"};
    const auto add = [&](const auto& fields) {
        for (const auto& f : fields)
            if (std::find(out.begin(), out.end(), f.csv) == out.end()) out.push_back(f.csv);
    };
    add(columnsOf<Room>());
    add(columnsOf<Jack>());
    add(columnsOf<Connection>());
    add(columnsOf<Device>());
    out.insert(out.end(), {"from", "to", "ports"});
    return out;
}

template <typename Item>
Row rowOf(const char* kind, const House& house, const Item& item) {
    Row row{{"kind", kind}, {"id", item.id}};
    for (const Field<Item>& f : columnsOf<Item>())
        row[f.csv] = cellOf(f.write(house, item));
    return row;
}

// The thing of that id, or a new one, with the columns that the table has; the others stay as they are.
template <typename Item>
Item& itemOf(std::vector<Item>& items, const Row& row) {
    const std::string& id = row.at("id");
    auto hit = std::find_if(items.begin(), items.end(), [&](const Item& i) { return i.id == id; });
    if (hit == items.end()) {
        items.push_back({});
        hit = items.end() - 1;
        hit->id = id;
    }
    for (const Field<Item>& f : columnsOf<Item>()) {
        const auto cell = row.find(f.csv);
        if (cell == row.end()) continue;
        try {
            f.read(*hit, json{{f.key, valueOf(f, cell->second)}});
        } catch (const quantity::BadField&) {
            throw Fault{quantity::inQuotes(cell->second) + " does not fit the column " + f.csv};
        }
    }
    if (hit->label.empty()) hit->label = id; // a table may have no names: then the id is one
    return *hit;
}

std::string endText(const House& house, const PortRef& end) {
    if (house.jack(end.device) != nullptr) return "jack:" + end.device;
    if (house.room(end.device) != nullptr) return "room:" + end.device;
    return (house.coaxPart(end.device) != nullptr ? "part:" : "device:") + end.device + "." + end.port;
}

std::optional<PortRef> endOf(const std::string& text) {
    const std::size_t colon = text.find(':');
    if (colon == std::string::npos) return std::nullopt;
    const std::string kind = text.substr(0, colon);
    const std::string rest = text.substr(colon + 1);
    if (kind == "jack" || kind == "room") return PortRef{rest, ""};
    const std::size_t dot = rest.find('.');
    if ((kind != "part" && kind != "device") || dot == std::string::npos) return std::nullopt;
    return PortRef{rest.substr(0, dot), rest.substr(dot + 1)};
}

template <typename T>
T wordOf(std::optional<T> value, const std::string& text, const char* column) {
    if (!value) throw Fault{quantity::inQuotes(text) + " is not a " + column};
    return *value;
}

std::vector<Port> portsIn(const std::string& text) {
    std::vector<Port> out;
    std::size_t from = 0;
    while (from < text.size()) {
        const std::size_t to = std::min(text.find(' ', from), text.size());
        const std::string one = text.substr(from, to - from);
        from = to + 1;
        if (one.empty()) continue;
        const std::size_t a = one.find(':');
        const std::size_t b = one.find(':', a == std::string::npos ? a : a + 1);
        if (a == std::string::npos)
            throw Fault{"a port is written ID:KIND:PHY, not " + quantity::inQuotes(one)};
        const std::string kind = one.substr(a + 1, b == std::string::npos ? b : b - a - 1);
        out.push_back({one.substr(0, a), one.substr(0, a), wordOf(portKind(kind), kind, "kind of port"),
                       b == std::string::npos ? "" : one.substr(b + 1)});
    }
    return out;
}

void take(House& house, Row& row) {
    if (row["id"].empty()) {
        std::string stem;
        for (const char c : row["label"]) {
            const char small = quantity::ascii::lower(c);
            stem += isId(std::string_view(&small, 1)) ? small : '-';
        }
        row["id"] = house.freeId(stem.empty() ? "thing" : stem.substr(0, 48));
    }
    const std::string& kind = row["kind"];
    if (kind == "room") {
        (void)itemOf(house.rooms, row);
    } else if (kind == "jack") {
        (void)itemOf(house.jacks, row);
    } else if (kind == "run") {
        Connection& c = itemOf(house.connections, row);
        if (!row.contains("from") && !row.contains("to")) return;
        c.ends.clear();
        for (const char* side : {"from", "to"}) {
            if (row[side].empty()) continue;
            const auto end = endOf(row[side]);
            if (!end)
                throw Fault{quantity::inQuotes(row[side]) +
                            " is not an end: write jack:ID or device:ID.PORT"};
            c.ends.push_back(*end);
        }
    } else if (kind == "device") {
        Device& d = itemOf(house.devices, row);
        if (!row.contains("ports")) return;
        std::vector<Port> ports = portsIn(row["ports"]);
        for (Port& port : ports) // what the table does not hold stays
            for (const Port& old : d.ports)
                if (old.id == port.id) {
                    port.label = old.label;
                    port.jack = old.jack;
                    port.strip = old.strip;
                }
        d.ports = std::move(ports);
    } else {
        throw Fault{quantity::inQuotes(kind) + " is not a kind: room, jack, run or device"};
    }
}

} // namespace

std::string toCsv(const House& house) {
    const std::vector<std::string> columns = columnNames();
    std::string out;
    const auto write = [&](Row row) {
        for (const std::string& column : columns) {
            if (column != columns.front()) out += ',';
            out += inQuotes(row[column]);
        }
        out += "\r\n";
    };
    Row names;
    for (const std::string& column : columns)
        names[column] = column;
    write(names);
    for (const Room& r : house.rooms)
        write(rowOf("room", house, r));
    for (const Jack& j : house.jacks)
        write(rowOf("jack", house, j));
    for (const Device& d : house.devices) {
        Row row = rowOf("device", house, d);
        for (const Port& p : d.ports)
            row["ports"] += (row["ports"].empty() ? "" : " ") + p.id + ":" + std::string(name(p.kind)) +
                            (p.phy.empty() ? "" : ":" + p.phy);
        write(std::move(row));
    }
    for (const Connection& c : house.connections) {
        if (c.ends.size() > 2) continue; // a network of many adapters is no run
        Row row = rowOf("run", house, c);
        if (!c.ends.empty()) row["from"] = endText(house, c.ends[0]);
        if (c.ends.size() > 1) row["to"] = endText(house, c.ends[1]);
        write(std::move(row));
    }
    return out;
}

Result<House> withCsv(const House& house, std::string_view csv) {
    if (csv.size() > maxCsvBytes) return problem("the table is larger than 16 MB", "", "split it");
    if (csv.starts_with("\xef\xbb\xbf")) csv.remove_prefix(3); // the byte order mark of a spreadsheet
    const auto rows = rowsOf(csv);
    if (!rows) return tl::unexpected(rows.error());
    if (rows->empty() || std::find(rows->front().begin(), rows->front().end(), "kind") == rows->front().end())
        return problem("the first row does not name the columns", "row 1",
                       "begin it with kind,id,label,room");
    House out = house;
    for (std::size_t r = 1; r < rows->size(); ++r) {
        Row row;
        for (std::size_t c = 0; c < rows->front().size() && c < (*rows)[r].size(); ++c)
            row[rows->front()[c]] = (*rows)[r][c];
        try {
            take(out, row);
        } catch (const Fault& fault) {
            return problem(fault.what, "row " + std::to_string(r + 1), "correct that row; nothing was added");
        }
    }
    if (const auto faults = validate(out); !faults.empty()) return tl::unexpected(faults.front());
    return out;
}

} // namespace metrodos::job
