#include "catalog/faults.h"

#include "catalog/load_faults.h"

namespace metrodos::catalog {
namespace {

constexpr double rarest = 0.02;
constexpr double surest = 0.98;

double* member(Signature& signature, const std::string& name) {
    const std::map<std::string, double*> members{
        {"queue", &signature.queue}, {"window", &signature.window},     {"buffer", &signature.buffer},
        {"core", &signature.core},   {"unsteady", &signature.unsteady}, {"errors", &signature.errors},
        {"loss", &signature.loss},   {"falls", &signature.falls},       {"stalls", &signature.stalls}};
    const auto it = members.find(name);
    return it == members.end() ? nullptr : it->second;
}

FaultClass faultOf(const Entry& e, bool listed) {
    FaultClass out;
    out.id = e.text("id");
    out.label = e.text("label");
    out.prior = e.number("prior", 0, 0.5);
    out.source = e.text("source");
    const json& raw = e.raw();
    if (listed) {
        if (!raw.contains("on") || !raw.at("on").is_array()) fail(e.where(), "“on” must be a list of kinds");
        for (const json& kind : raw.at("on"))
            out.on.push_back(kind.get<std::string>());
    }
    if (raw.contains("share")) out.share = e.spread("share", 1e-4, 1);
    if (raw.contains("loss_ratio")) out.loss = e.spread("loss_ratio", 1e-6, 0.5);
    if (raw.contains("rate_bps")) out.rate = e.rates("rate_bps");
    if (raw.contains("bus"))
        for (const json& bus : raw.at("bus"))
            out.buses.push_back(bus.get<std::string>());
    out.linksSlower = raw.value("links", "") == "slower";
    out.oneWay = raw.value("one_way", false);
    if (raw.contains("from_bps")) out.fromBps = e.number("from_bps", 0, 1e12);
    if (raw.contains("cured_by"))
        for (const json& cure : raw.at("cured_by")) {
            const auto kind = house::alterationKind(cure.is_string() ? cure.get<std::string>() : "");
            if (!kind) fail(e.where(), "“cured_by” takes outlet, off and phy");
            out.curedBy.push_back(*kind);
        }
    if (!out.share && !out.rate && !out.loss && out.buses.empty() && !out.linksSlower)
        fail(e.where(),
             "one of “share”, “rate_bps”, “loss_ratio”, “bus” and “links” must say what the fault leaves");
    if (raw.contains("shows"))
        for (const auto& [name, value] : raw.at("shows").items()) {
            Signature any;
            if (member(any, name) == nullptr) fail(e.where(), "“shows” has no “" + name + "”");
            out.shows[name] = Entry(raw.at("shows"), e.where()).number(name.c_str(), rarest, surest);
        }
    return out;
}

} // namespace

Signature FaultCatalog::signature(const std::string& kind, const FaultClass* fault) const {
    const auto it = signatures.find(kind);
    Signature out = it == signatures.end() ? Signature{} : it->second;
    if (fault != nullptr)
        for (const auto& [name, value] : fault->shows)
            *member(out, name) = value;
    return out;
}

FaultCatalog readFaults(const std::filesystem::path& file) {
    FaultCatalog out;
    const json document = read(file);
    each(document, file.string(), "faults", [&](const Entry& e) { out.faults.push_back(faultOf(e, true)); });
    each(document, file.string(), "unlisted",
         [&](const Entry& e) { out.unlisted.push_back(faultOf(e, false)); });
    each(document, file.string(), "signatures", [&](const Entry& e) {
        Signature s;
        for (const char* name : {"queue", "window", "buffer", "core", "unsteady", "errors", "loss"})
            *member(s, name) = e.number(name, rarest, surest);
        for (const char* name : {"falls", "stalls"}) // few kinds show these
            if (e.raw().contains(name)) *member(s, name) = e.number(name, rarest, surest);
        out.signatures[e.text("id")] = s;
    });
    each(document, file.string(), "tests",
         [&](const Entry& e) { out.minutes[e.text("id")] = e.number("minutes", 0.1, 600); });
    for (const char* kind : {"run", "read", "service", "port", "socket", "segment", "exchange", "bridge",
                             "baseline", "swap", "bench", "outlet", "off", "copy"})
        if (!out.minutes.contains(kind))
            fail(file.string(), std::string("the test “") + kind + "” is missing");
    return out;
}

} // namespace metrodos::catalog
