// Plays the installer: makes the tests that are suggested, or those of the hand routine, in the real house.
#include "support/trace_cases.h"

#include <algorithm>
#include <cmath>

namespace metrodos::testing {
namespace {

using namespace metrodos::house;
using Random = std::mt19937_64;

double uniform(Random& random, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
}

standin::Situation situationOf(const TraceCase& c, const trace::RunShape& how) {
    return {c.hidden, how.arrangement};
}

double lowerRate(const TraceCase& c, const catalog::Catalog& catalog, const trace::RunShape& how) {
    double out = 1e15;
    for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward}) {
        const auto truth =
            standin::truthOf(c.real, catalog, c.route(), d, c.seed, situationOf(c, how)).value();
        for (const auto& e : truth.elements)
            out = std::min(out, e.capacityBps);
        out = std::min(out, 4 * truth.windowBytes * 8e6 / truth.rttUs);
    }
    return out;
}

benchmark::Run runOf(const TraceCase& c, const catalog::Catalog& catalog, const trace::RunShape& how,
                     int repeat) {
    benchmark::RunConfig config;
    config.direction = how.forward ? benchmark::Direction::forward : benchmark::Direction::backward;
    config.streams = how.streams;
    config.seconds = 5;
    if (how.streams == benchmark::maxStreams) { // datagrams, faster than the route
        config.protocol = benchmark::Protocol::udp;
        config.streams = 1;
        config.rate = quantity::BitRate::bitsPerSecond(lowerRate(c, catalog, how) * 2);
    }
    benchmark::Run run =
        standin::simulate(c.real, catalog, c.route(), config, c.seed, repeat, situationOf(c, how)).value();
    run.id += "-" + std::to_string(repeat);
    return run;
}

// What the ports at the ends of a cable agree on in the real house.
quantity::BitRate linkOf(const TraceCase& c, const catalog::Catalog& catalog, const Id& cable) {
    const auto truth =
        standin::truthOf(c.real, catalog, c.route(), benchmark::Direction::forward, c.seed).value();
    const std::vector<Element> elements = c.elements();
    const capacity::Framing framing = capacity::framingOf(c.route());
    const catalog::FileProtocol* protocol = catalog.protocol(c.route().fileProtocol);
    double least = 1e15;
    for (std::size_t i = 0; i < elements.size(); ++i)
        if (elements[i].id == cable)
            for (std::size_t k = i - 1; k <= i + 1 && k < elements.size(); ++k)
                if (k == i || elements[k].kind == ElementKind::port)
                    least = std::min(least, truth.elements[k].capacityBps /
                                                (protocol == nullptr ? 1 : protocol->share.p50));
    quantity::BitRate out = catalog.phys.front().rate;
    for (const catalog::Phy& phy : catalog.phys)
        if (capacity::goodput(phy.rate, framing).bps() <= least * 1.01) out = phy.rate;
    return out;
}

// What the adapters at a medium show: its rate in the real house, less what a PHY rate does not show.
void readPhy(TraceCase& c, const catalog::Catalog& catalog, const Id& medium, Random& random) {
    const std::vector<Element> elements = c.elements();
    Connection& surveyed = *c.surveyed.connection(medium);
    const auto share = catalog.medium(surveyed.medium)->phyShare;
    standin::Situation situation = situationOf(c, {});
    situation.arrangement.altered = {{medium, house::AlterationKind::phy_rate}};
    for (const bool forward : {true, false}) {
        const auto truth =
            standin::truthOf(c.real, catalog, c.route(),
                             forward ? benchmark::Direction::forward : benchmark::Direction::backward, c.seed,
                             situation)
                .value();
        for (std::size_t i = 0; i < elements.size(); ++i)
            if (elements[i].id == medium)
                surveyed.phyRates.push_back(
                    {forward ? elements[i].entry.device : elements[i].exit.device,
                     forward ? elements[i].exit.device : elements[i].entry.device,
                     quantity::BitRate::bitsPerSecond(truth.elements[i].capacityBps /
                                                      uniform(random, share.p10, share.p90))});
    }
}

// Writes down what a reading told.
void read(TraceCase& c, const catalog::Catalog& catalog, const trace::NextTest& test, Random& random) {
    if (test.phyShare) return readPhy(c, catalog, test.reads.front(), random);
    for (const Id& id : test.reads) {
        const Connection* real = c.real.connection(id);
        if (real == nullptr) continue;
        if (real->medium == Medium::bus)
            for (const PortRef& end : real->ends) {
                c.surveyed.port(end)->phy = c.real.port(end)->phy;
                c.surveyed.connection(id)->linkedAt = catalog.bus(c.real.port(end)->phy)->raw;
            }
        if (real->medium == Medium::data_cable) c.surveyed.connection(id)->linkedAt = linkOf(c, catalog, id);
    }
}

} // namespace

std::vector<std::string> limitersOf(const TraceCase& c, const catalog::Catalog& catalog) {
    struct Found {
        double least = 1e15;
        std::vector<std::pair<double, std::string>> all;
    };
    std::array<Found, 2> found;
    const std::vector<Element> elements = c.elements();
    for (const bool forward : {true, false}) {
        Found& f = found[forward ? 0 : 1];
        const auto truth =
            standin::truthOf(c.real, catalog, c.route(),
                             forward ? benchmark::Direction::forward : benchmark::Direction::backward, c.seed,
                             {c.hidden})
                .value();
        for (std::size_t i = 0; i < truth.elements.size(); ++i)
            f.all.emplace_back(truth.elements[i].capacityBps,
                               i < elements.size() ? elements[i].id : std::string(trace::unlisted));
        // Loss bounds each of four streams (Mathis et al. 1997).
        for (const standin::HiddenFault& fault : c.hidden)
            if (const double p = forward ? fault.lossForward : fault.lossBackward; p > 0)
                f.all.emplace_back(4 * 1.22 * 1448 * 8e6 / (truth.rttUs * std::sqrt(p)), fault.element);
        const Element& receiver = forward ? elements.back() : elements.front();
        if (receiver.kind != ElementKind::service) {
            Id host = receiver.id;
            for (const Element& e : elements)
                if (e.kind == ElementKind::host && e.device == receiver.device) host = e.id;
            f.all.emplace_back(4 * truth.windowBytes * 8e6 / truth.rttUs, host);
        }
        for (const auto& [rate, id] : f.all)
            f.least = std::min(f.least, rate);
    }
    std::size_t d = found[1].least < found[0].least * 0.98 ? 1 : 0;
    if (elements.front().kind == ElementKind::service) d = 0;
    std::vector<std::string> out;
    for (const auto& [rate, id] : found[d].all)
        if (rate < found[d].least * 1.03) out.push_back(id);
    return out;
}

Followed follow(TraceCase c, const catalog::Catalog& catalog, int maxTests) {
    Followed out;
    std::vector<benchmark::Run> runs;
    std::vector<std::string> made;
    Random random(c.seed);
    while (true) {
        const auto prediction = capacity::predict(c.surveyed, catalog, c.surveyed.routes.front()).value();
        trace::Case asked{prediction, c.surveyed, catalog};
        asked.runs = runs;
        // A test that was made and is suggested again told nothing; a person would not make it twice.
        asked.declined = made;
        out.steps.push_back(trace::diagnose(asked));
        if (out.steps.back().nextTests.empty() || static_cast<int>(out.tests.size()) >= maxTests) return out;
        const trace::NextTest test = out.steps.back().nextTests.front();
        out.tests.push_back(test.id);
        made.push_back(test.id);
        out.minutes += test.minutes;
        if (test.kind == trace::TestKind::read) {
            read(c, catalog, test, random);
            continue;
        }
        trace::RunShape how = test.shape;
        for (const bool forward : {true, false}) {
            how.forward = forward;
            runs.push_back(runOf(c, catalog, how, static_cast<int>(runs.size())));
        }
    }
}

int handRoutine(const TraceCase& c, const catalog::Catalog& catalog) {
    const std::vector<Element> elements = c.elements();
    const std::vector<std::string> limiters = limitersOf(c, catalog);
    const double whole = lowerRate(c, catalog, {});
    int tests = 1;
    std::size_t from = 0;
    for (std::size_t i = 1; i <= elements.size(); ++i) {
        if (i < elements.size() && elements[i].kind != ElementKind::cable) continue;
        trace::RunShape how;
        for (std::size_t k = i; k < elements.size(); ++k)
            how.arrangement.bypassed.push_back(elements[k].id);
        if (i < elements.size()) ++tests; // the last stretch needs no run: it is the whole
        if (i == elements.size() || lowerRate(c, catalog, how) < whole * 1.05) {
            // Its parts, one by one; the last needs no exchange.
            for (std::size_t k = from; k + 1 < i; ++k) {
                ++tests;
                if (std::find(limiters.begin(), limiters.end(), elements[k].id) != limiters.end()) break;
            }
            return tests;
        }
        from = i;
    }
    return tests;
}

} // namespace metrodos::testing
