// The judge on houses of the second simulation (tests/bench/independent), which shares no model with it. The
// figures proper come from bench_judge over a thousand of them; these bounds leave room for sixty.
#include "catalog/load.h"
#include "independent/follow.h"

#include <QTest>
#include <cmath>

class TestIndependent : public QObject {
    Q_OBJECT

  private slots:
    void theJudgeUnderstandsHousesThatItDidNotMake() {
        const auto catalog = metrodos::catalog::loadDefault().value();
        constexpr int cases = 60;
        int atOnce = 0;
        int atEnd = 0;
        int missed = 0;
        double said = 0;
        std::size_t tests = 0;
        int byHand = 0;
        for (unsigned i = 0; i < cases; ++i) {
            const independent::World world = independent::draw(500 + i);
            const independent::Judged j = independent::judge(world, catalog, 4);
            tests += j.tests.size();
            byHand += independent::handRoutine(world);
            atOnce += j.afterFour.right ? 1 : 0;
            atEnd += j.atEnd.right ? 1 : 0;
            missed += j.afterFour.ofTruth < 0.02 ? 1 : 0;
            said += j.afterFour.said;
        }
        qInfo("first after four runs %d of %d, after the suggestions %d, truth below 2 %% in %d; said %.1f",
              atOnce, cases, atEnd, missed, said);
        QVERIFY(atOnce >= 38);
        QVERIFY(atEnd >= 50);
        QVERIFY(missed <= 6);
        QVERIFY2(static_cast<int>(tests) < byHand * 7 / 10,
                 qPrintable(QString("%1 against %2").arg(tests).arg(byHand)));
        // On the whole as often right as it says, within three standard deviations of sixty.
        QVERIFY(std::fabs(said - atOnce) < 9);
    }
    // The simulation itself against hand calculation.
    void aSmallWindowBoundsAStream() {
        independent::World world = independent::draw(1);
        for (auto& part : world.parts)
            part = {};
        world.hiddenRate = 0;
        for (auto& machine : world.machines)
            machine = {1e12, 1e12, 65'536, true};
        world.parts[1].delay = 3.38e-3; // and 0.12 ms of both machines: 3.5 ms
        // 65,536 · 8 bit / 3.5 ms = 149.8 Mbit/s.
        const auto one = world.bounds(true, 1, {}, false);
        double least = 1e15;
        for (const auto& held : one)
            least = std::min(least, held.rate);
        QVERIFY(std::fabs(least / 149.8e6 - 1) < 1e-3);
        // Mathis: 1.22 · 11,584 bit / (3.5 ms · √0.01) = 40.4 Mbit/s, times its kindness.
        world.parts[1].loss = {0.01, 0};
        double lossy = 1e15;
        for (const auto& held : world.bounds(true, 1, {}, false))
            lossy = std::min(lossy, held.rate);
        QVERIFY(std::fabs(lossy / (40.38e6 * world.kindness) - 1) < 1e-3);
        for (const auto& held : world.bounds(false, 1, {}, false))
            QVERIFY(held.by != independent::World::Held::loss);
    }
};

QTEST_GUILESS_MAIN(TestIndependent)
#include "test_independent.moc"
