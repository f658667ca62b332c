// The channel models of coax and mains: inside their envelopes, and moved by what moves them. Budgets
// by hand; loss of RG-6 at 1400 MHz: 0.68·√1400 = 25.44 dB per 100 m.
#include "capacity/coax_channel.h"
#include "capacity/mains_channel.h"
#include "support/classes.h"
#include "support/plant.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::testing;
using namespace metrodos::capacity;

namespace {

CoaxBudget budget(const House& h, const Id& a, const Id& b, const std::string& cls = "coax-2500",
                  bool improvements = false, int nodes = 2) {
    return coaxBudget(h, classes(), {a, b, cls, nodes, improvements});
}

double median(const CoaxBudget& b) {
    return b.rate.spread().p50.inMegabits();
}

double cable(double metres) {
    return 0.68 * std::sqrt(1400.0) * metres / 100 + 0.4; // and two sound connectors of 0.2 dB
}

bool near(double a, double b, double by) {
    return std::fabs(a - b) <= by;
}

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

class TestChannels : public QObject {
    Q_OBJECT

  private slots:
    void threeRatedSplittersWithoutFilter() {
        // a → b: run-a, s1 out to out 2·4.5, link-12, s2 in to out 6.5, run-b.
        const CoaxBudget ab = budget(coaxTreeHouse(false, true), "a", "b");
        const double byHand = cable(10) + 9.0 + cable(5) + 6.5 + cable(20);
        QVERIFY2(near(ab.totalDb.p50, byHand, 0.5),
                 qPrintable(QString("%1 %2").arg(ab.totalDb.p50).arg(byHand)));
        // a → c: s3 4-way in to out 8 more, other runs.
        const CoaxBudget ac = budget(coaxTreeHouse(false, true), "a", "c");
        QVERIFY(near(ac.totalDb.p50, cable(10) + 9.0 + cable(5) + 6.5 + cable(4) + 8.0 + cable(15), 0.5));
        // b → c: s2 out to out 13, s3 in to out 8.
        const CoaxBudget bc = budget(coaxTreeHouse(false, true), "b", "c");
        QVERIFY(near(bc.totalDb.p50, cable(20) + 13.0 + cable(4) + 8.0 + cable(15), 0.5));
        QCOMPARE(ab.contributions.size(), std::size_t(5));
        QCOMPARE(ab.contributions[1].id, Id("s1"));
    }
    void anEntryFilterTurnsPowerBack() {
        // s1, rated: 9 dB direct beside 2·4.5 + 1 = 10 dB turned back: −10·log10(10^−0.9 + 10^−1.0) = 6.46
        // dB.
        const double plain = budget(coaxTreeHouse(false, true), "a", "b").totalDb.p50;
        const double filtered = budget(coaxTreeHouse(true, true), "a", "b").totalDb.p50;
        QVERIFY2(near(plain - filtered, 9.0 - 6.46, 0.05), qPrintable(QString::number(plain - filtered)));
        // Unrated: isolation of about 22 dB beside 2·6 + 1 = 13 dB turned back: 12.5 dB.
        const double open = budget(coaxTreeHouse(false, false), "a", "b").totalDb.p50;
        const double closed = budget(coaxTreeHouse(true, false), "a", "b").totalDb.p50;
        QVERIFY2(near(open - closed, 22.0 - 12.5, 1.5), qPrintable(QString::number(open - closed)));
    }
    void theRateFollowsTheLoss() {
        // One 100 MHz channel from 1125 MHz: full below 45 dB, one bit of ten for each 3 dB above.
        House h = coaxTreeHouse(false, true);
        const double full = median(budget(h, "a", "b", "coax-500"));
        QVERIFY(near(full, 460, 10));
        const auto at = [&](double lossAt1175) {
            // A single run of the length that makes this loss.
            House line;
            line.jacks = {{"a", "a", "", JackKind::coax}, {"b", "b", "", JackKind::coax}};
            line.connections = {
                coaxRun("run", {"a", ""}, {"b", ""}, (lossAt1175 - 0.4) / (0.68 * std::sqrt(1175.0)) * 100)};
            return median(budget(line, "a", "b", "coax-500")) / full;
        };
        QVERIFY(near(at(40), 1, 0.02));
        QVERIFY2(near(at(60), 0.5, 0.06), qPrintable(QString::number(at(60))));
        QVERIFY(at(80) < 0.02);
    }
    void whatRulesItOut() {
        House h = coaxTreeHouse(false, true);
        h.coaxUse.satellite = true;
        QVERIFY(budget(h, "a", "b").ruledOut);
        QVERIFY(median(budget(h, "a", "b")) < 1e-3);
        h = coaxTreeHouse(false, true);
        h.connection("run-b")->ends[0] = {"cupboard", ""}; // cut in the cupboard
        CoaxBudget b = budget(h, "a", "b");
        QCOMPARE(b.join, CoaxJoin::unjoined);
        QVERIFY(b.ruledOut);
        QVERIFY(b.rulings.front().find("run-b") != std::string::npos);
        h.connection("run-b")->ends.erase(h.connection("run-b")->ends.begin()); // nobody knows where it goes
        b = budget(h, "a", "b");
        QCOMPARE(b.join, CoaxJoin::unknown);
        QVERIFY(!b.ruledOut);
        h = coaxTreeHouse(false, true);
        h.coaxParts[2].kind = CoaxPartKind::amplifier; // s2: blocks
        h.coaxParts[2].bypass = false;
        h.connection("run-b")->ends[0] = {"s2", "out"};
        std::erase_if(h.connections,
                      [](const Connection& c) { return c.id == "link-23" || c.id == "run-c"; });
        b = budget(h, "a", "b");
        QVERIFY(b.ruledOut);
        QVERIFY(b.totalDb.p50 > 60);
        h.coaxParts[2].bypass = true;
        QVERIFY(!budget(h, "a", "b").ruledOut);
        QVERIFY(median(budget(h, "a", "b")) > 2000);
    }
    void cableInternetTakesTheLowestChannel() {
        House h = coaxTreeHouse(false, true);
        const double before = median(budget(h, "a", "b"));
        h.coaxUse.cableInternetTop = quantity::Frequency::megahertz(1218);
        const CoaxBudget after = budget(h, "a", "b");
        QVERIFY2(near(median(after) / before, 0.8, 0.02),
                 qPrintable(QString::number(median(after) / before)));
        QVERIFY(after.rulings.front().find("4 of 5 channels") != std::string::npos);
    }
    // From 5 to 200 MHz, where every splitter is made to pass: at 100 MHz RG-6 loses 6.8 dB per 100 m, a way
    // out of a 3-way splitter 5.8 dB, and two outputs hear each other through 25 dB.
    void theOtherFamilySendsWhereTelevisionWouldBe() {
        House h = coaxTreeHouse(false, false);
        const auto low = [](double metres) { return 6.8 * metres / 100 + 0.4; };
        const CoaxBudget free = budget(h, "a", "b", "coax-ghn-1700");
        const double byHand = low(10) + 25 + low(5) + 5.8 + low(20);
        QVERIFY2(near(free.totalDb.p50, byHand, 0.7), qPrintable(QString::number(free.totalDb.p50 - byHand)));
        QVERIFY2(near(median(free), 880, 15), qPrintable(QString::number(median(free))));
        // At 1400 MHz the cable loses √14 times as much: 3.74 · 2.38 = 8.9 dB of 35 m, not 2.4.
        QVERIFY(budget(h, "a", "b", "coax-1000").totalDb.p50 > free.totalDb.p50 + 3);
        // Half the band, half the rate.
        QVERIFY(near(median(budget(h, "a", "b", "coax-ghn-850")), 430, 10));
        // A dish is far above it, an entry filter passes it; television and cable internet take its place.
        h.coaxUse.satellite = true;
        QVERIFY(!budget(h, "a", "b", "coax-ghn-1700").ruledOut);
        QVERIFY(budget(h, "a", "b", "coax-1000").ruledOut);
        h.coaxUse.satellite.reset();
        h.coaxUse.television = true;
        QVERIFY(budget(h, "a", "b", "coax-ghn-1700").ruledOut);
        QVERIFY(!budget(h, "a", "b", "coax-1000").ruledOut);
        h.coaxUse.television = false;
        h.coaxUse.cableInternetTop = quantity::Frequency::megahertz(862);
        QVERIFY(budget(h, "a", "b", "coax-ghn-1700").ruledOut);
        // A filter in the way between two jacks: 0.4 dB like a joint, not 40.
        House line;
        line.jacks = {{"a", "a", "", JackKind::coax}, {"b", "b", "", JackKind::coax}};
        line.coaxParts = {{"f", "filter", CoaxPartKind::filter, "", 2, {}, {}, {}}};
        line.connections = {coaxRun("one", {"a", ""}, {"f", "in"}, 10),
                            coaxRun("two", {"f", "out"}, {"b", ""}, 10)};
        QVERIFY(near(budget(line, "a", "b", "coax-ghn-1700").totalDb.p50, 2 * low(10) + 0.4, 0.2));
        QVERIFY(!budget(line, "a", "b", "coax-ghn-1700").ruledOut);
        QVERIFY(budget(line, "a", "b", "coax-1000").ruledOut);
    }
    void moreNodesCostALittle() {
        const House h = coaxTreeHouse(false, true);
        const double two = median(budget(h, "a", "b"));
        QVERIFY(near(median(budget(h, "a", "b", "coax-2500", false, 16)) / two, 1 - 14 * 0.015, 0.005));
    }
    void saysWhatWouldHelp() {
        House h = coaxTreeHouse(false, false);
        h.coaxParts[1].terminated = false; // s1
        h.coaxParts[1].ways = 3;           // with a port left over
        h.connection("run-b")->badConnectors = 2;
        const CoaxBudget b = budget(h, "a", "b", "coax-2500", true);
        const auto offers = [&](const char* word) {
            return std::any_of(b.improvements.begin(), b.improvements.end(),
                               [&](const Improvement& i) { return i.does.find(word) != std::string::npos; });
        };
        QVERIFY(offers("entry filter"));
        QVERIFY(offers("rated"));
        QVERIFY(offers("terminators"));
        QVERIFY(offers("connectors"));
        for (std::size_t i = 1; i < b.improvements.size(); ++i)
            QVERIFY(b.improvements[i - 1].gainDb >= b.improvements[i].gainDb);
    }
    void noFilterIsOfferedWhereItWouldCutOffJacks() {
        // b to c passes s2 from output to output, but beyond its input lies jack a.
        for (const auto& i : budget(coaxTreeHouse(false, false), "b", "c", "coax-2500", true).improvements)
            QVERIFY2(i.does.find("filter") == std::string::npos, i.does.c_str());
    }
    void unknownWidens() {
        House h = coaxTreeHouse(false, true);
        const auto known = budget(h, "a", "b").totalDb;
        h.connection("run-b")->length.reset();
        h.connection("run-b")->cableClass.clear();
        h.coaxParts[1].rated.reset();
        const auto guessed = budget(h, "a", "b").totalDb;
        QVERIFY(guessed.p90 - guessed.p10 > 3 * (known.p90 - known.p10));
        QCOMPARE(budget(h, "a", "b").totalDb, budget(h, "a", "b").totalDb);
    }
    // TCP goodput in Mbit/s, by class and situation (docs/models.md).
    void staysInsideItsEnvelope() {
        for (const auto& [cls, situation, low, high] :
             {std::tuple("mains-1200", "neighbouring", 150.0, 280.0),
              std::tuple("mains-1200", "same circuit", 90.0, 200.0),
              std::tuple("mains-1200", "same panel", 30.0, 110.0),
              std::tuple("mains-1200", "other leg", 10.0, 60.0), std::tuple("mains-1200", "worst", 0.0, 5.0),
              std::tuple("mains-200", "neighbouring", 20.0, 80.0),
              std::tuple("mains-200", "same panel", 20.0, 80.0),
              std::tuple("mains-600", "neighbouring", 40.0, 150.0),
              std::tuple("mains-600", "same circuit", 40.0, 150.0),
              std::tuple("mains-2000", "neighbouring", 200.0, 400.0)}) {
            const auto s = pooled(situation, cls);
            const QString figures = QString("%1, %2: p10 %3, p50 %4, p90 %5 Mbit/s")
                                        .arg(cls, situation)
                                        .arg(s.p10)
                                        .arg(s.p50)
                                        .arg(s.p90);
            qInfo("%s", qPrintable(figures));
            QVERIFY2(s.p50 >= low && s.p50 <= high, qPrintable(figures));
            // Nine draws in ten may touch the envelope's edge, but not leave it by more than a tenth.
            QVERIFY2(s.p10 >= low * 0.9 && s.p90 <= high * 1.1 + 2, qPrintable(figures));
        }
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

QTEST_GUILESS_MAIN(TestChannels)
#include "test_channels.moc"
