// A second room like one that is there.
#include "job/entry_line.h"
#include "job/entry_words.h"

#include <algorithm>
#include <map>

namespace metrodos::job {

using quantity::problem;
using quantity::Result;

Result<Entered> duplicateRoom(const House& house, const std::string& room, const std::string& label) {
    const Room* original = nullptr;
    try {
        original = labelled(house.rooms, room);
    } catch (const Ambiguous& several) {
        return problem(quantity::inQuotes(room) + " is the name of several rooms", "",
                       "write " + several.oneId + " or " + several.otherId);
    }
    if (original == nullptr)
        return problem("there is no room " + quantity::inQuotes(room), "", "choose one that is there");
    if (label.empty() || std::any_of(house.rooms.begin(), house.rooms.end(),
                                     [&](const Room& r) { return folded(r.label) == folded(label); }))
        return problem("a room of this name is there already", "", "give the copy another name");
    Entered out{house, label, {}};
    Room copy = *original;
    copy.id = out.thing = house.freeId(stemOf(label));
    copy.label = label;
    out.house.rooms.push_back(copy);
    std::vector<Jack> jacks;
    for (const Jack& jack : house.jacks)
        if (jack.room == original->id) jacks.push_back(jack);
    std::map<JackKind, int> numbers;
    for (Jack jack : jacks) {
        jack.label = label + " " + wordOf(jack.kind) + " " + std::to_string(++numbers[jack.kind]);
        jack.id = out.house.freeId(stemOf(jack.label));
        jack.room = copy.id;
        out.house.jacks.push_back(std::move(jack));
    }
    return out;
}

} // namespace metrodos::job
