// metrodos-cli from outside: the documents of its contract, and one sentence for every mistake.
#include "support/programs.h"

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

void checkMeasurement(const nlohmann::json& document, bool simulated, std::size_t runs) {
    QCOMPARE(document.value("format", ""), std::string("metrodos-measurement"));
    QCOMPARE(document.value("version", 0), 1);
    QCOMPARE(document.value("simulated", !simulated), simulated);
    QCOMPARE(document.at("runs").size(), runs);
    for (const auto& r : document.at("runs")) {
        for (const char* key : {"direction", "protocol", "streams", "seconds", "warmup_s", "goodput_bps",
                                "samples", "rtt_idle_us", "rtt_loaded_us", "retransmits", "sender_limited",
                                "loss_ratio", "jitter_us", "cpu", "interface"})
            QVERIFY2(r.contains(key), key);
        QVERIFY(r.at("goodput_bps").get<double>() > 0);
        QVERIFY(r.at("loss_ratio").is_null()); // TCP hides it: null, never 0
        QVERIFY(!r.at("samples").empty());
        for (const char* key : {"t_s", "goodput_bps", "rtt_us"})
            QVERIFY2(r.at("samples").at(0).contains(key), key);
        for (const char* key : {"network", "receiver_window", "send_buffer"})
            QVERIFY2(r.at("sender_limited").contains(key), key);
        QVERIFY(r.at("interface").at("sender").contains("bytes") && r.at("cpu").contains("receiver"));
    }
    QVERIFY(document.at("summary").contains("forward") && document.at("summary").contains("backward"));
}

} // namespace

class TestCli : public QObject {
    Q_OBJECT

  private slots:
    void theMachineMeansSomething() {
        Workplace place;
        const Served standin("metrodos-standin", {"--job", demoJob(), "--key-file", place.key});
        QString loft;
        for (const auto& e : standin.ready.at("endpoints"))
            if (e.at("id") == "loft-workstation-end")
                loft = QString("127.0.0.1:%1").arg(e.at("port").get<int>());
        const auto facts = cli({"endpoints", "--key-file", place.key, loft});
        QVERIFY2(facts.code == 0, facts.err.c_str());
        const auto machine = facts.json().at("endpoints").at(0);
        bool usb = false;
        for (const auto& c : machine.at("ceilings"))
            usb = usb || (c.at("part") == "usb" && std::fabs(c.at("goodput_bps").get<double>() - 315e6) < 1);
        QVERIFY2(usb, facts.out.c_str());
        QVERIFY(machine.at("remarks").at(0).get<std::string>().find("USB 3 and runs as USB 2") !=
                std::string::npos);
        // Into a job whose survey does not know the socket, at the endpoint of that address and no other.
        QFile demo(demoJob());
        QVERIFY(demo.open(QIODevice::ReadOnly));
        auto unknown = nlohmann::json::parse(demo.readAll().toStdString());
        for (auto& device : unknown["house"]["devices"])
            for (auto& port : device["ports"])
                if (device["id"] == "loft-workstation" && port["id"] == "usb-front") port["phy"] = nullptr;
        const QString job = place.path("facts.metrodos");
        const auto begin = [&](const std::string& address) {
            for (auto& endpoint : unknown["house"]["endpoints"])
                if (endpoint["id"] == "loft-workstation-end") endpoint["address"] = address;
            QFile::remove(job);
            std::ofstream(place.path("unknown.json").toStdString()) << unknown;
            QCOMPARE(cli({"import", place.path("unknown.json"), "--to", job}).code, 0);
        };
        begin(loft.toStdString());
        const auto known = cli({"endpoints", "--key-file", place.key, "--save", job, loft});
        QVERIFY2(known.code == 0, known.err.c_str());
        QVERIFY(known.err.find("runs as USB 2") != std::string::npos);
        QCOMPARE(cli({"export", job, "--to", place.path("known.json")}).code, 0);
        std::ifstream file(place.path("known.json").toStdString());
        const auto after = nlohmann::json::parse(file);
        bool noted = false;
        for (const auto& device : after.at("house").at("devices"))
            for (const auto& port : device.at("ports"))
                noted = noted || (device.at("id") == "loft-workstation" && port.at("id") == "usb-front" &&
                                  port.at("phy") == "usb2");
        QVERIFY(noted);
        begin("127.0.0.1:9");
        const auto nobody = cli({"endpoints", "--key-file", place.key, "--save", job, loft});
        QCOMPARE(nobody.code, 1);
        QVERIFY2(nobody.oneSentence(), nobody.err.c_str());
    }
    void reportsStayWithTheJob() {
        Workplace place;
        const QString job = place.path("reports.metrodos");
        QCOMPARE(cli({"import", demoJob(), "--to", job}).code, 0);
        const QTemporaryDir folder;
        QCOMPARE(cli({"copy", folder.path(), "--size", "5MB", "--save", job}).code, 0);
        QCOMPARE(cli({"matrix", "here", "here", "--seconds", "0.5", "--save", job}).code, 0);
        const QString out = place.path("reports.json");
        QCOMPARE(cli({"export", job, "--to", out}).code, 0);
        std::ifstream file(out.toStdString());
        const auto reports = nlohmann::json::parse(file).at("reports");
        QCOMPARE(reports.size(), std::size_t(2));
        QVERIFY(reports.at(0).at("format") == "metrodos-copy" &&
                reports.at(1).at("format") == "metrodos-matrix");
        QCOMPARE(cli({"check", out}).code, 0);
    }
    void aRunEndsAfterItsBytes() {
        const auto out = cli(
            {"measure", "--from", "here", "--to", "here", "--bytes", "50MB", "--seconds", "20", "--json"});
        QVERIFY2(out.code == 0, out.err.c_str());
        QVERIFY(out.json().at("runs").at(0).at("seconds").get<double>() < 10);
        QVERIFY(cli({"measure", "--from", "here", "--to", "here", "--bytes", "many"}).oneSentence());
    }
    void theServiceIsTestedByItsAddress() {
        Workplace place;
        const Served standin("metrodos-standin", {"--job", demoJob(), "--key-file", place.key});
        const QString url = QString::fromStdString(standin.ready.at("service").get<std::string>());
        const QString job = place.path("service.metrodos");
        QCOMPARE(cli({"import", demoJob(), "--to", job}).code, 0);
        const auto out = cli({"service", url + "/study-laptop-end", "--direction", "both", "--seconds", "1",
                              "--streams", "4", "--json", "--save", job, "--route", "study-service"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto runs = out.json().at("runs");
        QCOMPARE(runs.size(), std::size_t(2));
        QVERIFY(out.json().at("simulated").get<bool>());
        // The route ends in the service: forward is up, and slower in this house.
        QVERIFY(runs.at(0).at("goodput_bps").get<double>() < runs.at(1).at("goodput_bps").get<double>());
        for (const QStringList& wrong : {QStringList{"service", "nowhere"}, QStringList{"service", url},
                                         QStringList{"service", url + "/study-laptop-end", "--dscp", "8"}}) {
            const auto refused = cli(wrong);
            QCOMPARE(refused.code, 1);
            QVERIFY2(refused.oneSentence(), refused.err.c_str());
        }
    }
    void aWatchIsKeptInAFile() {
        Workplace place;
        const Served standin("metrodos-standin",
                             {"--job", demoJob(), "--key-file", place.key, "--speed", "fast"});
        const auto at = [&](int i) {
            return QString("127.0.0.1:%1").arg(standin.ready.at("endpoints").at(i).at("port").get<int>());
        };
        const QString kept = place.path("watch.json");
        const QStringList order{"watch", "--from", at(0), "--to", at(3), "--key-file", place.key};
        const auto out =
            cli(order + QStringList{"--protocol", "udp", "--for", "10 min", "--out", kept, "--json"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto document = out.json();
        QCOMPARE(document.at("format").get<std::string>(), std::string("metrodos-watch"));
        QVERIFY(document.at("simulated").get<bool>());
        QVERIFY(std::fabs(document.at("seconds").get<double>() - 600) < 5);
        QFile file(kept);
        QVERIFY(file.open(QIODevice::ReadOnly));
        QVERIFY(nlohmann::json::parse(file.readAll().toStdString()) == document);
        for (const QStringList& wrong : {QStringList{"--for", "0.1 s"}, QStringList{"--direction", "both"},
                                         QStringList{"--for", "1 s", "--out", "/no/such/folder/x"}}) {
            const auto refused = cli(order + wrong);
            QCOMPARE(refused.code, 1);
            QVERIFY2(refused.oneSentence(), refused.err.c_str());
        }
    }
    void keysAreMadeOnce() {
        Workplace place;
        QVERIFY(QFile::exists(place.key));
        const auto again = cli({"key", "new", place.key});
        QCOMPARE(again.code, 1);
        QVERIFY2(again.oneSentence(), again.err.c_str());
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
    void simulateMeasuresInTheModel() {
        const auto out = cli({"simulate", demoJob(), "--route", "dome-loft", "--direction", "both",
                              "--streams", "4", "--seconds", "5", "--repeat", "3", "--seed", "7", "--json"});
        QCOMPARE(out.code, 0);
        checkMeasurement(out.json(), true, 6);
        const double forward = out.json().at("summary").at("forward").at("goodput_bps").get<double>();
        QVERIFY(forward > 250e6 && forward < 370e6);
        QCOMPARE(out.json().at("summary").at("forward").at("runs").get<int>(), 3);
        const auto again =
            cli({"simulate", demoJob(), "--route", "dome-loft", "--direction", "both", "--streams", "4",
                 "--seconds", "5", "--repeat", "3", "--seed", "7", "--json"});
        QCOMPARE(again.out, out.out);
        QVERIFY(cli({"simulate", demoJob(), "--route", "dome-loft"}).out.starts_with("simulated"));
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
    void bothWaysAtOnceShareWhatIsHalfDuplex() {
        const auto out = cli({"simulate", demoJob(), "--route", "dome-loft", "--direction", "together",
                              "--streams", "4", "--seconds", "5", "--json"});
        QCOMPARE(out.code, 0);
        const auto document = nlohmann::json::parse(out.out);
        QCOMPARE(document.at("runs").size(), std::size_t(2));
        QVERIFY(document.at("runs").at(0).at("group") == document.at("runs").at(1).at("group"));
        QVERIFY(document.at("runs").at(0).at("direction") != document.at("runs").at(1).at("direction"));
    }
    void datagramsHaveLossAndJitter() {
        const auto out = cli({"simulate", demoJob(), "--route", "dome-loft", "--protocol", "udp", "--rate",
                              "500M", "--seconds", "5", "--json"});
        QCOMPARE(out.code, 0);
        const auto run = nlohmann::json::parse(out.out).at("runs").at(0);
        QCOMPARE(run.at("protocol").get<std::string>(), std::string("udp"));
        QVERIFY(run.at("loss_ratio").get<double>() > 0.2); // the socket carries 281
        QVERIFY(run.at("jitter_us").get<double>() > 0);
        QVERIFY(run.at("retransmits").is_null());
        QVERIFY(run.at("rate_bps").get<double>() == 500e6);
    }
    void aSearchOverLoopbackFindsItsUpperEnd() {
        const auto out = cli({"search", "--from", "here", "--to", "here", "--high", "20M", "--seconds", "0.6",
                              "--loss", "0.05", "--json"});
        QCOMPARE(out.code, 0);
        const auto document = nlohmann::json::parse(out.out);
        QCOMPARE(document.at("search").at("best_bps").get<double>(), 20e6);
        QVERIFY(document.at("search").at("failed_bps").is_null());
        QCOMPARE(document.at("runs").size(), std::size_t(1));
    }
    void aMatrixOfThree() {
        const auto out = cli({"matrix", "here", "here", "here", "--seconds", "0.5", "--json"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto document = nlohmann::json::parse(out.out);
        QCOMPARE(document.value("format", ""), std::string("metrodos-matrix"));
        QCOMPARE(document.at("endpoints").size(), std::size_t(3));
        QCOMPARE(document.at("cells").size(), std::size_t(6)); // each to each, but none to itself
        for (const auto& cell : document.at("cells")) {
            QVERIFY(cell.at("from") != cell.at("to"));
            QVERIFY(cell.at("goodput_bps").get<double>() > 0);
        }
        QVERIFY(document.at("at_once").is_null());
        const auto loaded = cli({"matrix", "here", "here", "here", "--seconds", "0.5", "--at-once", "0-1",
                                 "--at-once", "2-1", "--json"});
        QVERIFY2(loaded.code == 0, loaded.err.c_str());
        const auto together = nlohmann::json::parse(loaded.out).at("at_once");
        QCOMPARE(together.size(), std::size_t(2));
        for (const auto& pair : together) {
            QVERIFY(pair.at("share_of_alone").get<double>() > 0);
            QVERIFY(pair.at("goodput_bps").get<double>() > 0);
        }
        const auto text = cli({"matrix", "here", "here", "--seconds", "0.5"});
        QVERIFY2(text.out.find("Mbit/s") != std::string::npos || text.out.find("Gbit/s") != std::string::npos,
                 text.out.c_str());
    }
    void aFileIsCopied() {
        const QTemporaryDir folder;
        const auto out = cli({"copy", folder.path(), "--size", "5MB", "--json"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto document = nlohmann::json::parse(out.out);
        QCOMPARE(document.value("format", ""), std::string("metrodos-copy"));
        QVERIFY(document.at("write").at("bps").get<double>() > 0);
        QVERIFY(document.at("warm_read").at("cached_at_start").get<double>() > 0.9);
        QVERIFY(cli({"copy", folder.path(), "--size", "5MB"}).out.find("B/s") != std::string::npos);
        QCOMPARE(cli({"copy", "/nosuch", "--size", "5MB"}).code, 1);
    }
    void mistakesAreOneSentenceAndTheRightCode_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<int>("code");
        QTest::addColumn<QString>("words");
        QTest::newRow("no such job") << QStringList{"predict", "none.json"} << 1 << "cannot be read";
        QTest::newRow("no such route")
            << QStringList{"trace", demoJob(), "--route", "nowhere"} << 1 << "dome-loft";
        QTest::newRow("udp") << QStringList{"simulate",  demoJob(),    "--route",
                                            "dome-loft", "--protocol", "udp"}
                             << 1 << "needs a pace";
        QTest::newRow("udp, several streams")
            << QStringList{"simulate", demoJob(), "--route", "dome-loft", "--protocol",
                           "udp",      "--rate",  "9M",      "--streams", "4"}
            << 1 << "one flow";
        QTest::newRow("absurd pace") << QStringList{"simulate",  demoJob(), "--route",
                                                    "dome-loft", "--rate",  "1k"}
                                     << 1 << "10 kbit/s";
        QTest::newRow("search two ways")
            << QStringList{"search", "--from", "here", "--to", "here", "--direction", "both"} << 1
            << "one way";
        QTest::newRow("one endpoint is no matrix")
            << QStringList{"matrix", "--key-file", "none", "127.0.0.1:1"} << 1 << "two endpoints";
        QTest::newRow("too short") << QStringList{"simulate",  demoJob(),   "--route",
                                                  "dome-loft", "--seconds", "0.1"}
                                   << 1 << "0.5 s";
        QTest::newRow("warm-up too long")
            << QStringList{"simulate", demoJob(), "--route", "dome-loft", "--seconds", "5", "--warmup", "6"}
            << 1 << "warm-up";
        QTest::newRow("not a time") << QStringList{"simulate",  demoJob(),   "--route",
                                                   "dome-loft", "--seconds", "soon"}
                                    << 1 << "not a time";
        QTest::newRow("no key file") << QStringList{"endpoints", "--key-file", "none", "127.0.0.1:1"} << 1
                                     << "key new";
        QTest::newRow("key needed") << QStringList{"measure", "--from", "here", "--to", "127.0.0.1:1"} << 1
                                    << "--key-file";
        QTest::newRow("bad import") << QStringList{"import", "x.xls", "--to", "y.metrodos"} << 1 << ".json";
        QTest::newRow("bad export") << QStringList{"export", demoJob(), "--to", "y.doc"} << 1 << ".json";
    }
    void mistakesAreOneSentenceAndTheRightCode() {
        QFETCH(QStringList, arguments);
        QFETCH(int, code);
        QFETCH(QString, words);
        const auto out = cli(arguments);
        QCOMPARE(out.code, code);
        QVERIFY2(out.err.find(words.toStdString()) != std::string::npos, out.err.c_str());
        QVERIFY2(out.oneSentence(), out.err.c_str());
        QVERIFY(out.out.empty());
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
    void theStandinServesTheDemo() {
        Workplace place;
        const Served standin("metrodos-standin",
                             {"--job", demoJob(), "--key-file", place.key, "--speed", "fast", "--seed", "3"});
        QCOMPARE(standin.ready.value("ready", false), true);
        QCOMPARE(standin.ready.at("endpoints").size(), std::size_t(4));
        const auto at = [&](std::size_t i) {
            const auto& e = standin.ready.at("endpoints").at(i);
            return QString("%1:%2")
                .arg(QString::fromStdString(e.at("host").get<std::string>()))
                .arg(e.at("port").get<int>());
        };
        const auto out = cli({"measure", "--from", at(0), "--to", at(1), "--key-file", place.key,
                              "--direction", "both", "--streams", "4", "--seconds", "4", "--json"});
        QCOMPARE(out.code, 0);
        checkMeasurement(out.json(), true, 2);
        const auto facts = cli({"endpoints", "--key-file", place.key, at(2)});
        QCOMPARE(facts.json().at("endpoints").at(0).at("simulated").get<bool>(), true);
        QCOMPARE(facts.json().at("endpoints").at(0).at("ports").at(0).at("rate_bps").get<double>(), 100e6);
        // A real end and a simulated one do not mix.
        const auto mixed =
            cli({"measure", "--from", "here", "--to", at(0), "--key-file", place.key, "--seconds", "1"});
        QCOMPARE(mixed.code, 1);
        QVERIFY2(mixed.oneSentence(), mixed.err.c_str());
    }
};

QTEST_GUILESS_MAIN(TestCli)
#include "test_cli.moc"
