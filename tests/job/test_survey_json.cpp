// The survey in the interchange form: every part survives, and garbage in any field is refused with its
// place.
#include "catalog/check.h"
#include "house/validate.h"
#include "job/document.h"
#include "job/house_json.h"
#include "job/store.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/plant.h"
#include "support/random_house.h"

#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>

using namespace metrodos;
using namespace metrodos::testing;
using nlohmann::json;

namespace {

/// A house with something in every field of the survey.
House fullHouse() {
    House h = coaxTreeHouse(true, true);
    const House mains = mainsHouse();
    const House wired = wiredHouse();
    for (const Room& r : mains.rooms)
        h.rooms.push_back(r);
    h.rooms.push_back(wired.rooms[0]);
    h.rooms.back().building = "Barn";
    h.jacks.insert(h.jacks.end(), mains.jacks.begin(), mains.jacks.end());
    h.jacks.push_back({"phone-1", "Phone 1", "hall", JackKind::phone});
    h.panels = mains.panels;
    h.circuits = mains.circuits;
    h.circuits[0].outlets[2].fromPrevious.reset();
    h.appliances = {{"saw", "saw", "motor", "o0-1", {{9, 12}, {22, 6}}}, {"lamp", "lamp", "", "", {}}};
    h.devices = wired.devices;
    h.devices[0].storage = Storage{"hard-disk", 4, DiskLayout::parity};
    h.connections.insert(h.connections.end(), wired.connections.begin(), wired.connections.end());
    h.connections.back().termination = "crimped";
    Connection phone;
    phone.id = "phone-run";
    phone.medium = Medium::phone;
    phone.ends = {{"phone-1", ""}, {"hall", ""}};
    h.connections.push_back(phone);
    h.endpoints = wired.endpoints;
    h.routes = wired.routes;
    h.routes[0].fileProtocol = "modern";
    h.routes[0].declined = {"baseline", "other-port-desk"};
    h.service = Service{"net", "service", "switch", quantity::BitRate::megabits(900), std::nullopt};
    h.spots = {{"desk-spot", "desk", "hall", "desk", quantity::BitRate::megabits(40), std::nullopt}};
    h.coaxUse = {true, std::nullopt, quantity::Frequency::megahertz(1218)};
    return h;
}

json documentOf(const House& h) {
    return job::toJson(job::Document{h, {}});
}

} // namespace

class TestSurveyJson : public QObject {
    Q_OBJECT

  private slots:
    void everyPartSurvives() {
        const House h = fullHouse();
        QVERIFY2(validate(h).empty(), validate(h).empty() ? "" : validate(h).front().sentence().c_str());
        QVERIFY(catalog::check(h, classes()).empty());
        const auto faults = job::faultsOf(documentOf(h));
        QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().sentence().c_str());
        QCOMPARE(job::documentFromJson(documentOf(h)).value().house, h);
    }
    void randomHousesSurvive() {
        for (std::uint32_t seed = 1; seed <= 300; ++seed) {
            const House h = RandomHouse(seed).make({4, 5, 4});
            QCOMPARE(job::houseFromJson(job::toJson(h)).value(), h);
        }
    }
    void theJobFileKeepsTheSurveyAndItsUndo() {
        const QTemporaryDir folder;
        const std::filesystem::path file = folder.filePath("s.metrodos").toStdString();
        auto store = job::Store::create(file, {fullHouse(), {}}).value();
        House next = store.house();
        next.service.reset();
        next.coaxUse.satellite = true;
        next.circuits.pop_back();
        QVERIFY(store.change("less", next).has_value());
        QCOMPARE(job::Store::open(file).value().house(), next);
        QVERIFY(store.undo().has_value());
        QCOMPARE(job::Store::open(file).value().house(), fullHouse());
    }
    void whatIsLeftOutIsUnknown() {
        json document = documentOf(wiredHouse());
        for (const char* part :
             {"jacks", "coax_parts", "coax_use", "panels", "circuits", "appliances", "service", "spots"})
            document["house"].erase(part);
        QCOMPARE(job::documentFromJson(document).value().house, wiredHouse());
    }
    void garbageInAnyFieldIsRefused_data() {
        QTest::addColumn<QString>("pointer");
        QTest::addColumn<QString>("value");
        const std::initializer_list<std::pair<const char*, const char*>> cases{
            {"/house/jacks/0/kind", "\"lamp\""},
            {"/house/jacks/0/room", "\"moon\""},
            {"/house/jacks/0/id", "\"UPPER\""},
            {"/house/coax_parts/1/ways", "99"},
            {"/house/coax_parts/1/rated", "\"perhaps\""},
            {"/house/coax_parts/0/kind", "7"},
            {"/house/coax_use/satellite", "\"yes\""},
            {"/house/coax_use/cable_internet_top_hz", "-5"},
            {"/house/panels/1/fed_by", "\"nowhere\""},
            {"/house/circuits/0/protection", "\"magic\""},
            {"/house/circuits/0/outlets/0/jack", "\"a\""},
            {"/house/circuits/0/outlets/0/from_previous_m", "-1"},
            {"/house/circuits/0/outlets", "{}"},
            {"/house/appliances/0/hours/0", "[9]"},
            {"/house/appliances/0/hours/0", "[9, 25]"},
            {"/house/appliances/0/outlet", "\"phone-1\""},
            {"/house/service/device", "\"nobody\""},
            {"/house/service/down_bps", "0"},
            {"/house/spots/0/need_down_bps", "\"fast\""},
            {"/house/spots/0/device", "\"nobody\""},
            {"/house/devices/0/storage/disks", "0"},
            {"/house/devices/0/storage/layout", "\"pile\""},
            {"/house/devices/0/ports/0/jack", "\"o0-1\""},
            {"/house/devices/0/ports/0/strip", "\"rope\""},
            {"/house/connections/0/ends/0", "{\"part\": \"s1\"}"},
            {"/house/connections/0/ends/0", "{\"part\": \"s1\", \"port\": \"out-7\"}"},
            {"/house/connections/0/ends/0", "{\"jack\": \"o0-1\"}"},
            {"/house/connections/0/ends/0", "{\"cellar\": \"x\"}"},
            {"/house/connections/0/bad_connectors", "3"},
            {"/house/connections/0/walls", "21"},
            {"/house/connections/0/stations", "0"},
            {"/house/routes/0/file_protocol", "5"},
        };
        for (const auto& [pointer, value] : cases)
            QTest::addRow("%s %s", pointer, value) << QString(pointer) << QString(value);
    }
    void garbageInAnyFieldIsRefused() {
        QFETCH(QString, pointer);
        QFETCH(QString, value);
        json document = documentOf(fullHouse());
        document.at(json::json_pointer(pointer.toStdString())) = json::parse(value.toStdString());
        const auto read = job::documentFromJson(document);
        QVERIFY(!read.has_value());
        QVERIFY(!read.error().where.empty()); // and it says where
        QVERIFY(read.error().sentence().find('\n') == std::string::npos);
    }
};

QTEST_GUILESS_MAIN(TestSurveyJson)
#include "test_survey_json.moc"
