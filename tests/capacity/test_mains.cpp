// The mains model against its envelope, and against what each thing on the way must do.
#include "capacity/mains_channel.h"
#include "support/classes.h"
#include "support/plant.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;
using namespace metrodos::capacity;

namespace {

MainsForecast forecast(const House& h, const Id& a, const Id& b, const std::string& cls = "mains-1200") {
    MainsQuestion q;
    q.outletA = a;
    q.outletB = b;
    q.deviceClass = cls;
    return mainsForecast(h, classes(), q);
}

double slower(const MainsForecast& f) {
    return std::min(f.forward.spread().p50, f.backward.spread().p50).inMegabits();
}

// Goodput over many pairs of outlets that lie to each other as the situation says: all draws together.
catalog::Spread<double> pooled(const std::string& situation, const std::string& cls) {
    std::vector<double> draws;
    for (int house = 0; house < 12; ++house) {
        const std::string tag = "-t" + std::to_string(house);
        const House h = mainsHouse(tag);
        const int at = house % 4;
        const auto outlet = [&](int circuit, int position) {
            return "o" + std::to_string(circuit) + "-" + std::to_string(position) + tag;
        };
        MainsForecast f;
        if (situation == "neighbouring") f = forecast(h, outlet(0, at), outlet(0, at + 1), cls);
        if (situation == "same circuit") f = forecast(h, outlet(0, at), outlet(0, at + 4), cls);
        if (situation == "same panel") f = forecast(h, outlet(0, at / 2), outlet(1, 2 - at / 2), cls);
        if (situation == "other leg") f = forecast(h, outlet(0, at / 2), outlet(2, 1), cls);
        if (situation == "worst") f = forecast(h, outlet(1, 4 + at), outlet(2, 7), cls);
        for (const Distribution* d : {&f.forward, &f.backward})
            for (int k = 0; k < 20; ++k)
                draws.push_back(d->quantile(0.025 + 0.05 * k) / 1e6);
    }
    return spreadOfDraws(draws);
}

} // namespace

class TestMains : public QObject {
    Q_OBJECT

  private slots:
    void staysInsideItsEnvelope_data() {
        QTest::addColumn<QString>("cls");
        QTest::addColumn<QString>("situation");
        QTest::addColumn<double>("low");
        QTest::addColumn<double>("high");
        // TCP goodput in Mbit/s, by class and situation (docs/models.md).
        QTest::newRow("1200 near") << "mains-1200"
                                   << "neighbouring" << 150.0 << 280.0;
        QTest::newRow("1200 same circuit") << "mains-1200"
                                           << "same circuit" << 90.0 << 200.0;
        QTest::newRow("1200 same panel") << "mains-1200"
                                         << "same panel" << 30.0 << 110.0;
        QTest::newRow("1200 other leg") << "mains-1200"
                                        << "other leg" << 10.0 << 60.0;
        QTest::newRow("1200 worst") << "mains-1200"
                                    << "worst" << 0.0 << 5.0;
        QTest::newRow("200") << "mains-200"
                             << "neighbouring" << 20.0 << 80.0;
        QTest::newRow("200 same panel") << "mains-200"
                                        << "same panel" << 20.0 << 80.0;
        QTest::newRow("600") << "mains-600"
                             << "neighbouring" << 40.0 << 150.0;
        QTest::newRow("600 same circuit") << "mains-600"
                                          << "same circuit" << 40.0 << 150.0;
        QTest::newRow("2000 near") << "mains-2000"
                                   << "neighbouring" << 200.0 << 400.0;
    }
    void staysInsideItsEnvelope() {
        QFETCH(QString, cls);
        QFETCH(QString, situation);
        QFETCH(double, low);
        QFETCH(double, high);
        const auto s = pooled(situation.toStdString(), cls.toStdString());
        const QString figures = QString("p10 %1, p50 %2, p90 %3 Mbit/s").arg(s.p10).arg(s.p50).arg(s.p90);
        qInfo("%s", qPrintable(figures));
        QVERIFY2(s.p50 >= low && s.p50 <= high, qPrintable(figures));
        // Nine draws in ten may touch the envelope's edge, but not leave it by more than a tenth.
        QVERIFY2(s.p10 >= low * 0.9 && s.p90 <= high * 1.1 + 2, qPrintable(figures));
    }
    void everythingOnTheWayCosts() {
        const House h = mainsHouse();
        const double near = slower(forecast(h, "o0-2", "o0-3"));
        const double far = slower(forecast(h, "o0-2", "o0-7"));
        const double panel = slower(forecast(h, "o0-2", "o1-3"));
        const double leg = slower(forecast(h, "o0-2", "o2-3"));
        const double sub = slower(forecast(h, "o0-2", "o3-3"));
        const double supply = slower(forecast(h, "o0-2", "o4-3"));
        QVERIFY(near > far && far > panel && panel > leg && panel > sub);
        QVERIFY(supply < 1);
        QVERIFY(!forecast(h, "o0-2", "o4-3").rulings.empty());
    }
    void protectiveElectronicsCostMoreAtHighFrequencies() {
        House h = mainsHouse();
        const double breaker = slower(forecast(h, "o0-0", "o1-0"));
        h.circuits[0].protection = Protection::residual_current;
        const double residual = slower(forecast(h, "o0-0", "o1-0"));
        h.circuits[0].protection = Protection::arc_fault;
        const double arc = slower(forecast(h, "o0-0", "o1-0"));
        QVERIFY(breaker > residual && residual > arc);
    }
    void aSurgeProtectedStripSwallowsIt() {
        const House h = mainsHouse();
        MainsQuestion q;
        q.outletA = "o0-2";
        q.outletB = "o0-3";
        q.deviceClass = "mains-1200";
        const double wall = slower(mainsForecast(h, classes(), q));
        q.stripB = Strip::plain;
        const double plain = slower(mainsForecast(h, classes(), q));
        q.stripB = Strip::surge_protected;
        const MainsForecast surge = mainsForecast(h, classes(), q);
        QVERIFY(wall > plain && plain > 3 * slower(surge));
        QVERIFY(surge.rulings.front().find("surge") != std::string::npos);
    }
    void noiseBelongsToTheReceiverAndItsHours() {
        House h = mainsHouse();
        h.appliances = {{"saw", "saw", "motor", "o0-5", {{9, 17}}}};
        MainsQuestion q;
        q.outletA = "o0-0";
        q.outletB = "o0-5";
        q.deviceClass = "mains-1200";
        q.hour = 12;
        const MainsForecast noon = mainsForecast(h, classes(), q);
        // Towards the saw it is slow, away from it less so.
        QVERIFY(noon.forward.spread().p50.bps() < 0.9 * noon.backward.spread().p50.bps());
        q.hour = 22;
        const MainsForecast night = mainsForecast(h, classes(), q);
        QVERIFY(night.forward.spread().p50.bps() > 1.2 * noon.forward.spread().p50.bps());
        q.hour.reset();
        q.withCosts = true;
        const MainsForecast any = mainsForecast(h, classes(), q);
        QCOMPARE(any.byHour.size(), std::size_t(24));
        QVERIFY(any.byHour[12] < any.byHour[22]);
        const auto& last = any.contributions.back();
        QVERIFY(last.label.find("noise of appliances") != std::string::npos &&
                last.costBps.value_or(0) > 1e6);
    }
    void theBestOutletOfARoomIsNamed() {
        const House h = mainsHouse();
        const auto best = bestOutlets(h, classes(), "loft", "o0-3", "mains-1200");
        QCOMPARE(best.front().outlet, Id("o0-4")); // the next one along the same wire
        for (std::size_t i = 1; i < best.size(); ++i)
            QVERIFY(best[i - 1].slower.p50 >= best[i].slower.p50);
    }
    void directionsSwapWithTheEnds() {
        const House h = mainsHouse();
        const MainsForecast there = forecast(h, "o0-1", "o1-2");
        const MainsForecast back = forecast(h, "o1-2", "o0-1");
        QCOMPARE(there.forward.spread().p50, back.backward.spread().p50);
        QVERIFY(!forecast(h, "o0-1", "nowhere").isKnown);
    }
};

QTEST_GUILESS_MAIN(TestMains)
#include "test_mains.moc"
