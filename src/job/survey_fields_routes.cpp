// The fields of routes: ends, needs, framing.
#include "catalog/catalog.h"
#include "job/survey_fields.h"

namespace metrodos::job {

using namespace house;
using namespace make;
using catalog::Catalog;

namespace {

Field<Route> endOf(const char* key, const char* title, Id Route::*member) {
    Field<Route> out = oneOf<Route>(key, title, member, [](const House& h, const Route&) {
        std::vector<Choice> ends;
        for (const Endpoint& e : h.endpoints)
            ends.push_back({e.id, e.label});
        if (h.service) ends.push_back({h.service->id, h.service->label});
        return ends;
    });
    out.schema = idSchema();
    out.write = [member](const House&, const Route& r) { return json(r.*member); };
    out.read = [member, name = std::string(key)](Route& r, const json& o) {
        r.*member = fields::neededText(o, name.c_str(), maxId);
    };
    out.set = [set = out.set, member](House& h, Route& r, const std::string& typed) -> Result<void> {
        Route changed = r;
        if (typed.empty() || !set(h, changed, typed))
            return problem("there is no machine " + inQuotes(typed), "",
                           "name a machine of the survey, or the service");
        if (h.deviceAt(changed.from) == h.deviceAt(changed.to))
            return problem("both ends of a route would be the same", "", "choose another machine");
        r = changed;
        return {};
    };
    out.choices = [choices = out.choices](const House& h, const Route& r) {
        std::vector<Choice> ends = choices(h, r);
        ends.erase(ends.begin()); // a route has two ends
        return ends;
    };
    return out;
}

Field<Route> ipVersion() {
    Field<Route> out = whole("ip_version", "IP", &Route::ipVersion, 4, 6);
    out.schema = {{"enum", {4, 6}}};
    out.set = [](House&, Route& r, const std::string& typed) -> Result<void> {
        if (typed != "4" && typed != "6")
            return problem(inQuotes(typed) + " is no version of IP", "", "write 4 or 6");
        r.ipVersion = typed == "4" ? 4 : 6;
        return {};
    };
    out.choices = [](const House&, const Route&) { return std::vector<Choice>{{"4", "4"}, {"6", "6"}}; };
    return out;
}

Field<Route> vlanTag() {
    Field<Route> out = special<Route>(
        "vlan_tag", {{"type", "boolean"}}, [](const House&, const Route& r) { return json(r.vlanTag); },
        [](Route& r, const json& o) { r.vlanTag = fields::flag(o, "vlan_tag").value_or(false); });
    out.title = "VLAN tag";
    out.show = [](const House&, const Route& r) { return std::string(r.vlanTag ? "yes" : "no"); };
    out.set = [](House&, Route& r, const std::string& typed) -> Result<void> {
        if (typed != "yes" && typed != "no")
            return problem(inQuotes(typed) + " is neither yes nor no", "", "write yes or no");
        r.vlanTag = typed == "yes";
        return {};
    };
    out.choices = [](const House&, const Route&) {
        return std::vector<Choice>{{"yes", "yes"}, {"no", "no"}};
    };
    return out;
}

// What files say of a need: above 0.
Field<Route> need(const char* key, const char* title, std::optional<quantity::BitRate> Route::*member) {
    Field<Route> out = rate(key, title, member);
    out.schema = {{"type", {"number", "null"}}, {"exclusiveMinimum", 0}, {"maximum", 1e12}};
    out.read = [member, name = std::string(key)](Route& r, const json& o) {
        const auto bps = fields::number(o, name.c_str(), 0, 1e12);
        r.*member = bps ? std::optional(quantity::BitRate::bitsPerSecond(*bps)) : std::nullopt;
    };
    return out;
}

} // namespace

template <>
std::vector<Field<Route>> fieldsOf(const Catalog* catalog) {
    return {id<Route>(),
            text("label", "Route", &Route::label, "", true),
            endOf("from", "From", &Route::from),
            endOf("to", "To", &Route::to),
            need("need_forward_bps", "Need forward", &Route::needForward),
            need("need_backward_bps", "Need backward", &Route::needBackward),
            classOf("file_protocol", "File copy by", &Route::fileProtocol, in(catalog, &Catalog::protocols)),
            whole("mtu_bytes", "MTU", &Route::mtu, 576, 9216),
            vlanTag(),
            ipVersion(),
            special<Route>(
                "declined_tests", arrayOf({{"type", "string"}, {"maxLength", 200}}, 500),
                [](const House&, const Route& r) { return json(r.declined); },
                [](Route& r, const json& o) { r.declined = fields::texts(o, "declined_tests", 1000, 300); })};
}

} // namespace metrodos::job
