// Distributions: their quantiles and knots, and the least of several against values worked by hand.
#include "capacity/distribution.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::capacity;

namespace {

BitRate mbps(double value) {
    return BitRate::megabits(value);
}

RateSpread spread(double p10, double p50, double p90) {
    return {mbps(p10), mbps(p50), mbps(p90)};
}

bool near(double a, double b, double share) {
    return std::fabs(a / b - 1) <= share;
}

} // namespace

class TestDistribution : public QObject {
    Q_OBJECT

  private slots:
    void aSpreadKeepsItsPercentiles() {
        const Distribution d = Distribution::of(spread(50, 100, 400));
        for (const auto& [p, value] : {std::pair(0.1, 50e6), std::pair(0.5, 100e6), std::pair(0.9, 400e6)}) {
            QVERIFY2(near(d.quantile(p), value, 1e-6), qPrintable(QString::number(d.quantile(p))));
            QVERIFY(std::fabs(d.cdf(value) - p) < 1e-6);
        }
        // Between the percentiles as the log-normal halves say: z(0.75) = 0.6745, z(0.9) = 1.2816.
        QVERIFY(near(d.quantile(0.75), 100e6 * std::pow(4, 0.6745 / 1.2816), 0.005));
        QVERIFY(near(d.quantile(0.25), 100e6 * std::pow(0.5, 0.6745 / 1.2816), 0.005));
    }
    void cdfAndQuantileAreInverse() {
        const Distribution mixed = Distribution::mixture(
            {{1, spread(50, 100, 400)}, {2, spread(900, 900, 900)}, {1, spread(10, 20, 30)}});
        double before = 0;
        for (double p = 0.02; p < 1; p += 0.02) {
            const double x = mixed.quantile(p);
            QVERIFY(x >= before);
            before = x;
            // At a step the middle of it; elsewhere the probability itself.
            if (!near(x, 900e6, 1e-6)) QVERIFY(std::fabs(mixed.cdf(x) - p) < 0.01);
        }
        QVERIFY(std::fabs(mixed.cdf(900e6) - 0.75) < 0.01); // the middle of the step from 0.5 to 1
        QCOMPARE(mixed.knots().front().p, 0.0);
        QCOMPARE(mixed.knots().back().p, 1.0);
        for (std::size_t i = 1; i < mixed.knots().size(); ++i) {
            QVERIFY(mixed.knots()[i].lnX >= mixed.knots()[i - 1].lnX);
            QVERIFY(mixed.knots()[i].p >= mixed.knots()[i - 1].p - 1e-12);
        }
    }
    void drawsBecomeTheirQuantiles() {
        std::vector<double> draws;
        for (int i = 1; i <= 1000; ++i)
            draws.push_back(i * 1e6);
        const Distribution d = Distribution::ofDraws(draws);
        QVERIFY(near(d.spread().p50.bps(), 500e6, 0.01));
        QVERIFY(near(d.spread().p10.bps(), 100e6, 0.03));
        QVERIFY(near(d.spread().p90.bps(), 900e6, 0.01));
        // A third of the draws does not link: a step at the floor.
        for (int i = 0; i < 500; ++i)
            draws.push_back(1);
        const Distribution broken = Distribution::ofDraws(draws);
        QVERIFY(broken.spread().p10.bps() < 2);
        QVERIFY(std::fabs(broken.cdf(10) - 1.0 / 3) < 0.04);
        QCOMPARE(Distribution::ofDraws({5e6, 5e6}).spread().p90, mbps(5));
        QCOMPARE(Distribution::ofDraws({7e6}).spread().p10, mbps(7));
    }
    void higherDrawsNeverLowerAQuantile() {
        std::vector<double> low;
        std::vector<double> high;
        for (int i = 0; i < 64; ++i) {
            low.push_back(1e6 * (1 + (i * 37) % 64));
            high.push_back(low.back() * (i % 3 == 0 ? 1.0 : 1.7));
        }
        const Distribution a = Distribution::ofDraws(low);
        const Distribution b = Distribution::ofDraws(high);
        for (double p = 0.01; p < 1; p += 0.01)
            QVERIFY(b.quantile(p) >= a.quantile(p) * (1 - 1e-12));
    }
    void capsAndScalesKeepTheRest() {
        const Distribution d = Distribution::of(spread(50, 100, 400));
        const Distribution capped = d.cappedAt(mbps(200));
        QCOMPARE(capped.spread().p50, mbps(100));
        QCOMPARE(capped.spread().p90, mbps(200));
        const Distribution half = d.scaledBy(0.5);
        QVERIFY(near(half.quantile(0.3), d.quantile(0.3) / 2, 1e-9));
        const Distribution table = Distribution::ofDraws({1e6, 2e6, 4e6, 8e6}).scaledBy(3);
        QVERIFY(
            near(table.quantile(0.5), Distribution::ofDraws({1e6, 2e6, 4e6, 8e6}).quantile(0.5) * 3, 1e-9));
    }
    void theLeastOfTwoIsWhatProbabilitySays() {
        // Two values alike in a coin's throw: P(least = 100) = 1 − 0.5² = 0.75.
        const Distribution coin =
            Distribution::mixture({{1, spread(100, 100, 100)}, {1, spread(200, 200, 200)}});
        const Least two = leastOf({coin, coin});
        QVERIFY(near(two.spread.p50.bps(), 100e6, 1e-9));
        QVERIFY(near(two.spread.p90.bps(), 200e6, 1e-9));
        QVERIFY(near(two.limiter[0], 0.5, 1e-9));
        // One that lies far above cannot be the least, nor change it.
        const Least three = leastOf({coin, coin, Distribution::of(spread(5000, 6000, 7000))});
        QCOMPARE(three.limiter[2], 0.0);
        QVERIFY(near(three.spread.p50.bps(), two.spread.p50.bps(), 1e-9));
        // Of equal independent ceilings the median of the least is the quantile 1 − √0.5 of one.
        const Distribution d = Distribution::of(spread(50, 100, 400));
        QVERIFY(near(leastOf({d, d}).spread.p50.bps(), d.quantile(1 - std::sqrt(0.5)), 0.01));
        double sum = 0;
        for (const double p : leastOf({d, coin, d}).limiter)
            sum += p;
        QVERIFY(near(sum, 1, 1e-9));
        QVERIFY(leastOf(std::vector<Distribution>{}).limiter.empty());
    }
};

QTEST_GUILESS_MAIN(TestDistribution)
#include "test_distribution.moc"
