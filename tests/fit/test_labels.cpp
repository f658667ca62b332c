// Codes on labels, and the map of the cupboard.
#include "fit/cupboard.h"
#include "fit/labels.h"
#include "house/remove.h"
#include "support/plant.h"
#include "support/random_house.h"

#include <QTest>
#include <map>
#include <set>

using namespace metrodos;
using namespace metrodos::house;

namespace {

House small() {
    House h;
    h.name = "Mill & Barn";
    h.rooms = {{"hall", "Hall", 0}, {"loft", "Loft", 2}, {"lounge", "lounge", 0}, {"u", "Überbau", 1}};
    h.jacks = {
        {"j1", "Loft data 1", "loft", JackKind::data}, {"j2", "Loft data 2", "loft", JackKind::data},
        {"j3", "Loft coax", "loft", JackKind::coax},   {"j4", "Lounge outlet", "lounge", JackKind::mains},
        {"j5", "Annexe phone", "u", JackKind::phone},  {"j6", "Somewhere", "", JackKind::data}};
    h.devices = {{"sw",
                  "Switch",
                  DeviceKind::network_switch,
                  "",
                  "hall",
                  {{"p1", "1", PortKind::ethernet, ""}, {"p2", "2", PortKind::ethernet, ""}}},
                 {"pc", "Computer", DeviceKind::host, "", "loft", {{"lan", "LAN", PortKind::ethernet, ""}}}};
    Connection run;
    run.id = "run";
    run.label = "Loft run";
    run.ends = {{"sw", "p1"}, {"j1", ""}};
    run.foundBy = FoundBy::tone;
    run.goodPairs = 4;
    Connection lost;
    lost.id = "lost";
    lost.label = "Grey cable";
    lost.ends = {{"hall", ""}};
    Connection far;
    far.id = "far";
    far.label = "Old aerial";
    far.medium = Medium::coax;
    far.ends = {{"j3", ""}};
    Connection lead;
    lead.id = "lead";
    lead.label = "lead";
    lead.ends = {{"pc", "lan"}, {"j2", ""}};
    h.connections = {run, lost, far, lead};
    return h;
}

std::map<Id, std::string> codesOf(const House& h) {
    std::map<Id, std::string> out;
    for (const fit::Label& l : fit::labelsOf(h))
        out[l.thing] = l.code;
    return out;
}

} // namespace

class TestLabels : public QObject {
    Q_OBJECT

  private slots:
    void aRoomIsItsFirstLetterOrR() {
        for (const auto& [label, letter] :
             {std::pair("a", 'A'), std::pair("z", 'Z'), std::pair("Attic", 'A'), std::pair("Zoo", 'Z'),
              std::pair("@", 'R'), std::pair("[", 'R'), std::pair("`", 'R'), std::pair("{", 'R'),
              std::pair("1st", 'R')}) {
            House h;
            h.rooms = {{"room", label, 0}};
            h.jacks = {{"jack", "Jack", "room", JackKind::data}};
            QCOMPARE(codesOf(h).at("jack"), std::string(1, letter) + "-D1");
        }
    }
    // What RFC 3986, 2.3, lets stand; all else by its bytes.
    void aScannedCodeKeepsLettersAndEscapesTheRest() {
        House h;
        h.name = "azAZ09-._~ @[`{/:%";
        const std::string text = fit::qrTextOf(h, {"thing", "L-D1", "", "", 1});
        QVERIFY2(text.find("azAZ09-._~%20%40%5B%60%7B%2F%3A%25") != std::string::npos, text.c_str());
    }
    // Its label may still hang somewhere: a room that comes later begins otherwise.
    void theCodeOfARoomThatIsGoneIsNotGivenAgain() {
        House h = small();
        h.fitting.codes = {{"gone", "B-D1"}, {"of no room", "B2"}};
        h.rooms.push_back({"bath", "Bath", 1});
        h.jacks.push_back({"tub", "Bath data", "bath", JackKind::data});
        QCOMPARE(codesOf(h).at("tub"), std::string("B2-D1"));
    }
    void aCodeSaysRoomKindAndNumber() {
        const auto codes = codesOf(small());
        QCOMPARE(codes.at("j1"), std::string("L-D1"));
        QCOMPARE(codes.at("j2"), std::string("L-D2"));
        QCOMPARE(codes.at("j3"), std::string("L-C1"));
        QCOMPARE(codes.at("j4"), std::string("L2-M1"));
        QCOMPARE(codes.at("j5"), std::string("R-P1"));
        QCOMPARE(codes.at("j6"), std::string("H2-D1"));
        QCOMPARE(codes.at("sw"), std::string("H-S1"));
        QVERIFY(!codes.contains("pc"));
        // A run says at both ends which jack it goes to.
        QCOMPARE(codes.at("run"), std::string("L-D1K"));
        QCOMPARE(codes.at("far"), std::string("L-C1K"));
        QCOMPARE(codes.at("lost"), std::string("H-K1"));
        for (const fit::Label& l : fit::labelsOf(small()))
            QCOMPARE(l.copies,
                     l.thing == "run" || l.thing == "far" || l.thing == "lost" || l.thing == "lead" ? 2 : 1);
    }
    void whatWasPrintedStays() {
        House h = small();
        h = fit::withCodes(h, fit::labelsOf(h));
        const auto before = codesOf(h);
        // Another room of the same letter comes first; a jack goes, another comes.
        h.rooms.insert(h.rooms.begin(), {"laundry", "Laundry", 0});
        h = without(h, "j2").value();
        h.jacks.insert(h.jacks.begin(), {"new", "Loft data 3", "loft", JackKind::data});
        h.jacks.push_back({"wash", "Laundry outlet", "laundry", JackKind::mains});
        const auto after = codesOf(h);
        for (const auto& [thing, code] : before)
            if (after.contains(thing)) QCOMPARE(after.at(thing), code);
        QCOMPARE(after.at("new"), std::string("L-D3")); // the lead of the one that went still says L-D2K
        QCOMPARE(after.at("wash"), std::string("L3-M1"));
        // Recording twice changes nothing.
        QVERIFY(fit::withCodes(h, fit::labelsOf(h)).fitting.codes.size() == fit::labelsOf(h).size());
    }
    void codesAreUniqueInAnyHouse() {
        for (std::uint32_t seed = 0; seed < 300; ++seed) {
            testing::RandomHouse maker(seed);
            House h = maker.make({3 + maker.upTo(8), 5 + maker.upTo(10), 1 + maker.upTo(4)});
            for (int round = 0; round < 3; ++round) {
                std::set<std::string> seen;
                std::set<Id> things;
                const auto labels = fit::labelsOf(h);
                for (const fit::Label& l : labels) {
                    QVERIFY2(seen.insert(l.code).second, l.code.c_str());
                    QVERIFY(things.insert(l.thing).second);
                    QVERIFY2(l.code.size() <= 16 && !l.code.empty(), l.code.c_str());
                    QVERIFY(fit::qrTextOf(h, l).size() <= 500);
                }
                for (const Jack& j : h.jacks)
                    QVERIFY(things.contains(j.id));
                const auto before = codesOf(h);
                h = fit::withCodes(h, labels);
                QVERIFY(codesOf(h) == before);
                if (!h.jacks.empty())
                    h = without(
                            h, h.jacks[static_cast<std::size_t>(maker.upTo(static_cast<int>(h.jacks.size())))]
                                   .id)
                            .value();
                h.jacks.push_back(
                    {"more-" + std::to_string(round), "More", h.rooms.front().id, JackKind::data});
            }
        }
    }
    void theCodeThatMachinesReadNamesJobThingAndCode() {
        const House h = small();
        QCOMPARE(fit::qrTextOf(h, fit::labelsOf(h).front()),
                 std::string("metrodos:label?job=Mill%20%26%20Barn&thing=j1&code=L-D1"));
        House named = h;
        named.name = "A\n?x=1&y=\"\x1b[31m";
        const std::string text = fit::qrTextOf(named, fit::labelsOf(named).front());
        QVERIFY2(text.find_first_of("\n\"\x1b ") == std::string::npos, text.c_str());
    }
    void theCupboardIsWhereMostRunsEnd() {
        const fit::Cupboard c = fit::cupboardOf(small());
        QCOMPARE(c.room, Id("hall"));
        std::map<Id, fit::CupboardRun> runs;
        for (const fit::CupboardRun& r : c.runs)
            runs[r.connection] = r;
        QCOMPARE(runs.size(), std::size_t(3)); // a lead within a room is none
        QCOMPARE(runs.at("run").joinedLabel, std::string("Switch"));
        QCOMPARE(runs.at("run").joinedPort, std::string("1"));
        QCOMPARE(runs.at("run").farLabel, std::string("Loft data 1"));
        QCOMPARE(runs.at("run").farRoom, Id("loft"));
        QCOMPARE(runs.at("run").foundBy, FoundBy::tone);
        QVERIFY(runs.at("lost").isHere && runs.at("lost").joinedTo.empty() &&
                runs.at("lost").farLabel.empty());
        QVERIFY(!runs.at("far").isHere);
        QCOMPARE(runs.at("far").farLabel, std::string("Loft coax"));
        // Joined ones first, then loose ones, then those that are not found.
        QCOMPARE(c.runs[0].connection, Id("run"));
        QCOMPARE(c.runs[1].connection, Id("lost"));
        QCOMPARE(c.runs[2].connection, Id("far"));
    }
    // Three ends at a splitter elsewhere are no cupboard against a switch and a loose end.
    void aSwitchSpeaksMoreThanASplitter() {
        House h = small();
        CoaxPart part;
        part.id = part.label = "tap";
        part.ways = 2;
        part.room = "lounge";
        h.coaxParts = {part};
        h.jacks.push_back({"c2", "Hall coax", "hall", JackKind::coax});
        h.connections[2].ends.push_back({"tap", "in"});
        h.connections.push_back(testing::coaxRun("drop", {"tap", "out-1"}, {"c2", ""}, 5));
        h.connections.push_back(testing::coaxRun("loose", {"tap", "out-2"}, {"hall", ""}, 5));
        const fit::Cupboard c = fit::cupboardOf(h);
        QCOMPARE(c.room, Id("hall"));
        for (const fit::CupboardRun& r : c.runs) {
            QCOMPARE(r.isWhole(), r.connection == "run"); // a jack with nothing in it is joined to nothing
            if (r.connection == "drop") QVERIFY(r.isHere && r.joinedTo.empty());
        }
        // A run from the cupboard whose other end hangs loose is not whole either.
        h.connections[0].ends[1] = {"loft", ""};
        for (const fit::CupboardRun& r : fit::cupboardOf(h).runs)
            if (r.connection == "run") QVERIFY(r.isFarLoose && !r.isWhole());
    }
    void splittersAreJoints() {
        House h = testing::coaxTreeHouse(true, true);
        h.rooms.push_back({"loft", "Loft", 2});
        h.jacks[1].room = "loft";
        for (CoaxPart& part : h.coaxParts)
            part.room = "cupboard";
        const fit::Cupboard c = fit::cupboardOf(h);
        QCOMPARE(c.room, Id("cupboard"));
        QCOMPARE(c.runs.size(), std::size_t(1)); // the others stay within the room
        QCOMPARE(c.runs[0].joinedLabel, std::string("s2"));
        QCOMPARE(c.runs[0].joinedPort, std::string("out-1"));
    }
    void aNetworkOfAdaptersIsNoRun() {
        House h = small();
        Connection network;
        network.id = "network";
        network.medium = Medium::coax;
        network.ends = {{"j3", ""}, {"hall", ""}, {"hall", ""}};
        h.connections = {network};
        QVERIFY(fit::cupboardOf(h).room.empty());
        // Of two rooms with as many ends the first of the survey.
        Connection run;
        run.id = run.label = "run";
        run.ends = {{"loft", ""}, {"lounge", ""}};
        h.connections = {run};
        QCOMPARE(fit::cupboardOf(h).room, Id("loft"));
        // A lead within one room is none; one whose rooms nobody knows may be.
        h.connections[0].ends = {{"loft", ""}, {"loft", ""}};
        QVERIFY(fit::cupboardOf(h).runs.empty());
    }
    void aHouseWithoutRunsHasNoCupboard() {
        QVERIFY(fit::cupboardOf(House{}).room.empty());
        QVERIFY(fit::cupboardOf(testing::mainsHouse()).runs.empty());
        QVERIFY(fit::labelsOf(House{}).empty());
    }
    void everyRunOfTheCupboardIsInTheHouse() {
        for (std::uint32_t seed = 0; seed < 300; ++seed) {
            testing::RandomHouse maker(seed);
            const House h = maker.make({3 + maker.upTo(8), 5 + maker.upTo(10), 1 + maker.upTo(4)});
            std::set<Id> seen;
            for (const fit::CupboardRun& r : fit::cupboardOf(h).runs) {
                QVERIFY(h.connection(r.connection) != nullptr && seen.insert(r.connection).second);
                QVERIFY(r.joinedTo.empty() || r.isHere);
                QVERIFY(r.farRoom.empty() || h.room(r.farRoom) != nullptr);
            }
        }
    }
};

QTEST_APPLESS_MAIN(TestLabels)
#include "test_labels.moc"
