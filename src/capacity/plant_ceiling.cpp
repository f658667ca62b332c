#include "capacity/plant_ceiling.h"

#include "capacity/air_channel.h"
#include "quantity/format.h"

namespace metrodos::capacity {
namespace {

using catalog::Catalog;
using house::Connection;
using house::Element;
using house::House;
using quantity::plain;

std::string range(const RateSpread& s) {
    return s.p10 == s.p90 ? plain(s.p50) : plain(s.p10) + " to " + plain(s.p90);
}

std::string decibels(double db) {
    return quantity::significant(db, db >= 10 ? 3 : 2) + " dB";
}

Ceiling shared(Distribution forward, Distribution backward) {
    Ceiling out{std::move(forward), std::move(backward), true, {}, {}, {}};
    return out;
}

// An unknown class is any of its family: wider, not worse.
template <typename RateOf>
Distribution anyClass(const Catalog& catalog, catalog::Family family, RateOf rateOf) {
    std::vector<Distribution::Part> parts;
    for (const catalog::DeviceClass& cls : catalog.devices) {
        if (cls.family != family) continue;
        if (const std::optional<Distribution> rate = rateOf(cls.id))
            parts.insert(parts.end(), rate->parts().begin(), rate->parts().end());
    }
    return Distribution::mixture(std::move(parts));
}

std::optional<Ceiling> ofCoax(const Plants& plants, const House& house, const Catalog& catalog,
                              const Element& element, const Connection& connection, const house::Port& a,
                              const house::Port& b) {
    const catalog::DeviceClass* cls = slowerClass(house, catalog, element, catalog::Family::coax);
    CoaxQuestion question;
    question.jackA = a.jack;
    question.jackB = b.jack;
    question.deviceClass = cls == nullptr ? "" : cls->id;
    question.nodes = static_cast<int>(connection.ends.size());
    const CoaxBudget budget = plants.coax.budget(question);
    if (budget.join == CoaxJoin::unknown) return std::nullopt;
    const BitRate none = BitRate::bitsPerSecond(1);
    Distribution rate = budget.ruledOut ? Distribution::certain(none) : budget.rate;
    if (cls == nullptr && !budget.ruledOut)
        rate = anyClass(catalog, catalog::Family::coax, [&](const std::string& id) {
            question.deviceClass = id;
            const CoaxBudget one = plants.coax.budget(question);
            // What cannot be there is no class that it may be.
            return one.ruledOut ? std::nullopt : std::optional(one.rate);
        });
    Ceiling out = shared(rate, rate);
    if (budget.ruledOut) {
        out.because = "no link: " + budget.rulings.front();
    } else {
        out.because = "coax, " + decibels(budget.totalDb.p50) +
                      " between the jacks: " + range(rate.spread()) + ", both directions together";
        for (const Contribution& c : budget.contributions)
            out.arithmetic.push_back(c.label + ": " + decibels(c.lossDb.p50));
        const catalog::CoaxClass* sends = catalog.coax.classOf(question.deviceClass);
        const catalog::CoaxBand& band = sends == nullptr ? catalog.coax.above : catalog.coax.bandOf(*sends);
        out.arithmetic.push_back("sum at " + quantity::significant(band.middle.inMegahertz(), 4) + " MHz: " +
                                 decibels(budget.totalDb.p10) + " to " + decibels(budget.totalDb.p90));
        out.arithmetic.push_back("bits per carrier = (" + quantity::significant(catalog.coax.transmitDbm, 2) +
                                 " dBm − loss − (" + quantity::significant(catalog.coax.noiseDbm, 2) +
                                 " dBm) − " + quantity::significant(catalog.coax.goneSnrDb, 2) + " dB) / " +
                                 quantity::significant(catalog.coax.dbPerBit, 2) + " dB, at most " +
                                 quantity::significant(catalog.coax.fullBits, 2));
        out.arithmetic.push_back(
            (cls == nullptr ? std::string("adapters of unknown class: any is taken as equally likely")
                            : "slower adapter: " + cls->label) +
            ", " + std::to_string(question.nodes) + " nodes: one half-duplex total of " +
            range(rate.spread()));
    }
    for (const std::string& ruling : budget.rulings)
        out.arithmetic.push_back(ruling);
    out.source = "cable loss k·√f; link budget against thermal noise; class limits of the catalog";
    return out;
}

std::optional<Ceiling> ofMains(const Plants& plants, const House& house, const Catalog& catalog,
                               const Element& element, const house::Port& a, const house::Port& b) {
    const catalog::DeviceClass* cls = slowerClass(house, catalog, element, catalog::Family::mains);
    MainsQuestion question;
    question.outletA = a.jack;
    question.outletB = b.jack;
    question.stripA = house.stripOf(a);
    question.stripB = house.stripOf(b);
    question.deviceClass = cls == nullptr ? "" : cls->id;
    const MainsForecast forecast = plants.mains.forecast(question);
    if (!forecast.isKnown) return std::nullopt;
    Ceiling out = shared(forecast.forward, forecast.backward);
    const bool isDisturbed = cls != nullptr && plants.mainsLanguages.size() > 1;
    if (isDisturbed)
        for (Distribution* rate : {&out.forward, &out.backward})
            *rate = rate->scaledBy(catalog.mains.otherLanguageShare);
    if (cls == nullptr) { // any of its family: one forecast a class, for both directions
        std::vector<Distribution::Part> ahead;
        std::vector<Distribution::Part> back;
        for (const catalog::DeviceClass& any : catalog.devices) {
            if (any.family != catalog::Family::mains) continue;
            question.deviceClass = any.id;
            const MainsForecast one = plants.mains.forecast(question);
            ahead.insert(ahead.end(), one.forward.parts().begin(), one.forward.parts().end());
            back.insert(back.end(), one.backward.parts().begin(), one.backward.parts().end());
        }
        out.forward = Distribution::mixture(std::move(ahead));
        out.backward = Distribution::mixture(std::move(back));
    }
    out.because = "mains wiring, surveyed: " + range(out.forward.spread()) + " forward, " +
                  range(out.backward.spread()) + " backward, one at a time";
    for (const Contribution& c : forecast.contributions)
        out.arithmetic.push_back(c.label + ": " + decibels(c.lossDb.p50));
    out.arithmetic.push_back("bits per carrier = log2(1 + SNR / " + decibels(catalog.mains.gapDb) + ")");
    out.arithmetic.push_back("PHY rate " + range(forecast.phyForward) + " forward, " +
                             range(forecast.phyBackward) + " backward");
    out.arithmetic.push_back("goodput = PHY rate × " + quantity::significant(catalog.mains.macShare.p10, 2) +
                             " to " + quantity::significant(catalog.mains.macShare.p90, 2));
    out.arithmetic.push_back(cls == nullptr ? "adapters of unknown class: any is taken as equally likely"
                                            : "slower adapter: " + cls->label);
    if (isDisturbed)
        out.arithmetic.push_back(
            "adapters of another family on the same wiring do not hear these and disturb "
            "them: × " +
            quantity::significant(catalog.mains.otherLanguageShare, 2));
    for (const std::string& ruling : forecast.rulings)
        out.arithmetic.push_back(ruling);
    out.source = "OFDM bit loading (IEEE 1901) over a channel of working values";
    return out;
}

std::optional<Ceiling> ofAir(const House& house, const Catalog& catalog, const Element& element,
                             const Connection& connection) {
    const catalog::DeviceClass* cls = slowerClass(house, catalog, element, catalog::Family::air);
    if (cls == nullptr || (!connection.length && !connection.walls && !connection.stations))
        return std::nullopt;
    const AirForecast forecast =
        airForecast(catalog.air, {cls->rated, connection.length, connection.walls, connection.stations});
    Ceiling out = shared(forecast.rate, forecast.rate);
    out.because = "radio: " + range(forecast.rate.spread()) + ", both directions together";
    out.arithmetic = forecast.arithmetic;
    out.source = "log-distance path loss; working values (IEEE 802.11)";
    return out;
}

} // namespace

std::set<std::string> mainsLanguagesOf(const House& house, const Catalog& catalog) {
    std::set<std::string> out;
    for (const house::Device& device : house.devices)
        if (const auto* cls = catalog.adapterOf(device.deviceClass, catalog::Family::mains))
            out.insert(cls->speaks);
    return out;
}

std::optional<Ceiling> ofPlant(const House& house, const Catalog& catalog, const Element& element,
                               const Connection& connection, const Plants& plants) {
    if (connection.medium == house::Medium::air) return ofAir(house, catalog, element, connection);
    const house::Port* a = house.port(element.entry);
    const house::Port* b = house.port(element.exit);
    if (a == nullptr || b == nullptr || a->jack.empty() || b->jack.empty()) return std::nullopt;
    if (connection.medium == house::Medium::coax)
        return ofCoax(plants, house, catalog, element, connection, *a, *b);
    if (connection.medium == house::Medium::mains) return ofMains(plants, house, catalog, element, *a, *b);
    return std::nullopt;
}

} // namespace metrodos::capacity
