// The simulated endpoints against the kernel's own TCP over the packet-level medium: what the fluid model of
// TCP says must be what real connections do.
#include "benchmark/statistics.h"
#include "standin/flow_model.h"
#include "support/programs.h"
#include "support/withheld.h"

#include <QTest>
#include <cmath>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

struct Medium {
    double mbps = 50; ///< of IP packets
    double oneWayMs = 2;
    double queueBytes = 64e3;
    bool halfDuplex = false;
    double window = 0; ///< bytes; 0: as the kernel sizes it
};

QString words(const Medium& m) {
    return QString("rate=%1 delay=%2 queue=%3%4")
        .arg(m.mbps * 1e6)
        .arg(m.oneWayMs * 1e-3)
        .arg(m.queueBytes)
        .arg(m.halfDuplex ? " half" : "");
}

/// What the fluid model makes of it: goodput after the ramp-up and the median loaded delay.
struct Figures {
    double bps = 0;
    double rttUs = 0;
};

Figures modelled(const Medium& m, int streams, double idleUs) {
    standin::RouteTruth truth;
    // Acknowledgements, one for two segments, take their share where both directions have one total.
    const double share = m.halfDuplex ? 1 / (1 + 52.0 / 3000) : 1;
    truth.elements = {{m.mbps * 1e6 * 1448 / 1500 * share, 0, "medium"}};
    truth.rttUs = idleUs;
    truth.windowBytes = m.window > 0 ? m.window : 3e6;
    truth.queueBytes = m.queueBytes;
    truth.senderCpuBps = truth.receiverCpuBps = 1e11;
    benchmark::RunConfig config;
    config.streams = streams;
    config.seconds = 8;
    standin::FlowModel model(truth, config, 1);
    std::vector<double> rates;
    std::vector<double> delays;
    for (int i = 0; i < 80; ++i) {
        const auto tenth = model.next();
        if (i < 20) continue;
        rates.push_back(tenth.goodputBps);
        delays.push_back(tenth.rttUs);
    }
    return {benchmark::mean(rates), benchmark::quantile(delays, 0.5)};
}

struct Measured {
    Figures figures;
    double idleUs = 0;
};

} // namespace

class TestMedium : public QObject {
    Q_OBJECT

    // Nothing: this machine has no such devices.
    std::optional<Measured> measured(const Medium& m, int streams) {
        QStringList arguments{words(m),       programs(), "--streams", QString::number(streams),
                              "--seconds",    "8",        "--warmup",  "2",
                              "--congestion", "cubic",    "--json"};
        if (m.window > 0) arguments << "--window" << QString("%1").arg(m.window, 0, 'f', 0);
        const auto out = run(script("wire"), arguments);
        if (out.code == 77) return std::nullopt;
        if (out.code != 0) qWarning("%s", out.err.c_str());
        const auto r = out.json().at("runs").at(0);
        return Measured{{r.at("goodput_bps").get<double>(), r.at("rtt_loaded_us").at("p50").get<double>()},
                        r.at("rtt_idle_us").at("p50").get<double>()};
    }

  private slots:
    void theModelIsWhatTheKernelDoes_data() {
        QTest::addColumn<double>("mbps");
        QTest::addColumn<double>("oneWayMs");
        QTest::addColumn<double>("queue");
        QTest::addColumn<bool>("half");
        QTest::addColumn<int>("streams");
        for (const int streams : {1, 4}) {
            QTest::addRow("50 Mbit/s, 2 ms, %d", streams) << 50.0 << 2.0 << 64e3 << false << streams;
            QTest::addRow("20 Mbit/s, 4 ms, %d", streams) << 20.0 << 4.0 << 64e3 << false << streams;
            QTest::addRow("half-duplex, %d", streams) << 50.0 << 2.0 << 64e3 << true << streams;
        }
    }
    void theModelIsWhatTheKernelDoes() {
        QFETCH(double, mbps);
        QFETCH(double, oneWayMs);
        QFETCH(double, queue);
        QFETCH(bool, half);
        QFETCH(int, streams);
        const Medium m{mbps, oneWayMs, queue, half, 0};
        double rate = 0;
        double delay = 0;
        // The wire is a program: where the processors are withheld for long it cannot keep its times.
        Attempts attempts(4);
        while (attempts.next()) {
            const auto real = measured(m, streams);
            if (!real) QSKIP("This machine has no TUN devices or lets no one make namespaces.");
            const Figures model = modelled(m, streams, real->idleUs);
            rate = real->figures.bps / model.bps;
            delay = real->figures.rttUs / model.rttUs;
            qInfo("goodput %.2f Mbit/s, model %.2f (%.3f); loaded delay %.1f ms, model %.1f (%.2f); idle "
                  "%.2f ms",
                  real->figures.bps / 1e6, model.bps / 1e6, rate, real->figures.rttUs / 1e3,
                  model.rttUs / 1e3, delay, real->idleUs / 1e3);
            if (std::fabs(rate - 1) <= 0.05 && std::fabs(delay - 1) <= 0.2) return;
        }
        if (attempts.allDisturbed()) QSKIP(disturbed);
        QVERIFY2(std::fabs(rate - 1) <= 0.05, qPrintable(QString("goodput is %1 of the model's").arg(rate)));
        QVERIFY2(std::fabs(delay - 1) <= 0.2, qPrintable(QString("delay is %1 of the model's").arg(delay)));
    }
    // A window that is small against rate × delay holds one stream back and not four, in both.
    void severalStreamsHelpInBoth() {
        Medium m{50, 10, 128e3, false, 64e3};
        const auto one = measured(m, 1);
        if (!one) QSKIP("This machine has no TUN devices or lets no one make namespaces.");
        const auto four = measured(m, 4);
        QVERIFY(four.has_value());
        qInfo("one stream %.1f Mbit/s, four %.1f", one->figures.bps / 1e6, four->figures.bps / 1e6);
        QVERIFY(four->figures.bps > 1.5 * one->figures.bps);
        QVERIFY(modelled(m, 4, four->idleUs).bps > 1.5 * modelled(m, 1, one->idleUs).bps);
    }
};

QTEST_GUILESS_MAIN(TestMedium)
#include "test_medium.moc"
