// A file from agent to agent over loopback: figures that fit together, what is refused, and nothing left
// behind.
#include "probe/transfer.h"
#include "support/agents.h"

#include <QDir>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <nlohmann/json.hpp>
#include <sys/resource.h>

using namespace metrodos;
using namespace metrodos::probe;
using benchmark::TransferSink;
using benchmark::TransferSource;
using testing::LoopbackAgent;

namespace {

constexpr std::uint64_t small = 20'000'000;

bool isEmpty(const QTemporaryDir& folder) {
    return QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).isEmpty();
}

struct Ends {
    QTemporaryDir fromFolder;
    QTemporaryDir toFolder;
    LoopbackAgent fromAgent;
    LoopbackAgent toAgent;
    Ends()
        : fromAgent("Store", fromFolder.path().toStdString())
        , toAgent("Desk", toFolder.path().toStdString()) {}
    [[nodiscard]] EndpointLink from() const {
        return EndpointLink::connect(fromAgent.address, fromAgent.key).value();
    }
    [[nodiscard]] EndpointLink to() const {
        return EndpointLink::connect(toAgent.address, toAgent.key).value();
    }
};

} // namespace

class TestTransfer : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void eachPartIsTimedByItself() {
        const Ends ends;
        for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward}) {
            auto from = ends.from();
            auto to = ends.to();
            double last = -1;
            int told = 0;
            const auto report =
                transfer(from, to, {small, direction},
                         [&](const benchmark::TransferPass&, const benchmark::TransferReport&, double done) {
                             [&] { QVERIFY(done >= last - 1e-9 && done <= 1); }();
                             last = done;
                             ++told;
                         },
                         {});
            QVERIFY2(report.has_value(), report ? "" : report.error().sentence().c_str());
            QVERIFY(told >= 5);
            const bool isForward = direction == benchmark::Direction::forward;
            QCOMPARE(report->from, std::string(isForward ? "Store" : "Desk"));
            QCOMPARE(report->passes.size(), std::size_t(5));
            for (const benchmark::TransferPass& p : report->passes) {
                QVERIFY(p.seconds > 0 && p.syncSeconds >= 0 && p.syncSeconds <= p.seconds);
                // What is sent from memory goes a piece beyond its bound.
                QVERIFY(p.rate.bps() * p.seconds / 8 >= small * (1 - 1e-9));
                QVERIFY(p.rate.bps() * p.seconds / 8 <= small + 1e6);
                QCOMPARE(p.cachedAtStart.has_value(), p.source != TransferSource::memory);
                if (p.source == TransferSource::warmDisk) QVERIFY(*p.cachedAtStart > 0.9);
                if (p.sink == TransferSink::memory) QCOMPARE(p.syncSeconds, 0.0);
            }
        }
        // The session lets go of its file; the agent needs a moment to notice that it has ended.
        QTRY_VERIFY_WITH_TIMEOUT(isEmpty(ends.fromFolder) && isEmpty(ends.toFolder), 5000);
    }
    // What arrives in the file is what was sent: watched while it lies there.
    void theBytesAreThose() {
        const Ends ends;
        auto from = ends.from();
        auto to = ends.to();
        QVERIFY(from.ask(toJson(FileOrder{small, true}), "file-made", std::chrono::seconds(20)).has_value());
        benchmark::RunConfig config;
        config.streams = 1;
        config.maxBytes = small;
        config.seconds = 30;
        const auto names = [](const QTemporaryDir& folder) {
            return QDir(folder.path()).entryList(QDir::Files);
        };
        const auto read = [&](const QTemporaryDir& folder) {
            QFile file(folder.filePath(names(folder).value(0)));
            return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
        };
        QByteArray arrived;
        std::jthread watch([&](const std::stop_token& stop) {
            while (!stop.stop_requested() && arrived.size() != small) {
                if (!names(ends.toFolder).isEmpty()) arrived = read(ends.toFolder);
                std::this_thread::yield();
            }
        });
        const QByteArray sent = read(ends.fromFolder);
        const auto done = conductFile(from, to, config, {true, true}, {}, {});
        watch.request_stop();
        watch.join();
        QVERIFY2(done.has_value(), done ? "" : done.error().sentence().c_str());
        QCOMPARE(done->received, small);
        QVERIFY(done->syncSeconds.has_value());
        QCOMPARE(sent.size(), qsizetype(small));
        QVERIFY(sent.left(1'000'000) != sent.mid(1'048'576, 1'000'000)); // no two pieces alike
        if (arrived.size() == small) QVERIFY(arrived == sent);
    }
    void whoHasNoFolderIsASentence() {
        const QTemporaryDir folder;
        const LoopbackAgent with("Store", folder.path().toStdString());
        const LoopbackAgent without("Desk");
        for (const bool sends : {true, false}) {
            auto from =
                EndpointLink::connect(sends ? without.address : with.address, sends ? without.key : with.key)
                    .value();
            auto to =
                EndpointLink::connect(sends ? with.address : without.address, sends ? with.key : without.key)
                    .value();
            const auto report = transfer(from, to, {small, benchmark::Direction::forward}, {}, {});
            QVERIFY(!report);
            QVERIFY2(report.error().sentence().find("--folder") != std::string::npos,
                     report.error().sentence().c_str());
        }
        auto from = EndpointLink::connect(with.address, with.key).value();
        auto to = EndpointLink::here("here", {}, folder.path().toStdString()).value();
        QVERIFY(!transfer(from, to, {999'999, benchmark::Direction::forward}, {}, {}));
        QVERIFY(transfer(from, to, {1'000'000, benchmark::Direction::forward}, {}, {}).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(isEmpty(folder), 5000);
    }
    void aStopIsHeardAtOnce() {
        const Ends ends;
        auto from = ends.from();
        auto to = ends.to();
        std::stop_source stop;
        QElapsedTimer timer;
        const auto report = transfer(
            from, to, {200'000'000, benchmark::Direction::forward},
            [&](const benchmark::TransferPass& pass, const benchmark::TransferReport&, double) {
                if (pass.source != TransferSource::memory && !stop.stop_requested()) {
                    timer.start();
                    stop.request_stop();
                }
            },
            stop.get_token());
        QVERIFY(!report && report.error().sentence().find("stopped") != std::string::npos);
        QVERIFY2(timer.elapsed() < 1000, qPrintable(QString::number(timer.elapsed())));
        QTRY_VERIFY_WITH_TIMEOUT(isEmpty(ends.fromFolder) && isEmpty(ends.toFolder), 10'000);
    }
    // A disk that takes no more ends the run at once, and the sender does not wait for it.
    void aFullDiskEndsTheRun() {
        const Ends ends;
        auto from = ends.from();
        auto to = ends.to();
        rlimit before{};
        QCOMPARE(::getrlimit(RLIMIT_FSIZE, &before), 0);
        (void)::signal(SIGXFSZ, SIG_IGN);
        const rlimit little{5'000'000, before.rlim_max};
        QCOMPARE(::setrlimit(RLIMIT_FSIZE, &little), 0);
        benchmark::RunConfig config;
        config.streams = 1;
        config.maxBytes = 200'000'000;
        config.seconds = 30;
        QElapsedTimer timer;
        timer.start();
        const auto done = conductFile(from, to, config, {false, true}, {}, {});
        const auto elapsed = timer.elapsed();
        (void)::setrlimit(RLIMIT_FSIZE, &before);
        QVERIFY2(elapsed < 10'000, qPrintable(QString::number(elapsed)));
        QVERIFY(!done || (!done->syncSeconds && done->received < config.maxBytes));
    }
    // Whoever may only take part has no file written, neither by the order nor by a run.
    void whoOnlyTakesPartWritesNothing() {
        const QTemporaryDir folder;
        AgentSettings settings{"127.0.0.1:0", "Store", ringOf(Key::generate()), {}};
        const auto keys = AgentKeys::open({"", folder.filePath("keys").toStdString()}).value();
        const Key guest = keys->grant(Right::takePart, "guest").value();
        settings.kept = keys;
        settings.keys = keys->ring();
        QDir().mkpath(folder.filePath("files"));
        const auto agent =
            Agent::start(settings, [&](const PeerFilter& filter) {
                return makePerformer("Store", filter, false, folder.filePath("files").toStdString());
            }).value();
        auto link = EndpointLink::connect(agent->address().text(), guest).value();
        const auto file = link.ask(toJson(FileOrder{small, true}), "file-made", std::chrono::seconds(5));
        QVERIFY(!file && file.error().sentence().find("take part") != std::string::npos);
        RunTask task;
        task.run = "a";
        task.role = Role::receive;
        task.config.streams = 1;
        task.config.maxBytes = small;
        task.onDisk = true;
        nlohmann::json prepare = toJson(task);
        prepare["type"] = "prepare";
        const auto prepared = link.ask(prepare, "prepared", std::chrono::seconds(5));
        QVERIFY(!prepared && prepared.error().sentence().find("no file written") != std::string::npos);
        QVERIFY(QDir(folder.filePath("files")).entryList(QDir::Files | QDir::Hidden).isEmpty());
    }
    void ordersAreBounded() {
        nlohmann::json order = toJson(FileOrder{small, false});
        QVERIFY(!readFileOrder(order)->isCold);
        for (const double bytes : {0.0, 999'999.0, 1.1e12, -1.0}) {
            order["bytes"] = bytes;
            QVERIFY(!readFileOrder(order));
        }
        RunTask task;
        task.run = "a";
        task.onDisk = true;
        task.config.streams = 1;
        task.config.maxBytes = small;
        QVERIFY(readTask(toJson(task))->onDisk);
        task.config.streams = 2;
        QVERIFY(!readTask(toJson(task)));
        task.config.streams = 1;
        task.config.maxBytes = 0;
        QVERIFY(!readTask(toJson(task)));
    }
};

QTEST_GUILESS_MAIN(TestTransfer)
#include "test_transfer.moc"
