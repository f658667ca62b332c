// The file copy on this machine's own disk: figures that fit together, and nothing left behind.
#include "probe/file_copy.h"
#include "probe/scratch_file.h"

#include <QDir>
#include <QTemporaryDir>
#include <QTest>
#include <atomic>
#include <thread>
#include <unistd.h>

using namespace metrodos;
using namespace metrodos::probe;

class TestFileCopy : public QObject {
    Q_OBJECT

  private slots:
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

QTEST_GUILESS_MAIN(TestFileCopy)
#include "test_file_copy.moc"
