// Simulated runs of the shipped houses, as they were kept.
#include "benchmark/run_json.h"
#include "house/route.h"
#include "quantity/moment.h"
#include "standin/history.h"
#include "standin/simulate.h"
#include "support/classes.h"
#include "support/kept.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using benchmark::Direction;
using nlohmann::json;
using testing::classes;

namespace {

json headAndSamples(const benchmark::Run& run) {
    json out = benchmark::headToJson(run);
    for (const std::size_t n : {std::size_t(0), std::size_t(2), std::size_t(9), run.samples.size() - 1})
        out["samples"].push_back(benchmark::toJson(run.samples[n]));
    return out;
}

standin::HiddenFault fault(const house::Id& element) {
    standin::HiddenFault out;
    out.element = element;
    out.forward = 0.4;
    out.backward = 0.7;
    out.window = 0.2;
    out.variation = 0.1;
    out.lossForward = 1e-4;
    out.errors = true;
    return out;
}

} // namespace

class TestKeptRuns : public QObject {
    Q_OBJECT

  private slots:
    void ofEveryRoute() {
        json all;
        for (const auto& [name, house] : testing::shippedHouses())
            for (const house::Route& route : house.routes)
                for (const Direction d : {Direction::forward, Direction::backward}) {
                    benchmark::RunConfig config;
                    config.direction = d;
                    config.seconds = 3;
                    config.streams = d == Direction::forward ? 4 : 1;
                    const auto run = standin::simulate(house, classes(), route, config, 7, 0);
                    if (run) all[name][route.id].push_back(headAndSamples(*run));
                }
        QVERIFY_KEPT("simulated-runs", all, 1e-4);
    }
    void withHiddenFaultsAtAPaceAndTogether() {
        const house::House house = testing::shippedHouses().front().second;
        const house::Route& route = house.routes.front();
        const auto truth = standin::truthOf(house, classes(), route, Direction::forward, 7).value();
        json all;
        for (const standin::ElementTruth& e : truth.elements)
            all["truth"].push_back({e.capacityBps, e.variation, e.passage});
        all["truth"].push_back({truth.rttUs, truth.windowBytes, truth.queueBytes, truth.senderCpuBps,
                                truth.receiverCpuBps, truth.heldAt, truth.errors, truth.loss});
        benchmark::RunConfig tcp;
        tcp.seconds = 2;
        for (const house::Device& device : house.devices) {
            const auto run = standin::simulate(house, classes(), route, tcp, 7, 0, {{fault(device.id)}, {}});
            if (run) all["faults"][device.id] = headAndSamples(*run);
        }
        benchmark::RunConfig udp = tcp;
        udp.protocol = benchmark::Protocol::udp;
        udp.rate = quantity::BitRate::megabits(400);
        all["paced"] = headAndSamples(standin::simulate(house, classes(), route, udp, 7, 0).value());
        benchmark::RunConfig back = tcp;
        back.direction = Direction::backward;
        const auto both = standin::simulate(house, classes(), route, std::vector{tcp, back}, 7, 1).value();
        for (const benchmark::Run& run : both)
            all["together"].push_back(headAndSamples(run));
        // Three at once, each other than the rest, over ways with a hidden part, a spoilt one, or a setup
        // that leaves things out.
        const house::House full = testing::fullHouse();
        const auto routes = testing::allRoutes(full);
        for (std::size_t n = 0; n < 24; ++n) {
            benchmark::RunConfig mixed = n % 3 == 2 ? udp : tcp;
            mixed.streams = 1 + static_cast<int>(n % 5);
            mixed.rate.reset();
            if (n % 2 == 1 || n % 3 == 2) mixed.rate = quantity::BitRate::megabits(60.0 + 90 * n);
            if (n % 4 < 2 && n % 3 != 2) mixed.windowBytes = 40'000 * static_cast<int>(n + 1);
            const house::Route& way = routes[n % routes.size()];
            standin::HiddenFault hidden = fault(n % 5 == 0 ? "unlisted" : full.devices[n % 9].id);
            hidden.bps = 2e8;
            const auto elements = house::findRoute(full, way.from, way.to);
            if (elements && n % 3 == 1) hidden.element = (*elements)[1 + n % (elements->size() - 1)].id;
            hidden.fillsCore = n % 2 == 0;
            standin::Situation situation{{hidden}, {}};
            situation.arrangement.setup = static_cast<house::Setup>(n / 2 % 3);
            const auto runs =
                standin::simulate(full, classes(), way, std::vector{mixed, udp, back}, n, 2, situation);
            for (const benchmark::Run& run : runs ? *runs : std::vector<benchmark::Run>())
                all["mixed"].push_back(headAndSamples(run));
        }
        QVERIFY_KEPT("simulated-situations", all, 1e-4);
    }
    // A direction begins when the one before it has ended, and the saw disturbs on working days only.
    void ofDaysThatHavePassed() {
        const house::House house = testing::shippedHouses().front().second;
        standin::PastSchedule hours{1788739200, 60, 36,  house.routes.front().id, "hours", {}, "saw",
                                    {{9, 12}},  {}, true};
        hours.disturbed.hidden = {fault(house.devices.front().id)};
        json all;
        const auto runs = standin::runsOf(house, classes(), hours, "past", 3);
        QCOMPARE(runs.size(), std::size_t(72));
        for (const benchmark::RouteRun& r : runs)
            all.push_back(
                {r.run.id, r.run.startedAt, r.run.goodput.bps(), r.run.conditions.appliances, r.run.step});
        for (std::size_t i = 0; i < runs.size(); i += 2) {
            const auto begins = quantity::utcSeconds(runs[i].run.startedAt).value();
            const auto after =
                static_cast<double>(quantity::utcSeconds(runs[i + 1].run.startedAt).value() - begins);
            QVERIFY(after >= runs[i].run.config.seconds && after < 40);
        }
        const auto visit = standin::runsOf(
            house, classes(), standin::PastVisit{1788739200, {house.routes.front().id}, 2, {}}, "visit", 3);
        for (const benchmark::RouteRun& r : visit)
            all.push_back(
                {r.run.id, r.run.startedAt, r.run.goodput.bps(), r.run.conditions.othersActive.value()});
        QVERIFY_KEPT("simulated-days", all, 1e-4);
    }
};

QTEST_GUILESS_MAIN(TestKeptRuns)
#include "test_kept_runs.moc"
