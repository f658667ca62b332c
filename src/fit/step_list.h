// The list of steps while it is made: ids, what each thing is fitted by, what comes before what. Internal to
// the layer.
#pragma once

#include "fit/steps.h"

#include <map>
#include <set>

namespace metrodos::fit {

class StepList {
  public:
    explicit StepList(const house::House& house);

    /// A step that is not in the list yet, with what is said of its kind. `about`: what makes its id, with
    /// the kind; empty where there is one of the kind. A room that is not there is the whole house.
    [[nodiscard]] Step make(StepKind kind, const std::string& about, const house::Id& room, std::string what,
                            std::string of) const;
    /// The step brings in this thing; false where it is not of the plan or another step has it.
    bool take(const house::Id& thing, Step& step);
    /// Whether a step has the thing, or it is not of the plan.
    [[nodiscard]] bool isTaken(const house::Id& thing) const;
    /// The step comes after that of this id, where there is one.
    void need(Step& step, const std::string& id) const;
    /// The step comes after the one that brings in this thing.
    void needThing(Step& step, const house::Id& thing) const;
    /// The cautions that belong to a thing or a room.
    void caution(Step& step, const house::Id& where) const;
    void add(Step step);

    [[nodiscard]] bool contains(const std::string& id) const { return m_ids.contains(id); }
    [[nodiscard]] const std::vector<Step>& steps() const { return m_steps; }
    [[nodiscard]] std::vector<Step> release() { return std::move(m_steps); }

  private:
    const house::House& m_house;
    std::set<house::Id> m_planned;
    std::set<house::Id> m_taken;
    std::map<house::Id, std::string> m_fittedBy; ///< step by thing
    std::map<house::Id, std::vector<Caution>> m_cautions;
    std::set<std::string> m_ids;
    std::vector<Step> m_steps;
};

} // namespace metrodos::fit
