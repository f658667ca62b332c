// The interchange form of a job: sound, complete, and every fault with its place.
#include "catalog/check.h"
#include "house/validate.h"
#include "job/document.h"
#include "job/house_json.h"
#include "job/open.h"
#include "job/schema.h"
#include "job/store.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/paths.h"
#include "support/plant.h"
#include "support/random_house.h"
#include "support/runs.h"

#include <QTemporaryDir>
#include <QTest>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace metrodos;
using nlohmann::json;
using namespace metrodos::testing;

namespace {

json demo() {
    return job::parseJson(testing::dataPath("demo/quarry-house.json")).value();
}

bool faulty(const json& value, const std::string& words) {
    for (const auto& fault : job::faultsOf(value))
        if (fault.sentence().find(words) != std::string::npos) return true;
    return false;
}

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

class TestJob : public QObject {
    Q_OBJECT

  private slots:
    void theDemoJobIsSound() {
        const auto faults = job::faultsOf(demo());
        QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().sentence().c_str());
        const auto document = job::documentFromJson(demo()).value();
        QCOMPARE(document.house.routes.front().id, std::string("dome-loft"));
        QVERIFY(job::toJson(document) == demo());
    }
    void theShippedSchemaHasEveryFieldOfTheSurvey() {
        std::ifstream file(testing::dataPath("schema/job.json"));
        const json shipped = json::parse(file);
        QVERIFY(shipped.contains("definitions"));
        const json whole = job::completed(shipped);
        for (const auto& [name, definition] : whole["definitions"].items()) {
            QVERIFY2(shipped["definitions"].contains(name), name.c_str());
            if (!definition.contains("properties")) continue;
            for (const auto& [key, property] : definition["properties"].items())
                QVERIFY2(shipped["definitions"][name]["properties"].value(key, json()) == property,
                         ("data/schema/job.json, " + name + ": \"" + key + "\": " + property.dump()).c_str());
        }
        QVERIFY(whole == shipped);
        // What is taken out comes back: the fields speak for themselves.
        json less = shipped;
        less["definitions"]["room"]["properties"].erase("floor");
        QVERIFY(less != shipped);
        QVERIFY(job::completed(less) == whole);
    }
    void theDocumentedExampleIsSound() {
        std::ifstream page(testing::sourcePath("docs/job-format.md"));
        const std::string text((std::istreambuf_iterator<char>(page)), {});
        const auto begin = text.find("```json\n") + 8;
        const auto example = json::parse(text.substr(begin, text.find("```", begin) - begin));
        const auto faults = job::faultsOf(example);
        QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().sentence().c_str());
    }
    void housesSurviveTheirJson() {
        for (const auto& h : {testing::wiredHouse(), testing::coaxHouse("usb2")})
            QCOMPARE(job::houseFromJson(job::toJson(h)).value(), h);
    }
    void runsSurviveTheirJson() {
        job::Document document{testing::wiredHouse(),
                               {{"desk-shelf", testing::steadyRun(benchmark::Direction::backward, 500)}}};
        const auto again = job::documentFromJson(job::toJson(document)).value();
        QCOMPARE(again.runs.size(), std::size_t(1));
        QVERIFY(job::toJson(again) == job::toJson(document));
    }
    void theSchemaSaysWhere() {
        json bad = demo();
        bad["house"]["connections"][0]["length_m"] = "far";
        const auto faults = job::schemaFaults(bad);
        QVERIFY(!faults.empty());
        bool located = false;
        for (const auto& fault : faults)
            located = located || fault.where == "/house/connections/0/length_m";
        QVERIFY2(located, faults.front().where.c_str());
    }
    void faultsAreFound() {
        json bad = demo();
        bad["version"] = 2;
        QVERIFY(!job::faultsOf(bad).empty());
        bad = demo();
        bad["house"]["devices"][0]["id"] = "No Id";
        QVERIFY(!job::faultsOf(bad).empty());
        bad = demo();
        bad["house"]["routes"][0]["to"] = "nowhere";
        QVERIFY(faulty(bad, "nowhere"));
        bad = demo();
        bad["surprise"] = 1;
        QVERIFY(!job::faultsOf(bad).empty());
        bad = job::toJson(job::Document{
            testing::wiredHouse(), {{"no-route", testing::steadyRun(benchmark::Direction::forward, 5)}}});
        QVERIFY(faulty(bad, "no-route"));
    }
    void nestingHasAnEndButTextMayHoldBrackets() {
        QTemporaryDir folder;
        const auto read = [&](const std::string& text) {
            const std::string file = folder.filePath("job.json").toStdString();
            std::ofstream(file) << text;
            return job::parseJson(file);
        };
        const auto nested = [](int depth) {
            return std::string(static_cast<std::size_t>(depth), '[') +
                   std::string(static_cast<std::size_t>(depth), ']');
        };
        QVERIFY(read(nested(32)).has_value());
        QVERIFY(!read(nested(33)).has_value());
        QVERIFY(!read(nested(5'000'000)).has_value());
        QVERIFY(read("\"" + std::string(100, '[') + "\\\"" + std::string(100, '{') + "\"").has_value());
        QVERIFY(!read("").has_value());
    }
    void filesThatAreNoJobsAreRefused() {
        QTemporaryDir folder;
        const auto write = [&](const char* name, const std::string& text) {
            const std::string file = folder.filePath(name).toStdString();
            std::ofstream(file) << text;
            return file;
        };
        QVERIFY(job::readJob(write("a.json", "hello")).error().sentence().find("not JSON") !=
                std::string::npos);
        QVERIFY(!job::readJob(write("b.json", "{\"format\":\"metrodos-job\",\"version\":1")));
        QVERIFY(!job::readJob(write("c.json", std::string(100000, '['))));
        QVERIFY(!job::readJob(write("d.json", "")));
        QVERIFY(!job::readJob(folder.filePath("missing.json").toStdString()));
        QVERIFY(job::readJob(write("e.metrodos", "hello")).error().sentence().find("not a job") !=
                std::string::npos);
        QVERIFY(job::checkJob(testing::dataPath("demo/quarry-house.json")).empty());
    }
    void writingLeavesNoHalfFile() {
        QTemporaryDir folder;
        const std::string file = folder.filePath("out.json").toStdString();
        QVERIFY(job::writeJson(file, demo()).has_value());
        QVERIFY(job::parseJson(file).value() == demo());
        QVERIFY(!job::writeJson(folder.filePath("no/such/out.json").toStdString(), demo()));
        QVERIFY(!job::writeJson("/dev/full/x.json", demo()));
    }
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
};

QTEST_GUILESS_MAIN(TestJob)
#include "test_job.moc"
