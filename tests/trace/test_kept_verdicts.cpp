// What is said of shipped and random houses after the same runs, as it was kept. Probabilities come from
// draws: a difference in the last digit of a processor's arithmetic may move one of them, by far less than a
// hundredth.
#include "benchmark/run_json.h"
#include "benchmark/summary.h"
#include "capacity/predict.h"
#include "support/bounds.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/kept.h"
#include "support/random_house.h"
#include "trace/diagnose.h"
#include "trace/observation.h"
#include "trace/route_taken.h"
#include "trace/signatures.h"
#include "trace/trace_json.h"
#include "trace/what_if.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;
using testing::classes;

namespace {

// As fast as the middle of what is predicted in one direction, and in the other a little more than half of
// it.
benchmark::RouteRuns runsLike(const capacity::RoutePrediction& p, const house::Id& route) {
    benchmark::RouteRuns out;
    for (int n = 0; n < 4; ++n) {
        const bool forward = n % 2 == 0;
        const double mbps = (forward ? p.forward.p50 : p.backward.p50).inMegabits();
        benchmark::Run run =
            testing::steadyRun(forward ? benchmark::Direction::forward : benchmark::Direction::backward,
                               mbps * (forward ? 1 : 0.6) * (1 + 0.005 * n), 4, forward ? 0.003 : 0.08,
                               route + std::to_string(n));
        run.rttIdleUs = benchmark::Percentiles{900, 1300};
        run.rttLoadedUs = benchmark::Percentiles{forward ? 6000.0 : 1000.0, 9000};
        run.senderLimited = benchmark::SenderLimited{0.3, forward ? 0.0 : 0.7, 0.0};
        run.retransmits = forward ? 5 : 900;
        out.push_back({route, std::move(run)});
    }
    return out;
}

json verdictOn(const house::House& house, const house::Route& route, const benchmark::RouteRuns& runs) {
    const auto verdict = trace::diagnoseRoute(house, classes(), route, runs);
    return verdict ? trace::toJson(*verdict) : json(verdict.error().sentence());
}

} // namespace

class TestKeptVerdicts : public QObject {
    Q_OBJECT

  private slots:
    void ofShippedHouses() {
        json all;
        for (const auto& [name, house] : testing::variedHouses()) {
            const benchmark::RouteRuns runs = testing::visited(house);
            for (const house::Route& route : house.routes) {
                all[name][route.id]["visited"] = verdictOn(house, route, runs);
                if (const auto p = capacity::predict(house, classes(), route))
                    all[name][route.id]["predicted"] = verdictOn(house, route, runsLike(*p, route.id));
            }
        }
        QVERIFY_KEPT("verdicts", all, 1e-4);
    }
    // Runs in which something was left out, exchanged or set up on a bench, and what would be with other
    // parts.
    void ofOtherArrangements() {
        json all;
        for (const auto& [name, house] : testing::variedHouses()) {
            const house::Route& route = house.routes.front();
            const auto p = capacity::predict(house, classes(), route);
            if (!p) continue;
            const benchmark::RouteRuns usual = runsLike(*p, route.id);
            for (std::size_t i = 0; i < p->elements.size(); ++i) {
                const house::Id& element = p->elements[i].element.id;
                benchmark::RouteRuns runs = usual;
                for (std::size_t n = 0; n < usual.size(); ++n) {
                    benchmark::RouteRun other = usual[n];
                    other.run.id += "-other";
                    for (benchmark::Sample& s : other.run.samples.change())
                        s.goodputBps *= 1.6;
                    benchmark::finish(other.run);
                    benchmark::Arrangement& a = other.run.config.arrangement;
                    if (i % 3 == 0)
                        a.bypassed = {element};
                    else if (i % 3 == 1)
                        a.setup = n % 2 == 0 ? house::Setup::baseline : house::Setup::bench;
                    else
                        a.altered = {{element, house::AlterationKind::appliances_off, {}}};
                    runs.push_back(std::move(other));
                }
                json& of = all[name][element];
                of["verdict"] = verdictOn(house, route, runs);
                for (const trace::WhatIf& w : trace::whatIfRoute(house, classes(), route, usual, element))
                    of["what-if"].push_back({w.choice, w.now, w.label, w.forward.p50.inMegabits(),
                                             w.backward.p50.inMegabits(), w.limiter,
                                             w.price ? w.price->inUnits() : -1.0});
            }
        }
        QVERIFY_KEPT("verdicts-arranged", all, 1e-4);
    }
    // One direction only, one stream only, nothing yet; and a way back over the same things, which has runs
    // of its own.
    void ofFewRunsAndOfTheWayBack() {
        json all;
        for (const auto& [name, surveyed] : testing::variedHouses()) {
            house::House house = surveyed;
            house::Route back = house.routes.front();
            std::swap(back.from, back.to);
            back.id = "back";
            house.routes.push_back(back);
            const house::Route& route = house.routes.front();
            const auto p = capacity::predict(house, classes(), route);
            const auto q = capacity::predict(house, classes(), back);
            if (!p || !q) continue;
            const benchmark::RouteRuns usual = runsLike(*p, route.id);
            json& of = all[name];
            of["none"] = verdictOn(house, route, {});
            of["forward"] = verdictOn(house, route, {usual[0], usual[2]});
            of["backward"] = verdictOn(house, route, {usual[1]});
            benchmark::RouteRuns single{usual[0], usual[1]};
            for (benchmark::RouteRun& r : single)
                r.run.config.streams = 1;
            of["single"] = verdictOn(house, route, single);
            benchmark::RouteRuns both = usual;
            for (benchmark::RouteRun& r : runsLike(*q, back.id))
                both.push_back(r);
            of["both"] = verdictOn(house, route, both);
            of["back"] = verdictOn(house, back, usual);
        }
        QVERIFY_KEPT("verdicts-few", all, 1e-4);
    }
    // Where the signs of a run, and what is read from its shape, turn while one of its figures goes.
    void ofSigns() {
        const house::House house = testing::coaxHouse("usb2");
        const auto prediction = capacity::predict(house, classes(), house.routes[0]).value();
        benchmark::Run held = testing::steadyRun(benchmark::Direction::forward, 250, 1, 0);
        held.senderLimited = benchmark::SenderLimited{0.6, 0.2, 0.2};
        held.rttIdleUs = benchmark::Percentiles{3500, 4000};
        held.rttLoadedUs = benchmark::Percentiles{3600, 4100};
        held.cpuSender = held.cpuReceiver = 0.3;
        held.retransmits = 0;
        const benchmark::Run many = testing::steadyRun(benchmark::Direction::forward, 400, 4, 0);
        const auto said = [&](const benchmark::Run& run) {
            const trace::Symptoms s = trace::symptomsOf(run);
            std::string out;
            for (const auto& sign : {s.queue, s.window, s.buffer, s.coreSender, s.coreReceiver, s.unsteady,
                                     s.errors, s.falls, s.stalls})
                out += sign ? (*sign ? 'y' : 'n') : '?';
            for (const trace::Reading& r : trace::readSignatures(prediction, classes(), {many, run}))
                out += "; " + r.element + " " + testing::withoutFigures(r.text);
            return out + "; " + testing::withoutFigures(trace::saysNothing(run, prediction).value_or(""));
        };
        json all;
        const auto turns = [&](const char* name, double from, double to,
                               const std::function<void(benchmark::Run&, double)>& put) {
            all[name] = testing::turnsOf(from, to, [&](double figure) {
                benchmark::Run run = held;
                put(run, figure);
                return said(run);
            });
        };
        const auto count = [](double x) { return static_cast<std::uint64_t>(std::llround(x)); };
        using benchmark::Run;
        using benchmark::Sample;
        turns("goodput", 5, 1500, [](Run& r, double x) { r.goodput = quantity::BitRate::megabits(x); });
        turns("loaded, short way", 300, 900, [](Run& r, double x) {
            r.rttIdleUs->p50 = 400;
            r.rttLoadedUs->p50 = x;
        });
        turns("resent", 0, 400, [&](Run& r, double x) {
            r.retransmits = count(x);
            r.senderLimited->receiverWindow = 0;
        });
        // Of every two seconds one is faster by so much, the other slower.
        turns("unsteady", 0, 0.13, [](Run& r, double x) {
            for (int i = 0; Sample & s : r.samples.change())
                s.goodputBps *= i++ / 10 % 2 == 0 ? 1 + x : 1 - x;
        });
        turns("falls to", 0.5, 1, [](Run& r, double x) {
            for (int i = 0; Sample & s : r.samples.change())
                s.goodputBps *= i++ < 50 ? 1 : x;
        });
        turns("seconds", 2, 9, [](Run& r, double x) {
            r.seconds = x;
            for (int i = 0; Sample & s : r.samples.change())
                s.goodputBps *= i++ < 50 ? 1 : 0.5;
        });
        turns("still", 0, 100, [&](Run& r, double x) {
            for (std::uint64_t i = 0; i < count(x); ++i)
                r.samples.change()[i].goodputBps = 500;
        });
        turns("still below", 500, 2000, [](Run& r, double x) {
            for (Sample& s : r.samples.change())
                s.goodputBps = x;
        });
        turns("still and answered", 0, 100, [&](Run& r, double x) {
            for (std::uint64_t i = 0; Sample & s : r.samples.change()) {
                s.goodputBps = 500;
                if (i++ >= count(x)) s.rttUs.reset();
            }
        });
        turns("samples", 3, 60, [&](Run& r, double x) {
            r.samples.change().resize(count(x));
            r.goodput = quantity::BitRate::megabits(100.0 * 1448 / 1538);
        });
        // Each figure of a run of round ones by itself; of TCP, of datagrams, and of one that was stopped.
        Run round = held;
        round.samples.change().resize(6);
        for (double t = 0; Sample & s : round.samples.change()) {
            s.t = ++t;
            s.goodputBps = 2.5e8;
        }
        round.seconds = 6;
        round.config.segmentBytes = 1000;
        round.retransmits = 300;
        round.senderLimited = benchmark::SenderLimited{0.4, 0.4, 0.4};
        round.cpuSender = round.cpuReceiver = 0.6;
        round.interfaceSender = round.interfaceReceiver = benchmark::InterfaceCount{"lan0", 200'000'000, 2};
        Run datagrams = round;
        datagrams.config.protocol = benchmark::Protocol::udp;
        datagrams.config.rate = quantity::BitRate::megabits(300);
        datagrams.datagrams = benchmark::DatagramCount{100'000, 0, 99'000, 0, 0, 400, 600, {}};
        Run stopped = round;
        stopped.complete = false;
        for (const auto& [name, base] :
             {std::pair("tcp", round), {"datagrams", datagrams}, {"stopped", stopped}})
            all[name] = testing::turnsOfEach(benchmark::toJson(base), [&](const json& form) {
                const auto run = benchmark::runFromJson(form);
                return run ? said(*run) : std::string("refused");
            });
        QVERIFY_KEPT("turns-signs", all, 1e-4);
    }
    void ofRandomHouses() {
        json all;
        for (std::uint32_t seed = 1; seed <= 8; ++seed) {
            house::House house = testing::RandomHouse(seed).make({});
            house.routes = testing::allRoutes(house);
            for (std::size_t i = 0; i < house.routes.size(); i += 4)
                if (const auto p = capacity::predict(house, classes(), house.routes[i]))
                    all[std::to_string(seed)][house.routes[i].id] =
                        verdictOn(house, house.routes[i], runsLike(*p, house.routes[i].id));
        }
        QVERIFY_KEPT("verdicts-random", all, 1e-4);
    }
};

QTEST_GUILESS_MAIN(TestKeptVerdicts)
#include "test_kept_verdicts.moc"
