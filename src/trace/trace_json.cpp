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
                            {"because", s.because}});
    json tests = json::array();
    for (const NextTest& t : diagnosis.nextTests)
        tests.push_back(
            {{"id", t.id}, {"do", t.does}, {"information_bits", t.informationBits}, {"minutes", t.minutes}});
    return {{"format", "metrodos-trace"}, {"version", 1},        {"route", diagnosis.route},
            {"suspects", suspects},       {"next_tests", tests}, {"warnings", diagnosis.warnings}};
}

} // namespace metrodos::trace
