#include "job/entry_line.h"
#include "job/entry_words.h"

#include <algorithm>

namespace metrodos::job {

std::size_t lastField(std::string_view line) {
    std::size_t from = 0;
    for (std::size_t at = fieldEnd(line, 0); at < line.size(); at = fieldEnd(line, from))
        from = at + 1;
    return from;
}

std::pair<std::size_t, std::size_t> fieldAt(std::string_view line, std::size_t i) {
    std::size_t from = 0;
    for (; i > 0 && fieldEnd(line, from) < line.size(); --i)
        from = fieldEnd(line, from) + 1;
    std::size_t to = fieldEnd(line, from);
    while (from < to && line[from] == ' ')
        ++from;
    while (to > from && line[to - 1] == ' ')
        --to;
    return {from, to};
}

std::vector<std::string> completions(const House& house, const catalog::Catalog& catalog,
                                     std::string_view line) {
    const std::vector<std::string> fields = fieldsOf(line);
    std::vector<std::string> offers;
    const auto labels = [&](const auto& items, const std::string& head) {
        for (const auto& item : items)
            offers.push_back(head + item.label);
    };
    const std::string head = folded(fields.front());
    const std::string second = fields.size() > 1 ? folded(fields[1]) : "";
    if (fields.size() == 1) {
        labels(house.rooms, "");
        for (const char* word : {"splitter", "entry", "filter", "amplifier", "joint", "panel", "circuit",
                                 "service", "cable", "port"})
            offers.emplace_back(word);
    } else if (head == "circuit") {
        labels(house.panels, "");
        for (const char* word :
             {"leg 1", "leg 2", "breaker", "residual current", "arc fault", "fuse", "copper", "old"})
            offers.emplace_back(word);
    } else if (head == "panel") {
        labels(house.rooms, "");
        labels(house.panels, "fed by ");
    } else if (head == "service") {
        for (const char* word : {"500M down", "50M up"})
            offers.emplace_back(word);
        labels(house.devices, "at ");
    } else if (coaxPartKind(head)) {
        for (const char* word : {"2-way", "3-way", "4-way", "rated", "not rated", "terminated", "open"})
            if (head == "splitter") offers.emplace_back(word);
        labels(house.rooms, "");
        if (head != "entry") {
            labels(house.coaxParts, "from ");
            labels(catalog.coax.cables, "");
        }
    } else if (head == "cable" && fields.size() <= 3) {
        labels(house.devices, "");
        labels(house.coaxParts, "");
        for (const Jack& jack : house.jacks)
            if (jack.kind == JackKind::data || jack.kind == JackKind::coax) offers.push_back(jack.label);
    } else if (head == "cable") {
        labels(catalog.cables, "");
        labels(catalog.coax.cables, "");
    } else if (head == "port") {
        if (fields.size() == 2) labels(house.devices, "");
        labels(catalog.buses, "");
        for (const char* word : {"1G", "2.5G", "10G"})
            offers.emplace_back(word);
    } else if (fields.size() == 2) {
        for (const char* word :
             {"data", "coax", "outlet", "phone", "need", "appliance", "switch", "router", "floor 1"})
            offers.emplace_back(word);
        labels(catalog.hosts, "");
        labels(catalog.devices, "");
    } else if (second == "coax" || second == "data" || second == "phone") {
        labels(house.rooms, "from ");
        if (second == "coax") {
            labels(house.coaxParts, "from ");
            labels(catalog.coax.cables, "");
            offers.emplace_back("bad connector");
        }
        if (second == "data") {
            labels(catalog.cables, "");
            for (const auto& t : catalog.terminations)
                offers.push_back(t.id);
            offers.emplace_back("4 pairs");
        }
    } else if (second == "outlet" || second.ends_with("outlets")) {
        labels(house.circuits, "on ");
        for (const char* word : {"plain strip", "surge strip"})
            offers.emplace_back(word);
    } else if (second == "appliance") {
        labels(catalog.mains.appliances, "");
        for (const Jack& jack : house.jacks)
            if (jack.kind == JackKind::mains) offers.push_back("at " + jack.label);
    } else if (second == "need") {
        for (const char* word : {"100M down", "20M up"})
            offers.emplace_back(word);
        labels(house.devices, "at ");
    } else {
        for (const char* word : {"100M", "1G", "2.5G", "10G"})
            offers.emplace_back(word);
        const catalog::DeviceClass* adapter = nullptr;
        for (const auto& cls : catalog.devices)
            if (folded(cls.label) == second || folded(cls.id) == second) adapter = &cls;
        if (adapter != nullptr && adapter->family == catalog::Family::bus)
            for (const Device& d : house.devices)
                for (const Port& p : d.ports)
                    if (d.kind == DeviceKind::host && (p.kind == PortKind::usb || p.kind == PortKind::pcie))
                        offers.push_back("in " + d.label + " " + p.label);
        if (adapter != nullptr && adapter->family == catalog::Family::bus) labels(house.devices, "in ");
        labels(house.jacks, "at ");
        labels(house.devices, "from ");
        labels(catalog.disks, "");
        labels(catalog.buses, "");
    }
    // What begins with what was typed comes before what holds it.
    const std::string typed = lower(fields.back());
    std::vector<std::string> out;
    for (const bool begins : {true, false})
        for (const std::string& offer : offers) {
            const std::size_t at = lower(offer).find(typed);
            const bool fits = begins ? at == 0 : at != std::string::npos && at > 0;
            if (fits && out.size() < 12 && std::find(out.begin(), out.end(), offer) == out.end())
                out.push_back(offer);
        }
    return out;
}

} // namespace metrodos::job
