// The packet-level medium against figures worked out by hand.
#include "standin/wire_model.h"

#include <QTest>
#include <cmath>

using namespace metrodos::standin;

namespace {

WireSettings settings(double bps, double delay = 0) {
    WireSettings s;
    s.bps = bps;
    s.delaySeconds = delay;
    return s;
}

/// Sends one packet and says when it arrives.
std::optional<double> pass(WireModel& wire, int direction, std::size_t bytes, double now) {
    static std::uint64_t number = 0;
    const std::uint64_t mine = ++number;
    if (!wire.enter(direction, bytes, mine, now)) return std::nullopt;
    for (auto next = wire.next(); next; next = wire.next())
        for (const WireModel::Arrival& a : wire.advance(*next))
            if (a.number == mine) return a.at;
    return std::nullopt;
}

bool near(const std::optional<double>& value, double wanted) {
    return value && std::fabs(*value - wanted) < 1e-9;
}

} // namespace

class TestWireModel : public QObject {
    Q_OBJECT

  private slots:
    void aPacketTakesItsBitsAndTheDelay() {
        WireModel wire(settings(12e6, 0.003)); // 1500 bytes in a millisecond
        QVERIFY(near(pass(wire, 0, 1500, 1), 1.004));
        QVERIFY(near(pass(wire, 0, 1500, 1), 1.005)); // the medium was busy until then
        QVERIFY(near(pass(wire, 0, 1500, 2), 2.004));
        QVERIFY(!wire.next());
    }
    void theDirectionsAreApartOrInTurn() {
        for (const bool half : {false, true}) {
            WireSettings s = settings(12e6);
            s.halfDuplex = half;
            WireModel wire(s);
            // Three wait on one side when the other gets one: it is its turn after the first.
            for (std::uint64_t n = 1; n <= 3; ++n)
                QVERIFY(wire.enter(0, 1500, n, 0));
            QVERIFY(wire.enter(1, 1500, 9, 0));
            const auto all = wire.advance(1);
            QCOMPARE(all.size(), std::size_t(4));
            for (const WireModel::Arrival& a : all) {
                const double wanted = a.number == 9 ? (half ? 0.002 : 0.001)
                                                    : 0.001 * static_cast<double>(a.number) +
                                                          (half && a.number > 1 ? 0.001 : 0);
                QVERIFY2(near(a.at, wanted), qPrintable(QString::number(*a.at)));
            }
        }
    }
    void whatDoesNotFitTheQueueIsDropped() {
        WireSettings s = settings(12e6);
        s.queueBytes = 4500;
        WireModel wire(s);
        for (std::uint64_t n = 1; n <= 3; ++n)
            QVERIFY(wire.enter(0, 1500, n, 0));
        QVERIFY(!wire.enter(0, 1500, 4, 0));
        QVERIFY(wire.enter(1, 1500, 5, 0)); // the other side has its own
        QVERIFY(!wire.advance(0.001).empty());
        QVERIFY(wire.enter(0, 1500, 6, 0.001)); // one has left
    }
    void lossAndJitterAreWhatWasAsked() {
        WireSettings s = settings(1e12, 0.01);
        s.lossRatio = 0.05;
        s.jitterSeconds = 0.002;
        s.queueBytes = 1e9;
        WireModel wire(s);
        int lost = 0;
        double last = 0;
        double sum = 0;
        constexpr int count = 20'000;
        for (int i = 0; i < count; ++i) {
            const double at = i * 0.01; // far enough apart that none waits for the one before
            const auto arrived = pass(wire, 0, 1000, at);
            if (!arrived) {
                ++lost;
                continue;
            }
            QVERIFY(*arrived >= last);
            last = *arrived;
            sum += *arrived - at - 0.01;
        }
        QVERIFY(std::fabs(lost / (0.05 * count) - 1) < 0.1);
        QVERIFY(std::fabs(sum / (count - lost) / 0.001 - 1) < 0.05);
    }
    void theSameSeedIsTheSameFate() {
        WireSettings s = settings(1e9);
        s.lossRatio = 0.5;
        WireModel a(s);
        WireModel b(s);
        s.seed = 2;
        WireModel c(s);
        int differ = 0;
        for (int i = 0; i < 200; ++i) {
            const auto mine = pass(a, 0, 100, i);
            QVERIFY(mine == pass(b, 0, 100, i));
            if (mine.has_value() != pass(c, 0, 100, i).has_value()) ++differ;
        }
        QVERIFY(differ > 50);
    }
};

QTEST_GUILESS_MAIN(TestWireModel)
#include "test_wire_model.moc"
