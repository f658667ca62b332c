#include "desktop/model/endpoint_access.h"

#include "desktop/model/config_file.h"

#include <QFile>
#include <QRegularExpression>
#include <QSaveFile>

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

namespace {
std::filesystem::path rangesFile() {
    return configFile("METRODOS_ALLOWED", QStringLiteral("allowed"));
}
constexpr qint64 maxRangesFile = 4096;
} // namespace

QString allowedRangesText() {
    QFile file(QString::fromStdString(rangesFile().string()));
    if (!file.open(QIODevice::ReadOnly)) return {};
    return QString::fromUtf8(file.read(maxRangesFile)).simplified();
}

std::vector<probe::AddressRange> allowedRanges() {
    std::vector<probe::AddressRange> out;
    for (const QString& text : allowedRangesText().split(QLatin1Char(' '), Qt::SkipEmptyParts))
        if (const auto range = probe::AddressRange::parse(text.toStdString())) out.push_back(*range);
    return out;
}

quantity::Result<void> setAllowedRanges(const QString& text) {
    QString kept = text;
    const QStringList ranges = kept.replace(QLatin1Char(','), QLatin1Char(' '))
                                   .simplified()
                                   .split(QLatin1Char(' '), Qt::SkipEmptyParts);
    for (const QString& range : ranges)
        if (const auto parsed = probe::AddressRange::parse(range.toStdString()); !parsed)
            return tl::unexpected(parsed.error());
    const auto file = rangesFile();
    std::error_code none;
    std::filesystem::create_directories(file.parent_path(), none);
    QSaveFile out(QString::fromStdString(file.string()));
    const QByteArray line = ranges.join(QLatin1Char(' ')).toUtf8() + '\n';
    if (!out.open(QIODevice::WriteOnly) || out.write(line) != line.size() || !out.commit())
        return quantity::problem("the ranges cannot be kept", file.string(),
                                 "check the folder and its free space");
    return {};
}

quantity::Result<probe::EndpointLink> openLink(const EndpointAccess& access, const std::stop_token& stop,
                                               const std::filesystem::path& folder) {
    if (access.address == "here") return probe::EndpointLink::here("here", allowedRanges(), folder);
    if (servesGuest(access.address))
        return quantity::problem("a device with a browser takes part in runs with one machine only", "",
                                 "run between it and the machine that serves its page");
    if (access.address.empty())
        return quantity::problem("an end of the route has no address", "",
                                 "select the machine and give the address of its agent, or “here”");
    return probe::connectKnown(access.address, access.keys, access.known.get(), stop,
                               probe::familyOf(access.ipVersion));
}

} // namespace metrodos::desktop
