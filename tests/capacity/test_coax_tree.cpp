// Finding the way through a coax plant: what is passed, in order, and what is said when there is none.
#include "capacity/coax_tree.h"
#include "support/plant.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;
using namespace metrodos::capacity;

namespace {

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

class TestCoaxTree : public QObject {
    Q_OBJECT

  private slots:
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

QTEST_GUILESS_MAIN(TestCoaxTree)
#include "test_coax_tree.moc"
