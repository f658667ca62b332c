#include "fit/step_list.h"

#include "fit/step_texts.h"

#include <algorithm>

namespace metrodos::fit {
namespace {

constexpr std::size_t maxStepId = 100; // bytes

} // namespace

using house::Id;

StepList::StepList(const house::House& house)
    : m_house(house)
    , m_planned(house.fitting.planned.begin(), house.fitting.planned.end()) {
    for (Caution& c : cautionsOf(house))
        m_cautions[c.where].push_back(std::move(c));
}

Step StepList::make(StepKind kind, const std::string& about, const Id& room, std::string what,
                    std::string of) const {
    const StepText& text = textOf(kind);
    Step s;
    s.kind = kind;
    s.id = text.name;
    if (!about.empty()) s.id += "-" + about;
    s.id.resize(std::min(s.id.size(), maxStepId));
    s.about = about;
    s.room = m_house.room(room) == nullptr ? Id() : room;
    s.what = std::move(what);
    s.of = std::move(of);
    s.measures = text.measures;
    s.before = text.before;
    s.otherwise = text.otherwise;
    return s;
}

bool StepList::take(const Id& thing, Step& step) {
    if (!m_planned.contains(thing) || !m_taken.insert(thing).second) return false;
    step.fits.push_back(thing);
    return true;
}

bool StepList::isTaken(const Id& thing) const {
    return !m_planned.contains(thing) || m_taken.contains(thing);
}

void StepList::need(Step& step, const std::string& id) const {
    if (m_ids.contains(id) && std::find(step.needs.begin(), step.needs.end(), id) == step.needs.end())
        step.needs.push_back(id);
}

void StepList::needThing(Step& step, const Id& thing) const {
    if (const auto it = m_fittedBy.find(thing); it != m_fittedBy.end()) need(step, it->second);
}

void StepList::caution(Step& step, const Id& where) const {
    if (const auto it = m_cautions.find(where); it != m_cautions.end())
        step.cautions.insert(step.cautions.end(), it->second.begin(), it->second.end());
}

void StepList::add(Step step) {
    // Two things of one name that was cut are two all the same.
    for (int n = 2; !m_ids.insert(step.id).second; ++n) {
        const std::string tail = "-" + std::to_string(n);
        step.id.resize(std::min(step.id.size(), maxStepId - tail.size()));
        step.id += tail;
    }
    std::vector<std::string> first;
    for (const Id& thing : step.fits) {
        m_fittedBy[thing] = step.id;
        for (const house::FitHint& hint : m_house.fitting.hints)
            if (hint.thing == thing) first.push_back(hint.text + ".");
    }
    step.measures.insert(step.measures.begin(), first.begin(), first.end());
    m_steps.push_back(std::move(step));
}

} // namespace metrodos::fit
