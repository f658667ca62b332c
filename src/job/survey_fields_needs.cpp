// The fields of what is needed where, and of the service.
#include "job/survey_fields.h"

#include "catalog/catalog.h"
#include "weigh/need.h"

namespace metrodos::job {

using namespace house;
using namespace make;
using catalog::Catalog;

template <>
std::vector<Field<Spot>> fieldsOf(const Catalog* catalog) {
    Field<Spot> uses = special<Spot>(
        "uses",
        arrayOf({{"type", "object"},
                 {"properties",
                  {{"use", {{"type", "string"}, {"maxLength", maxId}}},
                   {"count", {{"type", "integer"}, {"minimum", 1}, {"maximum", 999}}},
                   {"rate_bps", {{"type", {"number", "null"}}, {"exclusiveMinimum", 0}, {"maximum", 1e12}}},
                   {"volume_bytes",
                    {{"type", {"integer", "null"}}, {"minimum", 1}, {"maximum", 1'000'000'000'000'000}}},
                   {"hours", {{"type", {"number", "null"}}, {"exclusiveMinimum", 0}, {"maximum", 1000}}},
                   {"peer", {{"type", {"string", "null"}}, {"maxLength", maxId}}}}},
                 {"required", {"use", "count"}},
                 {"additionalProperties", false}},
                32),
        [](const House&, const Spot& s) {
            json out = json::array();
            for (const Use& use : s.uses)
                out.push_back({{"use", use.useClass},
                               {"count", use.count},
                               {"rate_bps", use.rate ? json(use.rate->bps()) : json(nullptr)},
                               {"volume_bytes", use.volume ? json(use.volume->bytes) : json(nullptr)},
                               {"hours", fields::orNull(use.hours)},
                               {"peer", fields::orNull(use.peer)}});
            return out;
        },
        [](Spot& s, const json& o) {
            const json* list = fields::list(o, "uses", 32);
            if (list == nullptr) return;
            for (const json& one : *list) {
                Use use{fields::neededText(one, "use", maxId),
                        static_cast<int>(fields::neededNumber(one, "count", 1, 999)),
                        {},
                        {},
                        fields::number(one, "hours", 0, 1000),
                        fields::text(one, "peer", maxId)};
                if (const auto bps = fields::number(one, "rate_bps", 0, 1e12))
                    use.rate = quantity::BitRate::bitsPerSecond(*bps);
                if (const auto bytes = fields::count(one, "volume_bytes"))
                    use.volume = quantity::ByteCount{*bytes};
                s.uses.push_back(std::move(use));
            }
        });
    uses.title = "Uses";
    uses.show = [catalog](const House& h, const Spot& s) {
        return catalog == nullptr ? std::string() : weigh::usesText(s.uses, *catalog, h);
    };
    uses.set = [catalog](House& h, Spot& s, const std::string& typed) -> Result<void> {
        if (catalog == nullptr) return problem("without a catalog no use is known");
        auto parsed = weigh::parseUses(typed, *catalog, h);
        if (!parsed) return tl::unexpected(parsed.error());
        s.uses = std::move(*parsed);
        return {};
    };
    using Microseconds = std::chrono::microseconds;
    constexpr double maxDelay = 10e6; // µs
    Field<Spot> delay = measured<Spot, Microseconds>(
        "need_delay_us", "Delay at most", &Spot::needDelay, 1, maxDelay,
        [](const Microseconds& t) { return static_cast<double>(t.count()); },
        [](double us) { return Microseconds(static_cast<std::int64_t>(us)); },
        [](const Microseconds& t) { return quantity::plainMicroseconds(static_cast<double>(t.count())); },
        [](const std::string& typed) -> Result<Microseconds> {
            const auto time = quantity::parseDuration(typed);
            if (!time || time->count() * 1e6 > maxDelay)
                return problem(inQuotes(typed) + " is no delay", "", "write it like 50 ms");
            return std::chrono::duration_cast<Microseconds>(*time);
        });
    delay.write = [](const House&, const Spot& s) {
        return s.needDelay ? json(s.needDelay->count()) : json(nullptr);
    };
    delay.schema["type"] = {"integer", "null"};
    const auto ends = [](const House& h, const Spot&) {
        std::vector<Choice> out{{std::string(house::servicePeer), "the service"}};
        for (const Device& d : h.devices)
            out.push_back({d.id, d.label});
        return out;
    };
    Field<Spot> peer = oneOf<Spot>("need_peer", "From", &Spot::peer, ends);
    peer.set = [set = peer.set](House& h, Spot& s, const std::string& typed) -> Result<void> {
        if (set(h, s, typed)) return {};
        return problem("there is no " + inQuotes(typed), "", "name a device that is there, or “the service”");
    };
    return {id<Spot>(),
            text("label", "Spot", &Spot::label, "", true),
            link("room", "Room", &Spot::room, &House::rooms),
            link("device", "Device", &Spot::device, &House::devices),
            uses,
            rate("need_down_bps", "Needs towards it", &Spot::needDown),
            rate("need_up_bps", "Needs from it", &Spot::needUp),
            delay,
            yesNo("need_steady", "Steady", &Spot::needSteady),
            peer,
            text("pin", "", &Spot::pin, "", false, maxId)};
}

template <>
std::vector<Field<Service>> fieldsOf(const Catalog* catalog) {
    Field<Service> url = text("test_url", "Test address", &Service::testUrl, "", false, 300);
    const auto set = url.set;
    url.set = [set](House& h, Service& s, const std::string& typed) -> Result<void> {
        if (!typed.empty() && !typed.starts_with("http://") && !typed.starts_with("https://"))
            return problem(inQuotes(typed) + " is not a web address", "",
                           "write it like http://server/large-file");
        return set(h, s, typed);
    };
    Field<Service> box = text("device", "", &Service::device, "", true, maxId);
    box.schema = idSchema();
    return {id<Service>(),
            text("label", "Service", &Service::label, "", true),
            derived<Service>("Ends in",
                             [](const House& h, const Service& s) {
                                 const Device* device = h.device(s.device);
                                 return device == nullptr ? std::string() : device->label;
                             }),
            box,
            rate("down_bps", "Down", &Service::down),
            rate("up_bps", "Up", &Service::up),
            classOf("uplink_phy", "Its port towards the operator", &Service::uplink,
                    catalog == nullptr ? nullptr : &catalog->phys),
            url};
}

} // namespace metrodos::job
