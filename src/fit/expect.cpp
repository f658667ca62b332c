#include "fit/expect.h"

#include "capacity/predict.h"

#include <algorithm>

namespace metrodos::fit {
namespace {

using benchmark::Direction;
using house::ElementKind;
using house::Setup;

struct Range {
    BitRate low = BitRate::gigabits(1000);
    BitRate high = low;
    void cap(BitRate p10, BitRate p90) {
        low = std::min(low, p10);
        high = std::min(high, p90);
    }
};

// The slower direction of one element.
void capBy(Range& range, const capacity::ElementPrediction& e) {
    range.cap(std::min(e.forward.p10, e.backward.p10), std::min(e.forward.p90, e.backward.p90));
}

// What the two machines at the ends do with their own ports and sockets.
Range machines(const capacity::RoutePrediction& route) {
    Range out;
    const house::Id first = route.elements.front().element.device;
    const house::Id last = route.elements.back().element.device;
    for (const auto& e : route.elements) {
        const bool isEnd = e.element.device == first || e.element.device == last;
        if (isEnd || e.element.kind == ElementKind::bus) capBy(out, e);
    }
    return out;
}

// The adapters of the route's shared media as near to each other as the catalog knows them.
void capByPair(Range& range, const capacity::RoutePrediction& route, const house::House& house,
               const catalog::Catalog& catalog) {
    for (const auto& e : route.elements) {
        const house::Connection* c = house.connection(e.element.connection);
        const catalog::MediumClass* medium = c == nullptr ? nullptr : catalog.medium(c->medium);
        if (medium == nullptr || medium->situations.empty()) continue;
        for (const house::Id& box : {e.element.entry.device, e.element.exit.device}) {
            const house::Device* device = house.device(box);
            const catalog::DeviceClass* cls =
                device == nullptr ? nullptr : catalog.device(device->deviceClass);
            if (cls == nullptr) continue;
            const auto near = cls->medium.find(medium->situations.front().id);
            if (near != cls->medium.end()) range.cap(near->second.p10, near->second.p90);
            range.cap(cls->goodput.p10, cls->goodput.p90);
        }
    }
}

// The latest run of a direction tells how it is now: what was slow before it was mended is over. Of those
// with the most streams, whose figure speaks for what the way can carry.
std::optional<BitRate> latest(const benchmark::RouteRuns& runs, const house::Id& route, Setup setup,
                              Direction direction) {
    const benchmark::Run* out = nullptr;
    for (const auto& [on, run] : runs) {
        const benchmark::RunConfig& c = run.config;
        const bool speaks = on == route && run.complete && c.direction == direction &&
                            c.arrangement.setup == setup && c.arrangement.bypassed.empty() &&
                            c.arrangement.altered.empty() && !c.rate && c.group.empty();
        if (speaks && (out == nullptr || c.streams >= out->config.streams)) out = &run;
    }
    return out == nullptr ? std::nullopt : std::optional(out->goodput);
}

std::optional<BitRate> measuredIn(Setup setup, const house::Id& route, const benchmark::RouteRuns& runs) {
    const auto forward = latest(runs, route, setup, Direction::forward);
    const auto backward = latest(runs, route, setup, Direction::backward);
    if (!forward || !backward) return std::nullopt;
    return std::min(*forward, *backward);
}

} // namespace

std::optional<Expected> expectedOf(const Step& step, const house::House& house,
                                   const catalog::Catalog& catalog, const benchmark::RouteRuns& runs) {
    const house::Route* route = house.route(step.route);
    if (route == nullptr) return std::nullopt;
    const auto prediction = capacity::predict(house, catalog, *route);
    if (!prediction || prediction->elements.empty()) return std::nullopt;
    Range range;
    std::string from;
    if (step.setup == Setup::place) {
        range.cap(std::min(prediction->forward.p10, prediction->backward.p10),
                  std::min(prediction->forward.p90, prediction->backward.p90));
        from = "what the parts of the way carry";
    } else {
        range = machines(*prediction);
        from = "the machines and their ports";
        if (step.setup == Setup::bench) {
            capByPair(range, *prediction, house, catalog);
            from = "the adapters side by side";
        }
    }
    for (const auto& [setup, what] : {std::pair(Setup::bench, "the pair on the bench"),
                                      std::pair(Setup::baseline, "the machines on one cable")}) {
        if (setup == step.setup || (step.setup == Setup::baseline && setup == Setup::bench)) continue;
        const auto known = measuredIn(setup, step.route, runs);
        if (!known || *known >= range.high) continue;
        range.cap(*known, *known);
        from = std::string("what ") + what + " showed";
    }
    return Expected{range.low, range.high, from};
}

std::optional<BitRate> measuredOf(const Step& step, const benchmark::RouteRuns& runs) {
    return step.route.empty() ? std::nullopt : measuredIn(step.setup, step.route, runs);
}

std::optional<house::StepState> provenBy(const std::optional<BitRate>& measured,
                                         const std::optional<Expected>& expected) {
    if (!measured || !expected) return std::nullopt;
    return *measured >= expected->low ? house::StepState::done : house::StepState::failed;
}

} // namespace metrodos::fit
