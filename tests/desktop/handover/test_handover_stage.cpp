// The stage Hand over in the real window: the client's record and the technician's page, arranged and saved.
#include "desktop/handover/handover_view.h"
#include "job/record_digest.h"
#include "support/runs.h"
#include "support/tested_window.h"

#include <QFile>
#include <QLineEdit>
#include <QListWidget>
#include <QTextBrowser>

using namespace metrodos;
using namespace metrodos::desktop;
using testing::TestedWindow;

namespace {

struct HandoverWindow : TestedWindow {
    HandoverWindow() {
        job::Document d{testing::demoHouse(), {}};
        int n = 0;
        for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward})
            for (int i = 0; i < 3; ++i) {
                benchmark::Run run =
                    testing::steadyRun(direction, 50 + i, 4, 0.05, "run-" + std::to_string(++n));
                d.runs.push_back({"workshop-loft", run});
            }
        file = folder.filePath("house.metrodos").toStdString();
        (void)job::Store::create(file, d).value();
        open(Stage::handover);
        ready();
    }
    void ready() {
        QTRY_VERIFY_WITH_TIMEOUT(window.isSettled(), 20'000);
        QCoreApplication::processEvents();
    }
    [[nodiscard]] QListWidget* chapters() { return child<QListWidget>("handover-chapters"); }
    [[nodiscard]] QString preview() { return child<QTextBrowser>("handover-preview")->toPlainText(); }
    [[nodiscard]] QString line() { return child<QLabel>("status")->text(); }
    [[nodiscard]] QString saved(const char* name) {
        const QString path = folder.filePath(QLatin1String(name));
        child<HandoverView>("handover")->saveTo(path);
        QFile f(path);
        return f.open(QIODevice::ReadOnly) ? QString::fromUtf8(f.readAll()) : QString();
    }
    bool choose(const QString& title) {
        for (int row = 0; row < chapters()->count(); ++row)
            if (chapters()->item(row)->text().startsWith(title)) {
                chapters()->setCurrentRow(row);
                return true;
            }
        return false;
    }
};

} // namespace

class TestHandoverStage : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void theRecordIsShownAsItIsSaved() {
        HandoverWindow w;
        QVERIFY2(w.line().contains("chapters; X saves the page"), qPrintable(w.line()));
        QVERIFY(w.chapters()->hasFocus());
        for (const char* text : {"Quarry House", "What was wanted", "Workshop to loft", "When it gets slow"})
            QVERIFY2(w.preview().contains(text), text);
        w.picture("handover");
        const QString html = w.saved("record.html");
        QVERIFY(html.startsWith("<!DOCTYPE html>"));
        QVERIFY2(w.line().contains("record.html"), qPrintable(w.line()));
        // Whoever checks it against the job finds the same records.
        const auto job = job::readJob(w.file).value();
        QVERIFY(html.contains(QString::fromStdString(job::recordDigest(job))));
        QVERIFY(w.saved("record.md").startsWith("# Quarry House"));
        w.child<HandoverView>("handover")->saveTo("/no/such/folder/a.html");
        QVERIFY2(w.line().startsWith("Not done: "), qPrintable(w.line()));
    }
    // Space leaves a chapter out, Alt and an arrow move it, E notes; all of it is the job's, and can be
    // undone.
    void chaptersAreArrangedByKeyboard() {
        HandoverWindow w;
        const int all = w.chapters()->count();
        QVERIFY(w.choose("Where keys are kept"));
        QTest::keyClick(w.chapters(), Qt::Key_Space);
        w.ready();
        QVERIFY(!w.preview().contains("envelope in the meter cupboard"));
        QCOMPARE(w.chapters()->count(), all); // it can be taken in again
        QVERIFY2(w.line().startsWith(QString::number(all - 1) + " of "), qPrintable(w.line()));
        QVERIFY(!w.saved("a.html").contains("envelope in the meter cupboard"));
        QVERIFY(w.choose("When it gets slow"));
        const int row = w.chapters()->currentRow();
        QTest::keyClick(w.chapters(), Qt::Key_Up, Qt::AltModifier);
        w.ready();
        QVERIFY(w.chapters()->item(row - 1)->text().startsWith("When it gets slow"));
        QCOMPARE(w.chapters()->currentRow(), row - 1);
        QTest::keyClick(w.chapters(), Qt::Key_E);
        auto* note = w.child<QLineEdit>("handover-note");
        QVERIFY(note->hasFocus());
        QTest::keyClicks(note, "Ring us before you pull anything.");
        QTest::keyClick(note, Qt::Key_Return);
        w.ready();
        QVERIFY(w.chapters()->hasFocus());
        QVERIFY(w.preview().contains("Ring us before you pull anything."));
        const house::House kept = w.TestedWindow::saved();
        QVERIFY(std::any_of(kept.chapters.begin(), kept.chapters.end(), [](const house::ChapterChoice& c) {
            return c.id == "slow" && c.note == "Ring us before you pull anything." && !c.isLeftOut;
        }));
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        w.ready();
        QVERIFY(!w.preview().contains("Ring us before you pull anything."));
        QVERIFY(w.choose("Where keys are kept"));
        QTest::keyClick(w.chapters(), Qt::Key_Space);
        w.ready();
        QVERIFY(w.preview().contains("envelope in the meter cupboard"));
    }
    void theTechnicianHasAPageOfHisOwn() {
        HandoverWindow w;
        w.child<QComboBox>("handover-reader")->setCurrentIndex(1);
        w.ready();
        QVERIFY(w.preview().contains("All runs") && w.preview().contains("front USB socket"));
        QVERIFY(!w.preview().contains("When it gets slow"));
        auto* firm = w.child<QLineEdit>("handover-firm");
        firm->setText("Hedgerow <b>Networks</b>");
        Q_EMIT firm->editingFinished();
        w.ready();
        QVERIFY(w.saved("t.html").contains("Hedgerow &lt;b&gt;Networks&lt;/b&gt;"));
        QVERIFY(w.preview().contains("Hedgerow <b>Networks</b>"));
    }
    void allLeftOutIsNoDocument() {
        HandoverWindow w;
        for (int row = 0; row < w.chapters()->count(); ++row) {
            w.chapters()->setCurrentRow(row);
            QTest::keyClick(w.chapters(), Qt::Key_Space);
            w.ready();
        }
        w.child<HandoverView>("handover")->saveTo(w.folder.filePath("none.html"));
        QVERIFY2(w.line().contains("every chapter is left out"), qPrintable(w.line()));
        QVERIFY(!QFile::exists(w.folder.filePath("none.html")));
    }
};

QTEST_MAIN(TestHandoverStage)
#include "test_handover_stage.moc"
