// The coax model against budgets worked by hand. Loss of RG-6 at 1400 MHz: 0.68·√1400 = 25.44 dB per 100 m.
#include "capacity/coax_channel.h"
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

} // namespace

class TestCoax : public QObject {
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
};

QTEST_GUILESS_MAIN(TestCoax)
#include "test_coax.moc"
