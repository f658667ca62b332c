// What is recorded of the fitted house: how adapters are set up, networks and addresses.
#include "job/survey_fields.h"
#include "quantity/ip_address.h"

#include <cctype>
#include <sstream>

namespace metrodos::job {
namespace {

using namespace house;
using namespace make;

// A word of twelve letters and more with figures in it is a key rather than a place: nobody's drawer is
// called that, and a key in a job file is in every copy of it.
bool looksLikeKey(const std::string& text) {
    std::istringstream words(text);
    for (std::string word; words >> word;) {
        const auto count = [&](int (*is)(int)) {
            return std::count_if(word.begin(), word.end(),
                                 [&](char c) { return is(static_cast<unsigned char>(c)) != 0; });
        };
        if (word.size() >= 12 && count(&std::isdigit) >= 2 && count(&std::isalpha) >= 2) return true;
    }
    return false;
}

// A text that is read before it is kept, in the form that `read` gives it.
template <typename Item>
Field<Item> readText(const char* key, const char* title, std::string Item::*member,
                     std::function<Result<std::string>(const std::string&)> read) {
    Field<Item> out = text(key, title, member);
    out.set = [member, read = std::move(read)](House&, Item& i, const std::string& typed) -> Result<void> {
        if (typed.empty()) {
            (i.*member).clear();
            return {};
        }
        auto value = read(typed);
        if (!value) return tl::unexpected(value.error());
        i.*member = std::move(*value);
        return {};
    };
    return out;
}

Result<std::string> addressText(const std::string& typed) {
    return quantity::IpAddress::parse(typed).map([](const auto& a) { return a.text(); });
}

} // namespace

template <>
std::vector<Field<AdapterRecord>> fieldsOf(const catalog::Catalog*) {
    Field<AdapterRecord> page =
        readText<AdapterRecord>("status_url", "Its page", &AdapterRecord::statusUrl,
                                [](const std::string& typed) -> Result<std::string> {
                                    if (typed.starts_with("http://")) return typed;
                                    return problem(inQuotes(typed) + " is no address of an adapter's page",
                                                   "", "write it like http://192.0.2.30/status");
                                });
    Field<AdapterRecord> keyPlace = readText<AdapterRecord>(
        "key_place", "Its key is kept", &AdapterRecord::keyPlace,
        [](const std::string& typed) -> Result<std::string> {
            if (!looksLikeKey(typed)) return typed;
            return problem("that looks like a key, and keys have no place in a job", "",
                           "write where it is kept, like “envelope in the meter cupboard”");
        });
    Field<AdapterRecord> paired = text("paired_at", "", &AdapterRecord::pairedAt, "", false, 32);
    Field<AdapterRecord> seen = text("seen_at", "", &AdapterRecord::at, "", false, 32);
    return {text("name", "Its name", &AdapterRecord::name),
            text("firmware", "Firmware", &AdapterRecord::firmware),
            yesNo("power_saving", "Power saving", &AdapterRecord::powerSaving),
            text("priority", "Lets through first", &AdapterRecord::priority),
            yesNo("lights_off", "Lights off", &AdapterRecord::lightsOff),
            yesNo("modem_protection", "Spares a line modem", &AdapterRecord::modemProtection),
            yesNo("private", "Network is private", &AdapterRecord::isPrivate),
            keyPlace,
            page,
            paired,
            seen};
}

template <>
std::vector<Field<Network>> fieldsOf(const catalog::Catalog*) {
    const auto address = [](const char* key, const char* title, std::string Network::*member) {
        return readText<Network>(key, title, member, &addressText);
    };
    return {id<Network>(),
            text("label", "Network", &Network::label, "", true),
            readText<Network>("prefix", "Prefix", &Network::prefix,
                              [](const std::string& typed) -> Result<std::string> {
                                  return quantity::IpPrefix::parse(typed).map(
                                      [](const auto& p) { return p.text(); });
                              }),
            address("gateway", "Gateway", &Network::gateway),
            address("pool_from", "Automatic from", &Network::poolFrom),
            address("pool_to", "Automatic to", &Network::poolTo)};
}

template <>
std::vector<Field<PortAddress>> fieldsOf(const catalog::Catalog*) {
    // A port by its device and itself.
    Field<PortAddress> port = reference("port", "Port", &PortAddress::port, "");
    const auto ports = [](const House& h, const PortAddress&) {
        std::vector<Choice> out;
        for (const Device& d : h.devices)
            for (const Port& p : d.ports)
                if (p.kind == PortKind::ethernet || p.kind == PortKind::radio)
                    out.push_back({d.id + "." + p.id, h.labelOf({d.id, p.id})});
        return out;
    };
    port.choices = ports;
    port.show = [](const House& h, const PortAddress& p) { return h.labelOf({p.device, p.port}); };
    port.set = [ports](House& h, PortAddress& p, const std::string& typed) -> Result<void> {
        for (const Choice& c : ports(h, p))
            if (c.value == typed || c.label == typed) {
                p.device = c.value.substr(0, c.value.find('.'));
                p.port = c.value.substr(c.value.find('.') + 1);
                return {};
            }
        return problem("there is no port " + inQuotes(typed), "", "choose one of the list");
    };
    Field<PortAddress> device = reference("device", "", &PortAddress::device, "");
    const auto networks = [](const House& h, const PortAddress&) {
        std::vector<Choice> out;
        for (const Network& n : h.addressing.networks)
            out.push_back({n.id, n.label});
        return out;
    };
    return {id<PortAddress>(),
            device,
            port,
            oneOf<PortAddress>("network", "Network", &PortAddress::network, networks),
            readText<PortAddress>("address", "Address", &PortAddress::address, &addressText),
            word("kind", "Kept by", &PortAddress::kind, &addressKind,
                 {AddressKind::reserved, AddressKind::fixed}, false),
            readText<PortAddress>(
                "hardware", "Hardware address", &PortAddress::hardware,
                [](const std::string& typed) { return quantity::parseHardwareAddress(typed); })};
}

} // namespace metrodos::job
