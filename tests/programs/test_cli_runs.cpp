// metrodos-cli from outside, runs over loopback and in the model: what is measured, and where it is kept.
#include "support/programs.h"

#include <QFile>
#include <QTest>
#include <cmath>
#include <fstream>

using namespace metrodos::testing;

namespace {

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

class TestCliRuns : public QObject {
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
    void aGuestIsInvitedForItsTime() {
        const auto out = cli({"guest", "--listen", "127.0.0.1:0", "--for", "1 s", "--json"});
        QCOMPARE(out.code, 1); // nobody came
        QVERIFY2(out.oneSentence() && out.err.find("no device") != std::string::npos, out.err.c_str());
        const auto ready = nlohmann::json::parse(out.out);
        QVERIFY(ready.at("ready").get<bool>());
        const auto code = ready.at("code").get<std::string>();
        QCOMPARE(code.size(), std::size_t(9));
        const auto url = ready.at("url").get<std::string>();
        QVERIFY2(url.starts_with("http://127.0.0.1:") && url.ends_with("/" + code), url.c_str());
        QCOMPARE(ready.at("expires_s").get<int>(), 1);
        for (const QStringList& wrong : {QStringList{"guest", "--for", "soon"},
                                         {"guest", "--for", "3 d"},
                                         {"guest", "--listen", "nowhere at all"},
                                         {"guest", "--at", "127.0.0.1:1", "--key-file", "/nowhere"}}) {
            const auto said = cli(wrong);
            QVERIFY2(said.code == 1 && said.oneSentence(), said.err.c_str());
        }
    }
};

QTEST_GUILESS_MAIN(TestCliRuns)
#include "test_cli_runs.moc"
