// The stage Hand over in the real window: the client's record and the technician's page, arranged and saved.
#include "desktop/handover/handover_view.h"
#include "desktop/handover/page_view.h"
#include "job/kept_document.h"
#include "job/record_digest.h"
#include "support/runs.h"
#include "support/tested_window.h"
#include "weigh/compare.h"

#include <QFile>
#include <QLineEdit>
#include <QListWidget>
#include <QPdfWriter>
#include <QSettings>
#include <QTextBrowser>
#include <poppler-qt6.h>

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
        d.reports.push_back({1, "watch", R"({"format":"metrodos-watch","version":1})"});
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
    // What stands on the pages, as one line.
    [[nodiscard]] QString preview() {
        return static_cast<PageView*>(child<QAbstractScrollArea>("handover-pages"))->text().simplified();
    }
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
        QVERIFY2(w.line().contains("pages; X saves, Ctrl+P prints"), qPrintable(w.line()));
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
    // PDF, page and text say the same; what was handed over is kept in the job, dated, and shown again.
    void whatIsHandedOverIsKept() {
        HandoverWindow w;
        auto* kept = w.child<QComboBox>("handover-kept");
        QCOMPARE(kept->count(), 1);
        QVERIFY(w.saved("record.pdf").startsWith("%PDF-"));
        QCOMPARE(kept->count(), 2);
        QVERIFY(w.line().contains("record.pdf"));
        (void)w.saved("record.html"); // the same once more
        QCOMPARE(kept->count(), 2);
        const auto job = job::readJob(w.file).value();
        const auto documents = job::keptOf(job.reports);
        QCOMPARE(documents.size(), std::size_t(1));
        QCOMPARE(documents[0].reader, std::string("client"));
        QCOMPARE(documents[0].at.size(), std::size_t(20));
        QCOMPARE(documents[0].digest, job::recordDigest(job)); // keeping it changes no record
        QVERIFY(kept->itemText(1).contains("record"));
        kept->setCurrentIndex(1);
        QVERIFY(w.child<QTextBrowser>("handover-text")->isVisible());
        QVERIFY(w.child<QTextBrowser>("handover-text")->toPlainText().contains("When it gets slow"));
        kept->setCurrentIndex(0);
        QVERIFY(!w.child<QTextBrowser>("handover-text")->isVisible());
    }
    // R goes on to the offer: a plan with its price, what is promised and what is not; its record says later
    // what became of it.
    void anOfferIsMadeAndKept() {
        HandoverWindow w;
        QTest::keyClick(w.chapters(), Qt::Key_R);
        QTest::keyClick(w.chapters(), Qt::Key_R);
        w.ready();
        QCOMPARE(w.child<QComboBox>("handover-reader")->currentText(), QStringLiteral("Offer"));
        for (const char* text : {"What is offered", "What is promised", "What is not promised", "Price",
                                 "Alternatives", "own labour", "together"})
            QVERIFY2(w.preview().contains(text), text);
        w.picture("handover-offer");
        (void)w.saved("offer.pdf");
        const auto documents = job::keptOf(job::readJob(w.file).value().reports);
        QCOMPARE(documents.size(), std::size_t(1));
        QVERIFY(documents[0].cost && !documents[0].parts.empty() && !documents[0].promises.empty());
        // The amount on the page is the one that is kept, and the sum of its lines.
        quantity::Money sum;
        for (const auto& part : documents[0].parts)
            sum = sum + part.total;
        QCOMPARE(sum.hundredths, documents[0].cost->hundredths);
        QVERIFY(w.preview().remove(' ').contains(
            QString::fromStdString(weigh::amount(documents[0].currency, *documents[0].cost)).remove(' ')));
        QTest::keyClick(w.chapters(), Qt::Key_R);
        w.ready();
        for (const char* text :
             {"Parts and cost, against the offer", "What was promised, and what was measured"})
            QVERIFY2(w.preview().contains(text), text);
    }
    // P: pseudonyms; what is in and what is not is said before anything is written, and nothing of it is
    // kept.
    void withoutNamesNobodyIsNamed() {
        HandoverWindow w;
        QTest::keyClick(w.chapters(), Qt::Key_P);
        w.ready();
        auto* said = w.child<QLabel>("handover-privacy");
        QVERIFY(said->isVisible());
        QVERIFY2(said->text().contains("In: floors") && said->text().contains("Not in: names of the house"),
                 qPrintable(said->text()));
        QVERIFY2(said->text().contains("reports without names (1 report)"), qPrintable(said->text()));
        w.picture("handover-private");
        const QString page = w.saved("p.html");
        QVERIFY(page.contains("house 1"));
        for (const char* name :
             {"Quarry House", "Stacking", "Workshop", "Dome", "bandsaw", "envelope", "192.0.2."})
            QVERIFY2(!page.contains(QLatin1String(name)), name);
        QCOMPARE(w.child<QComboBox>("handover-kept")->count(), 1);
        QTest::keyClick(w.chapters(), Qt::Key_P);
        w.ready();
        QVERIFY(!said->isVisible() && w.preview().contains("Quarry House"));
    }
    // Everything else of the job by the ending of the name.
    void everythingIsWritten() {
        HandoverWindow w;
        for (const auto& [name, begins] :
             {std::pair("job.json", "{"), std::pair("runs.csv", "run,started_at"),
              std::pair("samples.csv", "run,t_s"), std::pair("house.svg", "<?xml"),
              std::pair("house.png", ""), std::pair("all.zip", "PK")}) {
            const QString path = w.folder.filePath(QLatin1String(name));
            w.child<HandoverView>("handover")->saveTo(path);
            w.ready();
            QVERIFY2(w.line().contains(path), qPrintable(w.line()));
            QFile f(path);
            QVERIFY(f.open(QIODevice::ReadOnly));
            QVERIFY2(f.readAll().startsWith(begins), name);
        }
        QCOMPARE(QImage(w.folder.filePath("house.png")).isNull(), false);
        // The package is a job again.
        const auto back = job::readJob(w.folder.filePath("all.zip").toStdString());
        QVERIFY2(back.has_value(), back ? "" : back.error().sentence().c_str());
        QCOMPARE(job::recordDigest(*back), job::recordDigest(job::readJob(w.file).value()));
        w.child<HandoverView>("handover")->saveTo(w.folder.filePath("job.xyz"));
        w.ready();
        QVERIFY2(w.line().contains("choose .pdf"), qPrintable(w.line()));
    }
    void theFirmHasALogoAndAColour() {
        HandoverWindow w;
        auto* colour = w.child<QLineEdit>("handover-colour");
        colour->setText("red");
        Q_EMIT colour->editingFinished();
        QVERIFY2(w.line().contains("six hexadecimal digits"), qPrintable(w.line()));
        w.ready();
        QCOMPARE(colour->text(), QStringLiteral("#1d6a85"));
        // Typed only in part while something else has the pages made again.
        colour->setText("#80");
        w.child<QComboBox>("handover-paper")->setCurrentIndex(1);
        w.ready();
        QVERIFY(w.preview().contains("Quarry House"));
        colour->setText("#804020");
        Q_EMIT colour->editingFinished();
        w.ready();
        QVERIFY(w.saved("c.html").contains("--firm: #804020"));
        QImage logo(1200, 300, QImage::Format_RGB32);
        logo.fill(Qt::darkGreen);
        const QString file = w.folder.filePath("logo.jpg");
        QVERIFY(logo.save(file));
        w.child<HandoverView>("handover")->setLogo(file);
        w.ready();
        QVERIFY(w.saved("l.html").contains("<img class=\"logo\""));
        QFile none(w.folder.filePath("none.png"));
        QVERIFY(none.open(QIODevice::WriteOnly));
        none.write("no picture");
        none.close();
        w.child<HandoverView>("handover")->setLogo(none.fileName());
        QVERIFY2(w.line().contains("cannot be read"), qPrintable(w.line()));
        QSettings().remove(QStringLiteral("firm-colour"));
    }
    // On paper stands what was shown.
    void thePagesArePrinted() {
        HandoverWindow w;
        auto* pages = static_cast<PageView*>(w.child<QAbstractScrollArea>("handover-pages"));
        const QString file = w.folder.filePath("printed.pdf");
        {
            QPdfWriter printer(file);
            printer.setPageSize(QPageSize(QPageSize::A4));
            w.child<HandoverView>("handover")->printOn(printer, 60);
        }
        const auto printed = Poppler::Document::load(file);
        QVERIFY(printed != nullptr);
        QCOMPARE(printed->numPages(), pages->pages());
        QVERIFY(pages->pages() > 1);
        // To a chapter that is chosen the pages move.
        w.chapters()->setCurrentRow(0);
        const int top = pages->verticalScrollBar()->value();
        QVERIFY(w.choose("When it gets slow"));
        QVERIFY(pages->verticalScrollBar()->value() > top);
        QTest::keyClick(pages, Qt::Key_Home);
        QCOMPARE(pages->verticalScrollBar()->value(), 0);
        w.child<QComboBox>("handover-paper")->setCurrentIndex(1);
        w.ready();
        QCOMPARE(pages->paper(0), QSizeF(612, 792));
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
