#include "report/chapters.h"

#include "capacity/predict.h"
#include "fit/cautions.h"
#include "fit/labels.h"
#include "probe/channel.h"
#include "quantity/ascii.h"
#include "quantity/format.h"
#include "quantity/text.h"
#include "report/section.h"
#include "weigh/compare.h"
#include "weigh/need.h"

#include <algorithm>

namespace metrodos::report {

std::string sentence(std::string text) {
    if (text.empty()) return text;
    text[0] = quantity::ascii::upper(text[0]);
    if (text.back() != '.' && text.back() != '!' && text.back() != '?') text += '.';
    return text;
}

std::string rangeWords(const catalog::RateSpread& s) {
    const std::string low = quantity::plain(s.p10);
    const std::string high = quantity::plain(s.p90);
    return low == high ? low : low + " to " + high;
}

std::string countWords(double count, const std::string& unit) {
    return weigh::countText(count) + " " + unit + (count == 1 || unit.empty() ? "" : "s");
}

std::string sureWords(double probability) {
    constexpr double certain = 0.99;
    return probability > certain ? "more than 99 % sure"
                                 : quantity::significant(probability * 100, 2) + " % sure";
}

Chapter wantedChapter(const house::House& house, const catalog::Catalog& catalog) {
    Chapter c{"wanted", "What was wanted", {}};
    List list;
    for (const house::Spot& spot : house.spots) {
        const weigh::Need need = weigh::needOf(house, spot, catalog);
        std::string text = spot.label + ": ";
        const std::string uses = weigh::usesText(spot.uses, catalog, house);
        text += uses.empty() ? "" : uses + "; ";
        text += need.any() ? quantity::plainBoth(need.down) + " towards it, " + quantity::plainBoth(need.up) +
                                 " back"
                           : "no figure was named";
        list.items.push_back({sentence(text), {}});
    }
    if (!list.items.empty()) c.blocks.push_back(list);
    return c;
}

Chapter houseChapter(const house::House& house) {
    Chapter c{"house", "The house", {}};
    if (house.rooms.empty()) return c;
    const auto count = [](std::size_t n, const char* one) {
        return quantity::counted(static_cast<long long>(n), one);
    };
    constexpr double upright = 1.4; // of a page
    c.blocks.push_back(Drawing{toSvg(drawSection(house, upright)),
                               "The house as a section: " + count(house.rooms.size(), "room") + ", " +
                                   count(house.jacks.size(), "jack") + ", " +
                                   count(house.devices.size(), "device") + "."});
    return c;
}

Chapter addressesChapter(const house::House& house) {
    Chapter c{"addresses", "Addresses and labels", {}};
    Table table{{"Device", "Address", "Kept by", "Network"}, {}};
    for (const house::PortAddress& a : house.addressing.ports) {
        const auto network = std::find_if(house.addressing.networks.begin(), house.addressing.networks.end(),
                                          [&](const house::Network& n) { return n.id == a.network; });
        table.rows.push_back(
            {{house.labelOf({a.device, a.port}), {}},
             {a.address.empty() ? "to be chosen" : a.address, {}},
             {a.kind == house::AddressKind::reserved ? "the router" : "the device itself", {}},
             {network == house.addressing.networks.end() ? "" : network->label, {}}});
    }
    if (!table.rows.empty()) c.blocks.push_back(std::move(table));
    Table labels{{"Label", "What", "Where"}, {}};
    for (const fit::Label& l : fit::labelsOf(house))
        if (std::any_of(house.fitting.codes.begin(), house.fitting.codes.end(),
                        [&](const house::LabelCode& code) { return code.thing == l.thing; }))
            labels.rows.push_back({{l.code, {}}, {l.what, {}}, {l.where, {}}});
    if (!labels.rows.empty()) c.blocks.push_back(std::move(labels));
    return c;
}

Chapter keysChapter(const house::House& house) {
    Chapter c{"keys", "Where keys are kept", {}};
    List list;
    for (const house::Device& d : house.devices)
        if (!d.setUp.keyPlace.empty())
            list.items.push_back(
                {sentence("the key of the network of “" + d.label + "”: " + d.setUp.keyPlace), {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Chapter againChapter() {
    Chapter c{"again", "When to look again", {}};
    c.blocks.push_back(
        Paragraph{{"After a change of the service, of an adapter or of the wiring, and otherwise within a "
                   "year: the runs of this record can be repeated under the same conditions.",
                   {}}});
    return c;
}

Chapter topologyChapter(const house::House& house, const catalog::Catalog& catalog) {
    Chapter c{"topology", "Ways, and the ceiling of every element", {}};
    for (const house::Route& route : house.routes) {
        const auto predicted = capacity::predict(house, catalog, route);
        c.blocks.push_back(
            Paragraph{{route.label + ": " + house.endLabel(route.from) + " to " + house.endLabel(route.to) +
                           (predicted ? "" : ". " + sentence(predicted.error().what)),
                       {}}});
        if (!predicted) continue;
        Table table{{"Element", "Forward", "Backward", "Because"}, {}, {1, 2}};
        for (const capacity::ElementPrediction& e : predicted->elements)
            table.rows.push_back({{e.element.label, {}},
                                  {rangeWords(e.forward), {}},
                                  {rangeWords(e.backward), {}},
                                  {e.ceiling.because, {}}});
        c.blocks.push_back(std::move(table));
    }
    return c;
}

Chapter changesChapter(const house::House& house) {
    Chapter c{"changes", "What was exchanged, and when", {}};
    List list;
    for (const house::DatedChange& change : house.changes)
        list.items.push_back({change.at + ": " + sentence(change.text), {}});
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Chapter methodChapter(const house::House& house) {
    Chapter c{"method", "Method", {}};
    c.blocks.push_back(Paragraph{
        {"Goodput is the payload that the receiving application gets (RFC 2647, 3.17). The warm-up is found "
         "from the samples (MSER-5) unless it was ordered. Repeated runs become one figure by the rule “" +
             std::string(house::name(house.measuring.summary)) +
             "”. Delay is taken beside the run, without and with load (RFC 6349). Made by "
             "Metrodos " METRODOS_VERSION ", with protocol " +
             std::to_string(probe::protocolVersion) + " between the ends of a run.",
         {}}});
    return c;
}

Chapter cautionsChapter(const house::House& house) {
    Chapter c{"cautions", "Cautions", {}};
    List list;
    std::vector<std::string> said;
    for (const fit::Caution& caution : fit::cautionsOf(house)) {
        std::string text = sentence(caution.what) + (caution.why.empty() ? "" : " " + sentence(caution.why));
        if (std::find(said.begin(), said.end(), text) != said.end()) continue;
        said.push_back(text);
        list.items.push_back({std::move(text), {}});
    }
    if (!list.items.empty()) c.blocks.push_back(std::move(list));
    return c;
}

Chapter quoteChapter(const job::KeptDocument& offer, const std::vector<fit::Step>& steps) {
    Chapter c{"quote", "Parts and cost, against the offer", {}};
    if (!offer.cost) return c;
    const auto amount = [&](quantity::Money money) { return weigh::amount(offer.currency, money); };
    Table table{{"Part", "Offered", "Fitted", "Each", "Offered for", "Fitted for"}, {}, {1, 2, 3, 4, 5}};
    quantity::Money fittedCost;
    bool isWhole = true;
    for (const job::KeptDocument::Part& part : offer.parts) {
        // Of a part that no step names nobody has said whether it was used: it stands as it was offered.
        bool isNamed = false;
        double fitted = 0;
        for (const fit::Step& step : steps)
            for (const fit::Part& used : step.parts)
                if (used.item == part.item) {
                    isNamed = true;
                    if (step.state == house::StepState::done) fitted += used.count;
                }
        // What was in the van costs nothing: of more than that only the rest is paid.
        const double paid = part.price.hundredths > 0 ? static_cast<double>(part.total.hundredths) /
                                                            static_cast<double>(part.price.hundredths)
                                                      : part.count;
        const double free = std::max(part.count - paid, 0.0);
        const quantity::Money cost = isNamed ? part.price * std::max(fitted - free, 0.0) : part.total;
        fittedCost = fittedCost + cost;
        isWhole = isWhole && isNamed;
        table.rows.push_back({{part.label, {}},
                              {countWords(part.count, part.unit), {}},
                              {isNamed ? countWords(fitted, part.unit) : "–", {}},
                              {amount(part.price), {}},
                              {amount(part.total), {}},
                              {amount(cost), {}}});
    }
    table.rows.push_back({{"together", {}},
                          {"", {}},
                          {"", {}},
                          {"", {}},
                          {amount(*offer.cost), {}},
                          {amount(fittedCost), {}}});
    c.blocks.push_back(
        Paragraph{{"Offered on " + offer.at.substr(0, 10) + " for " + amount(*offer.cost) +
                       ". What was fitted comes to " + amount(fittedCost) + " at the prices of the offer.",
                   {}}});
    c.blocks.push_back(std::move(table));
    if (!isWhole)
        c.blocks.push_back(
            Paragraph{{"A line marked “–” is counted as it was offered: no step says how much of "
                       "it was used.",
                       {}}});
    return c;
}

} // namespace metrodos::report
