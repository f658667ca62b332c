#include "catalog/load.h"

#include <algorithm>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>
#include <set>

namespace metrodos::catalog {
namespace {

using nlohmann::json;
using quantity::Problem;

// Throws Problem; load() turns it into a Result. Inside one reader, exceptions keep the reading readable.
[[noreturn]] void fail(const std::string& where, const std::string& what) {
    throw Problem{what, where, "correct the catalog file or install the program again"};
}

json read(const std::filesystem::path& file) {
    std::ifstream stream(file);
    if (!stream) fail(file.string(), "the catalog file cannot be read");
    json document = json::parse(stream, nullptr, false);
    if (!document.is_object() || document.value("format", "") != "metrodos-catalog")
        fail(file.string(), "it is not a catalog file");
    if (document.value("version", 0) != 1) fail(file.string(), "its version is not 1");
    return document;
}

/// One entry with its place, so that every complaint says where.
class Entry {
  public:
    Entry(json value, std::string where)
        : m_value(std::move(value))
        , m_where(std::move(where)) {
        if (!m_value.is_object()) fail(m_where, "an object is expected");
    }

    [[nodiscard]] std::string text(const char* key) const {
        const auto it = m_value.find(key);
        if (it == m_value.end() || !it->is_string() || it->get_ref<const std::string&>().empty())
            fail(m_where, std::string("“") + key + "” must be a text");
        return it->get<std::string>();
    }
    [[nodiscard]] std::string textOr(const char* key) const { return m_value.contains(key) ? text(key) : ""; }
    [[nodiscard]] double number(const char* key, double low, double high) const {
        return bounded(m_value.contains(key) ? m_value.at(key) : json(), key, low, high);
    }
    [[nodiscard]] std::vector<double> numbers(const char* key, std::size_t count, double low,
                                              double high) const {
        return numbersOf(m_value.contains(key) ? m_value.at(key) : json(), key, count, low, high);
    }
    [[nodiscard]] std::vector<double> numbersOf(const json& list, const std::string& key, std::size_t count,
                                                double low, double high) const {
        if (!list.is_array() || list.size() != count)
            fail(m_where, "“" + key + "” has the wrong number of figures");
        std::vector<double> out;
        for (const json& item : list)
            out.push_back(bounded(item, key, low, high));
        if (!std::is_sorted(out.begin(), out.end())) fail(m_where, "“" + key + "” must not fall");
        return out;
    }
    [[nodiscard]] RateSpread rates(const json& list, const std::string& key) const {
        const auto v = numbersOf(list, key, 3, 1e3, 1e12);
        return {BitRate::bitsPerSecond(v[0]), BitRate::bitsPerSecond(v[1]), BitRate::bitsPerSecond(v[2])};
    }
    [[nodiscard]] RateSpread rates(const char* key) const {
        return rates(m_value.contains(key) ? m_value.at(key) : json(), key);
    }
    [[nodiscard]] BitRate rate(const char* key) const {
        return BitRate::bitsPerSecond(number(key, 1e3, 1e12));
    }
    [[nodiscard]] const json& raw() const { return m_value; }
    [[nodiscard]] const std::string& where() const { return m_where; }

  private:
    [[nodiscard]] double bounded(const json& item, const std::string& key, double low, double high) const {
        const double value = item.is_number() ? item.get<double>() : low - 1;
        if (!(value >= low && value <= high)) fail(m_where, "“" + key + "” must be a number in its range");
        return value;
    }

    json m_value; // a copy: entries are small and may be temporaries
    std::string m_where;
};

template <typename Handle>
void each(const json& document, const std::string& file, const char* list, Handle handle) {
    if (!document.contains(list) || !document.at(list).is_array() || document.at(list).empty())
        fail(file, std::string("the list “") + list + "” is missing");
    std::set<std::string> ids;
    std::size_t index = 0;
    for (const json& item : document.at(list)) {
        const Entry entry(item, file + " " + list + "[" + std::to_string(index++) + "]");
        (void)entry.text("source");
        (void)entry.text("label");
        const std::string id = entry.text(item.contains("id") ? "id" : "medium");
        if (!ids.insert(id).second) fail(entry.where(), "the id “" + id + "” is used twice");
        handle(entry);
    }
}

std::map<std::string, double> weights(const json& document, const std::string& file, const char* key,
                                      const std::function<bool(const std::string&)>& known) {
    const Entry entry(document.contains(key) ? document.at(key) : json(), file + " " + key);
    (void)entry.text("source");
    std::map<std::string, double> out;
    double sum = 0;
    if (!entry.raw().contains("weights")) fail(entry.where(), "“weights” is missing");
    for (const auto& [id, weight] : entry.raw().at("weights").items()) {
        if (!known(id) || !weight.is_number() || !(weight.get<double>() > 0))
            fail(entry.where(), "the weight of “" + id + "” is wrong");
        sum += out[id] = weight.get<double>();
    }
    if (out.empty()) fail(entry.where(), "“weights” is empty");
    for (auto& [id, weight] : out)
        weight /= sum;
    return out;
}

double sourcedValue(const json& document, const std::string& file, const char* key, double low, double high) {
    const Entry entry(document.contains(key) ? document.at(key) : json(), file + " " + key);
    (void)entry.text("source");
    return entry.number("value", low, high);
}

void readPhys(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "phys", [&](const Entry& e) {
        out.phys.push_back({e.text("id"), e.text("label"), e.rate("rate_bps"),
                            static_cast<int>(e.number("pairs", 1, 4)), e.text("source")});
    });
    std::sort(out.phys.begin(), out.phys.end(), [](const Phy& a, const Phy& b) { return a.rate < b.rate; });
    out.unknownPort = weights(document, file.string(), "unknown_port",
                              [&](const std::string& id) { return out.phy(id) != nullptr; });
}

void readCables(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "cables", [&](const Entry& e) {
        CableCategory cable{e.text("id"),
                            e.text("label"),
                            {},
                            Money::units(e.number("price_per_metre", 0, 1e4)),
                            e.text("source")};
        if (!e.raw().contains("reach") || !e.raw().at("reach").is_object())
            fail(e.where(), "“reach” is missing");
        for (const auto& [phy, lengths] : e.raw().at("reach").items()) {
            if (out.phy(phy) == nullptr) fail(e.where(), "the PHY “" + phy + "” is unknown");
            const auto metres = e.numbersOf(lengths, phy, 2, 0, 1000);
            cable.reach[phy] = {Length::metres(metres[0]), Length::metres(metres[1])};
        }
        out.cables.push_back(std::move(cable));
    });
    out.likelyLinkProbability = sourcedValue(document, file.string(), "likely_link_probability", 0, 1);
    out.badPairProbability = sourcedValue(document, file.string(), "bad_pair_probability", 0, 1);
    out.unknownCable = weights(document, file.string(), "unknown_cable",
                               [&](const std::string& id) { return out.cable(id) != nullptr; });
    out.unknownLength =
        Length::metres(Entry(document.at("unknown_cable"), file.string()).number("length_m", 0, 1000));
}

void readBuses(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "buses", [&](const Entry& e) {
        const auto kind = house::portKind(e.text("kind"));
        if (kind != house::PortKind::usb && kind != house::PortKind::pcie)
            fail(e.where(), "“kind” must be usb or pcie");
        out.buses.push_back({e.text("id"), e.text("label"), *kind, e.rate("raw_bps"), e.rates("goodput_bps"),
                             e.text("source")});
    });
}

Family familyNamed(const Entry& e) {
    static const std::map<std::string, Family> names{{"switch", Family::network_switch},
                                                     {"router", Family::router},
                                                     {"bus", Family::bus},
                                                     {"coax", Family::coax},
                                                     {"mains", Family::mains},
                                                     {"air", Family::air}};
    const auto hit = names.find(e.text("family"));
    if (hit == names.end()) fail(e.where(), "“family” is unknown");
    return hit->second;
}

void readDevices(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "hosts", [&](const Entry& e) {
        out.hosts.push_back({e.text("id"), e.text("label"), e.rates("goodput_bps"),
                             e.number("window_bytes", 1024, 1e10), e.text("source")});
    });
    each(document, file.string(), "devices", [&](const Entry& e) {
        DeviceClass device;
        device.id = e.text("id");
        device.label = e.text("label");
        device.family = familyNamed(e);
        device.price = Money::units(e.number("price", 0, 1e6));
        device.ethernetPhy = e.text("ethernet_phy");
        if (out.phy(device.ethernetPhy) == nullptr) fail(e.where(), "“ethernet_phy” is unknown");
        device.busPhy = e.textOr("bus_phy");
        if (!device.busPhy.empty() && out.bus(device.busPhy) == nullptr)
            fail(e.where(), "“bus_phy” is unknown");
        if (e.raw().contains("rated_bps")) device.rated = e.rate("rated_bps");
        device.goodput = e.rates("goodput_bps");
        device.source = e.text("source");
        if (e.raw().contains("medium_bps"))
            for (const auto& [situation, range] : e.raw().at("medium_bps").items())
                device.medium[situation] = e.rates(range, "medium_bps." + situation);
        out.devices.push_back(std::move(device));
    });
}

void readMedia(Catalog& out, const std::filesystem::path& file) {
    const json document = read(file);
    each(document, file.string(), "media", [&](const Entry& e) {
        const auto medium = house::medium(e.text("medium"));
        if (!medium || !house::isShared(*medium)) fail(e.where(), "“medium” is unknown");
        const auto rtt = e.numbers("rtt_us", 3, 1, 1e7);
        MediumClass out1{*medium, e.text("label"), {rtt[0], rtt[1], rtt[2]}, e.number("variation", 0, 1),
                         {},      e.text("source")};
        if (!e.raw().contains("situations")) fail(e.where(), "“situations” is missing");
        for (const json& item : e.raw().at("situations")) {
            const Entry situation(item, e.where());
            out1.situations.push_back({situation.text("id"), situation.text("label")});
        }
        out.media.push_back(std::move(out1));
    });
    out.wiredRttMicroseconds = sourcedValue(document, file.string(), "wired_rtt_us", 0, 1e6);
    // Every class of a medium must know every way its ends can lie to each other.
    for (const DeviceClass& device : out.devices)
        for (const MediumClass& medium : out.media)
            if (familyOf(medium.medium) == device.family)
                for (const Situation& situation : medium.situations)
                    if (!device.medium.contains(situation.id))
                        fail(device.id, "“medium_bps” lacks “" + situation.id + "”");
}

} // namespace

quantity::Result<Catalog> load(const std::filesystem::path& folder) {
    Catalog out;
    try {
        readPhys(out, folder / "phys.json");
        readCables(out, folder / "cables.json");
        readBuses(out, folder / "buses.json");
        readDevices(out, folder / "devices.json");
        readMedia(out, folder / "media.json");
    } catch (Problem& fault) {
        return tl::unexpected(std::move(fault));
    } catch (const json::exception& fault) {
        return quantity::problem(fault.what(), folder.string(), "correct the catalog file");
    }
    return out;
}

} // namespace metrodos::catalog
