// The package of everything: what its manifest says is in it, and a job is the same when it comes back.
#include "catalog/load.h"
#include "job/open.h"
#include "job/photo.h"
#include "job/record_digest.h"
#include "job/store.h"
#include "job/zip_archive.h"
#include "report/data_package.h"
#include "support/paths.h"
#include "support/random_job.h"

#include <QTemporaryDir>
#include <QTest>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>

using namespace metrodos;
using namespace metrodos::report;
using nlohmann::json;

namespace {

const catalog::Catalog& book() {
    static const catalog::Catalog catalog = catalog::loadDefault().value();
    return catalog;
}

void write(const std::string& file, const std::string& bytes) {
    std::ofstream(file, std::ios::binary) << bytes;
}

constexpr std::size_t enough = 100'000'000;

} // namespace

class TestDataPackage : public QObject {
    Q_OBJECT

    QTemporaryDir m_folder;
    std::string path(const char* name) { return m_folder.filePath(QLatin1String(name)).toStdString(); }

  private slots:
    void theManifestSaysWhatIsInIt() {
        job::Document d = job::readJob(testing::dataPath("demo/quarry-house.json")).value();
        for (int i = 0; i < 3; ++i)
            d.runs.push_back({"workshop-loft", testing::steadyRun(benchmark::Direction::forward, 50 + i, 4,
                                                                  0.02, "run-" + std::to_string(i))});
        const auto zip = dataPackage(d, book(), {"2026-11-05"}, false);
        QVERIFY(zip.has_value());
        const json manifest = json::parse(job::zipEntry(*zip, "datapackage.json", enough).value());
        QCOMPARE(manifest.at("profile").get<std::string>(), std::string("data-package"));
        QCOMPARE(manifest.at("records").get<std::string>(), "sha256:" + job::recordDigest(d));
        QCOMPARE(manifest.at("private").get<bool>(), false);
        std::set<std::string> paths;
        std::set<std::string> names;
        for (const json& r : manifest.at("resources")) {
            const auto path = r.at("path").get<std::string>();
            const auto body = job::zipEntry(*zip, path, enough);
            QVERIFY2(body.has_value(), path.c_str());
            QCOMPARE(r.at("bytes").get<std::size_t>(), body->size());
            QCOMPARE(r.at("hash").get<std::string>(), "sha256:" + job::digestOf(*body));
            QVERIFY2(paths.insert(path).second && names.insert(r.at("name").get<std::string>()).second,
                     path.c_str());
            QVERIFY(!r.at("mediatype").get<std::string>().empty());
            if (path == "runs.csv" || path == "samples.csv") {
                const std::string head = body->substr(0, body->find('\r'));
                std::string fields;
                for (const json& f : r.at("schema").at("fields")) {
                    fields += (fields.empty() ? "" : ",") + f.at("name").get<std::string>();
                    QVERIFY(!f.at("description").get<std::string>().empty());
                }
                QCOMPARE(head, fields);
            }
        }
        for (const char* wanted :
             {"job.json", "survey.csv", "runs.csv", "samples.csv", "drawings/section.svg",
              "drawings/section.png", "drawings/ranges.svg", "drawings/way.svg", "drawings/run-3.svg",
              "job.schema.json", "documents/record.pdf", "documents/record.html", "documents/technician.md"})
            QVERIFY2(paths.contains(wanted), wanted);
        for (const char* form : {"html", "pdf", "md"})
            QCOMPARE(digestIn(job::zipEntry(*zip, std::string("documents/record.") + form, enough).value()),
                     job::recordDigest(d));
    }
    // 500 random jobs: as a package, through a job file, and back, not a figure or a letter is another one.
    void jobsComeBackAsTheyWere() {
        const std::uint32_t many = qEnvironmentVariableIsSet("METRODOS_DEEP") ? 500 : 100;
        for (std::uint32_t seed = 1; seed <= many; ++seed) {
            const job::Document d = testing::RandomJob(seed).make();
            const json before = job::toJson(d);
            const std::string text = before.dump(1) + "\n";
            const auto zip = job::zipOf(
                {{"datapackage.json",
                  json({{"resources", {{{"path", "job.json"}, {"hash", "sha256:" + job::digestOf(text)}}}}})
                      .dump()},
                 {"job.json", text}});
            write(path("job.zip"), zip.value());
            const auto back = job::readJob(path("job.zip"));
            QVERIFY2(back.has_value(), back ? "" : (std::to_string(seed) + back.error().sentence()).c_str());
            QVERIFY2(job::toJson(*back) == before, std::to_string(seed).c_str());
            if (seed % 10 != 0) continue;
            // The package that is written, and a job file made of it.
            write(path("all.zip"), dataPackage(d, book(), {"2026-11-05"}, false).value());
            const auto whole = job::readJob(path("all.zip"));
            QVERIFY2(whole.has_value(), whole ? "" : whole.error().sentence().c_str());
            QVERIFY(job::toJson(*whole) == before);
            QFile::remove(QString::fromStdString(path("job.metrodos")));
            QVERIFY(job::Store::create(path("job.metrodos"), *whole).has_value());
            const auto stored = job::readJob(path("job.metrodos"));
            QVERIFY(stored.has_value());
            QVERIFY2(job::toJson(*stored) == before, std::to_string(seed).c_str());
            QCOMPARE(job::recordDigest(*stored), job::recordDigest(d));
        }
    }
    void whatIsNotWholeIsRefused() {
        const job::Document d = testing::RandomJob(1).make();
        const std::string text = job::toJson(d).dump();
        const auto read = [&](const std::vector<job::ZipEntry>& entries) {
            write(path("bad.zip"), job::zipOf(entries).value());
            return job::readJob(path("bad.zip"));
        };
        const std::string manifest =
            json({{"resources", {{{"path", "job.json"}, {"hash", "sha256:" + job::digestOf(text)}}}}}).dump();
        QVERIFY(read({{"datapackage.json", manifest}, {"job.json", text}}).has_value());
        for (const auto& [what, entries] :
             {std::pair("no manifest", std::vector<job::ZipEntry>{{"job.json", text}}),
              std::pair("no job", std::vector<job::ZipEntry>{{"datapackage.json", manifest}}),
              std::pair("another job",
                        std::vector<job::ZipEntry>{{"datapackage.json", manifest}, {"job.json", text + " "}}),
              std::pair("a manifest that is none",
                        std::vector<job::ZipEntry>{{"datapackage.json", "[1, 2"}, {"job.json", text}}),
              std::pair("a manifest of something else",
                        std::vector<job::ZipEntry>{{"datapackage.json", R"({"resources":[1,{"path":2}]})"},
                                                   {"job.json", text}}),
              std::pair("no JSON",
                        std::vector<job::ZipEntry>{
                            {"datapackage.json",
                             json({{"resources",
                                    {{{"path", "job.json"}, {"hash", "sha256:" + job::digestOf("{")}}}}})
                                 .dump()},
                            {"job.json", "{"}})}) {
            const auto out = read(entries);
            QVERIFY2(!out.has_value(), what);
            QVERIFY2(!out.error().sentence().empty(), what);
        }
        write(path("bad.zip"), "PK\x03\x04 and nothing else");
        QVERIFY(!job::readJob(path("bad.zip")).has_value());
        QVERIFY(!job::checkJob(path("bad.zip")).empty());
    }
};

QTEST_GUILESS_MAIN(TestDataPackage)
#include "test_data_package.moc"
