// Reads one line of fast entry into a house: one function for each kind of thing, in files by subject.
// Internal to the layer.
#pragma once

#include "job/entry_line.h"
#include "job/entry_words.h"
#include "quantity/parse.h"

#include <cctype>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace metrodos::job {

class EntryReader {
  public:
    EntryReader(const House& house, const catalog::Catalog& catalog, std::vector<std::string> fields)
        : m_out{house, {}, {}}
        , m_house(m_out.house)
        , m_catalog(catalog)
        , m_fields(std::move(fields)) {}

    /// The house with the thing in it; a Problem names the field that is not understood.
    quantity::Result<Entered> read();

  private:
    // entry_reader.cpp
    using Done = quantity::Result<void>;
    Done dispatch();
    static std::optional<int> floorOf(const std::string& field);
    Done bareRoom(const std::string& head);
    static std::string formOf(const std::string& head);
    void note(const Id& id, const std::string& label);
    Done room(int floor);
    // entry_wiring.cpp
    Done jack(JackKind kind);
    Done runField(Connection& run, const std::string& field);
    Done joinByCable(Connection run, const PortRef& end, const std::string& label);
    Done cable();
    Done coaxPart(CoaxPartKind kind);
    // entry_boxes.cpp
    Done device();
    void addLine(Device& device, const Id& at, const std::optional<Strip>& strip) const;
    static Port busPort(const Device& device, const catalog::Bus& bus);
    void plugInto(const Id& adapter, const PortRef& socket);
    Done plugLan(const Id& id, const Id& jack, Connection lead);
    Done port();
    // entry_mains.cpp
    static std::optional<Strip> stripOf(const std::string& field);
    Done onCircuit(const Id& jack);
    Done appliance();
    Done panel();
    Done circuit();
    // entry_needs.cpp
    static std::optional<quantity::Result<std::pair<quantity::BitRate, bool>>>
    directed(const std::string& field);
    Done need();
    Done service();

    Entered m_out;
    House& m_house;
    const catalog::Catalog& m_catalog;
    std::vector<std::string> m_fields; // of the line
    Id m_room;                         // that it is about
};

inline std::optional<std::string> category(const catalog::Catalog& catalog, const std::string& field) {
    std::string word = folded(field);
    for (const char* head : {"category", "cat"})
        if (word.starts_with(head)) {
            word = word.substr(std::string_view(head).size());
            break;
        }
    for (const auto& cable : catalog.cables)
        if (cable.id == "cat" + word) return cable.id;
    return std::nullopt;
}

template <typename Items>
std::optional<std::string> classNamed(const Items& items, const std::string& field) {
    for (const auto& item : items)
        if (folded(item.label) == folded(field) || folded(item.id) == folded(field)) return item.id;
    return std::nullopt;
}

/// A length with its unit; "4" alone is none.
inline std::optional<quantity::Length> lengthOf(const std::string& field) {
    const auto length = quantity::parseLength(field);
    const bool isOne = length && std::isdigit(static_cast<unsigned char>(field[0])) &&
                       folded(field).find_first_not_of("0123456789") != std::string::npos;
    return isOne ? std::optional(*length) : std::nullopt;
}

inline tl::unexpected<quantity::Problem> notUnderstood(const std::string& field, const std::string& could) {
    return quantity::problem(quantity::inQuotes(field) + " is not understood here", "", could);
}

} // namespace metrodos::job
