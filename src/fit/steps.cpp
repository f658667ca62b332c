// What was recorded, put to the steps that it belongs to.
#include "fit/steps.h"

#include "fit/derive_steps.h"
#include "fit/labels.h"

#include <algorithm>
#include <map>
#include <set>

namespace metrodos::fit {
namespace {

using catalog::Catalog;
using house::House;
using house::StepRecord;
using house::StepState;

StepRecord& recordOf(House& house, const Step& step) {
    for (StepRecord& r : house.fitting.records)
        if (r.step == step.id) return r;
    house.fitting.records.push_back({step.id, StepState::open, ""});
    return house.fitting.records.back();
}

} // namespace

std::vector<Step> stepsOf(const House& house, const Catalog& catalog) {
    std::vector<Step> out = deriveSteps(house, catalog);
    std::map<house::Id, std::string> codes;
    for (const Label& label : labelsOf(house))
        codes.emplace(label.thing, label.code);
    for (Step& s : out)
        if (const auto code = codes.find(s.about); code != codes.end()) s.label = code->second;
    std::map<std::string_view, const StepRecord*> records;
    for (const StepRecord& r : house.fitting.records)
        records[r.step] = &r;
    for (Step& s : out) {
        const auto it = records.find(s.id);
        if (it == records.end()) continue;
        const StepRecord& r = *it->second;
        s.note = r.note;
        s.photos = r.photos.size();
        s.at = r.at;
        s.isChanged = r.state != StepState::open && r.of != s.of;
        if (s.isChanged) continue;
        s.state = r.state;
        s.reason = r.reason;
    }
    return out;
}

std::vector<Step> openSteps(const House& house, const Catalog& catalog) {
    std::vector<Step> out = stepsOf(house, catalog);
    std::erase_if(out, [](const Step& s) { return isClosed(s.state); });
    return out;
}

std::vector<StepRecord> noLongerNeeded(const House& house, const std::vector<Step>& steps) {
    std::set<std::string_view> ids;
    for (const Step& s : steps)
        ids.insert(s.id);
    std::vector<StepRecord> out;
    for (const StepRecord& r : house.fitting.records)
        if (!ids.contains(r.step)) out.push_back(r);
    return out;
}

House withState(const House& house, const Step& step, StepState state, const std::string& at,
                const std::string& reason) {
    House out = house;
    StepRecord& r = recordOf(out, step);
    r.state = state;
    r.at = at;
    r.reason = reason;
    r.what = step.what;
    r.of = step.of;
    return out;
}

House withNote(const House& house, const Step& step, const std::string& note) {
    House out = house;
    StepRecord& r = recordOf(out, step);
    r.note = note;
    r.what = step.what;
    if (r.of.empty()) r.of = step.of;
    return out;
}

House withPhoto(const House& house, const Step& step, const house::Photo& photo) {
    House out = house;
    StepRecord& r = recordOf(out, step);
    std::erase_if(r.photos, [&](const house::Photo& p) { return p.digest == photo.digest; });
    r.photos.push_back(photo);
    r.what = step.what;
    if (r.of.empty()) r.of = step.of;
    return out;
}

House withoutPhoto(const House& house, const std::string& step, const std::string& digest) {
    House out = house;
    for (StepRecord& r : out.fitting.records)
        if (r.step == step)
            std::erase_if(r.photos, [&](const house::Photo& p) { return p.digest == digest; });
    return out;
}

House withoutRecord(const House& house, const std::string& step) {
    House out = house;
    std::erase_if(out.fitting.records, [&](const StepRecord& r) { return r.step == step; });
    return out;
}

} // namespace metrodos::fit
