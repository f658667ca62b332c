#include "trace/explain.h"

#include "quantity/format.h"
#include "trace/together.h"
#include "trace/tolerances.h"

#include <algorithm>
#include <cmath>

namespace metrodos::trace {
namespace {

using benchmark::Run;
using quantity::plain;

std::string labelOf(const capacity::RoutePrediction& prediction, const house::Id& id) {
    for (const auto& e : prediction.elements)
        if (e.element.id == id) return e.element.label;
    return id;
}

std::string arrangementWords(const RunShape& how, const capacity::RoutePrediction& prediction) {
    if (how.arrangement.setup == house::Setup::baseline) return "the machines on one short cable";
    if (how.arrangement.setup == house::Setup::bench) return "the adapters side by side";
    if (how.arrangement.swapped) return "the machines in each other's place";
    for (const benchmark::Alteration& a : how.arrangement.altered)
        return a.kind != house::AlterationKind::other_outlet ? "with the appliances off"
               : a.place.empty()                             ? "at another outlet"
                                                             : "at another place";
    if (how.arrangement.bypassed.empty()) return "";
    if (how.arrangement.bypassed.size() == 1)
        return "without “" + labelOf(prediction, how.arrangement.bypassed.front()) + "”";
    // A stretch: what was left, by its first and last element.
    std::string first;
    std::string last;
    for (const auto& e : prediction.elements)
        if (std::find(how.arrangement.bypassed.begin(), how.arrangement.bypassed.end(), e.element.id) ==
            how.arrangement.bypassed.end()) {
            if (first.empty()) first = e.element.label;
            last = e.element.label;
        }
    return "only from “" + first + "” to “" + last + "”";
}

std::string symptomWords(const Symptoms& symptoms) {
    std::vector<std::string> words;
    const auto say = [&](const std::optional<bool>& sign, const char* yes, const char* no) {
        if (sign && *sign && yes != nullptr) words.emplace_back(yes);
        if (sign && !*sign && no != nullptr) words.emplace_back(no);
    };
    say(symptoms.queue, "the delay rose under load", "the delay did not rise");
    say(symptoms.window, "the receiver's window was closed", nullptr);
    say(symptoms.buffer, "the sender had nothing to send", nullptr);
    say(symptoms.coreSender, "a core of the sender was full", nullptr);
    say(symptoms.coreReceiver, "a core of the receiver was full", nullptr);
    say(symptoms.unsteady, "the rate was unsteady", "the rate was steady");
    say(symptoms.errors, "frames had errors", nullptr);
    say(symptoms.falls, "the rate fell and stayed lower", nullptr);
    say(symptoms.stalls, "hardly a byte arrived though small requests were answered", nullptr);
    if (symptoms.resent && *symptoms.resent > lossFrom)
        words.push_back(quantity::significant(*symptoms.resent * 100, 2) + " % were sent again");
    std::string out;
    for (const std::string& word : words)
        out += (out.empty() ? "" : ", ") + word;
    return out;
}

} // namespace

std::string describe(const Observation& o, const capacity::RoutePrediction& prediction,
                     const house::Id& askedRoute) {
    if (!o.link.empty() && o.terms.size() == 1)
        return "the adapters of “" + labelOf(prediction, o.link) + "” show a PHY rate " +
               (o.shape.forward ? "forward" : "backward") + " that is worth about " +
               plain(quantity::BitRate::bitsPerSecond(std::exp(o.lnRate)));
    if (!o.link.empty())
        return "the link over “" + labelOf(prediction, o.link) + "” was read: it carries " +
               plain(quantity::BitRate::bitsPerSecond(std::exp(o.lnRate)));
    std::string out = o.shape.streams >= benchmark::maxStreams ? std::string("datagrams")
                      : o.shape.streams == 1                   ? std::string("one stream")
                                                               : std::to_string(o.shape.streams) + " streams";
    out += o.shape.forward ? " forward" : " backward";
    if (o.route != askedRoute) out += " over “" + prediction.route.label + "”";
    if (const std::string how = arrangementWords(o.shape, prediction); !how.empty()) out += ", " + how;
    out += std::string(": ") + (o.atLeast ? "at least " : "") +
           plain(quantity::BitRate::bitsPerSecond(std::exp(o.lnRate)));
    if (o.runs.size() > 1) out += " (" + std::to_string(o.runs.size()) + " runs)";
    if (const std::string words = symptomWords(o.symptoms); !words.empty()) out += "; " + words;
    return out;
}

std::vector<std::string> contradictions(const Case& asked) {
    std::vector<std::string> out;
    if (const auto slow = slowBeside(asked))
        out.push_back(
            std::string(benchmark::name(slow->direction)) + " " + plain(slow->busy) +
            " while others were on the network, " + plain(slow->quiet) +
            " alone: they may share an uplink, a hub or a medium with this route; run it and one of "
            "theirs at once (Measure, Every pair), and look at what both pass");
    // Alike runs that lie further apart than what is in the way can vary.
    constexpr double apart = 0.3;        // ln
    constexpr double perVariation = 2.5; // times what a medium varies from second to second
    double variation = 0;
    for (const auto& e : asked.prediction.elements) {
        const house::Connection* connection = asked.house.connection(e.element.connection);
        const catalog::MediumClass* medium =
            connection == nullptr ? nullptr : asked.catalog.medium(connection->medium);
        if (medium != nullptr) variation = std::max(variation, medium->variation);
    }
    const double allowed = std::max(apart, perVariation * variation);
    std::vector<const Run*> told;
    for (const Run& a : asked.runs) {
        if (!a.showsCeiling() || std::find(told.begin(), told.end(), &a) != told.end()) continue;
        const Run* low = &a;
        const Run* high = &a;
        for (const Run& b : asked.runs) {
            if (!b.showsCeiling() || b.config.direction != a.config.direction ||
                b.config.streams != a.config.streams ||
                !(b.conditions.appliances == a.conditions.appliances) ||
                b.conditions.othersActive != a.conditions.othersActive)
                continue;
            told.push_back(&b);
            if (b.goodput < low->goodput) low = &b;
            if (b.goodput > high->goodput) high = &b;
        }
        if (low->goodput.bps() > 0 && std::log(high->goodput.bps() / low->goodput.bps()) > allowed)
            out.push_back(
                std::string("two alike runs ") + benchmark::name(a.config.direction) + " gave " +
                plain(low->goodput) + " and " + plain(high->goodput) +
                ": nothing in the way varies so much; something was changed between them, or one went "
                "another way");
    }
    return out;
}

} // namespace metrodos::trace
