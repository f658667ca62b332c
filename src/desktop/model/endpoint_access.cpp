#include "desktop/model/endpoint_access.h"

#include "desktop/model/config_file.h"

#include <QRegularExpression>

namespace metrodos::desktop {

std::filesystem::path keyFile() {
    return configFile("METRODOS_KEY_FILE", QStringLiteral("key"));
}

std::filesystem::path machinesFolder() {
    return configFile("METRODOS_MACHINES", QStringLiteral("machines"));
}

std::optional<std::string> servesGuest(const std::string& address) {
    const std::string guest = guestAddress;
    if (address == guest) return "here";
    if (address.starts_with(guest + "@")) return address.substr(guest.size() + 1);
    return std::nullopt;
}

bool isSameAgent(const std::string& a, const std::string& b) {
    const std::string port = ":" + std::to_string(probe::defaultPort);
    return a == b || a + port == b || a == b + port;
}

bool isAgentAddress(const QString& text) {
    static const QRegularExpression form(
        QStringLiteral("^(guest@)?(\\[[0-9A-Fa-f:.]+(%\\w+)?\\]|[\\w.-]+)(:[0-9]{1,5})?$"));
    return form.match(text).hasMatch();
}

quantity::Result<probe::EndpointLink> openLink(const EndpointAccess& access, const std::stop_token& stop) {
    if (access.address == "here") return probe::EndpointLink::here("here");
    if (servesGuest(access.address))
        return quantity::problem("a device with a browser takes part in runs with one machine only", "",
                                 "run between it and the machine that serves its page");
    if (access.address.empty())
        return quantity::problem("an end of the route has no address", "",
                                 "select the machine and give the address of its agent, or “here”");
    return probe::connectKnown(access.address, access.keys, access.known.get(), stop);
}

} // namespace metrodos::desktop
