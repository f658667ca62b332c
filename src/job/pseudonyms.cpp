#include "job/pseudonyms.h"

#include "job/json_text.h"
#include "quantity/text.h"

#include <algorithm>
#include <functional>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

namespace metrodos::job {
namespace {

using namespace house;

// Every place of a house where the id of a thing stands, so that a new one can stand there.
using Rename = std::function<void(Id&)>;

// Ids of things; `end` is given device and port together.
void eachThingId(House& h, const Rename& thing, const std::function<void(PortRef&)>& end) {
    for (Room& r : h.rooms)
        thing(r.id);
    for (Device& d : h.devices) {
        for (Port& p : d.ports) {
            PortRef ref{d.id, p.id};
            end(ref);
            p.id = ref.port;
            thing(p.jack);
        }
        thing(d.id);
        thing(d.room);
    }
    for (Connection& c : h.connections) {
        thing(c.id);
        for (PortRef& e : c.ends)
            end(e);
        for (PhyReading& r : c.phyRates) {
            thing(r.from);
            thing(r.to);
        }
    }
    for (Endpoint& e : h.endpoints) {
        thing(e.id);
        thing(e.device);
    }
    for (Route& r : h.routes) {
        thing(r.id);
        thing(r.from);
        thing(r.to);
    }
    for (Jack& j : h.jacks) {
        thing(j.id);
        thing(j.room);
    }
    for (CoaxPart& p : h.coaxParts) {
        thing(p.id);
        thing(p.room);
    }
    for (Panel& p : h.panels) {
        thing(p.id);
        thing(p.room);
        thing(p.fedBy);
    }
    for (Circuit& c : h.circuits) {
        thing(c.id);
        thing(c.panel);
        for (CircuitOutlet& o : c.outlets)
            thing(o.jack);
    }
    for (Appliance& a : h.appliances) {
        thing(a.id);
        thing(a.outlet);
    }
    if (h.service) {
        thing(h.service->id);
        thing(h.service->device);
    }
    for (Spot& s : h.spots) {
        thing(s.id);
        thing(s.room);
        thing(s.device);
        thing(s.peer);
        for (Use& u : s.uses)
            thing(u.peer);
    }
    for (house::Choice& c : h.weighing.plan)
        thing(c.spot);
    for (Id& id : h.fitting.planned)
        thing(id);
    for (Schedule& s : h.schedules) {
        thing(s.id);
        thing(s.route);
    }
}

// A label, with the word and number that stand for it.
using Relabel = std::function<void(std::string& label, const char* kind)>;

void eachLabel(House& h, const Relabel& label) {
    label(h.name, "house");
    for (Room& r : h.rooms) {
        label(r.label, "room");
        if (!r.building.empty()) label(r.building, "building");
    }
    for (Device& d : h.devices)
        label(d.label, d.kind == DeviceKind::host ? "machine" : "device");
    for (Connection& c : h.connections)
        label(c.label, "run");
    for (Endpoint& e : h.endpoints)
        label(e.label, "end");
    for (Route& r : h.routes)
        label(r.label, "way");
    for (Jack& j : h.jacks)
        label(j.label, "jack");
    for (CoaxPart& p : h.coaxParts)
        label(p.label, "part");
    for (Panel& p : h.panels)
        label(p.label, "panel");
    for (Circuit& c : h.circuits)
        label(c.label, "circuit");
    for (Appliance& a : h.appliances)
        label(a.label, "appliance");
    if (h.service) label(h.service->label, "service");
    for (Spot& s : h.spots)
        label(s.label, "spot");
    for (Schedule& s : h.schedules)
        label(s.label, "schedule");
}

// Works out the new names once, and writes them wherever the old ones stood.
class Pseudonyms {
  public:
    explicit Pseudonyms(const Document& document)
        : m_document(document) {
        // Ids: "thing-7", in the order of the survey; of ports "port-2" within their device.
        House copy = document.house;
        m_ids[std::string(servicePeer)] = std::string(servicePeer);
        eachThingId(
            copy,
            [&](Id& id) {
                if (!id.empty()) m_ids.try_emplace(id, "thing-" + std::to_string(m_ids.size()));
            },
            [](PortRef&) {});
        for (const Device& d : document.house.devices)
            for (std::size_t i = 0; i < d.ports.size(); ++i)
                m_ports[{d.id, d.ports[i].id}] = "port-" + std::to_string(i + 1);
        std::map<std::string, int> count;
        eachLabel(copy, [&](std::string& label, const char* kind) {
            // The same label is the same word, as a building's is of all its rooms.
            const auto [it, isNew] = m_labels.try_emplace(label, std::string());
            if (isNew) it->second = kind + (" " + std::to_string(++count[kind]));
        });
    }

    [[nodiscard]] Document apply() const {
        Document out;
        out.house = renamed(m_document.house);
        for (const benchmark::RouteRun& r : m_document.runs)
            out.runs.push_back({idOf(r.route), renamed(r.run)});
        const std::vector<std::string> names = namesIn(m_document);
        for (const Report& r : m_document.reports) {
            if (r.kind == "document") continue;
            nlohmann::json body = readJson(r.body);
            rename(body);
            const std::string text = body.dump();
            if (std::none_of(names.begin(), names.end(), [&](const std::string& name) {
                    return text.find(nlohmann::json(name).dump().substr(1, name.size())) != std::string::npos;
                }))
                if (auto report = reportOf(body)) {
                    report->number = static_cast<std::int64_t>(out.reports.size()) + 1;
                    out.reports.push_back(std::move(*report));
                }
        }
        return out;
    }

  private:
    [[nodiscard]] Id idOf(const Id& id) const {
        const auto it = m_ids.find(id);
        return it == m_ids.end() ? Id() : it->second;
    }
    [[nodiscard]] std::string labelOf(const std::string& label) const {
        const auto it = m_labels.find(label);
        return it == m_labels.end() ? std::string() : it->second;
    }
    [[nodiscard]] PortRef portOf(const PortRef& ref) const {
        const auto it = m_ports.find({ref.device, ref.port});
        // Ports of coax parts have fixed names.
        return {idOf(ref.device), it == m_ports.end() ? ref.port : it->second};
    }
    // "device.port" or the id of a thing.
    [[nodiscard]] std::string placeOf(const std::string& place) const {
        const std::size_t dot = place.find('.');
        if (dot == std::string::npos) return idOf(place);
        const PortRef ref = portOf({place.substr(0, dot), place.substr(dot + 1)});
        return ref.device.empty() ? std::string() : ref.device + "." + ref.port;
    }

    [[nodiscard]] House renamed(House h) const {
        h.trials.clear();
        h.fitting.hints.clear();
        h.fitting.records.clear();
        h.fitting.codes.clear();
        h.addressing = {};
        h.setAside.clear();
        h.changes.clear();
        for (ChapterChoice& c : h.chapters)
            c.note.clear();
        for (Endpoint& e : h.endpoints)
            e.address.clear();
        for (Route& r : h.routes)
            r.declined.clear();
        for (Device& d : h.devices) {
            d.setUp.name.clear();
            d.setUp.keyPlace.clear();
            d.setUp.statusUrl.clear();
            d.setUp.firmware.clear();
            d.setUp.priority.clear();
            for (std::size_t i = 0; i < d.ports.size(); ++i)
                d.ports[i].label = "port " + std::to_string(i + 1);
        }
        if (h.service) h.service->testUrl.clear();
        if (h.weighing.quote) h.weighing.quote->from.clear();
        for (Circuit& c : h.circuits)
            if (c.leg.size() > 1) c.leg.clear();
        eachLabel(h, [&](std::string& label, const char*) { label = labelOf(label); });
        eachThingId(
            h, [&](Id& id) { id = idOf(id); }, [&](PortRef& ref) { ref = portOf(ref); });
        return h;
    }

    [[nodiscard]] benchmark::Run renamed(benchmark::Run run) const {
        run.step.clear();
        run.redirectedTo.clear();
        run.config.bind.clear();
        run.conditions.changed.clear();
        for (std::string& appliance : run.conditions.appliances)
            appliance = labelOf(appliance);
        std::erase(run.conditions.appliances, std::string());
        for (Id& element : run.config.arrangement.bypassed)
            element = placeOf(element);
        std::erase(run.config.arrangement.bypassed, std::string());
        for (benchmark::Alteration& a : run.config.arrangement.altered) {
            a.element = placeOf(a.element);
            a.place = placeOf(a.place);
        }
        std::erase_if(run.config.arrangement.altered,
                      [](const benchmark::Alteration& a) { return a.element.empty(); });
        for (auto* count : {&run.interfaceSender, &run.interfaceReceiver})
            if (*count) {
                (*count)->name = "interface";
                if (!(*count)->elsewhere.empty()) (*count)->elsewhere = "another interface";
            }
        return run;
    }

    // Of a report: ids and labels that are known, wherever they stand by themselves.
    void rename(nlohmann::json& value) const {
        if (value.is_string()) {
            const auto text = value.get<std::string>();
            if (const auto id = m_ids.find(text); id != m_ids.end() && text.find('-') != std::string::npos)
                value = id->second;
            else if (const auto label = m_labels.find(text); label != m_labels.end())
                value = label->second;
            return;
        }
        if (value.is_object()) {
            for (const char* key : {"note", "about", "address", "bind", "folder", "path", "host", "file"})
                if (const auto it = value.find(key); it != value.end() && it->is_string()) {
                    const auto label = m_labels.find(it->get<std::string>());
                    *it = label == m_labels.end() ? std::string() : label->second;
                }
            for (const char* key : {"route", "from", "to", "endpoint", "thing"})
                if (const auto it = value.find(key); it != value.end() && it->is_string()) {
                    if (const auto id = m_ids.find(it->get<std::string>()); id != m_ids.end())
                        *it = id->second;
                }
        }
        if (value.is_structured())
            for (auto& item : value)
                rename(item);
    }

    const Document& m_document;
    std::map<Id, Id> m_ids;
    std::map<std::pair<Id, Id>, Id> m_ports;
    std::map<std::string, std::string> m_labels;
};

} // namespace

Document withoutNames(const Document& document) {
    return Pseudonyms(document).apply();
}

std::vector<std::string> namesIn(const Document& document) {
    std::set<std::string> all;
    const auto add = [&](const std::string& text) {
        constexpr std::size_t fewest = 4;
        if (quantity::lettersOf(text) >= fewest) all.insert(text);
    };
    House copy = document.house;
    eachLabel(copy, [&](std::string& label, const char*) { add(label); });
    for (const Endpoint& e : copy.endpoints)
        add(e.address);
    for (const Device& d : copy.devices) {
        add(d.setUp.name);
        add(d.setUp.keyPlace);
        add(d.setUp.statusUrl);
    }
    for (const PortAddress& a : copy.addressing.ports) {
        add(a.address);
        add(a.hardware);
    }
    for (const Network& n : copy.addressing.networks) {
        add(n.label);
        add(n.prefix);
        add(n.gateway);
    }
    for (const StepRecord& r : copy.fitting.records) {
        add(r.note);
        add(r.reason);
    }
    for (const ChapterChoice& c : copy.chapters)
        add(c.note);
    if (copy.weighing.quote) add(copy.weighing.quote->from);
    for (const SetAside& s : copy.setAside)
        add(s.reason);
    for (const benchmark::RouteRun& r : document.runs) {
        add(r.run.conditions.changed);
        add(r.run.config.bind);
    }
    if (copy.service) add(copy.service->testUrl);
    return {all.begin(), all.end()};
}

std::vector<PrivacyLine> privacyOf(const Document& document, const Document& without) {
    const House& h = document.house;
    std::size_t notes = 0;
    for (const StepRecord& r : h.fitting.records)
        notes += (r.note.empty() ? 0U : 1U) + (r.reason.empty() ? 0U : 1U);
    for (const ChapterChoice& c : h.chapters)
        notes += c.note.empty() ? 0U : 1U;
    std::size_t addresses = h.addressing.ports.size();
    for (const Endpoint& e : h.endpoints)
        addresses += e.address.empty() ? 0U : 1U;
    const auto n = [](std::size_t count, const char* one, const char* many = "") {
        return quantity::counted(static_cast<long long>(count), one, many);
    };
    std::vector<PrivacyLine> out;
    out.push_back({"floors, rooms and what is joined to what", true,
                   n(h.rooms.size(), "room") + ", " + n(h.devices.size(), "device") + ", as “room 1” …"});
    out.push_back({"classes, lengths, link rates and needs", true, {}});
    out.push_back({"figures of runs, with day and hour", true, n(document.runs.size(), "run")});
    if (!document.reports.empty())
        out.push_back({"reports without names", true, n(without.reports.size(), "report")});
    out.push_back(
        {"names of the house, of rooms, machines and appliances", false, "a word and a number instead"});
    out.push_back({"addresses, and where keys are kept", false, n(addresses, "address", "addresses")});
    out.push_back({"notes and reasons", false, n(notes, "note")});
    out.push_back({"photos", false, n(document.photos.size(), "photo")});
    out.push_back({"trials, what was recorded of steps, and what was exchanged", false,
                   n(h.trials.size() + h.fitting.records.size() + h.changes.size(), "entry", "entries")});
    const std::size_t lost = document.reports.size() - without.reports.size();
    if (lost > 0)
        out.push_back({"documents that were handed over, and reports in which a name stands", false,
                       n(lost, "document")});
    return out;
}

} // namespace metrodos::job
