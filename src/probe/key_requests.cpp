#include "probe/key_requests.h"

#include "quantity/text.h"

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using quantity::Result;

constexpr std::chrono::seconds requestTime{5};

} // namespace

Result<Key> askForKey(EndpointLink& agent, Right right, const std::string& holder) {
    auto answer = agent.ask(
        {{"type", "grant"}, {"right", name(right)}, {"for", quantity::cutTo(holder, maxHolderBytes)}},
        "granted", requestTime);
    if (!answer) return tl::unexpected(answer.error());
    auto text = reading([&] { return fields::neededText(*answer, "key", 64); });
    if (!text) return tl::unexpected(agent.placed(text.error()));
    const WipedAtEnd wiped(*text);
    wipe(answer->at("key").get_ref<std::string&>());
    return Key::parse(*text);
}

Result<void> askToForget(EndpointLink& agent) {
    return agent.ask({{"type", "forget"}}, "forgotten", requestTime).map([](const nlohmann::json&) {});
}

Result<void> askToForget(EndpointLink& agent, const std::string& identity) {
    return agent.ask({{"type", "forget"}, {"identity", identity}}, "forgotten", requestTime)
        .map([](const nlohmann::json&) {});
}

} // namespace metrodos::probe
