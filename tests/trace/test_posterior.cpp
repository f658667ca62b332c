// The inference against sums that can be worked out without it.
#include "catalog/load.h"
#include "trace/limiters.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::trace;

namespace {

catalog::RateSpread spread(double low, double middle, double high) {
    return {quantity::BitRate::megabits(low), quantity::BitRate::megabits(middle),
            quantity::BitRate::megabits(high)};
}

State state(double weight, Curve curve) {
    return {nullptr, weight, {curve, curve}, true, {}, 0};
}

Unknown unknown(const std::string& name, std::vector<State> states) {
    Unknown out;
    out.element = name;
    out.label = name;
    out.kind = house::ElementKind::cable;
    out.states = std::move(states);
    return out;
}

Observation seen(std::vector<std::size_t> passed, double mbps, bool atLeast = false) {
    Observation o;
    for (const std::size_t u : passed)
        o.terms.push_back({u, 0, 0});
    o.lnRate = std::log(mbps * 1e6);
    o.below = 0.01;
    o.above = 0.01;
    o.atLeast = atLeast;
    return o;
}

double ln(double mbps) {
    return std::log(mbps * 1e6);
}

// P(the unknown is in this state).
double share(const std::vector<Particle>& particles, std::size_t u, int k) {
    double out = 0;
    for (const Particle& p : particles)
        if (p.state[u] == k) out += p.weight;
    return out;
}

} // namespace

class TestPosterior : public QObject {
    Q_OBJECT

  private slots:
    void withoutRunsThePriorStays() {
        const std::vector<Unknown> all{
            unknown("a", {state(0.3, Curve::at(ln(94))), state(0.7, Curve::at(ln(941)))})};
        QVERIFY(std::fabs(share(infer(all, {}, 2000, 1), 0, 0) - 0.3) < 0.01);
    }
    void aSlowRunIsSharedAmongThoseThatCanBeSoSlow() {
        // 94 Mbit/s: a is slow (0.3, b any: 0.3 · 1) or a is fast and b slow (0.7 · 0.1).
        const std::vector<Unknown> all{
            unknown("a", {state(0.3, Curve::at(ln(94))), state(0.7, Curve::at(ln(941)))}),
            unknown("b", {state(0.1, Curve::at(ln(94))), state(0.9, Curve::at(ln(941)))})};
        const auto particles = infer(all, {seen({0, 1}, 94)}, 4000, 1);
        QVERIFY(std::fabs(share(particles, 0, 0) - 0.3 / 0.37) < 0.02);
        QVERIFY(std::fabs(share(particles, 1, 0) - 0.1 / 0.37) < 0.02);
    }
    void aFastRunSaysOnlyAtLeast() {
        const std::vector<Unknown> all{
            unknown("a", {state(1, Curve::at(ln(94)))}),
            unknown("b", {state(0.25, Curve::at(ln(50))), state(0.25, Curve::at(ln(200))),
                          state(0.5, Curve::at(ln(941)))})};
        const auto particles = infer(all, {seen({0, 1}, 94)}, 4000, 1);
        QCOMPARE(share(particles, 1, 0), 0.0);                       // it carries at least 94
        QVERIFY(std::fabs(share(particles, 1, 1) - 1.0 / 3) < 0.02); // of the rest nothing was learnt
        QVERIFY(std::fabs(share(particles, 1, 2) - 2.0 / 3) < 0.02);
    }
    void aBoundIsABound() {
        const std::vector<Unknown> all{
            unknown("a", {state(0.5, Curve::of(spread(50, 100, 200))), state(0.5, Curve::at(ln(941)))})};
        const auto particles = infer(all, {seen({0}, 600, true)}, 2000, 1);
        QVERIFY(share(particles, 0, 1) > 0.98);
    }
    // Something was lifted for the run in states 1 and 2 of a, and b speaks in its place: it alone can be as
    // slow as 94, so that a is in one of the two, by 0.2 to 0.3. At 941 it cannot have been lifted.
    void theOneThatSpokeTellsTheState() {
        const std::vector<Unknown> all{
            unknown("a", {state(0.5, Curve::at(ln(941))), state(0.2, Curve::at(ln(941))),
                          state(0.3, Curve::at(ln(941)))}),
            unknown("b", {state(1, Curve::at(ln(94)))})};
        const auto run = [](double mbps) {
            Observation o = seen({0}, mbps);
            o.terms[0].lifted = 0b110;
            o.terms[0].twin = 1;
            return o;
        };
        const auto slow = infer(all, {run(94)}, 4000, 1);
        QVERIFY(share(slow, 0, 0) < 0.001);
        QVERIFY2(std::fabs(share(slow, 0, 1) - 0.4) < 0.02, qPrintable(QString::number(share(slow, 0, 1))));
        QVERIFY(share(infer(all, {run(941)}, 4000, 1), 0, 0) > 0.999);
    }
    void aMediumIsFoundWhereItWasMeasured() {
        const std::vector<Unknown> all{unknown("medium", {state(1, Curve::of(spread(100, 300, 900)))}),
                                       unknown("port", {state(1, Curve::at(ln(941)))})};
        double mean = 0;
        for (const Particle& p : infer(all, {seen({0, 1}, 420)}, 1000, 1))
            mean += p.weight * p.value[0][0];
        QVERIFY(std::fabs(std::exp(mean - ln(420)) - 1) < 0.02);
    }
    void routesThatShareAnElementAgreeOnIt() {
        // Over a and shared: 300. Over b and shared: 300. Each alone could be its own doing; the share
        // cannot.
        const auto wide = [] { return Curve::of(spread(100, 500, 2500)); };
        const std::vector<Unknown> all{unknown("a", {state(1, wide())}), unknown("b", {state(1, wide())}),
                                       unknown("shared", {state(1, wide())})};
        const auto particles = infer(all, {seen({0, 2}, 300), seen({1, 2}, 300)}, 2000, 1);
        double shared = 0;
        for (const Particle& p : particles)
            if (heldBack(p, {{0, 0, 0}, {2, 0, 0}}).term == 1 &&
                heldBack(p, {{1, 0, 0}, {2, 0, 0}}).term == 1)
                shared += p.weight;
        QVERIFY2(shared > 0.9, qPrintable(QString::number(shared)));
        // Another figure over b leaves only one of the two to the share.
        const auto apart = infer(all, {seen({0, 2}, 300), seen({1, 2}, 900)}, 2000, 1);
        double first = 0;
        for (const Particle& p : apart)
            if (heldBack(p, {{0, 0, 0}, {2, 0, 0}}).term == 0) first += p.weight;
        QVERIFY2(first > 0.95, qPrintable(QString::number(first)));
    }
    void anExchangeTellsAPartFromTheRest() {
        const std::vector<Unknown> all{
            unknown("cable", {state(0.5, Curve::at(ln(94))), state(0.5, Curve::at(ln(941)))}),
            unknown("port", {state(0.5, Curve::at(ln(94))), state(0.5, Curve::at(ln(941)))})};
        QVERIFY(share(infer(all, {seen({0, 1}, 94), seen({1}, 941)}, 500, 1), 0, 0) > 0.99);
        QVERIFY(share(infer(all, {seen({0, 1}, 94), seen({1}, 94)}, 500, 1), 1, 0) > 0.99);
    }
    void signsSpeakWhereRatesCannot() {
        Unknown machine = unknown("machine", {state(1, Curve::of(spread(200, 400, 800)))});
        machine.kind = house::ElementKind::host;
        Unknown medium = unknown("medium", {state(1, Curve::of(spread(200, 400, 800)))});
        const auto catalog = catalog::loadDefault().value();
        machine.states[0].shows[0] = catalog.faults.signature("host-sends");
        medium.states[0].shows[0] = catalog.faults.signature("coax");
        Observation o = seen({0, 1}, 400);
        const std::vector<Unknown> all{machine, medium};
        const auto machineHolds = [&] {
            double out = 0;
            for (const Particle& p : infer(all, {o}, 2000, 1))
                if (heldBack(p, o.terms).term == 0) out += p.weight;
            return out;
        };
        QVERIFY(std::fabs(machineHolds() - 0.5) < 0.05);
        o.symptoms.coreSender = true;
        o.symptoms.queue = false;
        QVERIFY(machineHolds() > 0.95);
        o.symptoms.coreSender = false;
        o.symptoms.queue = true;
        QVERIFY(machineHolds() < 0.05);
    }
    void anImpossibleRunIsTakenForAnOutlier() {
        const std::vector<Unknown> all{unknown("port", {state(1, Curve::at(ln(941)))})};
        const auto particles = infer(all, {seen({0}, 1500)}, 200, 1);
        for (const Particle& p : particles)
            QVERIFY(p.outlier[0]);
    }
    void theSameSeedGivesTheSame() {
        const std::vector<Unknown> all{unknown("a", {state(1, Curve::of(spread(100, 500, 2500)))}),
                                       unknown("b", {state(1, Curve::of(spread(100, 500, 2500)))})};
        const auto once = infer(all, {seen({0, 1}, 300)}, 300, 7);
        const auto again = infer(all, {seen({0, 1}, 300)}, 300, 7);
        for (std::size_t p = 0; p < once.size(); ++p) {
            QCOMPARE(once[p].weight, again[p].weight);
            QCOMPARE(once[p].value[0][0], again[p].value[0][0]);
        }
    }
    void weightsSumToOneWhateverIsSeen() {
        for (const double mbps : {0.5, 94.0, 300.0, 941.0, 5000.0}) {
            const std::vector<Unknown> all{
                unknown("a", {state(1, Curve::of(spread(100, 500, 2500)))}),
                unknown("b", {state(0.2, Curve::at(ln(94))), state(0.8, Curve::at(ln(941)))})};
            double sum = 0;
            for (const Particle& p : infer(all, {seen({0, 1}, mbps), seen({1}, mbps)}, 300, 3))
                sum += p.weight;
            QVERIFY(std::fabs(sum - 1) < 1e-9);
        }
    }
};

QTEST_GUILESS_MAIN(TestPosterior)
#include "test_posterior.moc"
