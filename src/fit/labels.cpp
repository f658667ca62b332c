#include "fit/labels.h"

#include "quantity/ascii.h"
#include "quantity/text.h"

#include <algorithm>
#include <charconv>
#include <map>
#include <set>

namespace metrodos::fit {
namespace {

using house::Connection;
using house::Device;
using house::DeviceKind;
using house::House;
using house::Id;

char letterOf(house::JackKind kind) {
    switch (kind) {
    case house::JackKind::data:
        return 'D';
    case house::JackKind::coax:
        return 'C';
    case house::JackKind::mains:
        return 'M';
    case house::JackKind::phone:
        return 'P';
    }
    return 'X';
}

// The first letter of a name as a capital; of one that begins otherwise, R for room.
std::string initialOf(const std::string& label) {
    const char initial = label.empty() ? ' ' : quantity::ascii::upper(label.front());
    return quantity::ascii::isCapital(initial) ? std::string(1, initial) : "R";
}

class Coder {
  public:
    explicit Coder(const House& house)
        : m_house(house) {
        for (const house::LabelCode& c : house.fitting.codes)
            if (m_known.emplace(c.thing, c.code).second) m_taken.insert(c.code);
        nameRooms();
    }

    std::vector<Label> all() {
        for (const house::Jack& jack : m_house.jacks)
            add(jack.id, jack.label, jack.room, letterOf(jack.kind));
        for (const Device& d : m_house.devices) {
            if (d.kind == DeviceKind::adapter) add(d.id, d.label, d.room, 'A');
            if (d.kind == DeviceKind::network_switch || d.kind == DeviceKind::router)
                add(d.id, d.label, d.room, 'S');
        }
        for (const Connection& c : m_house.connections)
            if (house::jackOf(c.medium) && c.ends.size() <= 2) cable(c);
        return std::move(m_out);
    }

  private:
    // A room that has labels keeps the code that they begin with; the others get theirs in the order of the
    // survey.
    void nameRooms() {
        std::set<std::string> taken;
        const auto claim = [&](const Id& thing, const Id& room) {
            const auto known = m_known.find(thing);
            if (known == m_known.end() || m_rooms.contains(room)) return;
            const std::size_t hyphen = known->second.find('-');
            if (hyphen != std::string::npos && taken.insert(known->second.substr(0, hyphen)).second)
                m_rooms[room] = known->second.substr(0, hyphen);
        };
        for (const house::Jack& jack : m_house.jacks)
            claim(jack.id, jack.room);
        for (const Device& d : m_house.devices)
            claim(d.id, d.room);
        // What was given to a room that is gone is not given again.
        for (const auto& [thing, code] : m_known)
            if (const std::size_t hyphen = code.find('-'); hyphen != std::string::npos)
                taken.insert(code.substr(0, hyphen));
        const auto name = [&](const Id& room, const std::string& stem) {
            if (m_rooms.contains(room)) return;
            std::string code = stem;
            for (int n = 2; !taken.insert(code).second; ++n)
                code = stem + std::to_string(n);
            m_rooms[room] = code;
        };
        for (const house::Room& room : m_house.rooms)
            name(room.id, initialOf(room.label));
        name("", "H"); // the house, for what lies in no room
    }

    std::string codeFor(const Id& thing, const Id& room, char letter) {
        if (const auto known = m_known.find(thing); known != m_known.end()) return known->second;
        const auto named = m_rooms.find(room);
        const std::string stem = (named == m_rooms.end() ? m_rooms.at("") : named->second) + "-" + letter;
        // Beyond the highest that was ever given: a number does not come back.
        int& last = m_last[stem];
        if (last == 0)
            for (const std::string& code : m_taken)
                if (int number = 0; code.starts_with(stem)) {
                    std::from_chars(code.data() + stem.size(), code.data() + code.size(), number);
                    last = std::max(last, number);
                }
        std::string code;
        do
            code = stem + std::to_string(++last);
        while (!m_taken.insert(code).second);
        return code;
    }

    void add(const Id& thing, const std::string& what, const Id& room, char letter, int copies = 1) {
        const house::Room* in = m_house.room(room);
        const std::string code = codeFor(thing, room, letter);
        m_codes[thing] = code;
        m_out.push_back({thing, code, what, in == nullptr ? "" : in->label, copies});
    }

    void cable(const Connection& c) {
        for (const house::PortRef& end : c.ends) {
            if (m_house.jack(end.device) == nullptr) continue;
            const house::Room* in = m_house.room(m_house.roomOf(end));
            std::string code = m_codes.at(end.device) + "K";
            if (const auto known = m_known.find(c.id); known != m_known.end())
                code = known->second;
            else if (!m_taken.insert(code).second)
                break; // of another run that was there; this one gets a number of its own
            m_out.push_back({c.id, code, c.label, in == nullptr ? "" : in->label, 2});
            return;
        }
        // A lead between boxes has none; a run that ends loose has.
        const bool isLoose =
            c.ends.size() < 2 || std::any_of(c.ends.begin(), c.ends.end(), [&](const auto& end) {
                return m_house.room(end.device) != nullptr;
            });
        const bool hasJack = std::any_of(c.ends.begin(), c.ends.end(), [&](const auto& end) {
            return m_house.jack(end.device) != nullptr;
        });
        const bool isBetweenRooms =
            c.ends.size() == 2 && m_house.roomOf(c.ends[0]) != m_house.roomOf(c.ends[1]);
        if (isLoose || hasJack || isBetweenRooms)
            add(c.id, c.label, c.ends.empty() ? Id() : m_house.roomOf(c.ends.front()), 'K', 2);
    }

    const House& m_house;
    std::map<Id, std::string> m_known;
    std::set<std::string> m_taken;
    std::map<Id, std::string> m_rooms;
    std::map<std::string, int> m_last; ///< number given, by what stands before it
    std::map<Id, std::string> m_codes;
    std::vector<Label> m_out;
};

std::string percent(const std::string& text) {
    constexpr std::string_view digits = "0123456789ABCDEF";
    std::string out;
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (quantity::ascii::isLetterOrDigit(c) || c == '-' || c == '.' || c == '_' || c == '~')
            out += c;
        else
            out += {'%', digits[byte >> 4U], digits[byte & 15U]};
    }
    return out;
}

} // namespace

std::vector<Label> labelsOf(const House& house) {
    return Coder(house).all();
}

House withCodes(const House& house, const std::vector<Label>& labels) {
    House out = house;
    std::map<Id, std::size_t> at;
    for (std::size_t i = 0; i < out.fitting.codes.size(); ++i)
        at.emplace(out.fitting.codes[i].thing, i);
    for (const Label& label : labels)
        if (const auto known = at.find(label.thing); known != at.end())
            out.fitting.codes[known->second].code = label.code;
        else
            out.fitting.codes.push_back({label.thing, label.code});
    return out;
}

std::string qrTextOf(const House& house, const Label& label) {
    // The name is for people: enough of it to tell houses apart, in a code that stays coarse.
    return "metrodos:label?job=" + percent(quantity::cutTo(house.name, 40)) +
           "&thing=" + percent(label.thing) + "&code=" + percent(label.code);
}

} // namespace metrodos::fit
