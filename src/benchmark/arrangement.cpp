#include "benchmark/arrangement.h"

#include "quantity/fields.h"

namespace metrodos::benchmark {

namespace fields = quantity::fields;

void writeArrangement(nlohmann::json& object, const Arrangement& arrangement) {
    nlohmann::json altered = nlohmann::json::array();
    for (const Alteration& a : arrangement.altered) {
        altered.push_back({{"element", a.element}, {"how", house::name(a.kind)}});
        if (!a.place.empty()) altered.back()["place"] = a.place;
    }
    object["setup"] = house::name(arrangement.setup);
    object["bypassed"] = arrangement.bypassed;
    object["swapped"] = arrangement.swapped;
    object["altered"] = std::move(altered);
}

Arrangement readArrangement(const nlohmann::json& object) {
    Arrangement out;
    if (fields::find(object, "setup") != nullptr) out.setup = fields::word(object, "setup", &house::setup);
    out.bypassed = fields::texts(object, "bypassed", maxBypassed, maxElementBytes);
    out.swapped = fields::flag(object, "swapped").value_or(false);
    if (const auto* list = fields::list(object, "altered", maxAltered))
        for (const auto& one : *list)
            out.altered.push_back({fields::neededText(one, "element", maxElementBytes),
                                   fields::word(one, "how", &house::alterationKind),
                                   fields::text(one, "place", maxElementBytes)});
    return out;
}

} // namespace metrodos::benchmark
