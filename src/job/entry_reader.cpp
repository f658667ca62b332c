// Which form a line has, and rooms.
#include "job/entry_reader.h"

#include "house/validate.h"
#include "job/entry_grammar.h"
#include "job/survey_fields.h"

namespace metrodos::job {
namespace {

std::optional<JackKind> jackWord(const std::string& field) {
    const std::string word = folded(field);
    if (word == "data" || word == "ethernet" || word == "lan") return JackKind::data;
    if (word == "coax") return JackKind::coax;
    if (word == "outlet" || word == "mains" || word == "outlets") return JackKind::mains;
    if (word == "phone") return JackKind::phone;
    return std::nullopt;
}

} // namespace

using quantity::problem;
using quantity::Result;

Result<Entered> EntryReader::read() {
    if (m_fields[0].empty() || (m_fields.size() > 1 && m_fields[1].empty()))
        return problem("a field is empty", "", "write it like “Loft / coax / from Hall / RG-6 / 23 m”");
    for (const std::string& field : m_fields)
        if (field.size() > maxLabel) return problem("a field is too long", "", "shorten it to 200 bytes");
    try {
        if (const auto done = dispatch(); !done) return tl::unexpected(done.error());
    } catch (const Ambiguous& label) {
        return problem(quantity::inQuotes(label.label) + " is the name of several things", "",
                       "write " + label.oneId + " or " + label.otherId);
    }
    if (const auto faults = validate(m_house); !faults.empty()) return tl::unexpected(faults.front());
    return std::move(m_out);
}

Result<void> EntryReader::dispatch() {
    const std::string head = folded(m_fields[0]);
    if (m_fields.size() == 1) return bareRoom(head);
    if (head == "service") return service();
    if (head == "panel") return panel();
    if (head == "circuit") return circuit();
    if (head == "cable") return cable();
    if (head == "port") return port();
    if (const auto kind = coaxPartKind(head)) return coaxPart(*kind);
    if (const auto floor = floorOf(m_fields[1])) return room(*floor);
    const Room* room = labelled(m_house.rooms, m_fields[0]);
    if (room == nullptr)
        return problem("there is no room " + quantity::inQuotes(m_fields[0]), "",
                       "enter it first: “" + quantity::shortened(m_fields[0], 60) + " / floor 1”");
    m_room = room->id;
    const std::string what = folded(m_fields[1]);
    if (const auto kind = jackWord(m_fields[1])) return jack(*kind);
    if (const auto several = quantity::parseWhole(m_fields[1].substr(0, m_fields[1].find(' ')), 1, 24);
        several && folded(m_fields[1]).ends_with("outlets")) {
        for (int i = 0; i < static_cast<int>(*several); ++i)
            if (auto one = jack(JackKind::mains); !one) return one;
        return {};
    }
    if (what == "need") return need();
    if (what == "appliance") return appliance();
    return device();
}

std::optional<int> EntryReader::floorOf(const std::string& field) {
    const std::string word = lower(field);
    if (word == "cellar") return -1;
    if (word == "ground floor") return 0;
    const auto tail = valueAfter(field, "floor");
    if (!tail) return std::nullopt;
    const auto n = quantity::parseWhole(*tail, -10, 100);
    return n ? std::optional(static_cast<int>(*n)) : std::nullopt;
}

// A name alone is a room on the ground floor.
Result<void> EntryReader::bareRoom(const std::string& head) {
    const bool isWord = head == "service" || head == "panel" || head == "circuit" || head == "cable" ||
                        head == "port" || coaxPartKind(head);
    if (isWord) return problem("it is not said what of it", "", "write it like “" + formOf(head) + "”");
    if (labelled(m_house.rooms, m_fields[0]) != nullptr)
        return problem("there is a room “" + m_fields[0] + "” already", "",
                       "say what is in it, like “" + m_fields[0] + " / coax / RG-6 / 23 m”");
    return room(0);
}

// The form that begins with this word.
std::string EntryReader::formOf(const std::string& head) {
    for (const LineForm& form : lineForms())
        if (folded(form.line.substr(0, form.line.find('/'))) == head) return form.line;
    return head + " / " + head + " 1 / ROOM";
}

void EntryReader::note(const Id& id, const std::string& label) {
    if (!m_out.thing.empty()) {
        m_out.label += ", " + label;
        return;
    }
    m_out.thing = id;
    m_out.label = label;
}

Result<void> EntryReader::room(int floor) {
    if (labelled(m_house.rooms, m_fields[0]) != nullptr)
        return problem("there is a room “" + m_fields[0] + "” already", "", "give it another name");
    Room room{m_house.freeId(stemOf(m_fields[0])), m_fields[0], floor};
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        const auto named = setNamed(m_house, room, m_catalog, m_fields[i]);
        if (!named) return notUnderstood(m_fields[i], "a room takes “building NAME” only");
        if (!*named) return *named;
    }
    note(room.id, room.label);
    m_house.rooms.push_back(std::move(room));
    return {};
}

} // namespace metrodos::job
