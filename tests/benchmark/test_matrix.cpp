// The matrix of endpoints: its order, common ceilings, and what pairs share.
#include "benchmark/matrix.h"

#include <QTest>
#include <set>

using namespace metrodos;
using namespace metrodos::benchmark;

namespace {

MatrixCell cell(std::size_t from, std::size_t to, double mbps) {
    MatrixCell out;
    out.pair = {from, to};
    out.summary.goodput = BitRate::megabits(mbps);
    return out;
}

} // namespace

class TestMatrix : public QObject {
    Q_OBJECT

  private slots:
    void eachMeetsEachOnce() {
        for (std::size_t n = 0; n <= 7; ++n) {
            const auto pairs = pairsOf(n);
            QCOMPARE(pairs.size(), n * (n == 0 ? 0 : n - 1));
            std::set<std::pair<std::size_t, std::size_t>> unique;
            for (const Pair& p : pairs) {
                QVERIFY(p.from != p.to && p.from < n && p.to < n);
                unique.emplace(p.from, p.to);
            }
            QCOMPARE(unique.size(), pairs.size());
        }
    }
    void neighboursInTimeAreApart() {
        const auto pairs = pairsOf(6);
        int together = 0;
        for (std::size_t i = 1; i < pairs.size(); ++i)
            if (pairs[i].from == pairs[i - 1].from || pairs[i].from == pairs[i - 1].to ||
                pairs[i].to == pairs[i - 1].from || pairs[i].to == pairs[i - 1].to)
                ++together;
        QVERIFY2(together <= 6, qPrintable(QString::number(together))); // of 29
    }
    void aCommonCeilingIsFound() {
        const auto found = commonCeiling({cell(0, 1, 94), cell(0, 2, 940), cell(1, 0, 93.5), cell(2, 1, 94.1),
                                          cell(1, 2, 300), cell(2, 0, 700)});
        QVERIFY(found.has_value());
        QCOMPARE(found->pairs.size(), std::size_t(3));
        QCOMPARE(found->rate, BitRate::megabits(94));
        QVERIFY(!commonCeiling({cell(0, 1, 94), cell(1, 0, 94)}));
        QVERIFY(!commonCeiling({cell(0, 1, 10), cell(0, 2, 100), cell(1, 2, 1000)}));
        QVERIFY(!commonCeiling({}));
    }
    void pairsThatShareLoseTogether() {
        const std::vector<std::string> names{"Loft", "Hall", "Study"};
        const SharedCell halfA{{0, 1}, BitRate::megabits(940), BitRate::megabits(470)};
        const SharedCell halfB{{2, 1}, BitRate::megabits(940), BitRate::megabits(471)};
        const SharedCell whole{{1, 2}, BitRate::megabits(300), BitRate::megabits(299)};
        const std::string text = sharedLimit({halfA, halfB, whole}, names);
        QVERIFY2(text.find("Loft to Hall and Study to Hall share") == 0, text.c_str());
        QVERIFY2(text.find("941 Mbit/s") != std::string::npos, text.c_str());
        QVERIFY(sharedLimit({whole, whole}, names).empty());
        QVERIFY(sharedLimit({halfA}, names).empty()); // alone at once: nothing to share with
        QVERIFY(sharedLimit({halfA, whole}, names).find("instead of 940") != std::string::npos);
        QCOMPARE(halfA.share(), 0.5);
    }
};

QTEST_GUILESS_MAIN(TestMatrix)
#include "test_matrix.moc"
