#include "fit/place_trial.h"

#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "house/edit.h"
#include "house/route.h"

#include <algorithm>

namespace metrodos::fit {
namespace {

using house::Connection;
using house::Device;
using house::House;
using house::Id;
using house::Jack;
using house::Medium;
using house::Port;
using house::PortKind;
using house::PortRef;
using house::Trial;
using house::TrialStep;
using quantity::BitRate;

constexpr double secondsEach = 5;
constexpr int streams = 4;
constexpr std::size_t mostPlaces = 24;

std::string textOf(const PortRef& ref) {
    return ref.device + "." + ref.port;
}
// The first route that passes an element.
Id routeOver(const House& house, const Id& element) {
    const house::RouteFinder finder(house);
    for (const house::Route& route : house.routes) {
        const auto elements = finder.find(route);
        if (elements && std::any_of(elements->begin(), elements->end(),
                                    [&](const house::Element& e) { return e.id == element; }))
            return route.id;
    }
    return {};
}

bool isTaken(const House& house, const PortRef& port) {
    return std::any_of(house.connections.begin(), house.connections.end(), [&](const Connection& c) {
        return std::find(c.ends.begin(), c.ends.end(), port) != c.ends.end();
    });
}

// Where the ids of things are plugged in: a jack of the room that nothing else is in.
std::optional<PlaceTrial> jacksFor(const House& house, const Device& device) {
    for (const Port& port : device.ports) {
        if (port.kind != PortKind::mains && port.kind != PortKind::coax) continue;
        const Jack* now = house.jack(port.jack);
        if (now == nullptr) continue;
        PlaceTrial out;
        const bool isMains = port.kind == PortKind::mains;
        const house::Room* room = house.room(now->room);
        out.what = device.label;
        out.kind = isMains ? "outlets" : "coax jacks";
        out.things = out.kind + (room == nullptr ? std::string() : " of the " + room->label);
        out.wait = std::string(isMains ? "straight into the wall, " : "") +
                   "and wait until its light for the link is steady";
        for (const Connection& c : house.connections)
            if (c.medium == (isMains ? Medium::mains : Medium::coax) &&
                std::find(c.ends.begin(), c.ends.end(), PortRef{device.id, port.id}) != c.ends.end())
                out.element = c.id;
        out.places.push_back({now->id, now->label});
        for (const Jack& jack : house.jacks) {
            const bool isFree =
                std::none_of(house.devices.begin(), house.devices.end(), [&](const Device& d) {
                    return std::any_of(d.ports.begin(), d.ports.end(),
                                       [&](const Port& p) { return p.jack == jack.id; });
                });
            if (jack.kind == now->kind && jack.room == now->room && isFree && jack.id != now->id)
                out.places.push_back({jack.id, jack.label});
        }
        return out;
    }
    return std::nullopt;
}

// Sockets or ports of the same kind at the other end that nothing is in.
std::optional<PlaceTrial> portsFor(const House& house, const Connection& connection, const PortRef& end,
                                   const std::string& what, bool isSocket) {
    const Device* host = house.device(end.device);
    const Port* now = house.port(end);
    if (host == nullptr || now == nullptr) return std::nullopt;
    PlaceTrial out;
    out.what = what;
    out.kind = isSocket ? "sockets" : "ports";
    out.things = out.kind + " of “" + host->label + "”";
    out.wait = isSocket ? "and wait until the machine has its port again"
                        : "and wait until the light of the port is on";
    out.element = isSocket ? connection.id : textOf(end);
    out.places.push_back({textOf(end), house.labelOf(end)});
    for (const Port& port : host->ports)
        if (port.kind == now->kind && port.id != now->id && port.jack.empty() &&
            !isTaken(house, {host->id, port.id}))
            out.places.push_back({textOf({host->id, port.id}), house.labelOf({host->id, port.id})});
    return out;
}

std::optional<PlaceTrial> anyPlaces(const Step& step, const House& house) {
    const Device* device = house.device(step.about);
    if (step.kind == StepKind::adapter || step.kind == StepKind::outlets)
        return device == nullptr ? std::nullopt : jacksFor(house, *device);
    if (step.kind == StepKind::usb_adapter && device != nullptr)
        for (const Connection& c : house.connections)
            if (c.medium == Medium::bus && c.ends.size() == 2)
                for (std::size_t i = 0; i < 2; ++i)
                    if (c.ends[i].device == device->id)
                        return portsFor(house, c, c.ends[1 - i], device->label, true);
    if (step.kind == StepKind::lead)
        if (const Connection* c = house.connection(step.about))
            for (const PortRef& end : c->ends) {
                const Device* box = house.device(end.device);
                const bool isHub = box != nullptr && (box->kind == house::DeviceKind::network_switch ||
                                                      box->kind == house::DeviceKind::router);
                if (isHub) return portsFor(house, *c, end, "the lead of “" + c->label + "”", false);
            }
    return std::nullopt;
}

// What is plugged in at one of these places.
std::optional<PortRef> plugAt(const House& house, const Trial& trial) {
    for (const Device& d : house.devices)
        for (const Port& p : d.ports)
            if (!p.jack.empty() && std::any_of(trial.steps.begin(), trial.steps.end(),
                                               [&](const TrialStep& s) { return s.place == p.jack; }))
                return PortRef{d.id, p.id};
    return std::nullopt;
}

// The place of the trial where the thing is now.
std::string placeNow(const House& house, const Trial& trial) {
    if (const auto plug = plugAt(house, trial)) return house.port(*plug)->jack;
    for (const TrialStep& s : trial.steps)
        if (s.place.find('.') != std::string::npos && isTaken(house, house::portOfPlace(s.place)))
            return s.place;
    return {};
}

// One run of whole seconds after another, of one direction.
std::optional<catalog::RateSpread> spreadOf(const TrialStep& first, const Trial& trial,
                                            const benchmark::RouteRuns& runs,
                                            benchmark::Direction direction) {
    std::vector<double> seconds;
    for (const TrialStep& s : trial.steps) {
        if (s.place != first.place) continue;
        for (const auto& [route, run] : runs) {
            if (run.step != s.id || !run.complete || run.config.direction != direction) continue;
            const std::vector<double> its = benchmark::wholeSeconds(run);
            seconds.insert(seconds.end(), its.begin(), its.end());
        }
    }
    if (seconds.empty()) return std::nullopt;
    const auto at = [&](double p) { return BitRate::bitsPerSecond(benchmark::quantile(seconds, p)); };
    return catalog::RateSpread{at(0.1), at(0.5), at(0.9)};
}

// Steps for the places in this order.
void addRound(Trial& trial, const std::vector<TrialStep>& round) {
    for (TrialStep s : round) {
        s.id = trial.id + "-" + std::to_string(trial.steps.size() + 1);
        trial.steps.push_back(std::move(s));
    }
}

} // namespace

std::optional<PlaceTrial> placesOf(const Step& step, const House& house) {
    auto out = anyPlaces(step, house);
    if (!out || out->places.size() < 2 || out->element.empty()) return std::nullopt;
    out->places.resize(std::min(out->places.size(), mostPlaces));
    out->route = routeOver(house, out->element);
    if (out->route.empty()) return std::nullopt;
    return out;
}

Trial planPlaces(const House& house, const PlaceTrial& places) {
    Trial trial;
    trial.id = house.freeId("places");
    trial.label = "Trial of the " + places.things;
    std::vector<TrialStep> round;
    for (std::size_t i = 0; i < places.places.size(); ++i) {
        const Place& place = places.places[i];
        TrialStep s;
        s.route = places.route;
        s.prepare = (i == 0 ? "Leave " + places.what + " at “" : "Plug " + places.what + " into “") +
                    place.label + "”, " + places.wait + ".";
        s.arm = std::string(1, static_cast<char>('A' + static_cast<char>(i)));
        s.streams = {streams};
        s.seconds = secondsEach;
        s.place = place.id;
        if (i > 0) s.element = places.element;
        round.push_back(std::move(s));
    }
    addRound(trial, round);
    return trial;
}

Trial withRound(Trial trial) {
    std::vector<TrialStep> round;
    for (const TrialStep& s : trial.steps)
        if (std::none_of(round.begin(), round.end(), [&](const TrialStep& r) { return r.place == s.place; }))
            round.push_back(s);
    if (round.empty()) return trial;
    if (trial.steps.back().place != round.front().place) std::reverse(round.begin(), round.end());
    addRound(trial, round);
    return trial;
}

bool triesPlaces(const Trial& trial) {
    return std::any_of(trial.steps.begin(), trial.steps.end(),
                       [](const TrialStep& s) { return !s.place.empty(); });
}

// By its places: after one was kept the element of a port is another one.
bool isTrialOf(const Trial& trial, const PlaceTrial& places) {
    const auto isPlace = [&](const TrialStep& s) {
        return std::any_of(places.places.begin(), places.places.end(),
                           [&](const Place& p) { return p.id == s.place; });
    };
    return !trial.steps.empty() && std::all_of(trial.steps.begin(), trial.steps.end(), isPlace);
}

std::vector<TriedPlace> triedPlaces(const House& house, const Trial& trial,
                                    const benchmark::RouteRuns& runs) {
    const std::string now = placeNow(house, trial);
    std::vector<TriedPlace> out;
    for (const TrialStep& s : trial.steps) {
        const auto isIt = [&](const TriedPlace& t) { return t.place.id == s.place; };
        if (s.place.empty() || std::any_of(out.begin(), out.end(), isIt)) continue;
        TriedPlace t;
        t.place = {s.place, house::labelOfPlace(house, s.place)};
        t.isNow = s.place == now;
        t.forward = spreadOf(s, trial, runs, benchmark::Direction::forward);
        t.backward = spreadOf(s, trial, runs, benchmark::Direction::backward);
        if (t.forward && t.backward) t.lower = std::min(t.forward->p10, t.backward->p10);
        out.push_back(std::move(t));
    }
    return out;
}

std::optional<std::size_t> bestOf(const std::vector<TriedPlace>& tried) {
    std::optional<std::size_t> best;
    std::size_t measured = 0;
    for (std::size_t i = 0; i < tried.size(); ++i) {
        if (!tried[i].lower) continue;
        ++measured;
        const bool isBetter = !best || *tried[i].lower > *tried[*best].lower ||
                              (*tried[i].lower == *tried[*best].lower && tried[i].isNow);
        if (isBetter) best = i;
    }
    return measured < 2 ? std::nullopt : best;
}

quantity::Result<House> keepPlace(const House& house, const Trial& trial, const std::string& place) {
    const std::string now = placeNow(house, trial);
    if (place == now) return house;
    for (const TrialStep& s : trial.steps)
        if (!s.element.empty()) // a port is an element of its own, and may be another one by now
            return house::pluggedAt(house, s.element.find('.') == std::string::npos ? s.element : now, place);
    return quantity::problem("the trial tries no places", "", "try the places anew");
}

quantity::Result<Kept> keepBest(const House& house, const Trial& trial, const benchmark::RouteRuns& runs) {
    const auto tried = triedPlaces(house, trial, runs);
    const auto best = bestOf(tried);
    if (!best) return quantity::problem("no two places have been tried yet", "", "try them first");
    const Place place = tried[*best].place;
    return keepPlace(house, trial, place.id).map([&](House&& kept) { return Kept{place, std::move(kept)}; });
}

} // namespace metrodos::fit
