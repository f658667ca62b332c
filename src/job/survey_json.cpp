#include "job/survey_json.h"

namespace metrodos::job {

using namespace house;

void addSurvey(json& out, const House& house) {
    for (const char* list : {"jacks", "coax_parts", "panels", "circuits", "appliances", "spots", "trials"})
        out[list] = json::array();
    for (const Jack& j : house.jacks)
        out["jacks"].push_back(
            {{"id", j.id}, {"label", j.label}, {"room", orNull(j.room)}, {"kind", name(j.kind)}});
    for (const CoaxPart& p : house.coaxParts)
        out["coax_parts"].push_back({{"id", p.id},
                                     {"label", p.label},
                                     {"kind", name(p.kind)},
                                     {"room", orNull(p.room)},
                                     {"ways", p.ways},
                                     {"rated", orNull(p.rated)},
                                     {"bypass", orNull(p.bypass)},
                                     {"terminated", orNull(p.terminated)}});
    out["coax_use"] = {{"television", orNull(house.coaxUse.television)},
                       {"satellite", orNull(house.coaxUse.satellite)},
                       {"cable_internet_top_hz", orNull(house.coaxUse.cableInternetTop)}};
    for (const Panel& p : house.panels)
        out["panels"].push_back(
            {{"id", p.id}, {"label", p.label}, {"room", orNull(p.room)}, {"fed_by", orNull(p.fedBy)}});
    for (const Circuit& c : house.circuits) {
        json outlets = json::array();
        for (const CircuitOutlet& o : c.outlets)
            outlets.push_back({{"jack", o.jack}, {"from_previous_m", orNull(o.fromPrevious)}});
        out["circuits"].push_back({{"id", c.id},
                                   {"label", c.label},
                                   {"panel", orNull(c.panel)},
                                   {"leg", orNull(c.leg)},
                                   {"protection", name(c.protection)},
                                   {"wiring", orNull(c.wiring)},
                                   {"outlets", std::move(outlets)}});
    }
    for (const Trial& t : house.trials) {
        json steps = json::array();
        for (const TrialStep& s : t.steps)
            steps.push_back({{"id", s.id},
                             {"route", s.route},
                             {"setup", name(s.setup)},
                             {"prepare", s.prepare},
                             {"arm", s.arm.empty() ? json(nullptr) : json(s.arm)},
                             {"direction", s.direction},
                             {"streams", s.streams},
                             {"seconds", s.seconds}});
        out["trials"].push_back({{"id", t.id}, {"label", t.label}, {"steps", std::move(steps)}});
    }
    for (const Appliance& a : house.appliances) {
        json hours = json::array();
        for (const HourSpan& span : a.hours)
            hours.push_back({span.from, span.to});
        out["appliances"].push_back({{"id", a.id},
                                     {"label", a.label},
                                     {"class", orNull(a.applianceClass)},
                                     {"outlet", orNull(a.outlet)},
                                     {"hours", std::move(hours)}});
    }
    for (const Spot& s : house.spots) {
        json uses = json::array();
        for (const Use& use : s.uses)
            uses.push_back({{"use", use.useClass},
                            {"count", use.count},
                            {"rate_bps", orNull(use.rate)},
                            {"volume_bytes", use.volume ? json(use.volume->bytes) : json(nullptr)},
                            {"hours", orNull(use.hours)}});
        out["spots"].push_back({{"id", s.id},
                                {"label", s.label},
                                {"room", orNull(s.room)},
                                {"device", orNull(s.device)},
                                {"need_down_bps", orNull(s.needDown)},
                                {"need_up_bps", orNull(s.needUp)},
                                {"uses", std::move(uses)},
                                {"need_delay_us", s.needDelay ? json(s.needDelay->count()) : json(nullptr)},
                                {"need_steady", orNull(s.needSteady)},
                                {"pin", orNull(s.pin)}});
    }
    json plan = json::array();
    for (const Choice& choice : house.weighing.plan)
        plan.push_back({{"spot", choice.spot}, {"way", choice.way}});
    out["weighing"] = {{"school", orNull(house.weighing.school)},
                       {"share", house.weighing.share},
                       {"years", house.weighing.years},
                       {"drilling", house.weighing.drilling},
                       {"plan", std::move(plan)}};
    out["service"] = nullptr;
    if (house.service)
        out["service"] = {{"id", house.service->id},
                          {"label", house.service->label},
                          {"device", house.service->device},
                          {"down_bps", orNull(house.service->down)},
                          {"up_bps", orNull(house.service->up)},
                          {"test_url", orNull(house.service->testUrl)}};
}

void readSurvey(const json& value, House& out) {
    const auto list = [&](const char* key) { return value.contains(key) ? value.at(key) : json::array(); };
    for (const json& v : list("jacks"))
        out.jacks.push_back(
            {text(v, "id"), text(v, "label"), text(v, "room"), named(jackKind(text(v, "kind")), v, "kind")});
    for (const json& v : list("coax_parts"))
        out.coaxParts.push_back({text(v, "id"), text(v, "label"),
                                 named(coaxPartKind(text(v, "kind")), v, "kind"), text(v, "room"),
                                 v.value("ways", 2), optional<bool>(v, "rated"), optional<bool>(v, "bypass"),
                                 optional<bool>(v, "terminated")});
    if (value.contains("coax_use") && value.at("coax_use").is_object()) {
        const json& use = value.at("coax_use");
        out.coaxUse.television = optional<bool>(use, "television");
        out.coaxUse.satellite = optional<bool>(use, "satellite");
        if (const auto hertz = optional<double>(use, "cable_internet_top_hz"))
            out.coaxUse.cableInternetTop = quantity::Frequency::hertz(*hertz);
    }
    for (const json& v : list("panels"))
        out.panels.push_back({text(v, "id"), text(v, "label"), text(v, "room"), text(v, "fed_by")});
    for (const json& v : list("circuits")) {
        Circuit c;
        c.id = text(v, "id");
        c.label = text(v, "label");
        c.panel = text(v, "panel");
        c.leg = text(v, "leg");
        if (v.contains("protection"))
            c.protection = named(protection(text(v, "protection")), v, "protection");
        c.wiring = text(v, "wiring");
        for (const json& o : v.at("outlets"))
            c.outlets.push_back({text(o, "jack"), length(o, "from_previous_m")});
        out.circuits.push_back(std::move(c));
    }
    for (const json& v : list("appliances")) {
        Appliance a{text(v, "id"), text(v, "label"), text(v, "class"), text(v, "outlet"), {}};
        if (v.contains("hours"))
            for (const json& span : v.at("hours"))
                a.hours.push_back({span.at(0).get<int>(), span.at(1).get<int>()});
        out.appliances.push_back(std::move(a));
    }
    for (const json& v : list("trials")) {
        Trial t{text(v, "id"), text(v, "label"), {}};
        for (const json& one : v.at("steps")) {
            TrialStep s;
            s.id = text(one, "id");
            s.route = text(one, "route");
            s.setup = named(setup(text(one, "setup")), one, "setup");
            s.prepare = text(one, "prepare");
            s.arm = text(one, "arm");
            s.direction = text(one, "direction");
            s.streams = one.at("streams").get<std::vector<int>>();
            s.seconds = one.at("seconds").get<double>();
            t.steps.push_back(std::move(s));
        }
        out.trials.push_back(std::move(t));
    }
    for (const json& v : list("spots")) {
        Spot s{text(v, "id"),     text(v, "label"),         text(v, "room"),
               text(v, "device"), rate(v, "need_down_bps"), rate(v, "need_up_bps")};
        if (v.contains("uses"))
            for (const json& use : v.at("uses")) {
                s.uses.push_back({text(use, "use"),
                                  use.at("count").get<int>(),
                                  rate(use, "rate_bps"),
                                  {},
                                  optional<double>(use, "hours")});
                if (const auto bytes = optional<std::uint64_t>(use, "volume_bytes"))
                    s.uses.back().volume = quantity::ByteCount{*bytes};
            }
        if (const auto delay = optional<std::int64_t>(v, "need_delay_us"))
            s.needDelay = std::chrono::microseconds(*delay);
        s.needSteady = optional<bool>(v, "need_steady");
        s.pin = text(v, "pin");
        out.spots.push_back(std::move(s));
    }
    if (value.contains("weighing") && value.at("weighing").is_object()) {
        const json& v = value.at("weighing");
        Weighing& w = out.weighing;
        w.school = text(v, "school");
        w.share = v.value("share", w.share);
        w.years = v.value("years", w.years);
        w.drilling = v.value("drilling", w.drilling);
        if (v.contains("plan"))
            for (const json& choice : v.at("plan"))
                w.plan.push_back({text(choice, "spot"), text(choice, "way")});
    }
    if (value.contains("service") && value.at("service").is_object()) {
        const json& v = value.at("service");
        out.service = Service{text(v, "id"),       text(v, "label"),  text(v, "device"),
                              rate(v, "down_bps"), rate(v, "up_bps"), text(v, "test_url")};
    }
}

} // namespace metrodos::job
