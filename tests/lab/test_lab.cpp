// Real kernel links of a known rate: the goodput must be what framing leaves of it.
#include "support/programs.h"

#include <QTest>
#include <cmath>
#include <fstream>

using namespace metrodos::testing;

namespace {

/// Processor time since the start of the machine as proc(5) counts it in /proc/stat, in ticks.
struct ProcessorTime {
    double total = 0;
    double stolen = 0; ///< taken by the host of a virtual machine while this one wanted to run
};

ProcessorTime processorTime() {
    std::ifstream stat("/proc/stat");
    std::string word;
    stat >> word;
    ProcessorTime time;
    double ticks = 0;
    for (int column = 0; column < 8 && stat >> ticks; ++column) {
        time.total += ticks;
        if (column == 7) time.stolen = ticks;
    }
    return time;
}

} // namespace

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
        nlohmann::json document;
        double worst = 1;
        // A link cannot be outrun, but the host of a virtual machine may withhold the processors for longer
        // than the bucket holds: such an attempt proves nothing and is repeated. Undisturbed ones must hold.
        double leastStolen = 1;
        for (int attempt = 0; attempt < 5 && worst > 0.01; ++attempt) {
            const ProcessorTime before = processorTime();
            const auto out =
                run(QStringLiteral(METRODOS_LAB_SCRIPT),
                    {QString("%1mbit").arg(mbps), QStringLiteral(METRODOS_BIN), "--direction", "both",
                     "--streams", QString::number(streams), "--seconds", "4", "--warmup", "1", "--json"});
            if (out.code == 77) QSKIP(out.err.c_str());
            QVERIFY2(out.code == 0, out.err.c_str());
            document = out.json();
            worst = 0;
            for (const char* direction : {"forward", "backward"}) {
                const double goodput = document.at("summary").at(direction).at("goodput_bps").get<double>();
                qInfo("%s: %.4f of what framing leaves", direction, goodput / wanted);
                worst = std::max(worst, std::fabs(goodput / wanted - 1));
            }
            const ProcessorTime after = processorTime();
            const double stolen = (after.stolen - before.stolen) / (after.total - before.total);
            qInfo("%.1f %% of the processors' time was withheld", stolen * 100);
            leastStolen = std::min(leastStolen, stolen);
        }
        if (worst > 0.01 && leastStolen > 0.05)
            QSKIP("The host withheld the processors in every attempt: no figure can be taken here now.");
        QVERIFY2(worst <= 0.01, qPrintable(QString("off by %1").arg(worst)));
        // The link's own counters saw the payload with its headers: the bytes went where they were believed
        // to go.
        const auto& first = document.at("runs").at(0);
        const double counted = first.at("interface").at("receiver").at("bytes").get<double>();
        QVERIFY(counted > first.at("goodput_bps").get<double>() / 8 * 4);
        QVERIFY(first.at("interface").at("sender").at("name") == "near");
        QVERIFY(first.at("rtt_loaded_us").at("p50").get<double>() >
                first.at("rtt_idle_us").at("p50").get<double>());
    }
};

QTEST_GUILESS_MAIN(TestLab)
#include "test_lab.moc"
