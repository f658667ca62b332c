// metrodos-cli from outside, jobs and predictions: the documents of its contract, and one sentence for every
// mistake.
#include "job/file_format.h"
#include "job/store.h"
#include "support/houses.h"
#include "support/programs.h"
#include "support/runs.h"

#include <QFile>
#include <QTest>
#include <cmath>
#include <fstream>

using namespace metrodos::testing;

namespace {

// Copies the demo job with one text replaced.
QString changedDemo(const Workplace& place, const QByteArray& from, const QByteArray& to) {
    QFile in(demoJob());
    if (!in.open(QIODevice::ReadOnly)) return {};
    QByteArray text = in.readAll();
    if (!text.contains(from)) qFatal("the demo job does not hold the text of the test");
    text.replace(from, to);
    QFile out(place.path("changed.json"));
    if (!out.open(QIODevice::WriteOnly)) return {};
    out.write(text);
    return out.fileName();
}

} // namespace

class TestCli : public QObject {
    Q_OBJECT

  private slots:
    void keysAreMadeOnce() {
        Workplace place;
        QVERIFY(QFile::exists(place.key));
        const auto again = cli({"key", "new", place.key});
        QCOMPARE(again.code, 1);
        QVERIFY2(again.oneSentence(), again.err.c_str());
    }
    void runsThatCannotBeReadAreNamed() {
        const Workplace place;
        const QString file = place.path("j.metrodos");
        std::vector<metrodos::benchmark::RouteRun> runs;
        for (const char* id : {"sound", "spoilt"}) {
            runs.push_back({"desk-shelf", steadyRun(metrodos::benchmark::Direction::forward, 100)});
            runs.back().run.id = id;
        }
        QVERIFY(metrodos::job::Store::create(file.toStdString(), {wiredHouse(), runs}));
        const QString whole = place.path("whole.json");
        const auto before = cli({"export", file, "--to", whole});
        QCOMPARE(before.code, 0);
        QCOMPARE(before.err, std::string());
        QCOMPARE(cli({"check", file}).code, 0);
        SQLite::Database(file.toStdString(), SQLite::OPEN_READWRITE)
            .exec("UPDATE run SET body=replace(body, '\"streams\":4', '\"streams\":4000') WHERE id='spoilt'");
        const auto after = cli({"export", file, "--to", place.path("rest.json")});
        QCOMPARE(after.code, 0); // the rest is worth having
        QVERIFY2(after.oneSentence(), after.err.c_str());
        QVERIFY2(after.err.find("1 run of this job cannot be read, the first is spoilt") != std::string::npos,
                 after.err.c_str());
        const auto checked = cli({"check", file});
        QCOMPARE(checked.code, 1);
        QVERIFY(checked.out.find("spoilt") != std::string::npos);
    }
    void predictNamesTheUsbSocketOfTheDemo() {
        const auto out = cli({"predict", demoJob(), "--json"});
        QCOMPARE(out.code, 0);
        const auto document = out.json();
        QCOMPARE(document.at("format").get<std::string>(), std::string("metrodos-prediction"));
        QCOMPARE(document.at("routes").size(), std::size_t(4));
        std::string limiter;
        double most = 0;
        for (const auto& e : document.at("routes").at(0).at("elements"))
            if (e.at("limiter_probability").get<double>() > most) {
                most = e.at("limiter_probability").get<double>();
                limiter = e.at("id").get<std::string>();
            }
        QCOMPARE(limiter, std::string("loft-usb"));
        QVERIFY(most > 0.99);
        QCOMPARE(cli({"predict", demoJob(), "--route", "study-dome", "--json"}).json().at("routes").size(),
                 std::size_t(1));
    }
    void aKeyCanBeShownAsACode() {
        Workplace place;
        const auto shown = cli({"key", "show", place.key});
        QCOMPARE(shown.code, 0);
        QVERIFY(shown.out.find("█") != std::string::npos);
        QVERIFY(shown.out.find('-') != std::string::npos);
        QCOMPARE(cli({"key", "show", place.path("none")}).code, 1);
    }
    void flowsShareWhatTheyShare() {
        const auto out =
            cli({"predict", demoJob(), "--json", "--flows", "workshop-loft:forward", "dome-loft:forward:2G"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto flows = out.json().at("flows");
        QCOMPARE(flows.size(), std::size_t(2));
        for (const auto& flow : flows) {
            for (const char* key :
                 {"route", "direction", "demand_bps", "alone_bps", "shared_bps", "limit", "because"})
                QVERIFY2(flow.contains(key), key);
            QVERIFY(flow.at("shared_bps").get<double>() <= flow.at("alone_bps").get<double>() * (1 + 1e-9));
        }
        // Both end in the socket: what the slow one takes, the other lacks.
        const double both =
            flows.at(0).at("shared_bps").get<double>() + flows.at(1).at("shared_bps").get<double>();
        QVERIFY(std::fabs(both - flows.at(1).at("alone_bps").get<double>()) < 2e6);
        QCOMPARE(flows.at(1).at("limit").get<std::string>(), std::string("loft-usb"));
        QCOMPARE(cli({"predict", demoJob(), "--flows", "nowhere"}).code, 1);
        QCOMPARE(cli({"predict", demoJob(), "--flows", "dome-loft:fast"}).code, 1);
    }
    void checkFindsWhatTheSurveyLacks() {
        const Workplace place;
        auto document = nlohmann::json::parse(std::ifstream(demoJob().toStdString()));
        for (auto& c : document["house"]["connections"])
            if (c["id"] == "sitting-drop") c["ends"].erase(0);
        document["house"]["circuits"][0]["outlets"].erase(0);
        document["house"]["jacks"].push_back(
            {{"id", "loft-data"}, {"label", "Loft data 1"}, {"kind", "data"}, {"room", "loft"}});
        std::ofstream(place.path("open.json").toStdString()) << document;
        const auto out = cli({"check", place.path("open.json")});
        QCOMPARE(out.code, 1);
        for (const char* word : {"one end only", "on no circuit", "Loft data 1"})
            QVERIFY2(out.out.find(word) != std::string::npos, word);
    }
    void tablesAndTheSectionGoOutAndTablesComeIn() {
        const Workplace place;
        QCOMPARE(cli({"export", demoJob(), "--to", place.path("h.csv")}).code, 0);
        QCOMPARE(cli({"export", demoJob(), "--to", place.path("h.svg")}).code, 0);
        QFile svg(place.path("h.svg"));
        QVERIFY(svg.open(QIODevice::ReadOnly));
        QVERIFY(svg.readAll().contains("Violin workshop"));
        QFile rooms(place.path("rooms.csv"));
        QVERIFY(rooms.open(QIODevice::WriteOnly));
        rooms.write("kind,id,label,floor\nroom,den,Den,1\n");
        rooms.close();
        QCOMPARE(cli({"import", place.path("rooms.csv"), "--to", place.path("new.metrodos")}).code, 0);
        QFile more(place.path("more.csv"));
        QVERIFY(more.open(QIODevice::WriteOnly));
        more.write("kind,label,room,type\njack,Den coax 1,den,coax\n");
        more.close();
        QCOMPARE(cli({"import", place.path("more.csv"), "--to", place.path("new.metrodos")}).code, 0);
        QCOMPARE(cli({"export", place.path("new.metrodos"), "--to", place.path("new.json")}).code, 0);
        QFile json(place.path("new.json"));
        QVERIFY(json.open(QIODevice::ReadOnly));
        const auto document = nlohmann::json::parse(json.readAll().toStdString());
        QCOMPARE(document.at("house").at("jacks").size(), std::size_t(1));
        const auto bad = cli({"import", place.path("h.svg"), "--to", place.path("x.metrodos")});
        QCOMPARE(bad.code, 1);
        QVERIFY2(bad.oneSentence(), bad.err.c_str());
    }
    void jobsTravelThroughTheirJson() {
        Workplace place;
        QCOMPARE(cli({"import", demoJob(), "--to", place.path("a.metrodos")}).code, 0);
        QCOMPARE(cli({"simulate", place.path("a.metrodos"), "--route", "dome-loft", "--seconds", "2",
                      "--direction", "both", "--save", place.path("a.metrodos")})
                     .code,
                 0);
        QCOMPARE(cli({"export", place.path("a.metrodos"), "--to", place.path("b.json")}).code, 0);
        QCOMPARE(cli({"check", place.path("b.json")}).code, 0);
        QCOMPARE(cli({"import", place.path("b.json"), "--to", place.path("c.metrodos")}).code, 0);
        const auto a = cli({"trace", place.path("a.metrodos"), "--route", "dome-loft", "--json"});
        const auto c = cli({"trace", place.path("c.metrodos"), "--route", "dome-loft", "--json"});
        QCOMPARE(a.code, 0);
        QCOMPARE(a.out, c.out);
        QCOMPARE(a.json().at("suspects").at(0).at("element").get<std::string>(), std::string("loft-usb"));
        QVERIFY(a.json().contains("next_tests") && a.json().contains("warnings"));
        QVERIFY(
            cli({"trace", place.path("a.metrodos"), "--route", "dome-loft"}).out.find("front USB socket") !=
            std::string::npos);
    }
    void simulatedRunsAreKeptBesideOneAnother() {
        Workplace place;
        const QString job = place.path("a.metrodos");
        QCOMPARE(cli({"import", demoJob(), "--to", job}).code, 0);
        for (const char* route : {"dome-loft", "workshop-loft", "dome-loft"}) { // with the same seed
            const auto done = cli({"simulate", job, "--route", route, "--seconds", "1", "--save", job});
            QVERIFY2(done.code == 0, done.err.c_str());
        }
        QCOMPARE(cli({"export", job, "--to", place.path("b.json")}).code, 0);
        QFile json(place.path("b.json"));
        QVERIFY(json.open(QIODevice::ReadOnly));
        const auto runs = nlohmann::json::parse(json.readAll().toStdString()).at("runs");
        QCOMPARE(runs.size(), std::size_t(3));
        QVERIFY(runs.at(0).at("started_at").get<std::string>() > "2020");
    }
    void checkListsEveryFault() {
        Workplace place;
        QCOMPARE(cli({"check", demoJob()}).code, 0);
        QVERIFY(cli({"check", demoJob()}).out.empty()); // quiet on success
        const auto schema = cli({"check", changedDemo(place, "\"length_m\": 46.0", "\"length_m\": \"far\"")});
        QCOMPARE(schema.code, 1);
        QVERIFY(schema.out.find("length_m") != std::string::npos);
        QVERIFY2(schema.oneSentence(), schema.err.c_str());
        const auto cls = cli({"check", changedDemo(place, "\"coax-2500\"", "\"coax-9000\"")});
        QCOMPARE(cls.code, 1);
        QVERIFY(cls.out.find("coax-9000") != std::string::npos);
        const auto cut = cli({"check", changedDemo(place, "\"port\": \"plug\"", "\"port\": \"plog\"")});
        QVERIFY(cut.out.find("no such port") != std::string::npos);
    }
    void mistakesAreOneSentenceAndTheRightCode() {
        const auto simulate = [](QStringList more) {
            return QStringList{"simulate", demoJob(), "--route", "dome-loft"} + more;
        };
        const std::vector<std::pair<QStringList, const char*>> cases{
            {{"predict", "none.json"}, "cannot be read"},
            {{"trace", demoJob(), "--route", "nowhere"}, "dome-loft"},
            {simulate({"--protocol", "udp"}), "needs a pace"},
            {simulate({"--protocol", "udp", "--rate", "9M", "--streams", "4"}), "one flow"},
            {simulate({"--rate", "1k"}), "10 kbit/s"},
            {simulate({"--seconds", "0.1"}), "0.5 s"},
            {simulate({"--seconds", "5", "--warmup", "6"}), "warm-up"},
            {simulate({"--seconds", "soon"}), "not a time"},
            {{"search", "--from", "here", "--to", "here", "--direction", "both"}, "one way"},
            {{"matrix", "--key-file", "none", "127.0.0.1:1"}, "two endpoints"},
            {{"endpoints", "--key-file", "none", "127.0.0.1:1"}, "key new"},
            {{"measure", "--from", "here", "--to", "127.0.0.1:1"}, "--key-file"},
            {{"import", "x.xls", "--to", "y.metrodos"}, ".json"},
            {{"export", demoJob(), "--to", "y.doc"}, ".json"},
        };
        for (const auto& [arguments, words] : cases) {
            const auto out = cli(arguments);
            QCOMPARE(out.code, 1);
            QVERIFY2(out.err.find(words) != std::string::npos && out.oneSentence(), out.err.c_str());
            QVERIFY(out.out.empty());
        }
    }
    void wrongUsageIsTwo() {
        QCOMPARE(cli({}).code, 2);
        QCOMPARE(cli({"fly"}).code, 2);
        QCOMPARE(cli({"simulate", demoJob()}).code, 2);
        QCOMPARE(cli({"simulate", demoJob(), "--route", "dome-loft", "--streams", "33"}).code, 2);
        QCOMPARE(cli({"--help"}).code, 0);
    }
    void aFullDiskIsSaid() {
        // A tiny disk of one's own, in a mount namespace; needs the right to make one.
        Workplace place;
        const QString script = QStringLiteral("mount -t tmpfs -o size=32k none '%1' && '%2' import '%3' --to "
                                              "'%1/a.metrodos'; code=$?; ls '%1'; exit $code")
                                   .arg(place.folder.path(), binary("metrodos-cli"), demoJob());
        if (run("unshare", {"-Urm", "true"}).code != 0)
            QSKIP("this machine lets no one make a mount namespace");
        const auto out = run("unshare", {"-Urm", "sh", "-c", script});
        QCOMPARE(out.code, 1);
        QVERIFY2(out.err.find("the disk is full") != std::string::npos, out.err.c_str());
        QVERIFY(out.out.find("a.metrodos") == std::string::npos); // nothing half made stays
    }
};

QTEST_GUILESS_MAIN(TestCli)
#include "test_cli.moc"
