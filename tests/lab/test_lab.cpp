// Real kernel links of a known rate: the goodput must be what framing leaves of it.
#include "benchmark/rate_steps.h"
#include "benchmark/run_json.h"
#include "support/programs.h"
#include "support/withheld.h"

#include <QTest>
#include <cmath>

using namespace metrodos::testing;

#define QVERIFY_TOLD(told)                                                                                   \
    if ((told).isImpossible) QSKIP(qPrintable((told).why));                                                  \
    QVERIFY2((told).why.isEmpty(), qPrintable((told).why))

class TestLab : public QObject {
    Q_OBJECT

  private slots:
    void goodputIsWhatFramingLeaves_data() {
        QTest::addColumn<double>("mbps");
        QTest::addColumn<int>("streams");
        for (const double mbps : {50.0, 94.0, 300.0, 941.0})
            for (const int streams : {1, 4})
                QTest::addRow("%g Mbit/s, %d streams", mbps, streams) << mbps << streams;
    }
    void goodputIsWhatFramingLeaves() {
        QFETCH(double, mbps);
        QFETCH(int, streams);
        const double wanted = mbps * 1e6 * 1448 / 1514;
        // A link cannot be outrun, but the processors may be withheld for longer than the bucket holds.
        const Told told =
            tried(Attempts(5),
                  {QString("%1mbit").arg(mbps), programs(), "--direction", "both", "--streams",
                   QString::number(streams), "--seconds", "4", "--warmup", "1", "--json"},
                  [&](const nlohmann::json& document) {
                      QString why;
                      for (const char* direction : {"forward", "backward"}) {
                          const double ratio =
                              document.at("summary").at(direction).at("goodput_bps").get<double>() / wanted;
                          qInfo("%s: %.4f of what framing leaves", direction, ratio);
                          if (why.isEmpty()) why = offBy(ratio, 0.005);
                      }
                      return why;
                  });
        QVERIFY_TOLD(told);
        // The link's own counters saw the payload with its headers: the bytes went where they were believed
        // to go.
        const auto& first = told.document.at("runs").at(0);
        const double counted = first.at("interface").at("receiver").at("bytes").get<double>();
        QVERIFY(counted > first.at("goodput_bps").get<double>() / 8 * 4);
        QVERIFY(first.at("interface").at("sender").at("name") == "near");
        QVERIFY(first.at("rtt_loaded_us").at("p50").get<double>() >
                first.at("rtt_idle_us").at("p50").get<double>());
    }
    // A bucket of 4 ms: with a larger one a trial of seconds could outrun the link.
    void theHighestPaceWithoutLossIsTheLinks_data() { rates(); }
    void theHighestPaceWithoutLossIsTheLinks() {
        QFETCH(double, mbps);
        const double wanted = mbps * 1e6 * 1448 / 1490; // UDP, IPv4 and Ethernet take 42 bytes
        const Small bucket("search");
        const Told told = tried(Attempts(4, shortBucket),
                                {QString("%1mbit").arg(mbps), programs(), "--high",
                                 QString("%1M").arg(mbps * 1.5), "--seconds", "3", "--json"},
                                [&](const nlohmann::json& document) {
                                    const auto& found = document.at("search").at("best_bps");
                                    const double ratio = found.is_null() ? 0 : found.get<double>() / wanted;
                                    qInfo("%.4f of what the link carries", ratio);
                                    return offBy(ratio, 0.01);
                                });
        QVERIFY_TOLD(told);
    }
    // Many streams keep the queue full, each with no more in it than the kernel allows one (small queues of
    // TCP): what waits at most is the queue's 40 ms and the bucket's 4.
    void theLoadedDelayIsTheQueues_data() { rates(); }
    void theLoadedDelayIsTheQueues() {
        QFETCH(double, mbps);
        const double wanted = 44'000;
        const Small bucket("measure");
        const Told told = tried(Attempts(4, shortBucket),
                                {QString("%1mbit").arg(mbps), programs(), "--streams",
                                 mbps < 100 ? "8" : "24", "--seconds", "5", "--warmup", "1", "--json"},
                                [&](const nlohmann::json& document) {
                                    const auto& first = document.at("runs").at(0);
                                    const double delay = first.at("rtt_loaded_us").at("p95").get<double>() -
                                                         first.at("rtt_idle_us").at("p50").get<double>();
                                    qInfo("%.1f ms", delay / 1000);
                                    return offBy(delay / wanted, 0.1);
                                });
        QVERIFY_TOLD(told);
    }
    void anAgentIsFoundByItsName() {
        const auto out = run(script("named"), {programs()});
        if (out.code == 77) QSKIP(out.err.c_str());
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto found = out.json().at("endpoints");
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE(QString::fromStdString(found.at(0).at("name").get<std::string>()), QStringLiteral("Küche"));
        QCOMPARE(found.at(0).at("address").get<std::string>(), std::string("10.77.0.1:47710"));
    }
    // Frames as a system's own network manager sends and keeps them, not as this project would write them.
    void theBoxAtTheOtherEndIsReadFromTheSystemsFiles() {
        const auto out = run(script("neighbour"), {programs()});
        if (out.code == 77) QSKIP(out.err.c_str());
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto port = out.json().at("endpoints").at(0).at("ports").at(0);
        QCOMPARE(port.at("name").get<std::string>(), std::string("here"));
        QCOMPARE(port.at("neighbour").at("system").get<std::string>(), std::string("hall-switch"));
        QCOMPARE(port.at("neighbour").at("port").get<std::string>(), std::string("port7"));
    }
    void aStepOfTheRateIsFoundAtItsTime() {
        const Small bucket("measure", "4 rate=20mbit");
        // Processors that are withheld for a second are a step of their own.
        const Told told =
            tried(Attempts(3), {QStringLiteral("60mbit"), programs(), "--seconds", "8", "--json"},
                  [](const nlohmann::json& document) {
                      const auto parsed = metrodos::benchmark::runFromJson(document.at("runs").at(0));
                      if (!parsed) return QString::fromStdString(parsed.error().sentence());
                      const auto steps = metrodos::benchmark::rateSteps(*parsed);
                      if (steps.size() != 1) return QString("%1 steps").arg(steps.size());
                      // The run begins at most a second after the script: the links are opened and the idle
                      // delay is taken.
                      qInfo("at %.1f s, from %.1f to %.1f Mbit/s", steps[0].t, steps[0].before.inMegabits(),
                            steps[0].after.inMegabits());
                      if (steps[0].t <= 2.8 || steps[0].t >= 4.2)
                          return QString("a step at %1 s").arg(steps[0].t);
                      const QString before = offBy(steps[0].before.inMegabits() / (60 * 1448.0 / 1514), 0.02);
                      return before.isEmpty()
                                 ? offBy(steps[0].after.inMegabits() / (20 * 1448.0 / 1514), 0.02)
                                 : before;
                  });
        QVERIFY_TOLD(told);
    }
    void aPulledCableIsADropOutAtItsTime_data() {
        QTest::addColumn<QString>("events");
        QTest::addColumn<double>("seconds");
        QTest::addColumn<bool>("lost");
        QTest::newRow("for two seconds") << "4 down 6 up" << 2.0 << false;
        QTest::newRow("for nine seconds") << "3 down 12 up" << 9.0 << true;
    }
    void aPulledCableIsADropOutAtItsTime() {
        QFETCH(QString, events);
        QFETCH(double, seconds);
        QFETCH(bool, lost);
        const Small bucket("watch", events.toLatin1().constData());
        const double wanted = events.section(' ', 0, 0).toDouble();
        // Half a second without the processors is a drop-out as well: a hundredth of both over such a watch.
        const Told told = tried(Attempts(3, 0.005),
                                {QStringLiteral("50mbit"), programs(), "--protocol", "udp", "--for",
                                 QString("%1 s").arg(seconds + 12), "--json"},
                                [&](const nlohmann::json& document) {
                                    const int count = document.at("drop_out_count").get<int>();
                                    if (count != 1) return QString("%1 drop-outs").arg(count);
                                    const auto& found = document.at("drop_outs").at(0);
                                    const double start = found.at("start_s").get<double>();
                                    const double lasted = found.at("seconds").get<double>();
                                    qInfo("at %.1f s for %.1f s", start, lasted);
                                    if (start <= wanted - 1 || start >= wanted + 0.3)
                                        return QString("at %1 s").arg(start);
                                    // A run that broke is opened again within a try and its time-out.
                                    if (lasted <= seconds - 0.3 || lasted >= seconds + (lost ? 8 : 0.5))
                                        return QString("for %1 s").arg(lasted);
                                    return found.at("lost").is_null() == lost
                                               ? QString("lost, or not, against the facts")
                                               : QString();
                                });
        QVERIFY_TOLD(told);
    }

  private:
    // What the lab printed in the attempt that held, or why the last one did not.
    struct Told {
        nlohmann::json document;
        QString why;
        bool isImpossible = false; // not here, or not now
    };
    // Runs the lab until `holds` returns no objection to what it prints.
    template <class Holds>
    static Told tried(Attempts attempts, const QStringList& arguments, Holds holds) {
        Told told;
        do {
            if (!attempts.next()) {
                told.isImpossible = attempts.allDisturbed();
                if (told.isImpossible) told.why = QLatin1String(disturbed);
                return told;
            }
            const auto out = run(script("lab"), arguments);
            if (out.code == 77) return {{}, QString::fromStdString(out.err), true};
            told.document = out.json();
            told.why = out.code == 0 ? holds(told.document) : QString::fromStdString(out.err);
        } while (!told.why.isEmpty());
        return told;
    }
    static QString offBy(double ratio, double tolerance) {
        return std::fabs(ratio - 1) <= tolerance ? QString() : QString("%1 of what is wanted").arg(ratio);
    }
    // A bucket of 4 ms is empty after a pause that is a hundredth of a trial's half second: less is bearable
    // there.
    static constexpr double shortBucket = 0.01;
    // What the script reads besides its arguments, for as long as this lives.
    struct Small {
        explicit Small(const char* command, const char* events = "") {
            qputenv("METRODOS_LAB_EVENTS", events);
            qputenv("METRODOS_LAB_BUCKET_MS", "4");
            qputenv("METRODOS_LAB_COMMAND", command);
        }
        ~Small() {
            qunsetenv("METRODOS_LAB_BUCKET_MS");
            qunsetenv("METRODOS_LAB_COMMAND");
            qunsetenv("METRODOS_LAB_EVENTS");
        }
    };
    static void rates() {
        QTest::addColumn<double>("mbps");
        for (const double mbps : {50.0, 300.0})
            QTest::addRow("%g Mbit/s", mbps) << mbps;
    }
};

QTEST_GUILESS_MAIN(TestLab)
#include "test_lab.moc"
