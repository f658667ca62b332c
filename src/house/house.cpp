#include "house/house.h"

#include "quantity/ascii.h"

#include <algorithm>
#include <utility>

namespace metrodos::house {
namespace {

// The value among `all` that `wanted` is the name of.
template <typename Enum>
std::optional<Enum> named(std::initializer_list<Enum> all, std::string_view wanted) {
    for (const Enum one : all)
        if (name(one) == wanted) return one;
    return std::nullopt;
}

template <typename Items>
auto* find(Items& items, std::string_view id) {
    const auto hit =
        std::find_if(items.begin(), items.end(), [&](const auto& item) { return item.id == id; });
    return hit == items.end() ? nullptr : &*hit;
}

constexpr std::array<std::pair<PortKind, std::string_view>, 7> portKinds{{{PortKind::ethernet, "ethernet"},
                                                                          {PortKind::usb, "usb"},
                                                                          {PortKind::pcie, "pcie"},
                                                                          {PortKind::coax, "coax"},
                                                                          {PortKind::mains, "mains"},
                                                                          {PortKind::radio, "radio"},
                                                                          {PortKind::phone, "phone"}}};
constexpr std::array<std::pair<DeviceKind, std::string_view>, 4> deviceKinds{
    {{DeviceKind::host, "host"},
     {DeviceKind::network_switch, "network_switch"},
     {DeviceKind::router, "router"},
     {DeviceKind::adapter, "adapter"}}};
constexpr std::array<std::pair<Medium, std::string_view>, 6> media{{{Medium::data_cable, "data_cable"},
                                                                    {Medium::coax, "coax"},
                                                                    {Medium::mains, "mains"},
                                                                    {Medium::air, "air"},
                                                                    {Medium::bus, "bus"},
                                                                    {Medium::phone, "phone"}}};
constexpr std::array<std::pair<JackKind, std::string_view>, 4> jackKinds{{{JackKind::data, "data"},
                                                                          {JackKind::coax, "coax"},
                                                                          {JackKind::mains, "mains"},
                                                                          {JackKind::phone, "phone"}}};
constexpr std::array<std::pair<CoaxPartKind, std::string_view>, 5> coaxPartKinds{
    {{CoaxPartKind::entry, "entry"},
     {CoaxPartKind::splitter, "splitter"},
     {CoaxPartKind::amplifier, "amplifier"},
     {CoaxPartKind::filter, "filter"},
     {CoaxPartKind::joint, "joint"}}};
constexpr std::array<std::pair<Protection, std::string_view>, 5> protections{
    {{Protection::unknown, "unknown"},
     {Protection::breaker, "breaker"},
     {Protection::fuse, "fuse"},
     {Protection::residual_current, "residual_current"},
     {Protection::arc_fault, "arc_fault"}}};
constexpr std::array<std::pair<Strip, std::string_view>, 4> strips{
    {{Strip::unknown, "unknown"},
     {Strip::wall, "wall"},
     {Strip::plain, "plain"},
     {Strip::surge_protected, "surge_protected"}}};
constexpr std::array<std::pair<DiskLayout, std::string_view>, 4> diskLayouts{
    {{DiskLayout::single, "single"},
     {DiskLayout::stripe, "stripe"},
     {DiskLayout::mirror, "mirror"},
     {DiskLayout::parity, "parity"}}};

template <typename Table, typename Value>
std::string_view nameIn(const Table& table, Value value) {
    for (const auto& [candidate, text] : table)
        if (candidate == value) return text;
    return {};
}

template <typename Table>
auto valueIn(const Table& table, std::string_view text) -> std::optional<decltype(table[0].first)> {
    for (const auto& [value, candidate] : table)
        if (candidate == text) return value;
    return std::nullopt;
}

} // namespace

const Device* House::device(std::string_view id) const {
    return find(devices, id);
}
Device* House::device(std::string_view id) {
    return find(devices, id);
}
const Port* House::port(const PortRef& ref) const {
    const Device* owner = device(ref.device);
    return owner == nullptr ? nullptr : find(owner->ports, ref.port);
}
Port* House::port(const PortRef& ref) {
    return const_cast<Port*>(std::as_const(*this).port(ref));
}
const Connection* House::connection(std::string_view id) const {
    return find(connections, id);
}
Connection* House::connection(std::string_view id) {
    return find(connections, id);
}
const Endpoint* House::endpoint(std::string_view id) const {
    return find(endpoints, id);
}
const Route* House::route(std::string_view id) const {
    return find(routes, id);
}
Route* House::route(std::string_view id) {
    return find(routes, id);
}
const Room* House::room(std::string_view id) const {
    return find(rooms, id);
}

const Jack* House::jack(std::string_view id) const {
    return find(jacks, id);
}
const CoaxPart* House::coaxPart(std::string_view id) const {
    return find(coaxParts, id);
}
const Panel* House::panel(std::string_view id) const {
    return find(panels, id);
}
const Schedule* House::schedule(std::string_view id) const {
    return find(schedules, id);
}
const SetAside* House::whySetAside(std::string_view id) const {
    return find(setAside, id);
}
const Circuit* House::circuit(std::string_view id) const {
    return find(circuits, id);
}

const Connection* House::cableAt(const PortRef& ref) const {
    const Port* at = port(ref);
    if (at == nullptr) return nullptr;
    for (const Connection& c : connections)
        if (c.medium == Medium::data_cable)
            for (const PortRef& end : c.ends)
                if (end == ref || (!at->jack.empty() && end.device == at->jack)) return &c;
    return nullptr;
}

void House::forgetLinks(const Id& id) {
    const Device* found = device(id);
    if (found == nullptr) return;
    for (const Port& p : found->ports)
        if (const Connection* cable = cableAt({id, p.id})) {
            Connection& changed = *connection(cable->id);
            changed.linkedAt.reset();
            changed.halfDuplex = false;
        }
}

Id House::deviceAt(std::string_view id) const {
    if (service && service->id == id) return service->device;
    const Endpoint* found = endpoint(id);
    return found == nullptr ? Id() : found->device;
}

std::string House::endLabel(std::string_view id) const {
    if (service && service->id == id) return service->label;
    const Endpoint* found = endpoint(id);
    return found == nullptr ? std::string() : found->label;
}

Strip House::stripOf(const Port& p) const {
    const Jack* outlet = p.strip == Strip::unknown ? jack(p.jack) : nullptr;
    return outlet == nullptr ? p.strip : outlet->strip;
}

Strip House::stripAt(std::string_view outlet) const {
    for (const Device& d : devices)
        for (const Port& p : d.ports)
            if (p.kind == PortKind::mains && p.jack == outlet) return stripOf(p);
    const Jack* found = jack(outlet);
    return found == nullptr ? Strip::unknown : found->strip;
}

Id House::roomOf(const PortRef& end) const {
    if (const Device* d = device(end.device)) return d->room;
    if (const Jack* j = jack(end.device)) return j->room;
    if (const CoaxPart* p = coaxPart(end.device)) return p->room;
    return room(end.device) != nullptr ? end.device : Id();
}

std::string House::labelOf(const PortRef& end) const {
    if (const Device* d = device(end.device)) {
        const Port* p = port(end);
        return d->label + ", " + (p == nullptr || p->label.empty() ? end.port : p->label);
    }
    if (const Jack* j = jack(end.device)) return j->label;
    if (const CoaxPart* p = coaxPart(end.device)) return p->label + ", " + end.port;
    if (const Room* r = room(end.device)) return "loose in the " + r->label;
    return end.device;
}

std::string_view name(Objective objective) {
    switch (objective) {
    case Objective::cheapest:
        return "cheapest";
    case Objective::steadiest:
        return "steadiest";
    case Objective::no_drilling:
        return "no-drilling";
    case Objective::fastest:
        return "fastest";
    case Objective::lasting:
        return "lasting";
    }
    return "";
}

std::optional<Objective> objective(std::string_view wanted) {
    for (const Objective o : objectives)
        if (name(o) == wanted) return o;
    return std::nullopt;
}

std::string_view name(SummaryRule rule) {
    switch (rule) {
    case SummaryRule::trimmed:
        return "trimmed";
    case SummaryRule::median:
        return "median";
    case SummaryRule::mean:
        return "mean";
    case SummaryRule::best:
        return "best";
    case SummaryRule::sustained:
        return "sustained";
    }
    return "";
}

std::optional<SummaryRule> summaryRule(std::string_view wanted) {
    for (const SummaryRule rule : summaryRules)
        if (name(rule) == wanted) return rule;
    return std::nullopt;
}

std::string_view name(StepState state) {
    switch (state) {
    case StepState::open:
        return "open";
    case StepState::done:
        return "done";
    case StepState::failed:
        return "failed";
    case StepState::skipped:
        return "skipped";
    }
    return "";
}

std::optional<StepState> stepState(std::string_view wanted) {
    for (const StepState state : stepStates)
        if (name(state) == wanted) return state;
    return std::nullopt;
}

std::string_view name(FoundBy how) {
    switch (how) {
    case FoundBy::unknown:
        return "unknown";
    case FoundBy::seen:
        return "seen";
    case FoundBy::continuity:
        return "continuity";
    case FoundBy::tone:
        return "tone";
    case FoundBy::flash:
        return "flash";
    }
    return "";
}

std::optional<FoundBy> foundBy(std::string_view wanted) {
    for (const FoundBy how : waysOfFinding)
        if (name(how) == wanted) return how;
    return std::nullopt;
}

std::string_view name(AddressKind kind) {
    return kind == AddressKind::fixed ? "fixed" : "reserved";
}

std::optional<AddressKind> addressKind(std::string_view wanted) {
    return named({AddressKind::reserved, AddressKind::fixed}, wanted);
}

void noteRate(Connection& medium, PhyReading reading) {
    std::erase_if(medium.phyRates,
                  [&](const PhyReading& r) { return r.from == reading.from && r.to == reading.to; });
    medium.phyRates.push_back(std::move(reading));
}

std::optional<Setup> setup(std::string_view wanted) {
    return named({Setup::place, Setup::baseline, Setup::bench}, wanted);
}

std::optional<AlterationKind> alterationKind(std::string_view wanted) {
    return named({AlterationKind::other_outlet, AlterationKind::appliances_off, AlterationKind::phy_rate},
                 wanted);
}

std::optional<Directions> directions(std::string_view wanted) {
    return named({Directions::forward, Directions::backward, Directions::both, Directions::together}, wanted);
}

Id House::freeId(const std::string& stem) const {
    const auto taken = [&](std::string_view id) {
        return device(id) != nullptr || connection(id) != nullptr || endpoint(id) != nullptr ||
               route(id) != nullptr || room(id) != nullptr || jack(id) != nullptr ||
               coaxPart(id) != nullptr || panel(id) != nullptr || circuit(id) != nullptr ||
               find(appliances, id) != nullptr || find(spots, id) != nullptr || find(trials, id) != nullptr ||
               schedule(id) != nullptr ||
               std::any_of(trials.begin(), trials.end(),
                           [&](const Trial& trial) { return find(trial.steps, id) != nullptr; }) ||
               (service && service->id == id);
    };
    if (!taken(stem)) return stem;
    for (int n = 2;; ++n)
        if (Id id = stem + "-" + std::to_string(n); !taken(id)) return id;
}

Id House::freeChange(const std::string& stem) const {
    Id id = stem;
    for (int n = 2; find(changes, id) != nullptr; ++n)
        id = stem + "-" + std::to_string(n);
    return id;
}

bool isId(std::string_view text) {
    return !text.empty() && text.size() <= 64 && std::all_of(text.begin(), text.end(), [](char c) {
        return quantity::ascii::isSmall(c) || quantity::ascii::isDigit(c) || c == '-';
    });
}

std::string_view name(PortKind kind) {
    return nameIn(portKinds, kind);
}
std::string_view name(DeviceKind kind) {
    return nameIn(deviceKinds, kind);
}
std::string_view name(Medium medium) {
    return nameIn(media, medium);
}
std::optional<PortKind> portKind(std::string_view name) {
    return valueIn(portKinds, name);
}
std::optional<DeviceKind> deviceKind(std::string_view name) {
    return valueIn(deviceKinds, name);
}
std::optional<Medium> medium(std::string_view name) {
    return valueIn(media, name);
}

std::string_view name(JackKind kind) {
    return nameIn(jackKinds, kind);
}
std::string_view name(CoaxPartKind kind) {
    return nameIn(coaxPartKinds, kind);
}
std::string_view name(Protection protection) {
    return nameIn(protections, protection);
}
std::string_view name(Strip strip) {
    return nameIn(strips, strip);
}
std::string_view name(DiskLayout layout) {
    return nameIn(diskLayouts, layout);
}
std::optional<JackKind> jackKind(std::string_view name) {
    return valueIn(jackKinds, name);
}
std::optional<CoaxPartKind> coaxPartKind(std::string_view name) {
    return valueIn(coaxPartKinds, name);
}
std::optional<Protection> protection(std::string_view name) {
    return valueIn(protections, name);
}
std::optional<Strip> strip(std::string_view name) {
    return valueIn(strips, name);
}
std::optional<DiskLayout> diskLayout(std::string_view name) {
    return valueIn(diskLayouts, name);
}

std::vector<Id> portsOf(const CoaxPart& part) {
    switch (part.kind) {
    case CoaxPartKind::entry:
        return {"out"};
    case CoaxPartKind::splitter: {
        std::vector<Id> out{"in"};
        for (int n = 1; n <= part.ways; ++n)
            out.push_back("out-" + std::to_string(n));
        return out;
    }
    default:
        return {"in", "out"};
    }
}

} // namespace metrodos::house
