// Paths through the plant: the tree of the coax, and the mains over circuits and panels.
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

// "run-a s1:out-1>out-2 link-12": what a path passes.
std::string passed(const CoaxPath& path) {
    std::string out;
    for (const CoaxStep& step : path.steps) {
        if (!out.empty()) out += ' ';
        out += step.run != nullptr ? step.run->id : step.part->id + ":" + step.entry + ">" + step.exit;
    }
    return out;
}

CoaxPart part(const Id& id, CoaxPartKind kind) {
    CoaxPart out;
    out.id = out.label = id;
    out.kind = kind;
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
    void everyPartAndRunIsPassedInOrder() {
        const House h = coaxTreeHouse(true, true);
        const CoaxTree tree(h);
        QCOMPARE(tree.path("a", "b").join, CoaxJoin::joined);
        QCOMPARE(passed(tree.path("a", "b")), std::string("run-a s1:out-1>out-2 link-12 s2:in>out-1 run-b"));
        QCOMPARE(passed(tree.path("b", "c")), std::string("run-b s2:out-1>out-2 link-23 s3:in>out-1 run-c"));
        // The same, the other way round.
        QCOMPARE(passed(tree.path("c", "a")),
                 std::string("run-c s3:out-1>in link-23 s2:out-2>in link-12 s1:out-2>out-1 run-a"));
    }
    void onlyOutputToOutputIsAcross() {
        const House h = coaxTreeHouse(false, true);
        const CoaxPath path = CoaxTree(h).path("a", "b");
        QVERIFY(path.steps[1].isAcross());  // out-1 to out-2 of s1
        QVERIFY(!path.steps[3].isAcross()); // in to out-1 of s2
        QVERIFY(!path.steps[0].isAcross()); // a run
    }
    void aJackIsJoinedWithItself() {
        const House h = coaxTreeHouse(false, true);
        const CoaxPath path = CoaxTree(h).path("a", "a");
        QCOMPARE(path.join, CoaxJoin::joined);
        QVERIFY(path.steps.empty());
    }
    void aMissingRunLeavesItOpen() {
        House h = coaxTreeHouse(false, true);
        std::erase_if(h.connections, [](const Connection& c) { return c.id == "run-b"; });
        const CoaxPath path = CoaxTree(h).path("a", "b");
        QCOMPARE(path.join, CoaxJoin::unknown); // what lies behind jack b is not known
        QVERIFY(path.steps.empty());
    }
    void twoTreesThatAreKnownAreUnjoined() {
        House h = coaxTreeHouse(false, true);
        h.jacks.push_back({"d", "jack d", "cupboard", JackKind::coax});
        h.coaxParts.push_back(splitter("alone", 2, true));
        h.connections.push_back(coaxRun("run-d", {"alone", "out-1"}, {"d", ""}, 9));
        QCOMPARE(CoaxTree(h).path("a", "d").join, CoaxJoin::unjoined);
        QCOMPARE(CoaxTree(h).path("d", "a").join, CoaxJoin::unjoined);
        // One cable between them joins the two.
        h.connections.push_back(coaxRun("bridge", {"s3", "out-4"}, {"alone", "in"}, 2));
        QCOMPARE(passed(CoaxTree(h).path("c", "d")),
                 std::string("run-c s3:out-1>out-4 bridge alone:in>out-1 run-d"));
    }
    void aRunCutInTheCupboardIsNamed() {
        House h = coaxTreeHouse(false, true);
        h.connection("link-12")->ends.back() = {"cupboard", ""}; // ends loose in that room
        const CoaxPath path = CoaxTree(h).path("a", "b");
        QCOMPARE(path.join, CoaxJoin::unjoined);
        QCOMPARE(path.looseRun, Id("link-12"));
        // Its far end not found at all: then it may lead anywhere.
        h.connection("link-12")->ends.pop_back();
        QCOMPARE(CoaxTree(h).path("a", "b").join, CoaxJoin::unknown);
        QCOMPARE(CoaxTree(h).path("a", "b").looseRun, Id("link-12"));
    }
    void aLoopNeitherHangsNorHidesTheWay() {
        House h = coaxTreeHouse(false, true);
        h.connections.push_back(coaxRun("loop", {"s3", "out-2"}, {"s2", "out-3"}, 3));
        h.connections.push_back(coaxRun("loop-2", {"s3", "out-3"}, {"s3", "out-4"}, 1));
        const CoaxTree tree(h);
        QCOMPARE(tree.path("a", "b").join, CoaxJoin::joined);
        QCOMPARE(tree.path("a", "c").join, CoaxJoin::joined);
        h.jacks.push_back({"far", "jack far", "cupboard", JackKind::coax});
        h.connections.push_back(coaxRun("run-far", {"elsewhere", "out"}, {"far", ""}, 3));
        h.coaxParts.push_back(part("elsewhere", CoaxPartKind::amplifier));
        QCOMPARE(CoaxTree(h).path("a", "far").join, CoaxJoin::unjoined);
    }
    void aLongChainOfSplitters() {
        House h;
        h.rooms = {{"cupboard", "Cupboard", 0}};
        h.jacks = {{"top", "top", "cupboard", JackKind::coax}, {"end", "end", "cupboard", JackKind::coax}};
        constexpr int many = 60;
        h.connections.push_back(coaxRun("first", {"top", ""}, {"s0", "in"}, 1));
        for (int i = 0; i < many; ++i) {
            const Id here = "s" + std::to_string(i);
            h.coaxParts.push_back(splitter(here, 8, true));
            const PortRef next =
                i + 1 < many ? PortRef{"s" + std::to_string(i + 1), "in"} : PortRef{"end", ""};
            h.connections.push_back(coaxRun("r" + std::to_string(i), {here, "out-8"}, next, 1));
        }
        const CoaxPath path = CoaxTree(h).path("top", "end");
        QCOMPARE(path.steps.size(), std::size_t(2 * many + 1));
        QCOMPARE(path.steps.back().run->id, Id("r59"));
    }
    void openPortsAreThoseThatReflect() {
        House h = coaxTreeHouse(false, true);
        const auto open = [&](const Id& id) { return CoaxTree(h).openPorts(*h.coaxPart(id)); };
        QVERIFY(open("s2").empty());                            // terminated
        h.coaxParts[h.coaxParts.size() - 2].terminated = false; // s2
        QCOMPARE(open("s2"), (std::vector<Id>{"out-3"}));
        h.connection("run-b")->ends.back() = {"cupboard", ""}; // now ends loose
        QCOMPARE(open("s2"), (std::vector<Id>{"out-1", "out-3"}));
        h.connection("run-b")->endTerminated = true;
        QCOMPARE(open("s2"), (std::vector<Id>{"out-3"}));
    }
    void aFilterIsSeenOnlyAtTheInput() {
        const House with = coaxTreeHouse(true, true);
        const CoaxTree tree(with);
        QVERIFY(tree.hasFilterAtInput(*with.coaxPart("s1")));
        QVERIFY(!tree.hasFilterAtInput(*with.coaxPart("s2")));
        const House without = coaxTreeHouse(false, true);
        QVERIFY(!CoaxTree(without).hasFilterAtInput(*without.coaxPart("s1")));
        QVERIFY(CoaxTree(without).isNextToEntry(*without.coaxPart("s1")));
        QVERIFY(!CoaxTree(without).isNextToEntry(*without.coaxPart("s2"))); // one there would cut off jack a
    }
};

QTEST_GUILESS_MAIN(TestPaths)
#include "test_paths.moc"
