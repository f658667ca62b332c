#include "trace/trace_json.h"

#include <nlohmann/json.hpp>

namespace metrodos::trace {

nlohmann::json toJson(const Diagnosis& diagnosis) {
    using nlohmann::json;
    json suspects = json::array();
    for (const Suspect& s : diagnosis.suspects)
        suspects.push_back({{"element", s.element},
                            {"probability", s.probability},
                            {"ceiling_bps", s.ceiling > BitRate() ? json(s.ceiling.bps()) : json(nullptr)},
                            {"if_replaced_bps", s.ifReplaced ? json(s.ifReplaced->bps()) : json(nullptr)},
                            {"cost", s.cost ? json(s.cost->inUnits()) : json(nullptr)},
                            {"equals", s.equalIds},
                            {"because", s.because}});
    const auto limiter = [](const std::optional<DirectionLimit>& limit) {
        if (!limit) return json(nullptr);
        return json{{"element", limit->element},
                    {"probability", limit->probability},
                    {"ceiling_bps", limit->ceiling > BitRate() ? json(limit->ceiling.bps()) : json(nullptr)}};
    };
    json lifts = json::array();
    for (const Lift& lift : diagnosis.lifts)
        lifts.push_back({{"exchange", lift.exchange},
                         {"then_bps", lift.then.bps()},
                         {"cost", lift.cost ? json(lift.cost->inUnits()) : json(nullptr)}});
    const auto met = [](const std::optional<bool>& value) { return value ? json(*value) : json(nullptr); };
    json tests = json::array();
    for (const NextTest& t : diagnosis.nextTests)
        tests.push_back(
            {{"id", t.id}, {"do", t.does}, {"information_bits", t.informationBits}, {"minutes", t.minutes}});
    return {
        {"format", "metrodos-trace"},
        {"version", 1},
        {"route", diagnosis.route},
        {"suspects", suspects},
        {"next_tests", tests},
        {"warnings", diagnosis.warnings},
        {"limiters",
         {{"forward", limiter(diagnosis.limitForward)}, {"backward", limiter(diagnosis.limitBackward)}}},
        {"lift", lifts},
        {"runs_left_out", diagnosis.leftOut},
        {"need", {{"forward_met", met(diagnosis.forwardMet)}, {"backward_met", met(diagnosis.backwardMet)}}}};
}

} // namespace metrodos::trace
