#include "house/dated_changes.h"

#include "quantity/ascii.h"
#include "quantity/format.h"

#include <algorithm>

namespace metrodos::house {
namespace {

class Notes {
  public:
    Notes(const House& before, House& house, const std::string& at)
        : m_before(before)
        , m_house(house)
        , m_at(at) {}

    void add(const Id& thing, const std::string& what, const std::string& from, const std::string& to) {
        const std::string changed = what + " changed from ";
        if (from.empty() || to.empty() || from == to || isNoted(thing, changed)) return;
        // Two programs that note something at once give it different names, unless it is the same thing.
        std::string id = "c";
        for (const char c : m_at)
            if (quantity::ascii::isDigit(c)) id += c;
        id += "-" + thing;
        id = id.substr(0, 56);
        m_house.changes.push_back(
            {m_house.freeChange(id), m_at, thing, changed + from + " to " + to, {}, {}});
    }

  private:
    // Whoever made the change may have noted it already, in better words.
    [[nodiscard]] bool isNoted(const Id& thing, const std::string& changed) const {
        const auto& old = m_before.changes;
        return std::any_of(m_house.changes.begin(), m_house.changes.end(), [&](const DatedChange& c) {
            return c.thing == thing && c.text.starts_with(changed) &&
                   std::find(old.begin(), old.end(), c) == old.end();
        });
    }
    const House& m_before;
    House& m_house;
    const std::string& m_at;
};

std::string rateWords(const std::optional<quantity::BitRate>& rate) {
    return rate ? quantity::plain(*rate) : std::string();
}

std::string jackWords(const House& house, const Id& id) {
    const Jack* jack = house.jack(id);
    return jack == nullptr ? std::string() : "“" + jack->label + "”";
}

} // namespace

House withChangesNoted(const House& before, House after, const std::string& at) {
    Notes notes(before, after, at);
    if (before.service && after.service && before.service->id == after.service->id) {
        const Service& was = *before.service;
        const Service& is = *after.service;
        const std::string named = "“" + is.label + "”";
        notes.add(is.id, "the download of " + named, rateWords(was.down), rateWords(is.down));
        notes.add(is.id, "the upload of " + named, rateWords(was.up), rateWords(is.up));
    }
    for (const Device& was : before.devices) {
        const Device* is = after.device(was.id);
        if (is == nullptr) continue;
        notes.add(is->id, "“" + is->label + "”", was.deviceClass, is->deviceClass);
        for (const Port& port : was.ports) {
            const Port* now = after.port({was.id, port.id});
            if (now == nullptr) continue;
            const std::string named = "“" + after.labelOf({was.id, port.id}) + "”";
            // A box of another class brings other ports with it.
            if (was.deviceClass == is->deviceClass) notes.add(is->id, named, port.phy, now->phy);
            notes.add(is->id, "the place of " + named, jackWords(before, port.jack),
                      jackWords(after, now->jack));
        }
    }
    for (const Connection& was : before.connections) {
        const Connection* is = after.connection(was.id);
        if (is == nullptr) continue;
        notes.add(is->id, "the cable “" + is->label + "”", was.cableClass, is->cableClass);
        if (was.medium == Medium::bus && was.ends.size() == 2 && is->ends.size() == 2)
            for (std::size_t end = 0; end < 2; ++end)
                notes.add(is->id, "the socket of “" + is->label + "”", before.labelOf(was.ends[end]),
                          after.labelOf(is->ends[end]));
    }
    if (after.changes.size() > maxChanges)
        after.changes.erase(after.changes.begin(), after.changes.end() - maxChanges);
    return after;
}

std::vector<DatedChange> changesBetween(const House& house, const std::string& from,
                                        const std::string& until) {
    std::vector<DatedChange> out;
    std::copy_if(house.changes.begin(), house.changes.end(), std::back_inserter(out),
                 [&](const DatedChange& c) { return c.at > from && c.at <= until; });
    std::ranges::stable_sort(out, {}, &DatedChange::at);
    return out;
}

} // namespace metrodos::house
