#include "job/csv.h"

#include "house/validate.h"
#include "job/csv_table.h"
#include "quantity/parse.h"

#include <algorithm>
#include <charconv>
#include <map>

namespace metrodos::job {
namespace {

using namespace house;
using quantity::problem;
using quantity::Result;

constexpr std::size_t largestCsv = 16U * 1024 * 1024;
constexpr std::array<const char*, 14> columns{"kind",           "id",   "label", "room",     "floor",
                                              "building",       "type", "class", "length_m", "good_pairs",
                                              "bad_connectors", "from", "to",    "ports"};

using Row = std::map<std::string, std::string>;

std::string number(double value) {
    std::array<char, 32> text{};
    const auto end = std::to_chars(text.data(), text.data() + text.size(), value).ptr;
    return {text.data(), end};
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

struct Fault {
    std::string what;
};

double numberOf(const std::string& text, const char* column) {
    double value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc{} || end != text.data() + text.size())
        throw Fault{"“" + text.substr(0, 40) + "” is no number for " + column};
    return value;
}

std::optional<int> wholeOf(const std::string& text, const char* column, int low, int high) {
    if (text.empty()) return std::nullopt;
    const auto value = quantity::parseWhole(text, low, high);
    if (!value) throw Fault{"“" + text.substr(0, 40) + "” does not fit " + column};
    return static_cast<int>(*value);
}

template <typename T>
T wordOf(std::optional<T> value, const std::string& text, const char* column) {
    if (!value) throw Fault{"“" + text.substr(0, 40) + "” is not a " + column};
    return *value;
}

template <typename Items, typename Item>
void put(Items& items, Item item) {
    const auto hit =
        std::find_if(items.begin(), items.end(), [&](const auto& other) { return other.id == item.id; });
    if (hit == items.end())
        items.push_back(std::move(item));
    else
        *hit = std::move(item);
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
            throw Fault{"a port is written ID:KIND:PHY, not “" + one.substr(0, 40) + "”"};
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
            const char small = c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
            stem += isId(std::string_view(&small, 1)) ? small : '-';
        }
        row["id"] = house.freeId(stem.empty() ? "thing" : stem.substr(0, 48));
    }
    const std::string& kind = row["kind"];
    if (kind == "room") {
        put(house.rooms, Room{row["id"], row["label"], wholeOf(row["floor"], "floor", -10, 100).value_or(0),
                              row["building"]});
    } else if (kind == "jack") {
        put(house.jacks, Jack{row["id"], row["label"], row["room"],
                              wordOf(jackKind(row["type"]), row["type"], "kind of jack")});
    } else if (kind == "run") {
        Connection c;
        if (const Connection* old = house.connection(row["id"])) c = *old;
        c.id = row["id"];
        c.label = row["label"];
        c.medium = wordOf(medium(row["type"]), row["type"], "medium");
        c.cableClass = row["class"];
        c.length.reset();
        if (!row["length_m"].empty())
            c.length = quantity::Length::metres(numberOf(row["length_m"], "length_m"));
        c.goodPairs = wholeOf(row["good_pairs"], "good_pairs", 0, 4);
        c.badConnectors = wholeOf(row["bad_connectors"], "bad_connectors", 0, 2);
        c.ends.clear();
        for (const char* side : {"from", "to"}) {
            if (row[side].empty()) continue;
            const auto end = endOf(row[side]);
            if (!end)
                throw Fault{"“" + row[side].substr(0, 60) +
                            "” is not an end: write jack:ID or device:ID.PORT"};
            c.ends.push_back(*end);
        }
        put(house.connections, std::move(c));
    } else if (kind == "device") {
        Device d;
        if (const Device* old = house.device(row["id"])) d = *old;
        d.id = row["id"];
        d.label = row["label"];
        d.kind = wordOf(deviceKind(row["type"]), row["type"], "kind of device");
        d.deviceClass = row["class"];
        d.room = row["room"];
        std::vector<Port> ports = portsIn(row["ports"]);
        for (Port& port : ports) // what the table does not hold stays
            for (const Port& old : d.ports)
                if (old.id == port.id) {
                    port.label = old.label;
                    port.jack = old.jack;
                    port.strip = old.strip;
                }
        d.ports = std::move(ports);
        put(house.devices, std::move(d));
    } else {
        throw Fault{"“" + kind.substr(0, 40) + "” is not a kind: room, jack, run or device"};
    }
}

} // namespace

std::string toCsv(const House& house) {
    std::string out;
    const auto write = [&](Row row) {
        for (const char* column : columns) {
            if (column != columns.front()) out += ',';
            out += inQuotes(row[column]);
        }
        out += "\r\n";
    };
    Row names;
    for (const char* column : columns)
        names[column] = column;
    write(names);
    for (const Room& r : house.rooms)
        write({{"kind", "room"},
               {"id", r.id},
               {"label", r.label},
               {"floor", std::to_string(r.floor)},
               {"building", r.building}});
    for (const Jack& j : house.jacks)
        write({{"kind", "jack"},
               {"id", j.id},
               {"label", j.label},
               {"room", j.room},
               {"type", std::string(name(j.kind))}});
    for (const Device& d : house.devices) {
        std::string ports;
        for (const Port& p : d.ports)
            ports += (ports.empty() ? "" : " ") + p.id + ":" + std::string(name(p.kind)) +
                     (p.phy.empty() ? "" : ":" + p.phy);
        write({{"kind", "device"},
               {"id", d.id},
               {"label", d.label},
               {"room", d.room},
               {"type", std::string(name(d.kind))},
               {"class", d.deviceClass},
               {"ports", ports}});
    }
    for (const Connection& c : house.connections) {
        if (c.ends.size() > 2) continue; // a network of many adapters is no run
        write({{"kind", "run"},
               {"id", c.id},
               {"label", c.label},
               {"type", std::string(name(c.medium))},
               {"class", c.cableClass},
               {"length_m", c.length ? number(c.length->inMetres()) : ""},
               {"good_pairs", c.goodPairs ? std::to_string(*c.goodPairs) : ""},
               {"bad_connectors", c.badConnectors ? std::to_string(*c.badConnectors) : ""},
               {"from", !c.ends.empty() ? endText(house, c.ends[0]) : ""},
               {"to", c.ends.size() > 1 ? endText(house, c.ends[1]) : ""}});
    }
    return out;
}

Result<House> withCsv(const House& house, std::string_view csv) {
    if (csv.size() > largestCsv) return problem("the table is larger than 16 MB", "", "split it");
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
