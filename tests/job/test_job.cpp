// The interchange form: schema, round trips, and what garbage earns.
#include "house/validate.h"
#include "job/document.h"
#include "job/house_json.h"
#include "job/open.h"
#include "job/schema.h"
#include "support/houses.h"
#include "support/paths.h"
#include "support/runs.h"

#include <QTemporaryDir>
#include <QTest>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace metrodos;
using nlohmann::json;

namespace {

json demo() {
    return job::parseJson(testing::dataPath("demo/quarry-house.json")).value();
}

bool faulty(const json& value, const std::string& words) {
    for (const auto& fault : job::faultsOf(value))
        if (fault.sentence().find(words) != std::string::npos) return true;
    return false;
}

// Every place in a document, as pointers.
void places(const json& value, const json::json_pointer& here, std::vector<json::json_pointer>& out) {
    out.push_back(here);
    if (value.is_object())
        for (const auto& [key, item] : value.items())
            places(item, here / key, out);
    if (value.is_array())
        for (std::size_t i = 0; i < std::min<std::size_t>(value.size(), 1); ++i)
            places(value[i], here / i, out);
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
    void garbageInEveryFieldIsOneClearSentence() {
        json good = demo();
        auto run = job::toJson(job::Document{
                                   {}, {{"dome-loft", testing::steadyRun(benchmark::Direction::forward, 5)}}})
                       .at("runs")
                       .at(0);
        run["samples"] = json::array({run["samples"][0]});
        good["runs"] = json::array({run});
        std::vector<json::json_pointer> all;
        places(good, json::json_pointer(), all);
        QVERIFY(all.size() > 60);
        int refused = 0;
        for (const auto& place : all)
            for (const json& garbage :
                 {json(nullptr), json(-1), json(1e300), json("\x01\n"), json(std::string(100000, 'x')),
                  json::array({1, 2}), json{{"a", 1}}, json(true)}) {
                json mutant = good;
                mutant[place] = garbage;
                const auto read = job::documentFromJson(mutant);
                if (read) continue;
                ++refused;
                const std::string sentence = read.error().sentence();
                QVERIFY(!sentence.empty() && sentence.find('\n') == std::string::npos);
                QVERIFY2(sentence.size() < 1500, sentence.substr(0, 200).c_str());
            }
        QVERIFY(refused > static_cast<int>(all.size()) * 4);
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
};

QTEST_GUILESS_MAIN(TestJob)
#include "test_job.moc"
