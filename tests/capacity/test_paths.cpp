// The ways through the plants: what lies between two coax jacks, and between two outlets.
#include "capacity/coax_tree.h"
#include "capacity/mains_path.h"
#include "support/plant.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;
using namespace metrodos::capacity;

namespace {

std::string words(const CoaxPath& path) {
    std::string out;
    for (const CoaxStep& step : path.steps)
        out +=
            (step.run != nullptr ? step.run->id : step.part->id + ":" + step.entry + ">" + step.exit) + " ";
    return out;
}

} // namespace

class TestPaths : public QObject {
    Q_OBJECT

  private slots:
    void coaxGoesThroughEverySplitterOnTheWay() {
        const House h = coaxTreeHouse(true, true);
        const CoaxTree tree(h);
        QCOMPARE(words(tree.path("a", "c")),
                 std::string("run-a s1:out-1>out-2 link-12 s2:in>out-2 link-23 s3:in>out-1 run-c "));
        QCOMPARE(words(tree.path("c", "b")), std::string("run-c s3:out-1>in link-23 s2:out-2>out-1 run-b "));
        const CoaxPath path = tree.path("a", "c");
        QVERIFY(path.steps[1].isAcross());
        QVERIFY(!path.steps[3].isAcross());
        QCOMPARE(tree.path("a", "a").steps.size(), std::size_t(0));
        QCOMPARE(tree.path("a", "a").join, CoaxJoin::joined);
    }
    void theTreeKnowsItsFiltersAndOpenPorts() {
        House h = coaxTreeHouse(true, true);
        h.coaxParts[1].terminated = false;
        h.coaxParts[2].terminated = false;
        {
            const CoaxTree tree(h);
            QVERIFY(tree.hasFilterAtInput(*h.coaxPart("s1")));
            QVERIFY(!tree.hasFilterAtInput(*h.coaxPart("s2")));
            QVERIFY(!tree.isNextToEntry(*h.coaxPart("s1"))); // the filter lies between
            QVERIFY(tree.openPorts(*h.coaxPart("s1")).empty());
            QCOMPARE(tree.openPorts(*h.coaxPart("s2")), (std::vector<Id>{"out-3"}));
            QVERIFY(tree.openPorts(*h.coaxPart("s3")).empty()); // all terminated
        }
        h.connection("run-b")->ends[1] = {"cupboard", ""}; // hangs loose
        QCOMPARE(CoaxTree(h).openPorts(*h.coaxPart("s2")).size(), std::size_t(2));
        h.connection("run-b")->endTerminated = true;
        QCOMPARE(CoaxTree(h).openPorts(*h.coaxPart("s2")).size(), std::size_t(1));
        const House plain = coaxTreeHouse(false, true);
        QVERIFY(CoaxTree(plain).isNextToEntry(*plain.coaxPart("s1")));
        QVERIFY(!CoaxTree(plain).isNextToEntry(*plain.coaxPart("s2")));
    }
    void whatIsNotJoinedNamesTheLooseRun() {
        House h = coaxTreeHouse(true, true);
        h.connection("run-c")->ends[0] = {"cupboard", ""};
        const CoaxPath cut = CoaxTree(h).path("a", "c");
        QCOMPARE(cut.join, CoaxJoin::unjoined);
        QCOMPARE(cut.looseRun, Id("run-c"));
        QVERIFY(cut.steps.empty());
        std::erase_if(h.connections, [](const Connection& c) { return c.id == "run-c"; });
        QCOMPARE(CoaxTree(h).path("a", "c").join, CoaxJoin::unknown); // nobody knows what is behind the jack
        // A loop in the tree is walked once.
        House loop = coaxTreeHouse(true, true);
        loop.connections.push_back(coaxRun("loop", {"s3", "out-2"}, {"s2", "out-3"}, 3));
        QCOMPARE(CoaxTree(loop).path("a", "c").join, CoaxJoin::joined);
    }
    void mainsOnOneCircuit() {
        const House h = mainsHouse();
        const MainsPath p = mainsPath(h, "o0-2", "o0-5");
        QVERIFY(p.isKnown && p.sameCircuit && p.crossed.empty());
        QCOMPARE(p.wire.size(), std::size_t(1));
        QCOMPARE(p.wire[0].metres, 3 * 3.5);
        QCOMPARE(p.wire[0].outletsPassed, 2);
        const MainsPath back = mainsPath(h, "o0-5", "o0-2");
        QCOMPARE(back.wire[0].metres, p.wire[0].metres);
        QCOMPARE(mainsPath(h, "o0-2", "o0-3").wire[0].outletsPassed, 0);
    }
    void mainsOverThePanel() {
        const House h = mainsHouse();
        const MainsPath p = mainsPath(h, "o0-1", "o1-3");
        QVERIFY(!p.sameCircuit && p.sameSupply);
        QCOMPARE(p.wire.size(), std::size_t(2));
        QCOMPARE(p.wire[0].metres, 6 + 3.5);
        QCOMPARE(p.wire[1].metres, 6 + 3 * 3.5);
        QCOMPARE(p.wire[1].outletsPassed, 3);
        QCOMPARE(p.crossed.size(), std::size_t(2));
        QCOMPARE(p.legs, Legs::same);
        QCOMPARE(p.subPanels, 0);
        QCOMPARE(mainsPath(h, "o0-1", "o2-1").legs, Legs::different);
        QCOMPARE(mainsPath(h, "o0-1", "o3-1").subPanels, 1);
        QVERIFY(!mainsPath(h, "o0-1", "o4-1").sameSupply);
    }
    void whatIsUnknownOfTheMainsStaysUnknown() {
        House h = mainsHouse();
        h.circuits[0].outlets[3].fromPrevious.reset();
        h.circuits[1].leg.clear();
        const MainsPath along = mainsPath(h, "o0-2", "o0-5");
        QCOMPARE(along.wire[0].unknownSteps, 1);
        QCOMPARE(along.wire[0].metres, 2 * 3.5);
        QCOMPARE(mainsPath(h, "o0-1", "o1-1").legs, Legs::unknown);
        h.circuits[2].panel.clear();
        QVERIFY(mainsPath(h, "o0-1", "o2-1").sameSupply); // nothing says otherwise
        QVERIFY(!mainsPath(h, "o0-1", "nowhere").isKnown);
        QVERIFY(circuitOf(h, "nowhere") == nullptr);
    }
};

QTEST_GUILESS_MAIN(TestPaths)
#include "test_paths.moc"
