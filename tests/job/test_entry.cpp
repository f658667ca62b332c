// Fast entry and tables: a house typed in line by line, and as CSV.
#include "house/findings.h"
#include "house/validate.h"
#include "job/csv.h"
#include "job/entry_line.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/plant.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

House typed(const std::vector<std::string>& lines) {
    House h;
    for (const std::string& line : lines) {
        auto next = job::enterLine(h, classes(), line);
        if (!next) qFatal("%s: %s", line.c_str(), next.error().sentence().c_str());
        h = next->house;
    }
    return h;
}

std::string complaint(const House& h, const std::string& line) {
    const auto next = job::enterLine(h, classes(), line);
    return next ? "" : next.error().sentence();
}

} // namespace

class TestEntry : public QObject {
    Q_OBJECT

  private slots:
    void aHouseIsTypedIn() {
        const House h = typed({"Hall / ground floor", "Loft / floor 2", "Barn loft / floor 1 / building Barn",
                               "Hall / router / Service box / 2.5G", "service / 900M down / 300M up",
                               "entry / aerial / Loft", "splitter / loft splitter / 3-way / not rated / Loft",
                               "Loft / coax / from loft splitter / RG-6 / 23 m",
                               "Hall / coax / from loft splitter / rg 59 / 30 ft / bad connector",
                               "Loft / data / from Service box / cat 6 / 18 m / 4 pairs / tested",
                               "panel / House panel / Hall",
                               "circuit / upper sockets / House panel / leg 2 / residual current / old",
                               "Loft / 2 outlets / on upper sockets / 4 m", "Loft / phone / from Hall",
                               "Loft / workstation / Stacking machine / 10G / nvme / USB 2",
                               "Loft / need / 1.8G down / 50M up / stacking / at Stacking machine",
                               "Loft / appliance / dimmer / 18-23 / at Loft outlet 2"});
        QVERIFY(validate(h).empty());
        QCOMPARE(h.rooms.size(), std::size_t(3));
        QCOMPARE(h.rooms[2].building, std::string("Barn"));
        QCOMPARE(h.service->down->inMegabits(), 900.0);
        QCOMPARE(h.service->device, h.devices[0].id);
        QCOMPARE(h.coaxParts[1].ways, 3);
        QCOMPARE(h.coaxParts[1].rated, std::optional(false));
        const Connection& hallCoax = h.connections[1];
        QCOMPARE(hallCoax.cableClass, std::string("rg59"));
        QVERIFY(std::fabs(hallCoax.length->inMetres() - 9.144) < 1e-9);
        QCOMPARE(hallCoax.badConnectors, std::optional(1));
        QCOMPARE(hallCoax.ends[1], (PortRef{h.coaxParts[1].id, "out-2"})); // the next free port
        const Connection& data = h.connections[2];
        QCOMPARE(data.cableClass, std::string("cat6"));
        QCOMPARE(data.goodPairs, std::optional(4));
        QCOMPARE(data.termination, std::string("tested"));
        QCOMPARE(data.ends[1].device, h.devices[0].id);
        QCOMPARE(h.circuits[0].protection, Protection::residual_current);
        QCOMPARE(h.circuits[0].outlets.size(), std::size_t(2));
        QCOMPARE(h.circuits[0].outlets[1].fromPrevious->inMetres(), 4.0);
        QVERIFY(h.jack("loft-outlet-2") != nullptr); // numbered by room and kind
        const Device& machine = h.devices[1];
        QCOMPARE(machine.deviceClass, std::string("workstation"));
        QCOMPARE(machine.storage->diskClass, std::string("nvme"));
        QCOMPARE(machine.ports.size(), std::size_t(2)); // the socket and the LAN port
        QCOMPARE(h.endpoints.size(), std::size_t(1));
        QCOMPARE(h.spots[0].device, machine.id);
        QCOMPARE(h.appliances[0].hours[0].to, 23);
        QCOMPARE(h.appliances[0].outlet, Id("loft-outlet-2"));
    }
    void aFieldIsTypedByItsName() {
        const House h = typed({"Loft / floor 2", "Loft / coax / RG-6 / Length 23 m / stations 4"});
        QCOMPARE(h.connections.size(), std::size_t(1));
        QCOMPARE(h.connections[0].length->inMetres(), 23.0);
        QCOMPARE(h.connections[0].stations, std::optional(4));
        QVERIFY(complaint(h, "Loft / coax / RG-6 / stations 400").find("256") != std::string::npos);
        QVERIFY(complaint(h, "Loft / coax / RG-6 / stations four").find("256") != std::string::npos);
    }
    void unknownIsALegalAnswer() {
        const House h =
            typed({"Loft / floor 2", "Loft / coax", "Loft / coax / RG-6", "Loft / outlet", "Loft / machine"});
        QVERIFY(validate(h).empty());
        QCOMPARE(h.jacks.size(), std::size_t(3));
        QCOMPARE(h.connections.size(),
                 std::size_t(1)); // the second has a cable, of unknown length and far end
        QCOMPARE(continuityList(h).size(), std::size_t(1));
        QVERIFY(h.devices[0].deviceClass.empty());
    }
    void whatIsNotUnderstoodIsOneSentence() {
        const House h = typed({"Loft / floor 2"});
        QVERIFY(complaint(h, "Attic / coax").find("enter it first") != std::string::npos);
        QVERIFY(complaint(h, "Loft / coax / banana").find("banana") != std::string::npos);
        QVERIFY(complaint(h, "Loft / coax / from Moon").find("nothing called") != std::string::npos);
        QVERIFY(complaint(h, "Loft / outlet / on moon circuit").find("no circuit") != std::string::npos);
        QVERIFY(complaint(h, "Loft / floor 2").find("already") != std::string::npos);
        QVERIFY(complaint(h, "service / 1G down").find("router") != std::string::npos);
        QVERIFY(!complaint(h, "").empty());
        QVERIFY(!complaint(h, "Loft").empty());
        QVERIFY(!complaint(h, std::string(500, 'x') + " / coax").empty());
        for (const char* line :
             {"Loft / coax / banana", "///", "Loft / need / fast", "splitter / 99-way / a / b / c"})
            QVERIFY(complaint(h, line).find('\n') == std::string::npos);
    }
    void completionsFitTheField() {
        const House h =
            typed({"Loft / floor 2", "Hall / floor 0", "splitter / loft splitter / 3-way / Loft"});
        const auto first = [&](const char* line) {
            const auto offers = job::completions(h, classes(), line);
            return offers.empty() ? std::string() : offers.front();
        };
        QCOMPARE(first("Lo"), std::string("Loft"));
        QCOMPARE(first("Loft / co"), std::string("coax"));
        QCOMPARE(first("Loft / coax / from l"), std::string("from Loft"));
        QCOMPARE(first("Loft / coax / from loft s"), std::string("from loft splitter"));
        QCOMPARE(first("Loft / coax / from Hall / RG-1"), std::string("RG-11"));
        QVERIFY(job::completions(h, classes(), "Loft / coax / zzz").empty());
        QVERIFY(job::completions(h, classes(), "").size() <= 12);
    }
    void aRoomIsDuplicated() {
        const House h = typed({"Study / floor 1", "Study / data", "Study / 2 outlets", "Study / coax"});
        const auto copy = job::duplicateRoom(h, "study", "Guest room").value();
        QCOMPARE(copy.house.jacks.size(), std::size_t(8));
        QVERIFY(copy.house.jack("guest-room-outlet-2") != nullptr);
        QCOMPARE(copy.house.rooms[1].floor, 1);
        QVERIFY(!job::duplicateRoom(h, "study", "Study"));
        QVERIFY(!job::duplicateRoom(h, "moon", "Guest room"));
    }
    void csvGoesOutAndIn() {
        House h = coaxTreeHouse(true, true);
        h.rooms[0].label = "Cupboard, with \"quotes\"";
        const House wired = wiredHouse();
        h.rooms.push_back(wired.rooms[0]);
        h.devices = wired.devices;
        for (const Connection& c : wired.connections)
            h.connections.push_back(c);
        const std::string csv = job::toCsv(h);
        House bare = h; // the same house without what the table holds
        bare.rooms.clear();
        bare.jacks.clear();
        bare.devices.clear();
        bare.connections.clear();
        const House back = job::withCsv(bare, csv).value();
        QCOMPARE(back.rooms, h.rooms);
        QCOMPARE(back.jacks, h.jacks);
        QCOMPARE(back.connections, h.connections);
        QCOMPARE(back.devices.size(), h.devices.size());
        QCOMPARE(back.devices[0].ports[0].phy, h.devices[0].ports[0].phy);
        QCOMPARE(job::toCsv(back), csv);
        QCOMPARE(job::withCsv(h, csv).value(), h); // known ids are replaced by the same
    }
    void csvOfASpreadsheetIsTaken() {
        const House h = job::withCsv({}, "\xef\xbb\xbfkind;label;floor;type;room\r\nroom;Loft;2;;\r\nroom;"
                                         "Guest room;1;;\r\njack;Loft coax 1;;coax;loft\r\n")
                            .value();
        QCOMPARE(h.rooms[1].id, Id("guest-room"));
        QCOMPARE(h.jacks[0].room, Id("loft"));
    }
    void withoutANameTheIdIsOne() {
        const auto house = job::withCsv({}, "kind,id\njack,loft-coax\n");
        QVERIFY(house.has_value());
        QCOMPARE(house->jacks.front().label, std::string("loft-coax"));
        const auto again = job::withCsv({}, job::toCsv(*house));
        QVERIFY(again.has_value());
        QVERIFY(*again == *house);
        // A name that is there and empty is a fault of the table, as it was.
        QVERIFY(!job::withCsv({}, "kind,id,label\njack,loft-coax,\n"));
        // What has a name keeps it.
        House h;
        h.jacks.emplace_back();
        h.jacks.back().id = "loft-coax";
        h.jacks.back().label = "Loft, by the window";
        const auto kept = job::withCsv(h, "kind,id\njack,loft-coax\n");
        QCOMPARE(kept->jacks.front().label, std::string("Loft, by the window"));
    }
    void badTablesAreOneSentence() {
        const auto why = [](const char* csv) {
            const auto house = job::withCsv(wiredHouse(), csv);
            return house ? std::string() : house.error().sentence();
        };
        QVERIFY(why("name,colour\nx,y\n").find("does not name the columns") != std::string::npos);
        QVERIFY(why("kind,label\nspaceship,Rocket\n").find("row 2") != std::string::npos);
        QVERIFY(why("kind,label,floor\nroom,Loft,high\n").find("floor") != std::string::npos);
        QVERIFY(why("kind,label,type,from\nrun,Run,coax,somewhere\n").find("not an end") !=
                std::string::npos);
        QVERIFY(why("kind,label\nroom,\"Loft\n").find("quotation mark") != std::string::npos);
        QVERIFY(why("kind,label,room,type\njack,J,nowhere,coax\n").find("does not exist") !=
                std::string::npos);
        QVERIFY(why("").find("columns") != std::string::npos);
    }
    void randomHousesSurviveTheirTable() {
        for (std::uint32_t seed = 1; seed <= 200; ++seed) {
            const House h = RandomHouse(seed).make({3, 4, 3});
            const auto back = job::withCsv(h, job::toCsv(h));
            QVERIFY2(back.has_value(), back ? "" : back.error().sentence().c_str());
            QCOMPARE(*back, h);
        }
    }
};

QTEST_GUILESS_MAIN(TestEntry)
#include "test_entry.moc"
