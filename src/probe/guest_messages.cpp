#include "probe/guest_messages.h"

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;
using quantity::Result;

constexpr std::size_t maxUrls = 32;
constexpr std::size_t maxUrl = 200; // bytes

} // namespace

json toJson(const GuestState& state) {
    json urls = json::array();
    for (std::size_t i = 0; i < std::min(state.urls.size(), maxUrls); ++i)
        urls.push_back(state.urls[i].substr(0, maxUrl)); // numeric addresses and a code: ASCII
    return {{"urls", urls},
            {"code", state.code},
            {"expires_s", state.expiresIn.count()},
            {"present", state.isPresent},
            {"medium", state.medium},
            {"peer", state.peer}};
}

Result<GuestState> readGuestState(const json& message) {
    return reading([&] {
        GuestState out;
        const auto urls = message.find("urls");
        if (urls == message.end() || !urls->is_array() || urls->size() > maxUrls)
            throw quantity::BadField{"urls"};
        for (const json& url : *urls) {
            if (!url.is_string() || url.get_ref<const std::string&>().size() > maxUrl)
                throw quantity::BadField{"urls"};
            out.urls.push_back(url.get<std::string>());
        }
        out.code = fields::neededText(message, "code", 16);
        out.expiresIn =
            std::chrono::seconds(static_cast<long>(fields::neededNumber(message, "expires_s", 0, 1e6)));
        out.isPresent = fields::neededFlag(message, "present");
        out.medium = fields::neededText(message, "medium", 16);
        out.peer = fields::neededText(message, "peer", 64);
        return out;
    });
}

json guestOrder(const std::vector<GuestLeg>& legs) {
    json out = json::array();
    for (const GuestLeg& leg : legs) {
        out.push_back({{"direction", name(leg.config.direction)},
                       {"streams", leg.config.streams},
                       {"seconds", leg.config.seconds}});
        if (leg.config.warmup) out.back()["warmup_s"] = *leg.config.warmup;
    }
    return {{"type", "guest-run"}, {"legs", out}};
}

Result<std::vector<benchmark::RunConfig>> readGuestOrder(const json& message) {
    return reading([&] {
        const auto legs = message.find("legs");
        if (legs == message.end() || !legs->is_array() || legs->empty() || legs->size() > 2)
            throw quantity::BadField{"legs"};
        std::vector<benchmark::RunConfig> out;
        for (const json& leg : *legs) {
            if (!leg.is_object()) throw quantity::BadField{"legs"};
            benchmark::RunConfig config;
            config.direction = fields::word(leg, "direction", &benchmark::direction);
            config.streams = static_cast<int>(fields::neededNumber(leg, "streams", 1, maxGuestStreams));
            config.seconds = fields::neededNumber(leg, "seconds", benchmark::minRun, benchmark::maxRun);
            config.warmup = fields::number(leg, "warmup_s", 0, benchmark::maxRun);
            out.push_back(std::move(config));
        }
        return out;
    });
}

} // namespace metrodos::probe
