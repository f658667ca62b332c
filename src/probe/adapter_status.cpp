#include "probe/adapter_status.h"

#include "probe/socket.h"
#include "probe/web_client.h"
#include "quantity/fields.h"
#include "quantity/ip_address.h"
#include "quantity/text.h"

#include <nlohmann/json.hpp>

namespace metrodos::probe {
namespace {

using nlohmann::json;
using quantity::BitRate;
using quantity::problem;
using quantity::Result;
namespace fields = quantity::fields;

constexpr std::size_t maxPeers = 64;
constexpr std::chrono::seconds pageTime{3};
constexpr std::size_t maxText = 200;

std::optional<BitRate> rateIn(const json& object, const char* key) {
    const auto bps = fields::number(object, key, 1, 1e12);
    return bps ? std::optional(BitRate::bitsPerSecond(*bps)) : std::nullopt;
}

json orNull(const std::optional<BitRate>& rate) {
    return rate ? json(rate->bps()) : json(nullptr);
}

} // namespace

Result<house::AdapterStatus> adapterStatusOf(const json& document) {
    try {
        if (fields::text(document, "format", 60) != "metrodos-adapter-status")
            return problem("the page is none that says how an adapter is set up", "",
                           "type what the adapter shows instead");
        house::AdapterStatus out;
        out.simulated = fields::flag(document, "simulated").value_or(false);
        out.name = fields::text(document, "name", maxText);
        out.firmware = fields::text(document, "firmware", maxText);
        out.powerSaving = fields::flag(document, "power_saving");
        out.priority = fields::text(document, "priority", maxText);
        out.lightsOff = fields::flag(document, "lights_off");
        out.modemProtection = fields::flag(document, "modem_protection");
        out.isPrivate = fields::flag(document, "private");
        if (const json* peers = fields::list(document, "peers", maxPeers))
            for (const json& peer : *peers)
                out.peers.push_back({fields::neededText(peer, "name", maxText), rateIn(peer, "phy_to_bps"),
                                     rateIn(peer, "phy_from_bps")});
        return out;
    } catch (const quantity::BadField& bad) {
        return problem("“" + bad.name + "” on the page of the adapter cannot be read", "",
                       "type what the adapter shows instead");
    }
}

json toJson(const house::AdapterStatus& status) {
    json peers = json::array();
    for (const house::PeerRates& p : status.peers)
        peers.push_back({{"name", p.name}, {"phy_to_bps", orNull(p.to)}, {"phy_from_bps", orNull(p.from)}});
    return {{"format", "metrodos-adapter-status"},
            {"version", 1},
            {"simulated", status.simulated},
            {"name", status.name},
            {"firmware", status.firmware},
            {"power_saving", fields::orNull(status.powerSaving)},
            {"priority", status.priority},
            {"lights_off", fields::orNull(status.lightsOff)},
            {"modem_protection", fields::orNull(status.modemProtection)},
            {"private", fields::orNull(status.isPrivate)},
            {"peers", std::move(peers)}};
}

Result<house::AdapterStatus> readAdapterStatus(const std::string& url) {
    constexpr std::string_view scheme = "http://";
    const std::size_t slash = url.find('/', scheme.size());
    const std::string server = url.substr(0, slash);
    if (!url.starts_with(scheme) || server.size() == scheme.size() || url.size() > 300 ||
        url.find_first_of(" \t\r\n@") != std::string::npos)
        return problem(quantity::inQuotes(url) + " is no address of an adapter's page", "",
                       "write it like http://192.0.2.30/status");
    // The name is looked up once, and what it stands for is asked: never anybody outside.
    const auto address = resolve(server.substr(scheme.size()), 80);
    if (!address) return tl::unexpected(address.error());
    if (!address->isNearby())
        return problem(address->host() + " is no address of this house", url, "write that of the adapter");
    AnswerWatch watch(pageTime);
    const auto client = webClient(*address, watch);
    std::string body;
    watch.asks(client.get());
    const auto answer = client->Get(slash == std::string::npos ? "/" : url.substr(slash),
                                    [&](const char* data, std::size_t size) {
                                        watch.arrives(client.get());
                                        body.append(data, size);
                                        return body.size() <= maxStatusBytes;
                                    });
    if (!answer)
        return problem(body.size() > maxStatusBytes ? "the page is larger than an adapter's"
                                                    : "the adapter's page does not answer",
                       url, "see that the adapter is on and its address is right");
    if (answer->status != 200)
        return problem("the adapter's page answers with status " + std::to_string(answer->status), url,
                       "check the address of the page");
    auto status = adapterStatusIn(body);
    if (!status && status.error().where.empty()) {
        quantity::Problem placed = status.error();
        placed.where = url;
        return tl::unexpected(std::move(placed));
    }
    return status;
}

Result<house::AdapterStatus> adapterStatusIn(std::string_view page) {
    // Depth is bounded by what the library is given: such a page is flat.
    const json document = json::parse(
        page, [](int depth, json::parse_event_t, json&) { return depth < 8; }, false);
    if (!document.is_object())
        return problem("the adapter's page cannot be read", "", "type what the adapter shows instead");
    return adapterStatusOf(document);
}

} // namespace metrodos::probe
