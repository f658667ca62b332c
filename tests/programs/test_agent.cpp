// metrodos-agent from outside, with metrodos-cli as its controller, over loopback.
#include "support/programs.h"

#include <QDir>
#include <QFile>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTest>
#include <csignal>
#include <fstream>
#include <sstream>
#include <unistd.h>

using namespace metrodos::testing;

namespace {

struct ServedAgent : Workplace {
    Served agent{"metrodos-agent", {"--listen", "127.0.0.1:0", "--key-file", key, "--name", "Test bench"}};
    [[nodiscard]] QString address() const {
        return QString("127.0.0.1:%1").arg(agent.ready.value("port", 0));
    }
    [[nodiscard]] long residentKilobytes() const {
        std::ifstream status("/proc/" + std::to_string(agent.process.processId()) + "/status");
        for (std::string line; std::getline(status, line);)
            if (line.starts_with("VmRSS:")) return std::stol(line.substr(6));
        return -1;
    }
};

// Waits until the process has computed for so long: a run at full speed does, one that waits does not.
bool computes(const QProcess& process, double seconds) {
    const std::string file = "/proc/" + std::to_string(process.processId()) + "/stat";
    return QTest::qWaitFor(
        [&] {
            std::ifstream stream(file);
            std::string stat;
            std::getline(stream, stat);
            const auto name = stat.rfind(')');
            if (name == std::string::npos) return false;
            std::istringstream fields(stat.substr(name + 1)); // proc(5): from field 3 on
            std::string skipped;
            for (int i = 3; i < 14; ++i)
                fields >> skipped;
            double user = 0;
            double system = 0;
            fields >> user >> system;
            return (user + system) / static_cast<double>(::sysconf(_SC_CLK_TCK)) >= seconds;
        },
        20'000);
}

} // namespace

class TestAgent : public QObject {
    Q_OBJECT

  private slots:
    void itSaysWhenItIsReady() {
        const ServedAgent served;
        QCOMPARE(served.agent.ready.value("ready", false), true);
        QCOMPARE(served.agent.ready.value("name", ""), std::string("Test bench"));
        QCOMPARE(served.agent.ready.value("host", ""), std::string("127.0.0.1"));
        QVERIFY(served.agent.ready.value("port", 0) > 0);
    }
    // A device with a browser measures against the agent's machine: the agent says where, and so does the
    // command line to who has the key.
    void itTakesDevicesWithABrowser() {
        const Workplace place;
        const Served agent{"metrodos-agent", {"--listen", "127.0.0.1:0", "--key-file", place.key, "--guest"}};
        QVERIFY(agent.ready.contains("guest"));
        const auto url = agent.ready.at("guest").at("urls").at(0).get<std::string>();
        const auto code = agent.ready.at("guest").at("code").get<std::string>();
        QVERIFY2(url.starts_with("http://127.0.0.1:") && url.ends_with("/" + code), url.c_str());
        QCOMPARE(agent.ready.at("guest").at("expires_s").get<int>(), 3600);
        QProcess asking;
        asking.start(binary("metrodos-cli"),
                     {"guest", "--at", QString("127.0.0.1:%1").arg(agent.ready.value("port", 0)),
                      "--key-file", place.key, "--json"});
        QTRY_VERIFY_WITH_TIMEOUT(asking.canReadLine() || asking.state() == QProcess::NotRunning, 10'000);
        const auto told = nlohmann::json::parse(asking.readLine().toStdString(), nullptr, false);
        QCOMPARE(told.value("url", ""), url);
        QCOMPARE(told.value("code", ""), code);
        ::kill(static_cast<pid_t>(asking.processId()), SIGINT);
        QVERIFY(asking.waitForFinished(5000));
        QCOMPARE(asking.exitCode(), 0);
        // Without the flag it takes none, and says what to do.
        const ServedAgent plain;
        QVERIFY(!plain.agent.ready.contains("guest"));
        const auto refused = cli({"guest", "--at", plain.address(), "--key-file", plain.key});
        QCOMPARE(refused.code, 1);
        QVERIFY2(refused.oneSentence() && refused.err.find("--guest") != std::string::npos,
                 refused.err.c_str());
    }
    // Without a key file the agent shows eight words; who types them has a key from then on, also after both
    // were started anew.
    void itMeetsWhoHasItsWords() {
        const Workplace place;
        const QString pairs = place.path("pairs");
        const QStringList arguments{"--listen", "127.0.0.1:0", "--pairs", pairs, "--name", "cellar box"};
        const QString key = place.path("made");
        std::string words;
        {
            Served agent{"metrodos-agent", arguments};
            QCOMPARE(agent.ready.value("meeting", false), true);
            QVERIFY(!agent.ready.contains("words")); // which logs would keep
            const QString address = QString("127.0.0.1:%1").arg(agent.ready.value("port", 0));
            QString shown;
            QTRY_VERIFY_WITH_TIMEOUT(
                (shown += agent.process.readAllStandardError(), shown.contains("at the address " + address)),
                5000);
            const QStringList lines = shown.split('\n');
            const auto told = std::find_if(lines.begin(), lines.end(), [](const QString& line) {
                return line.startsWith("  ") && line.trimmed().split(' ').size() == 8;
            });
            QVERIFY2(told != lines.end(), qPrintable(shown));
            const auto wrong = cli(QStringList{"key", "meet", address, key} +
                                   QString("able able able able able able able able").split(' '));
            QVERIFY2(wrong.code == 1 && wrong.oneSentence(), wrong.err.c_str());
            const auto few = cli({"key", "meet", address, key, "able"});
            QVERIFY2(few.code == 1 && few.oneSentence() && few.err.find('8') != std::string::npos,
                     few.err.c_str());
            QVERIFY(!QFile::exists(key));
            const auto met = cli(QStringList{"key", "meet", address, key} + told->trimmed().split(' '));
            QVERIFY2(met.code == 0, met.err.c_str());
            QString after;
            QTRY_VERIFY_WITH_TIMEOUT(
                (after += agent.process.readAllStandardError(), after.contains("has a key")), 5000);
            // Both show the same four.
            const QStringList ours = QString::fromStdString(met.out).split('\n');
            QVERIFY2(ours.size() > 1 && after.contains(ours[1]), qPrintable(after));
            QCOMPARE(ours[1].trimmed().split(' ').size(), qsizetype(4));
            QCOMPARE(cli({"endpoints", address, "--key-file", key}).code, 0);
            // The words were good once.
            const auto again =
                cli(QStringList{"key", "meet", address, place.path("other")} + told->trimmed().split(' '));
            QVERIFY2(again.code == 1 && again.oneSentence(), again.err.c_str());
        }
        const Served anew{"metrodos-agent", arguments};
        QVERIFY(!anew.ready.contains("meeting"));
        const QString address = QString("127.0.0.1:%1").arg(anew.ready.value("port", 0));
        QCOMPARE(cli({"endpoints", address, "--key-file", key}).code, 0);
        const Workplace stranger;
        QCOMPARE(cli({"endpoints", address, "--key-file", stranger.key}).code, 1);
    }
    void itSaysWhetherItServes() {
        const ServedAgent served;
        const auto asked = [&](const QString& listen, const QString& key) {
            return run(binary("metrodos-agent"), {"--listen", listen, "--key-file", key, "--health"});
        };
        QCOMPARE(asked(served.address(), served.key).code, 0);
        const auto nobody = asked("127.0.0.1:1", served.key);
        QVERIFY2(nobody.code == 1 && nobody.oneSentence(), nobody.err.c_str());
        const Workplace other;
        QCOMPARE(asked(served.address(), other.key).code, 1);
    }
    void measuringAgainstItWorks() {
        const ServedAgent served;
        const auto out =
            cli({"measure", "--from", "here", "--to", served.address(), "--key-file", served.key,
                 "--direction", "both", "--seconds", "1", "--streams", "2", "--summary", "median", "--json"});
        QCOMPARE(out.code, 0);
        const auto document = out.json();
        QCOMPARE(document.at("simulated").get<bool>(), false);
        QCOMPARE(document.at("runs").size(), std::size_t(2));
        QCOMPARE(document.at("runs").at(0).at("direction").get<std::string>(), std::string("forward"));
        QCOMPARE(document.at("summary").at("backward").at("rule").get<std::string>(), std::string("median"));
        QVERIFY(document.at("runs").at(0).at("rtt_idle_us").at("p50").get<double>() > 0);
        const auto facts = cli({"endpoints", "--key-file", served.key, served.address()});
        QCOMPARE(facts.json().at("endpoints").at(0).at("name").get<std::string>(), std::string("Test bench"));
    }
    void runsCanBeSavedToAJob() {
        const ServedAgent served;
        QCOMPARE(cli({"import", demoJob(), "--to", served.path("j.metrodos")}).code, 0);
        QCOMPARE(cli({"measure", "--from", "here", "--to", served.address(), "--key-file", served.key,
                      "--seconds", "1", "--save", served.path("j.metrodos"), "--route", "study-dome"})
                     .code,
                 0);
        QCOMPARE(cli({"export", served.path("j.metrodos"), "--to", served.path("j.json")}).code, 0);
        QFile file(served.path("j.json"));
        QVERIFY(file.open(QIODevice::ReadOnly));
        QVERIFY(file.readAll().contains("\"study-dome\""));
        const auto missing = cli({"measure", "--from", "here", "--to", served.address(), "--key-file",
                                  served.key, "--seconds", "1", "--save", served.path("j.metrodos")});
        QCOMPARE(missing.code, 1);
        QVERIFY2(missing.oneSentence(), missing.err.c_str());
    }
    void aWrongKeyIsOneSentence() {
        const ServedAgent served;
        const Workplace stranger;
        const auto out = cli({"measure", "--from", "here", "--to", served.address(), "--key-file",
                              stranger.key, "--seconds", "1"});
        QCOMPARE(out.code, 1);
        QVERIFY2(out.oneSentence(), out.err.c_str());
        QVERIFY2(out.err.find("does not accept this key") != std::string::npos, out.err.c_str());
    }
    void anAgentThatVanishesIsOneSentence() {
        ServedAgent served;
        QProcess process;
        process.start(binary("metrodos-cli"), {"measure", "--from", "here", "--to", served.address(),
                                               "--key-file", served.key, "--seconds", "30"});
        QVERIFY(process.waitForStarted());
        QVERIFY(computes(process, 0.2));
        served.agent.process.kill();
        QVERIFY(process.waitForFinished(15'000));
        QCOMPARE(process.exitCode(), 1);
        const std::string err = process.readAllStandardError().toStdString();
        QVERIFY2(err.find('\n') == err.size() - 1, err.c_str());
    }
    void interruptingKeepsWhatWasMeasured() {
        const ServedAgent served;
        QProcess process;
        process.start(binary("metrodos-cli"), {"measure", "--from", "here", "--to", served.address(),
                                               "--key-file", served.key, "--seconds", "60", "--json"});
        QVERIFY(process.waitForStarted());
        QVERIFY(computes(process, 1));
        ::kill(static_cast<pid_t>(process.processId()), SIGINT);
        QVERIFY(process.waitForFinished(3000));
        const auto document =
            nlohmann::json::parse(process.readAllStandardOutput().toStdString(), nullptr, false);
        QVERIFY(document.is_object());
        QCOMPARE(document.at("runs").at(0).at("complete").get<bool>(), false);
        QVERIFY(document.at("runs").at(0).at("samples").size() >= 5);
    }
    void itEndsInOrder() {
        ServedAgent served;
        served.agent.process.terminate();
        QVERIFY(served.agent.process.waitForFinished(2000));
        QCOMPARE(served.agent.process.exitStatus(), QProcess::NormalExit);
        QCOMPARE(served.agent.process.exitCode(), 0);
    }
    void startingWronglyIsSaid() {
        const ServedAgent served;
        const auto refused = [&](const QStringList& arguments, const char* words) {
            const auto out = run(binary("metrodos-agent"), arguments, 5000);
            return out.code == 1 && out.oneSentence() && out.err.find(words) != std::string::npos;
        };
        QVERIFY(refused({"--listen", served.address(), "--key-file", served.key}, "in use"));
        QVERIFY(refused({"--listen", "127.0.0.1:0", "--key-file", "none"}, "key new"));
        QVERIFY(refused({"--listen", "192.0.2.9:0", "--key-file", served.key}, "does not have this address"));
        QVERIFY(refused({"--listen", "127.0.0.1:0", "--key-file", served.key, "--allow", "everyone"},
                        "address range"));
        QFile::setPermissions(served.key, QFile::ReadOwner | QFile::ReadOther);
        QVERIFY(refused({"--listen", "127.0.0.1:0", "--key-file", served.key}, "chmod 600"));
        QCOMPARE(run(binary("metrodos-agent"), {}).code, 2);
    }
    void anIdleAgentIsSmall() {
        const ServedAgent served;
        QCOMPARE(cli({"measure", "--from", "here", "--to", served.address(), "--key-file", served.key,
                      "--seconds", "1", "--streams", "8"})
                     .code,
                 0);
        QTRY_VERIFY_WITH_TIMEOUT(served.residentKilobytes() > 0, 1000);
        QVERIFY2(served.residentKilobytes() < 16 * 1024,
                 qPrintable(QString::number(served.residentKilobytes())));
    }
    void itLeavesNoCore() {
        const ServedAgent served;
        const std::string process = "/proc/" + std::to_string(served.agent.process.processId());
        std::string filter;
        std::ifstream(process + "/coredump_filter") >> filter;
        QCOMPARE(filter, std::string("00000000")); // proc(5): none of its mappings
        std::ifstream limits(process + "/limits");
        std::string text((std::istreambuf_iterator<char>(limits)), {});
        QVERIFY2(
            QRegularExpression("Max core file size +0 +0 ").match(QString::fromStdString(text)).hasMatch(),
            text.c_str());
    }
    void aNameOfAnyBytesIsText() {
        Workplace place;
        QByteArray odd("cellar\xff\x1b[31m\nbox");
        const Served agent("metrodos-agent", {"--listen", "127.0.0.1:0", "--key-file", place.key, "--name",
                                              QString::fromLatin1(odd)});
        QVERIFY(agent.ready.value("ready", false));
        const std::string name = agent.ready.value("name", "");
        QVERIFY2(name.find('\x1b') == std::string::npos && name.find('\n') == std::string::npos,
                 name.c_str());
    }
    void oneKeyForEachMachineComesInPlaceOfTheShared() {
        Workplace place;
        const Served agent("metrodos-agent", {"--listen", "127.0.0.1:0", "--key-file", place.key, "--pairs",
                                              place.path("pairs")});
        const QString address = QString("127.0.0.1:%1").arg(agent.ready.value("port", 0));
        const auto opens = [&](const QString& key) {
            return cli({"endpoints", "--key-file", key, address}).code == 0;
        };
        const auto moved = cli({"key", "move", address, place.path("own"), "--key-file", place.key});
        QVERIFY2(moved.code == 0, moved.err.c_str());
        QVERIFY(opens(place.path("own")) && opens(place.key));
        QCOMPARE(
            cli({"key", "move", address, place.path("another"), "--key-file", place.key, "--retire"}).code,
            0);
        QVERIFY(opens(place.path("own")) && opens(place.path("another")) && !opens(place.key));
        // Taking a file away takes the key back, without a word to the agent.
        const QDir pairs(place.path("pairs"));
        const QStringList files = pairs.entryList({"*.key"}, QDir::Files);
        QCOMPARE(files.size(), 2);
        for (const QString& file : files)
            QVERIFY(contents(pairs.filePath(file)).contains("for: ") && QFile::remove(pairs.filePath(file)));
        QTRY_VERIFY_WITH_TIMEOUT(!opens(place.path("own")) && !opens(place.path("another")), 5000);
        // One that may only take part: no facts, but runs.
        const QString part = place.path("part");
        QCOMPARE(cli({"key", "new", "--take-part", part}).code, 0);
        const Served other("metrodos-agent",
                           {"--listen", "127.0.0.1:0", "--key-file", part, "--pairs", place.path("p2")});
        const QString there = QString("127.0.0.1:%1").arg(other.ready.value("port", 0));
        const auto facts = cli({"endpoints", "--key-file", part, there});
        QVERIFY(facts.code == 1 && facts.err.find("take part in runs only") != std::string::npos);
        QCOMPARE(cli({"measure", "--from", "here", "--to", there, "--key-file", part, "--seconds", "1"}).code,
                 0);
    }
    // By systemd's own measure, where it is installed: 0 is nothing left to take away, 10 everything.
    void itsUnitIsShutIn() {
        const QString analyze = QStandardPaths::findExecutable("systemd-analyze");
        if (analyze.isEmpty()) QSKIP("needs systemd-analyze");
        const auto out =
            run(analyze, {"security", "--offline=true", "--no-pager",
                          QString::fromStdString(sourcePath("packaging/metrodos-agent.service"))});
        const auto level =
            QRegularExpression("exposure level for [^:]*: ([0-9.]+)").match(QString::fromStdString(out.out));
        QVERIFY2(level.hasMatch(), (out.out + out.err).c_str());
        QVERIFY2(level.captured(1).toDouble() <= 1.5, qPrintable(level.captured(0)));
    }
};

QTEST_GUILESS_MAIN(TestAgent)
#include "test_agent.moc"
