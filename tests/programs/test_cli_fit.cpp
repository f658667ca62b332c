// The command line of Weigh, Fit, Log and the library: what is promised of its JSON and its files.
#include "support/programs.h"

#include <QDir>
#include <QFile>
#include <QTest>
#include <set>

using namespace metrodos::testing;

class TestCliFit : public QObject {
    Q_OBJECT

  private slots:
    void stepsKeepTheirContract() {
        const auto out = cli({"fit", demoJob(), "--json"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto document = out.json();
        QCOMPARE(document.at("format").get<std::string>(), std::string("metrodos-steps"));
        QCOMPARE(document.at("version").get<int>(), 1);
        std::set<std::string> ids;
        bool anyFailed = false;
        for (const auto& step : document.at("steps")) {
            for (const char* key :
                 {"id", "kind", "place", "do", "parts", "cautions", "expect", "needs", "state"})
                QVERIFY2(step.contains(key), key);
            for (const auto& caution : step.at("cautions"))
                QVERIFY(caution.contains("text") && caution.contains("because"));
            if (!step.at("expect").is_null())
                QVERIFY(step.at("expect").at("low_bps").get<double>() <=
                        step.at("expect").at("high_bps").get<double>());
            for (const auto& before : step.at("needs"))
                QVERIFY2(ids.contains(before.get<std::string>()), before.dump().c_str());
            ids.insert(step.at("id").get<std::string>());
            const auto state = step.at("state").get<std::string>();
            QVERIFY(state == "open" || state == "done" || state == "failed" || state == "skipped");
            anyFailed = anyFailed || state == "failed";
        }
        QVERIFY(anyFailed); // the demo has one
        QVERIFY(cli({"fit", demoJob()}).out.find("[!]") != std::string::npos);
        QCOMPARE(cli({"fit"}).code, 2);
        QCOMPARE(cli({"fit", "/no/such/job.metrodos"}).code, 1);
    }
    void addressesGoOutInThreeForms() {
        Workplace place;
        const QString table = place.path("a.csv");
        const auto out = cli({"addresses", demoJob(), "--to", table});
        QVERIFY2(out.code == 0, out.err.c_str());
        const QByteArray csv = contents(table);
        QVERIFY2(csv.startsWith("name,address,kept_by,hardware,device,port,network,prefix,gateway\r\n"), csv);
        QVERIFY(csv.count("\r\n") > 2);
        QCOMPARE(cli({"addresses", demoJob(), "--to", place.path("a.hosts")}).code, 0);
        const QByteArray hosts = contents(place.path("a.hosts"));
        QVERIFY2(hosts.startsWith("# Hosts of Quarry House\n") && hosts.contains('\t'), hosts);
        QCOMPARE(cli({"addresses", demoJob(), "--to", place.path("a.conf")}).code, 0);
        QVERIFY(contents(place.path("a.conf")).contains("\ndhcp-host="));
        QCOMPARE(cli({"addresses", demoJob(), "--to", place.path("b.conf"), "--syntax", "blocks"}).code, 0);
        QVERIFY(contents(place.path("b.conf")).contains("{ hardware ethernet "));
        for (const char* name : {"a.pdf", "a"}) {
            const auto refused = cli({"addresses", demoJob(), "--to", place.path(name)});
            QVERIFY(refused.code == 1 && refused.oneSentence());
        }
        QCOMPARE(cli({"addresses", demoJob()}).code, 2);
        QCOMPARE(cli({"addresses", demoJob(), "--to", "/no/such/folder/a.csv"}).code, 1);
    }
    void labelsGoOutAndStay() {
        Workplace place;
        const QString job = place.path("job.metrodos");
        QCOMPARE(cli({"import", demoJob(), "--to", job}).code, 0);
        QCOMPARE(cli({"labels", job, "--to", place.path("l.csv")}).code, 0);
        const QByteArray csv = contents(place.path("l.csv"));
        QVERIFY2(csv.startsWith("code,what,where,copies,qr\r\n"), csv);
        QVERIFY(csv.contains("metrodos:label?job=Quarry%20House&thing="));
        for (const char* paper : {"a4", "letter"}) {
            QCOMPARE(cli({"labels", job, "--to", place.path("l.pdf"), "--paper", paper}).code, 0);
            QVERIFY(contents(place.path("l.pdf")).startsWith("%PDF"));
        }
        // Their codes are in the job now, and are the same the next time.
        QCOMPARE(cli({"export", job, "--to", place.path("out.json")}).code, 0);
        const auto codes = nlohmann::json::parse(contents(place.path("out.json")).toStdString())
                               .at("house")
                               .at("fitting")
                               .at("codes");
        QCOMPARE(static_cast<qsizetype>(codes.size()), csv.count("\r\n") - 1);
        QCOMPARE(cli({"labels", job, "--to", place.path("m.csv")}).code, 0);
        QCOMPARE(contents(place.path("m.csv")), csv);
        QVERIFY(cli({"labels", job, "--to", place.path("l.png")}).oneSentence());
        QCOMPARE(cli({"labels", job, "--to", place.path("l.pdf"), "--paper", "a5"}).code, 2);
    }
    void runsAreLoggedAndCompared() {
        Workplace place;
        const QString job = place.path("job.metrodos");
        QCOMPARE(cli({"import", demoJob(), "--to", job}).code, 0);
        QVERIFY(cli({"log", job}).oneSentence()); // nothing was measured
        for (const char* streams : {"1", "4"})
            QCOMPARE(cli({"simulate", job, "--route", "dome-loft", "--direction", "both", "--streams",
                          streams, "--repeat", "3", "--seed", "2", "--save", job})
                         .code,
                     0);
        const auto log = cli({"log", job, "--json"}).json();
        QCOMPARE(log.at("format").get<std::string>(), std::string("metrodos-log"));
        QCOMPARE(log.at("entries").size(), std::size_t(12));
        for (const auto& e : log.at("entries")) {
            for (const char* key : {"at", "kind", "route", "direction", "goodput_bps", "low_bps", "high_bps",
                                    "conditions", "used", "id"})
                QVERIFY2(e.contains(key), key);
            QVERIFY(e.at("low_bps").get<double>() <= e.at("high_bps").get<double>());
            QVERIFY(e.at("simulated").get<bool>());
        }
        QCOMPARE(
            cli({"log", job, "--runs", "streams=1 direction=forward", "--json"}).json().at("entries").size(),
            std::size_t(3));
        const auto out = cli({"compare", job, "--a", "streams=1 direction=forward", "--b",
                              "streams=4 direction=forward", "--json"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto c = out.json();
        QCOMPARE(c.at("format").get<std::string>(), std::string("metrodos-comparison"));
        for (const char* key :
             {"difference_ratio", "low_ratio", "high_ratio", "real", "pairs_needed", "confounded_by"})
            QVERIFY2(c.contains(key), key);
        QCOMPARE(c.at("differs").size(), std::size_t(1)); // the streams
        QVERIFY(c.at("confounded_by").empty());
        QCOMPARE(cli({"compare", job, "--a", "streams=1", "--b", "streams=4 direction=forward", "--json"})
                     .json()
                     .at("confounded_by")
                     .size(),
                 std::size_t(2));
        QVERIFY(cli({"compare", job, "--a", "colour=red", "--b", ""}).oneSentence());
        QVERIFY(cli({"compare", job, "--a", "streams=2", "--b", "streams=1"}).oneSentence());
        QCOMPARE(cli({"compare", job, "--a", "streams=1"}).code, 2);
    }
    void theLogHasAllKindsAndSchedulesGoOut() {
        Workplace place;
        const QString job = place.path("house.metrodos");
        QCOMPARE(cli({"import", demoJob(), "--to", job}).code, 0);
        const auto log = cli({"log", job, "--json", "--runs", "kind=reading"});
        QVERIFY2(log.code == 0, log.err.c_str());
        for (const auto& e : log.json().at("entries")) {
            QCOMPARE(e.at("kind").get<std::string>(), std::string("reading"));
            for (const char* key : {"at", "route", "direction", "goodput_bps", "low_bps", "high_bps",
                                    "conditions", "used", "id", "set_aside", "phy_bps"})
                QVERIFY2(e.contains(key), key);
        }
        QVERIFY(cli({"log", job, "--runs", "kind=fish"}).oneSentence());
        const auto none = cli({"schedule", job, "--to", place.path("a.ics")});
        QVERIFY(none.code == 1 && none.oneSentence());
        QCOMPARE(cli({"schedule", job, "--to", place.path("a.txt")}).code, 1);
        QCOMPARE(cli({"schedule", job}).code, 2);
        // A job with a schedule.
        auto document = nlohmann::json::parse(contents(demoJob()).toStdString());
        document["house"]["schedules"] = {{{"id", "s"},
                                           {"label", "Hourly"},
                                           {"route", document["house"]["routes"][0]["id"]},
                                           {"from", "2026-05-04T10:00:00Z"},
                                           {"every_minutes", 60},
                                           {"hours", 24},
                                           {"seconds", 5},
                                           {"streams", 4}}};
        QFile with(place.path("with.json"));
        QVERIFY(with.open(QIODevice::WriteOnly));
        with.write(QByteArray::fromStdString(document.dump()));
        with.close();
        const auto out = cli({"schedule", with.fileName(), "--to", place.path("a.ics")});
        QVERIFY2(out.code == 0, out.err.c_str());
        QVERIFY(contents(place.path("a.ics")).contains("RRULE:FREQ=MINUTELY;COUNT=24;INTERVAL=60"));
    }
    void theLibraryKeepsItsContract() {
        Workplace place;
        qputenv("XDG_CACHE_HOME", place.folder.path().toUtf8());
        const QString shelf = place.path("jobs");
        QVERIFY(QDir().mkpath(shelf));
        QCOMPARE(cli({"import", demoJob(), "--to", shelf + "/quarry.metrodos"}).code, 0);
        const auto list = cli({"library", "list", shelf, "--json"});
        QVERIFY2(list.code == 0, list.err.c_str());
        QCOMPARE(list.json().at("format").get<std::string>(), std::string("metrodos-library"));
        QCOMPARE(list.json().at("jobs").size(), std::size_t(1));
        QCOMPARE(list.json().at("jobs").at(0).at("label").get<std::string>(), std::string("Quarry House"));
        QVERIFY(cli({"library", "list", shelf}).out.find("Quarry House") != std::string::npos);
        QCOMPARE(cli({"library", "search", "quarry dome", shelf, "--json"}).json().at("jobs").size(),
                 std::size_t(1));
        QCOMPARE(cli({"library", "search", "zebra", shelf, "--json"}).json().at("jobs").size(),
                 std::size_t(0));
        const auto statistics = cli({"library", "statistics", shelf, "--json"});
        QVERIFY2(statistics.code == 0, statistics.err.c_str());
        QCOMPARE(statistics.json().at("format").get<std::string>(),
                 std::string("metrodos-library-statistics"));
        QVERIFY(statistics.json().at("classes").is_array() && statistics.json().at("calibration").is_array());
        const auto nowhere = cli({"library", "list", place.path("nowhere")});
        QVERIFY(nowhere.code == 1 && nowhere.oneSentence());
        QCOMPARE(cli({"library"}).code, 2);
        qunsetenv("XDG_CACHE_HOME");
    }
    void weighKeepsItsContract() {
        const auto out = cli({"weigh", demoJob(), "--json"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto document = out.json();
        QCOMPARE(document.at("format").get<std::string>(), std::string("metrodos-plans"));
        QCOMPARE(document.at("version").get<int>(), 1);
        QVERIFY(document.at("plans").size() >= 2);
        for (const auto& plan : document.at("plans")) {
            for (const char* key : {"id", "label", "cost", "currency", "labour_minutes", "holes",
                                    "carries_all", "spots", "parts"})
                QVERIFY2(plan.contains(key), key);
            if (plan.at("carries_all").get<bool>())
                QVERIFY(plan.at("cost").get<double>() >= document.at("plans").at(0).at("cost").get<double>());
            QVERIFY(plan.at("carries_all").get<bool>() || !plan.at("limits").empty());
            for (const auto& spot : plan.at("spots"))
                for (const char* key : {"spot", "way", "p10_bps", "p50_bps", "need_bps", "headroom"})
                    QVERIFY2(spot.contains(key), key);
            for (const auto& part : plan.at("parts"))
                for (const char* key : {"class", "count", "unit_price"})
                    QVERIFY2(part.contains(key), key);
        }
        Workplace place;
        QFile prices(place.path("prices.csv"));
        QVERIFY(prices.open(QIODevice::WriteOnly));
        prices.write("item,product,price\ncurrency,Kr,\nlabour,,500\n");
        prices.close();
        const auto dear = cli({"weigh", demoJob(), "--json", "--prices", prices.fileName()}).json();
        QCOMPARE(dear.at("plans").at(0).at("currency").get<std::string>(), std::string("Kr"));
        QVERIFY(dear.at("plans").at(0).at("cost").get<double>() >
                document.at("plans").at(0).at("cost").get<double>());
        QVERIFY(cli({"weigh", demoJob()}).out.find("cheapest that carries every need") != std::string::npos);
        QCOMPARE(cli({"weigh", demoJob(), "--objective", "loudest"}).code, 1);
        QCOMPARE(cli({"weigh", demoJob(), "--prices", place.path("none.csv")}).code, 1);
        QCOMPARE(cli({"weigh"}).code, 2);
    }
};

QTEST_GUILESS_MAIN(TestCliFit)
#include "test_cli_fit.moc"
