// The file copy on this machine's own disk: figures that fit together, and nothing left behind.
#include "probe/file_copy.h"

#include <QDir>
#include <QTemporaryDir>
#include <QTest>

using namespace metrodos;
using namespace metrodos::probe;

class TestFileCopy : public QObject {
    Q_OBJECT

  private slots:
    void theFiguresFitTogether() {
        const QTemporaryDir folder;
        const auto done = copyFile({folder.path().toStdString(), 20'000'000}, {});
        QVERIFY2(done.has_value(), done ? "" : done.error().sentence().c_str());
        for (const CopyPass* pass : {&done->write, &done->cold, &done->warm}) {
            QVERIFY(pass->seconds > 0);
            QVERIFY(std::fabs(pass->rate.bps() * pass->seconds / 160e6 - 1) < 1e-6);
            QCOMPARE(pass->bpsByTenth.size(), std::size_t(10));
        }
        // Read once, it is in memory.
        QVERIFY(done->warm.cachedAtStart && *done->warm.cachedAtStart > 0.9);
        QVERIFY(done->cold.cachedAtStart.has_value());
        QCOMPARE(done->wasCold, *done->cold.cachedAtStart < 0.05);
        QVERIFY(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
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
