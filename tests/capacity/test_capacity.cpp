#include "capacity/copper.h"
#include "capacity/predict.h"
#include "capacity/predict_json.h"
#include "support/classes.h"
#include "support/houses.h"

#include <QTest>
#include <cmath>
#include <random>

using namespace metrodos;
using namespace metrodos::capacity;
using catalog::Catalog;
using quantity::BitRate;
using testing::classes;

namespace {

bool near(double value, double wanted, double relative = 1e-4) {
    return std::fabs(value / wanted - 1) <= relative;
}

RoutePrediction predicted(const house::House& h) {
    return predict(h, classes(), h.routes[0]).value();
}

const ElementPrediction& element(const RoutePrediction& p, const std::string& id) {
    for (const auto& e : p.elements)
        if (e.element.id == id) return e;
    throw std::runtime_error("no element " + id);
}

RateSpread spread(double p10, double p50, double p90) {
    return {BitRate::megabits(p10), BitRate::megabits(p50), BitRate::megabits(p90)};
}

} // namespace

class TestCapacity : public QObject {
    Q_OBJECT

  private slots:
    // Payload and all bytes of a full frame, by hand (docs/models.md).
    void framingAgreesWithHandWorkedCases() {
        const std::vector<std::pair<Framing, double>> cases{
            {{}, 1448.0 / 1538},
            {{.vlanTag = true}, 1448.0 / 1542},
            {{.ipVersion = 6}, 1428.0 / 1538},
            {{.transport = Transport::udp}, 1472.0 / 1538},
            {{.mtu = 9000}, 8948.0 / 9038},
            {{.mtu = 576}, 524.0 / 614},
        };
        for (const double rate : {100e6, 1e9, 2.5e9, 5e9, 10e9})
            for (const auto& [framing, share] : cases)
                QVERIFY(near(capacity::goodput(BitRate::bitsPerSecond(rate), framing).bps(), rate * share,
                             1e-12));
    }
    void theFiveKnownGoodputs() {
        const double wanted[] = {94.148e6, 941.48e6, 2353.7e6, 4707.4e6, 9414.8e6};
        for (std::size_t i = 0; i < 5; ++i)
            QVERIFY(near(goodput(classes().phys[i].rate, Framing{}).bps(), wanted[i]));
    }
    void copperLinksByCategoryLengthAndPairs() {
        const auto best = [](const char* category, double metres, std::optional<int> pairs) {
            const auto chances =
                linkChances(classes(), classes().cable(category), quantity::Length::metres(metres), pairs);
            double sum = 0;
            for (const auto& c : chances)
                sum += c.probability;
            if (!near(sum, 1, 1e-9)) throw std::runtime_error("chances do not sum to 1");
            return std::pair(chances.front().phy == nullptr ? std::string("none") : chances.front().phy->id,
                             chances.front().probability);
        };
        QCOMPARE(best("cat6a", 90, 4), std::pair(std::string("10gbase-t"), 1.0));
        // 85 % at 55 m and sure up to 37: logistic of width (55 − 37) ÷ 5 around 55 + 3.6 · ln(0.85 ÷ 0.15)
        // = 61.24 m.
        QVERIFY(best("cat6", 50, 4).first == "10gbase-t" && near(best("cat6", 50, 4).second, 0.9579, 1e-3));
        QVERIFY(best("cat6", 60, 4).first == "10gbase-t" && near(best("cat6", 60, 4).second, 0.5856, 1e-3));
        QCOMPARE(best("cat6", 90, 4), std::pair(std::string("5gbase-t"), 1.0));
        QCOMPARE(best("cat5e", 90, 4).first, std::string("5gbase-t"));
        QCOMPARE(best("cat5e", 20, 3), std::pair(std::string("100base-tx"), 1.0));
        QCOMPARE(best("cat5e", 20, 1).first, std::string("none"));
        QCOMPARE(best("cat6", 150, 4).first, std::string("none"));
    }
    void tenGigabitsOverFiveEFallOffWithLength() {
        const auto links = [](double metres) {
            double p = 0;
            for (const LinkChance& c :
                 linkChances(classes(), classes().cable("cat5e"), quantity::Length::metres(metres), 4))
                if (c.phy != nullptr && c.phy->id == "10gbase-t") p = c.probability;
            return p;
        };
        QVERIFY(links(10) > 0.95 && links(30) > 0.85);
        QVERIFY(std::fabs(links(38) - classes().likelyLinkProbability) < 1e-9);
        double before = 1;
        for (double metres = 2; metres < 120; metres += 1) {
            const double now = links(metres);
            QVERIFY(now <= before && before - now < 0.05); // no last metre
            before = now;
        }
        QVERIFY(links(45) > 0.3 && links(45) < 0.8);
        QCOMPARE(links(100), 0.0);
        // A link of one in a hundred is the rarest that is counted.
        double rarest = 1;
        for (double metres = 38; metres < 120; metres += 0.05)
            if (links(metres) > 0) rarest = links(metres);
        QVERIFY2(rarest >= 0.01 && rarest < 0.0105, qPrintable(QString::number(rarest)));
        // Where a standard promises it, it is sure.
        QCOMPARE(linkChances(classes(), classes().cable("cat6"), quantity::Length::metres(37), 4)
                     .front()
                     .probability,
                 1.0);
    }
    void aMediumIsLimitedOnceAndNotByItsBoxesAgain() {
        const auto h = testing::coaxHouse();
        const auto p = predict(h, classes(), h.routes[0]).value();
        for (const auto& e : p.elements) {
            // 2.5 Gbit/s × 1448 ÷ 1538 at the adapters' ports.
            if (e.element.device == "coax-a" || e.element.device == "coax-b")
                QVERIFY(std::fabs(e.forward.p10.inMegabits() / 2353.7 - 1) < 1e-3);
            if (e.element.id == "coax")
                QVERIFY(std::fabs(p.forward.p50.bps() / e.forward.p50.bps() - 1) < 0.01);
        }
        // Mains boxes have no cap below their port either.
        auto mains = h;
        for (const char* id : {"coax-a", "coax-b"})
            mains.device(id)->deviceClass = "mains-1200";
        const auto q = predict(mains, classes(), mains.routes[0]).value();
        for (const auto& e : q.elements)
            if (e.element.id == "coax-a") QVERIFY(std::fabs(e.forward.p10.inMegabits() / 941.5 - 1) < 1e-3);
    }
    void aUsb2SocketIsOneTotalForBothDirections() {
        const auto socket = [](const char* bus) {
            const auto h = testing::coaxHouse(bus);
            const auto p = predict(h, classes(), h.routes[0]).value();
            for (const auto& e : p.elements)
                if (e.element.kind == house::ElementKind::bus) return e.ceiling;
            return Ceiling{
                Distribution::certain(BitRate()), Distribution::certain(BitRate()), false, {}, {}, {}};
        };
        QVERIFY(socket("usb2").shared);
        QVERIFY(socket("usb2").because.find("both directions together") != std::string::npos);
        QVERIFY(!socket("usb3-5g").shared);
    }
    void aServiceBringsAboutWhatWasSoldAndNoMoreThanItsPort() {
        auto h = testing::wiredHouse();
        h.service =
            house::Service{"internet", "service", "switch", BitRate::megabits(2000), BitRate::megabits(1000)};
        house::Route route = h.routes[0];
        route.from = "internet";
        const auto ceiling = [&] {
            const auto p = predict(h, classes(), route).value();
            return p.elements.front().ceiling;
        };
        QVERIFY(ceiling().forward.spread().p50.inMegabits() > 2000); // operators set more than they sell
        QVERIFY(ceiling().forward.cdf(1900e6) > 0.01 && ceiling().forward.cdf(2200e6) < 0.99);
        h.service->uplink = "1000base-t";
        QVERIFY(std::fabs(ceiling().forward.quantile(0.999) / 941.5e6 - 1) < 1e-3);
    }
    void theLeastKeepsTheDrawsThatItsPartsShare() {
        std::vector<double> draws;
        for (int n = 0; n < 64; ++n)
            draws.push_back(1e6 * (1 + (n * 37) % 64));
        const Distribution shared = Distribution::ofDraws(draws);
        const Distribution a = Distribution::certain(BitRate::megabits(20));
        const Distribution b =
            Distribution::of({BitRate::megabits(10), BitRate::megabits(40), BitRate::megabits(90)});
        const Distribution one = Distribution::least({{"shared", &shared}, {"a", &a}});
        const Distribution two = Distribution::least({{"shared", &shared}, {"b", &b}});
        for (std::uint64_t n = 0; n < 64; ++n) {
            QCOMPARE(one.drawn(n, "x"), std::min(draws[n], 20e6));
            QCOMPARE(two.drawn(n, "x"), std::min(draws[n], b.drawn(n, "b")));
        }
        // Its quantiles are those of the exact least.
        const Least exact = leastOf(std::vector<Distribution>{shared, b});
        QCOMPARE(two.spread().p10.bps(), exact.spread.p10.bps());
        for (const double p : {0.1, 0.5, 0.9})
            QVERIFY(std::fabs(two.quantile(p) / (p < 0.2   ? exact.spread.p10
                                                 : p < 0.6 ? exact.spread.p50
                                                           : exact.spread.p90)
                                                    .bps() -
                              1) < 0.02);
        QCOMPARE(shared.scaledBy(0.5).drawn(3, ""), draws[3] * 0.5);
        QCOMPARE(shared.cappedAt(BitRate::megabits(5)).drawn(3, ""), std::min(draws[3], 5e6));
    }
    void unknownsWidenButDoNotBlock() {
        house::House h = testing::wiredHouse();
        const auto known = predicted(h);
        for (auto& d : h.devices) {
            d.deviceClass.clear();
            for (auto& p : d.ports)
                p.phy.clear();
        }
        for (auto& c : h.connections) {
            c.cableClass.clear();
            c.length.reset();
            c.goodPairs.reset();
        }
        const auto unknown = predicted(h);
        const auto width = [](const RateSpread& s) { return s.p90.bps() / s.p10.bps(); };
        QVERIFY(width(unknown.forward) > 2 * width(known.forward));
    }
    void theLeastElementDecides() {
        const auto gigabit = predicted(testing::wiredHouse());
        QVERIFY(near(gigabit.forward.p50.bps(), 941.48e6, 1e-3));
        const auto slow = predicted(testing::wiredHouse("1000base-t", "1000base-t", "100base-tx"));
        QVERIFY(near(slow.forward.p50.bps(), 94.148e6, 1e-3));
        QVERIFY(element(slow, "shelf.lan").limiterForward > 0.99);
        const auto usb2 = predicted(testing::coaxHouse("usb2"));
        QVERIFY(element(usb2, "socket").limiterForward > 0.99);
        QVERIFY(usb2.forward.p50 > BitRate::megabits(280) && usb2.forward.p50 < BitRate::megabits(350));
        const auto usb3 = predicted(testing::coaxHouse("usb3-5g"));
        QVERIFY(element(usb3, "coax").limiterForward > 0.5);
        QVERIFY(usb3.rttMicroseconds.p50 > 3500);
    }
    void aRouteNeverCarriesMoreThanItsElements() {
        std::mt19937 random(7);
        const std::vector<std::string> sockets{"usb2", "usb3-5g", "usb3-10g", ""};
        const std::vector<std::string> classes{"coax-175", "coax-500", "coax-1000", "coax-2500", ""};
        const std::vector<std::string> situations{"good", "typical", "poor", ""};
        const auto pick = [&](const auto& list) { return list[random() % list.size()]; };
        for (int i = 0; i < 200; ++i) {
            house::House h = testing::coaxHouse(pick(sockets), pick(classes));
            h.connection("coax")->situation = pick(situations);
            const auto p = predicted(h);
            double sum = 0;
            for (const auto& e : p.elements) {
                // Medians of mixtures may lie anywhere in a gap, so the comparison is between distributions.
                QVERIFY2(e.ceiling.forward.cdf(p.forward.p50.bps() * (1 - 1e-6)) <= 0.502,
                         e.element.id.c_str());
                QVERIFY2(e.ceiling.forward.cdf(p.forward.p90.bps() * (1 - 1e-6)) <= 0.902,
                         e.element.id.c_str());
                QVERIFY(e.forward.p10 <= e.forward.p50 && e.forward.p50 <= e.forward.p90);
                sum += e.limiterForward;
            }
            QVERIFY(near(sum, 1, 1e-9));
        }
    }
    void distributionsKeepTheirQuantiles() {
        const auto d = Distribution::of(spread(100, 200, 300));
        QVERIFY(near(d.quantile(0.1), 100e6, 1e-6));
        QVERIFY(near(d.quantile(0.5), 200e6, 1e-6));
        QVERIFY(near(d.quantile(0.9), 300e6, 1e-6));
        const auto m = Distribution::mixture({{3, spread(10, 10, 10)}, {1, spread(1000, 1000, 1000)}});
        QVERIFY(near(m.quantile(0.7), 10e6, 1e-6));
        QVERIFY(near(m.quantile(0.8), 1000e6, 1e-6));
        QVERIFY(near(m.cdf(100e6), 0.75, 1e-9));
        QVERIFY(near(d.cappedAt(BitRate::megabits(150)).quantile(0.9), 150e6, 1e-6));
    }
    void theLeastAgreesWithSampling() {
        const std::vector<Distribution> list{Distribution::of(spread(80, 100, 160)),
                                             Distribution::of(spread(90, 110, 120)),
                                             Distribution::certain(BitRate::megabits(118))};
        const Least exact = leastOf(list);
        std::mt19937_64 random(11);
        std::uniform_real_distribution<double> uniform(1e-6, 1 - 1e-6);
        std::vector<double> minima;
        std::vector<double> wins(3, 0);
        for (int i = 0; i < 20000; ++i) {
            std::size_t least = 0;
            double low = 1e99;
            for (std::size_t k = 0; k < list.size(); ++k)
                if (const double x = list[k].quantile(uniform(random)); x < low) {
                    low = x;
                    least = k;
                }
            wins[least] += 1.0 / 20000;
            minima.push_back(low);
        }
        std::sort(minima.begin(), minima.end());
        QVERIFY(near(exact.spread.p50.bps(), minima[10000], 0.01));
        QVERIFY(near(exact.spread.p10.bps(), minima[2000], 0.01));
        for (std::size_t k = 0; k < 3; ++k)
            QVERIFY(std::fabs(exact.limiter[k] - wins[k]) < 0.02);
    }
    void thePredictionDocumentFollowsTheContract() {
        const auto document = toJson(std::vector{predicted(testing::coaxHouse("usb2"))});
        QCOMPARE(document.at("format").get<std::string>(), std::string("metrodos-prediction"));
        const auto& route = document.at("routes").at(0);
        QVERIFY(route.at("forward").at("p50_bps").get<double>() > 0);
        for (const auto& e : route.at("elements"))
            for (const char* key :
                 {"id", "kind", "label", "forward", "backward", "limiter_probability", "because"})
                QVERIFY2(e.contains(key), key);
    }
};

QTEST_GUILESS_MAIN(TestCapacity)
#include "test_capacity.moc"
