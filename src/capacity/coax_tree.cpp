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
    constexpr std::size_t first = 0; // of the nodes: where the walk starts, its own parent
    // A jack, or the port of a part that a run leads into; and how the walk came here from the node before.
    struct Node {
        PortRef at;
        std::size_t before = first;
        const CoaxPart* part = nullptr; ///< crossed, from the port of the node before to `from`
        Id from;
        const Connection* run = nullptr;
    };
    CoaxPath out;
    bool anyUnknown = runAt({jackA, ""}) == nullptr || runAt({jackB, ""}) == nullptr;
    std::set<PortRef> seen;
    const auto stepsTo = [](const std::vector<Node>& nodes, std::size_t index) {
        std::vector<CoaxStep> steps;
        for (; index != first; index = nodes[index].before) {
            const Node& node = nodes[index];
            steps.push_back({node.run, nullptr, {}, {}});
            if (node.part != nullptr)
                steps.push_back({nullptr, node.part, nodes[node.before].at.port, node.from});
        }
        std::reverse(steps.begin(), steps.end());
        return steps;
    };
    // Walks everything that hangs together with the start; of the way to jackB if there is one.
    const auto walk = [&](const Id& start, bool wanted) {
        std::vector<Node> nodes{{{start, ""}, first, nullptr, {}, nullptr}};
        std::vector<std::size_t> open{first};
        while (!open.empty()) {
            const std::size_t index = open.back();
            open.pop_back();
            const PortRef at = nodes[index].at; // nodes grows below
            if (!seen.insert(at).second) continue;
            if (wanted && at.device == jackB) {
                out.join = CoaxJoin::joined;
                out.steps = stepsTo(nodes, index);
                return;
            }
            const auto follow = [&](const PortRef& from, const CoaxPart* part) {
                const Connection* run = runAt(from);
                if (run == nullptr) return;
                const auto far = across(*run, from);
                if (!far) anyUnknown = true;
                if ((!far || m_house.room(far->device) != nullptr) && out.looseRun.empty())
                    out.looseRun = run->id;
                if (!far || seen.count(*far) != 0) return;
                open.push_back(nodes.size());
                nodes.push_back({*far, index, part, from.port, run});
            };
            const CoaxPart* part = m_house.coaxPart(at.device);
            if (part == nullptr) {
                if (at.device == start) follow(at, nullptr);
                continue;
            }
            for (const Id& port : portsOf(*part))
                if (port != at.port) follow({part->id, port}, part);
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
