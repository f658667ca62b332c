// A small round of what tests/bench/trace.cpp measures over a thousand houses.
#include "catalog/load.h"
#include "support/trace_cases.h"

#include <QTest>
#include <algorithm>

using namespace metrodos;

class TestTraceCases : public QObject {
    Q_OBJECT

  private slots:
    void suggestedTestsLeadToTheLimiter() {
        const auto catalog = catalog::loadDefault().value();
        std::mt19937_64 random(7);
        constexpr int cases = 40;
        int right = 0;
        std::size_t tests = 0;
        int hand = 0;
        for (int i = 0; i < cases; ++i) {
            const auto c = testing::randomCase(random, catalog);
            const auto limiters = testing::limitersOf(c, catalog);
            const auto followed = testing::follow(c, catalog);
            const auto& named = followed.last().suspects.front().element;
            right += std::find(limiters.begin(), limiters.end(), named) != limiters.end() ? 1 : 0;
            tests += followed.tests.size();
            hand += testing::handRoutine(c, catalog);
            double sum = 0;
            for (const auto& s : followed.last().suspects)
                sum += s.probability;
            QVERIFY(sum > 0.9 && sum < 1 + 1e-9);
        }
        QVERIFY2(right >= cases * 85 / 100, qPrintable(QString("%1 of %2").arg(right).arg(cases)));
        QVERIFY2(static_cast<int>(tests) < hand * 7 / 10,
                 qPrintable(QString("%1 against %2").arg(tests).arg(hand)));
    }
};

QTEST_GUILESS_MAIN(TestTraceCases)
#include "test_trace_cases.moc"
