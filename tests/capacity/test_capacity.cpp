#include "capacity/copper.h"
#include "capacity/predict.h"
#include "capacity/predict_json.h"
#include "catalog/load.h"
#include "support/houses.h"

#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>

using namespace metrodos;
using namespace metrodos::capacity;
using catalog::Catalog;
using quantity::BitRate;

namespace {

const Catalog& shipped() {
    static const Catalog c = catalog::loadDefault().value();
    return c;
}

bool near(double value, double wanted, double relative = 1e-4) {
    return std::fabs(value / wanted - 1) <= relative;
}

RoutePrediction predicted(const house::House& h) {
    return predict(h, shipped(), h.routes[0]).value();
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
    void framingAgreesWithHandWorkedCases_data() {
        QTest::addColumn<double>("rate");
        QTest::addColumn<int>("mtu");
        QTest::addColumn<bool>("vlan");
        QTest::addColumn<int>("ip");
        QTest::addColumn<bool>("udp");
        QTest::addColumn<double>("goodput");
        for (const double rate : {100e6, 1e9, 2.5e9, 5e9, 10e9}) {
            const auto row = [&](const char* what) -> QTestData& {
                return QTest::addRow("%s at %g", what, rate);
            };
            row("1448/1538") << rate << 1500 << false << 4 << false << rate * 1448 / 1538;
            row("1448/1542 VLAN") << rate << 1500 << true << 4 << false << rate * 1448 / 1542;
            row("1428/1538 IPv6") << rate << 1500 << false << 6 << false << rate * 1428 / 1538;
            row("1472/1538 UDP") << rate << 1500 << false << 4 << true << rate * 1472 / 1538;
            row("8948/9038 jumbo") << rate << 9000 << false << 4 << false << rate * 8948 / 9038;
            row("524/614 small") << rate << 576 << false << 4 << false << rate * 524 / 614;
        }
    }
    void framingAgreesWithHandWorkedCases() {
        QFETCH(double, rate);
        QFETCH(int, mtu);
        QFETCH(bool, vlan);
        QFETCH(int, ip);
        QFETCH(bool, udp);
        QFETCH(double, goodput);
        Framing f;
        f.mtu = mtu;
        f.vlanTag = vlan;
        f.ipVersion = ip;
        f.transport = udp ? Transport::udp : Transport::tcp;
        QVERIFY(near(capacity::goodput(BitRate::bitsPerSecond(rate), f).bps(), goodput, 1e-12));
    }
    void theFiveKnownGoodputs() {
        const double wanted[] = {94.148e6, 941.48e6, 2353.7e6, 4707.4e6, 9414.8e6};
        for (std::size_t i = 0; i < 5; ++i)
            QVERIFY(near(goodput(shipped().phys[i].rate, Framing{}).bps(), wanted[i]));
    }
    void copperLinksByCategoryLengthAndPairs() {
        const auto best = [](const char* category, double metres, std::optional<int> pairs) {
            const auto chances =
                linkChances(shipped(), shipped().cable(category), quantity::Length::metres(metres), pairs);
            double sum = 0;
            for (const auto& c : chances)
                sum += c.probability;
            if (!near(sum, 1, 1e-9)) throw std::runtime_error("chances do not sum to 1");
            return std::pair(chances.front().phy == nullptr ? std::string("none") : chances.front().phy->id,
                             chances.front().probability);
        };
        QCOMPARE(best("cat6a", 90, 4), std::pair(std::string("10gbase-t"), 1.0));
        QCOMPARE(best("cat6", 50, 4), std::pair(std::string("10gbase-t"), 0.85));
        QCOMPARE(best("cat6", 60, 4), std::pair(std::string("5gbase-t"), 1.0));
        QCOMPARE(best("cat5e", 90, 4).first, std::string("5gbase-t"));
        QCOMPARE(best("cat5e", 20, 3), std::pair(std::string("100base-tx"), 1.0));
        QCOMPARE(best("cat5e", 20, 1).first, std::string("none"));
        QCOMPARE(best("cat6", 150, 4).first, std::string("none"));
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
