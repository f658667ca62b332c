#include "capacity/coax_tree.h"

#include <algorithm>
#include <set>

namespace metrodos::capacity {
namespace {

using namespace house;

} // namespace

CoaxTree::CoaxTree(const House& house)
    : m_house(house) {
    for (const Connection& c : house.connections) {
        if (c.medium != Medium::coax) continue;
        for (const PortRef& end : c.ends)
            if (house.jack(end.device) != nullptr || house.coaxPart(end.device) != nullptr)
                m_runs.emplace(end, &c);
    }
}

const Connection* CoaxTree::runAt(const PortRef& end) const {
    const auto hit = m_runs.find(end);
    return hit == m_runs.end() ? nullptr : hit->second;
}

std::optional<PortRef> CoaxTree::across(const Connection& run, const PortRef& end) const {
    for (const PortRef& other : run.ends)
        if (other != end) return other;
    return std::nullopt;
}

CoaxPath CoaxTree::path(const Id& jackA, const Id& jackB) const {
    struct Node {
        PortRef at; // a jack, or the port of a part that a run leads into
        std::vector<CoaxStep> steps;
    };
    CoaxPath out;
    bool anyUnknown = runAt({jackA, ""}) == nullptr || runAt({jackB, ""}) == nullptr;
    std::set<PortRef> seen;
    // Walks everything that hangs together with the start; of the way to jackB if there is one.
    const auto walk = [&](const Id& start, bool wanted) {
        std::vector<Node> open{{{start, ""}, {}}};
        while (!open.empty()) {
            Node node = std::move(open.back());
            open.pop_back();
            if (!seen.insert(node.at).second) continue;
            if (wanted && node.at.device == jackB) {
                out.join = CoaxJoin::joined;
                out.steps = std::move(node.steps);
                return;
            }
            const auto follow = [&](const PortRef& from, std::vector<CoaxStep> steps) {
                const Connection* run = runAt(from);
                if (run == nullptr) return;
                const auto far = across(*run, from);
                if (!far) {
                    anyUnknown = true;
                    if (out.looseRun.empty()) out.looseRun = run->id;
                    return;
                }
                if (m_house.room(far->device) != nullptr && out.looseRun.empty()) out.looseRun = run->id;
                CoaxStep step;
                step.run = run;
                steps.push_back(step);
                open.push_back({*far, std::move(steps)});
            };
            const CoaxPart* part = m_house.coaxPart(node.at.device);
            if (part == nullptr) {
                if (node.at.device == start) follow(node.at, node.steps);
                continue;
            }
            for (const Id& port : portsOf(*part)) {
                if (port == node.at.port) continue;
                std::vector<CoaxStep> steps = node.steps;
                CoaxStep step;
                step.part = part;
                step.entry = node.at.port;
                step.exit = port;
                steps.push_back(step);
                follow({part->id, port}, std::move(steps));
            }
        }
    };
    if (jackA == jackB) {
        out.join = CoaxJoin::joined;
        return out;
    }
    walk(jackA, true);
    if (out.join == CoaxJoin::joined) {
        out.looseRun.clear();
        return out;
    }
    walk(jackB, false);
    out.join = anyUnknown ? CoaxJoin::unknown : CoaxJoin::unjoined;
    return out;
}

std::vector<Id> CoaxTree::openPorts(const CoaxPart& part) const {
    std::vector<Id> out;
    if (part.terminated == true) return out;
    for (const Id& port : portsOf(part)) {
        const PortRef here{part.id, port};
        const Connection* run = runAt(here);
        if (run == nullptr) {
            out.push_back(port);
            continue;
        }
        const auto far = across(*run, here);
        if (far && m_house.room(far->device) != nullptr && run->endTerminated != true) out.push_back(port);
    }
    return out;
}

const CoaxPart* CoaxTree::partAtInput(const CoaxPart& splitter) const {
    const PortRef input{splitter.id, "in"};
    const Connection* run = runAt(input);
    const auto far = run == nullptr ? std::nullopt : across(*run, input);
    return far ? m_house.coaxPart(far->device) : nullptr;
}

bool CoaxTree::hasFilterAtInput(const CoaxPart& splitter) const {
    const CoaxPart* part = partAtInput(splitter);
    return part != nullptr && part->kind == CoaxPartKind::filter;
}

bool CoaxTree::isNextToEntry(const CoaxPart& splitter) const {
    if (runAt({splitter.id, "in"}) == nullptr) return true;
    const CoaxPart* part = partAtInput(splitter);
    return part != nullptr && part->kind == CoaxPartKind::entry;
}

} // namespace metrodos::capacity
