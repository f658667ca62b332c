// Files copied here and sent to another machine: disk by disk, part by part.
#include "probe/file_copy.h"
#include "probe/file_load.h"
#include "probe/scratch_file.h"
#include "probe/transfer.h"
#include "support/agents.h"

#include <QDir>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTest>
#include <atomic>
#include <csignal>
#include <nlohmann/json.hpp>
#include <sys/resource.h>
#include <thread>
#include <unistd.h>

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
    // Also where the connection is full already: no further byte would come that could be refused.
    void aSenderThatWaitsForAFullDiskIsReset() {
        const QTemporaryDir folder;
        auto file =
            std::make_shared<ScratchFile>(ScratchFile::make(folder.path().toStdString(), small).value());
        const Fd listener = listenOn(resolve("127.0.0.1:0").value()).value();
        const Fd out = connectTo(localAddress(listener.get()), std::chrono::seconds(2)).value();
        Fd in(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
        const std::vector<char> bytes(1'000'000, 'x');
        const auto write = [&] {
            return ::send(out.get(), bytes.data(), bytes.size(), MSG_DONTWAIT | MSG_NOSIGNAL);
        };
        while (write() > 0 || QTest::qWaitFor([&] { return write() > 0; }, 300)) {
        }
        rlimit before{};
        QCOMPARE(::getrlimit(RLIMIT_FSIZE, &before), 0);
        (void)::signal(SIGXFSZ, SIG_IGN);
        const rlimit none{0, before.rlim_max};
        QCOMPARE(::setrlimit(RLIMIT_FSIZE, &none), 0);
        FileLoad receiver(std::move(in), file, false, small);
        receiver.start();
        const bool ended = QTest::qWaitFor([&] { return receiver.ended(); }, 2000);
        (void)::setrlimit(RLIMIT_FSIZE, &before);
        QVERIFY(ended && !receiver.syncSeconds());
        QVERIFY(QTest::qWaitFor([&] { return write() < 0 && errno != EAGAIN; }, 2000));
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
    void theFiguresFitTogether() {
        const QTemporaryDir folder;
        // A whole number of pieces of 2^20 bytes would be more than was asked for.
        std::atomic<qint64> largest{0};
        std::jthread looker([&](const std::stop_token& stop) {
            while (!stop.stop_requested()) {
                for (const QFileInfo& f : QDir(folder.path()).entryInfoList(QDir::Files | QDir::Hidden))
                    largest = std::max(largest.load(), f.size());
                std::this_thread::sleep_for(std::chrono::milliseconds(1));
            }
        });
        std::vector<double> told;
        const auto done = copyFile({folder.path().toStdString(), 20'000'000}, {},
                                   [&](double share) { told.push_back(share); });
        looker.request_stop();
        looker.join();
        QCOMPARE(largest.load(), qint64(20'000'000));
        // Three times over the file, in tenths, each told when the piece that passes it is through.
        QCOMPARE(told.size(), std::size_t(30));
        for (std::size_t i = 0; i < told.size(); ++i) {
            const double due = static_cast<double>(i + 1) / 30;
            QVERIFY2(told[i] >= due - 1e-9 && told[i] < due + 0.02, qPrintable(QString::number(told[i])));
        }
        QCOMPARE(told.back(), 1.0);
        QVERIFY2(done.has_value(), done ? "" : done.error().sentence().c_str());
        std::vector<const benchmark::CopyPass*> passes{&done->write, &done->warm};
        if (done->cold) passes.push_back(&*done->cold);
        for (const benchmark::CopyPass* pass : passes) {
            QVERIFY(pass->seconds > 0);
            QVERIFY(std::fabs(pass->rate.bps() * pass->seconds / 160e6 - 1) < 1e-6);
            QCOMPARE(pass->bpsByTenth.size(), std::size_t(10));
        }
        // Read once, it is in memory.
        QVERIFY(done->warm.cachedAtStart && *done->warm.cachedAtStart > 0.9);
        // A read that found a twentieth or more in memory was not cold.
        QVERIFY(!done->cold || (done->cold->cachedAtStart && *done->cold->cachedAtStart < 0.05));
        QVERIFY(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
    }
    void theShareInMemoryCountsTheLastPage() {
        const QTemporaryDir folder;
        const auto file = ScratchFile::make(folder.path().toStdString(), smallestFile);
        QVERIFY2(file.has_value(), file ? "" : file.error().sentence().c_str());
        const auto page = static_cast<std::size_t>(::sysconf(_SC_PAGESIZE));
        const std::string bytes(page + 1, 'x'); // two pages, both just written
        QCOMPARE(::pwrite(file->fd(), bytes.data(), bytes.size(), 0), static_cast<ssize_t>(bytes.size()));
        const auto share = file->cachedShare(bytes.size());
        QVERIFY(share.has_value());
        QCOMPARE(*share, 1.0);
    }
    void aCopyIsEvidenceLikeRuns() {
        benchmark::CopyReport copy;
        copy.write.rate = quantity::BitRate::megabits(400);
        copy.write.seconds = 2;
        copy.write.bpsByTenth.assign(10, 400e6);
        copy.write.bpsByTenth[9] = 200e6;
        copy.cold = copy.write;
        copy.cold->rate = quantity::BitRate::megabits(800);
        const auto runs = copyRuns(copy, false);
        QCOMPARE(runs.size(), std::size_t(2));
        QVERIFY(runs[0].config.direction == benchmark::Direction::backward); // writing goes away from `to`
        QVERIFY(runs[1].config.direction == benchmark::Direction::forward);
        QCOMPARE(runs[0].goodput.bps(), 400e6);
        QCOMPARE(runs[0].samples.size(), std::size_t(10));
        QVERIFY(std::fabs(runs[0].samples.back().t - 2) < 1e-9);
        // The slow tenth took twice as long.
        QVERIFY(std::fabs(runs[0].samples[9].t - runs[0].samples[8].t - 2 * runs[0].samples[0].t) < 1e-9);
        copy.cold.reset();
        QCOMPARE(copyRuns(copy, true).size(), std::size_t(1));
    }
    void aStopLeavesNothing() {
        const QTemporaryDir folder;
        std::stop_source stop;
        stop.request_stop();
        const auto done = copyFile({folder.path().toStdString(), 5'000'000}, stop.get_token());
        QVERIFY(!done && done.error().sentence().find("stopped") != std::string::npos);
        QVERIFY(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
    }
    void whatCannotBeIsASentence() {
        const QTemporaryDir folder;
        QVERIFY(copyFile({"/nosuch/folder", 5'000'000}, {}).error().sentence().find("mount it") !=
                std::string::npos);
        QVERIFY(copyFile({folder.path().toStdString(), 5}, {}).error().sentence().find("1 MB") !=
                std::string::npos);
        QVERIFY(
            copyFile({folder.path().toStdString(), 900'000'000'000}, {}).error().sentence().find("room") !=
            std::string::npos);
        QVERIFY(!copyFile({"/proc", 5'000'000}, {}));
    }
};

QTEST_GUILESS_MAIN(TestTransfer)
#include "test_transfer.moc"
