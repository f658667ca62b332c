// Weigh in the real window: needs in words, objectives, pins, the front, the price book, and a plan that
// becomes real.
#include "desktop/weigh/weigh_charts.h"
#include "desktop/weigh/weigh_tables.h"
#include "desktop/weigh/weigh_view.h"
#include "desktop/widgets/range_list.h"
#include "job/store.h"
#include "support/tested_window.h"
#include <nlohmann/json.hpp>

#include <QFileDialog>
#include <QLineEdit>
#include <QTableWidget>

using namespace metrodos;
using namespace metrodos::desktop;

namespace {

struct WeighWindow : testing::TestedWindow {
    explicit WeighWindow(const std::function<void(house::House&)>& survey = [](house::House&) {}) {
        house::House h = testing::demoHouse();
        survey(h);
        create(h);
        open(Stage::measure);
        QTest::keyClick(&window, Qt::Key_2, Qt::ControlModifier);
        settle();
    }
    QString headline() { return child<QLabel>("planHeadline")->text(); }
    RangeList* spots() { return child<RangeList>("weighSpots"); }
    RangeList* ways() { return child<RangeList>("weighWays"); }
    void choose(RangeList* list, const QString& start) {
        const QStringList texts = list->texts();
        for (int i = 0; i < texts.size(); ++i)
            if (texts[i].startsWith(start)) {
                list->setCurrent(i);
                return;
            }
        QFAIL(qPrintable(start + " is not in " + texts.join("\n")));
    }
};

} // namespace

class TestWeigh : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        testing::prepareWindows(m_home);
        qputenv("METRODOS_PRICES", m_home.filePath("prices.csv").toUtf8());
    }
    void init() { QFile::remove(m_home.filePath("prices.csv")); }

    // What works beside the window ends after the job: it has to have what it works with.
    void closingWhileItWeighsIsHarmless() {
        house::House h = testing::demoHouse();
        for (int i = 0; i < 30; ++i) // so that it takes a while
            h.spots.push_back({"more-" + std::to_string(i),
                               "More",
                               h.rooms[static_cast<std::size_t>(i) % h.rooms.size()].id,
                               "",
                               quantity::BitRate::megabits(50),
                               {}});
        for (int round = 0; round < 4; ++round) {
            testing::TestedWindow w;
            w.create(h);
            w.open(Stage::weigh);
            QTest::qWait(20 * round);
        }
    }
    // Long weighing says how long it still takes, and stops at once.
    void weighingShowsTimeLeftAndStops() {
        house::House h = testing::demoHouse();
        for (int i = 0; i < 40; ++i)
            h.spots.push_back({"more-" + std::to_string(i),
                               "More",
                               h.rooms[static_cast<std::size_t>(i) % h.rooms.size()].id,
                               "",
                               quantity::BitRate::megabits(50),
                               {}});
        testing::TestedWindow w;
        w.create(h);
        w.open(Stage::weigh);
        auto* stop = w.child<QAbstractButton>("weighStop");
        QTRY_VERIFY_WITH_TIMEOUT(stop->isVisible(), 10'000);
        auto* left = w.child<QLabel>("weighLeft");
        // Where the machine is done before, there was nothing to say.
        (void)QTest::qWaitFor([&] { return left->isVisible() || !stop->isVisible(); }, 30'000);
        if (left->isVisible()) QVERIFY2(left->text().endsWith(" s left"), qPrintable(left->text()));
        stop->click();
        QTRY_VERIFY_WITH_TIMEOUT(!stop->isVisible(), 2000);
        QVERIFY(!left->isVisible());
    }
    // C lists each class of adapter, P pins the class that is meant, and both are steps of undo by keyboard.
    void aClassIsPinned() {
        WeighWindow w;
        w.choose(w.spots(), "desk in the study");
        const qsizetype before = w.ways()->texts().size();
        w.ways()->setFocus();
        QTest::keyClick(w.ways(), Qt::Key_C);
        QVERIFY(w.child<QAbstractButton>("each-class")->isChecked());
        QVERIFY(w.ways()->texts().size() > before);
        w.picture("weigh-classes");
        const QStringList rows = w.ways()->texts();
        int row = -1;
        for (int i = 0; i < rows.size() && row < 0; ++i)
            if (rows[i].startsWith("Mains") && w.ways()->rows()[static_cast<std::size_t>(i)].forward &&
                !rows[i].contains("in the plan"))
                row = i;
        QVERIFY2(row >= 0, qPrintable(rows.join("\n")));
        const QString key = w.ways()->rows()[static_cast<std::size_t>(row)].id;
        QVERIFY(key.startsWith("mains:"));
        w.ways()->setCurrent(row);
        w.ways()->setFocus();
        QTest::keyClick(w.ways(), Qt::Key_P);
        const auto pin = [&] {
            for (const house::Spot& s : w.saved().spots)
                if (s.label == "desk in the study") return QString::fromStdString(s.pin);
            return QString();
        };
        QCOMPARE(pin(), key);
        w.settle();
        QVERIFY2(!w.ways()->texts().filter(" – pinned").isEmpty(), qPrintable(w.ways()->texts().join("\n")));
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QCOMPARE(pin(), QString());
    }
    void thePartsOfOneWayAreListed() {
        WeighWindow w;
        w.choose(w.spots(), "desk in the study");
        w.choose(w.ways(), "Mains");
        w.window.setPage(Page::parts);
        auto* of = w.child<QComboBox>("partsOf");
        QCOMPARE(of->count(), 2);
        auto* table = w.child<QTableWidget>("parts");
        const int whole = table->rowCount();
        of->setFocus();
        QTest::keyClick(of, Qt::Key_Down);
        QVERIFY2(of->currentText().contains("desk in the study"), qPrintable(of->currentText()));
        QVERIFY(table->rowCount() > 0 && table->rowCount() != whole);
        w.picture("weigh-way-parts");
        QTest::keyClick(of, Qt::Key_Up);
        QCOMPARE(table->rowCount(), whole);
    }
    void aQuoteStandsAgainstThePlan() {
        WeighWindow w;
        w.window.setPage(Page::compare);
        auto* field = w.child<QLineEdit>("quote");
        field->setFocus();
        QTest::keyClicks(field, "a lot of money");
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY2(w.status().contains("is no quote"), qPrintable(w.status()));
        QCOMPARE(field->text(), QString("a lot of money")); // nothing that was typed is lost
        field->setText("1850 for 5 runs from <b>Example</b> Cabling");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(w.saved().weighing.quote->runs, 5);
        auto* words = w.child<QLabel>("quoteWords");
        QTRY_VERIFY2(
            words->text().startsWith("The quote of <b>Example</b> Cabling is ¤ 1850 for 5 runs, ¤ 370 each."),
            qPrintable(words->text()));
        QCOMPARE(words->textFormat(), Qt::PlainText);
        w.settle();
        w.picture("weigh-quote");
        QTest::keySequence(&w.window, QKeySequence::Undo);
        QVERIFY(!w.saved().weighing.quote);
        QTRY_VERIFY(words->text().isEmpty());
    }
    void thePlanIsSaved() {
        WeighWindow w;
        const auto save = [&](const QString& name) {
            w.ways()->setFocus();
            QTest::keySequence(w.ways(), QKeySequence(Qt::CTRL | Qt::Key_E));
            auto* dialog = w.window.findChild<QFileDialog*>();
            if (dialog == nullptr) return QByteArray("no dialog");
            const QString path = w.folder.filePath(name);
            Q_EMIT dialog->fileSelected(path);
            dialog->close();
            QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
            QFile file(path);
            return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
        };
        const auto plans = nlohmann::json::parse(save("plan.json").toStdString());
        QVERIFY(plans.at("format") == "metrodos-plans");
        QVERIFY(!plans.at("plans").empty());
        QVERIFY(save("plan.html").startsWith("<!DOCTYPE html>"));
        QVERIFY(save("plan.pdf").startsWith("%PDF-"));
        QVERIFY(save("plan.md").startsWith("# "));
        QVERIFY(save("plan.txt").isEmpty());
        QVERIFY2(w.status().contains("choose .pdf, .html, .md or .json"), qPrintable(w.status()));
    }
    // Needs and what was measured stand on the bar of their own direction.
    void bothDirectionsHaveTheirMarks() {
        WeighWindow w([](house::House& h) {
            for (house::Spot& s : h.spots)
                if (s.label == "desk in the study") {
                    s.uses.clear();
                    s.needDown = quantity::BitRate::megabits(200);
                    s.needUp = quantity::BitRate::megabits(40);
                }
        });
        w.choose(w.spots(), "desk in the study");
        bool any = false;
        for (const RangeRow& row : w.ways()->rows()) {
            if (!row.forward) continue;
            any = true;
            QCOMPARE(row.need->bps(), 200e6);
            QCOMPARE(row.needBackward->bps(), 40e6);
            QVERIFY(RangeList::hasTwoBars(row));
            const QString tip = RangeList::tipOf(row);
            QVERIFY2(tip.contains("Towards the spot: ") && tip.contains("need 200 Mbit/s · 25.0 MB/s") &&
                         tip.contains("need 40.0 Mbit/s · 5.00 MB/s"),
                     qPrintable(tip));
        }
        QVERIFY(any);
        w.picture("weigh-both-needs");
    }
    void thePlanStandsAtOnce() {
        WeighWindow w;
        QVERIFY2(w.headline().startsWith("¤ "), qPrintable(w.headline()));
        QVERIFY(w.headline().contains("own work"));
        QCOMPARE(w.spots()->rows().size(), std::size_t(5)); // and the camera that the first draws from
        QVERIFY(w.spots()->texts().last().contains("(others draw from it)"));
        const auto labels = w.window.findChildren<QLabel*>("quiet");
        QVERIFY(std::any_of(labels.begin(), labels.end(), [](const QLabel* label) {
            return label->text().contains(" likely to be enough with everything in use; ") &&
                   label->text().contains("before the faults that fitting brings to light");
        }));
        QVERIFY2(w.spots()->texts().at(0).contains("likely to be enough, "),
                 qPrintable(w.spots()->texts().at(0)));
        QVERIFY(w.spots()->texts().at(0).contains("coax"));
        QVERIFY2(w.status().startsWith("Cheapest that carries every need"), qPrintable(w.status()));
        // Ruled-out ways stay, with the reason, behind the others.
        const QStringList ways = w.ways()->texts();
        // What a client asks of a way, in one line: enough, how sure, cost, time, holes.
        QVERIFY2(ways.filter("New cable, own work")
                         .value(0)
                         .contains("enough by itself, 90 % sure or more · ¤ ") &&
                     ways.filter("New cable, own work").value(0).contains("holes"),
                 qPrintable(ways.join('\n')));
        QVERIFY(!ways.filter("Mains").value(0).contains("enough"));
        QVERIFY(ways.last().contains("ruled out: "));
        QVERIFY(ways.first().contains("bit/s"));
    }
    // A watch that is kept in the job speaks for the way that it watched, also one that another program kept.
    void aWatchOfTheWayShowsInItsSteadiness() {
        WeighWindow w;
        QVERIFY(!w.ways()->texts().join(QChar(10)).contains("watched for"));
        benchmark::WatchReport watch;
        watch.head.route = "dome-loft";
        watch.head.simulated = true;
        watch.config.protocol = benchmark::Protocol::udp;
        watch.config.rate = quantity::BitRate::megabits(2);
        watch.seconds = watch.measuredSeconds = 9 * 3600;
        watch.dropOutSeconds = 360;
        watch.dropOutCount = 12;
        const auto report = job::reportOf(benchmark::toJson(watch));
        QVERIFY(report.has_value());
        QVERIFY(job::Store::open(w.file)->addReport(*report).has_value());
        QTRY_VERIFY2(w.ways()->texts().join(QChar(10)).contains("steady 99 %, watched for 9.0 h"),
                     qPrintable(w.ways()->texts().join(QChar(10))));
    }
    void anotherSchoolIsOneClick() {
        WeighWindow w;
        const QString before = w.headline();
        w.child<QAbstractButton>("objective-lasting")->click();
        QVERIFY(w.settle());
        QVERIFY(w.headline() != before);
        QCOMPARE(w.saved().weighing.objective, house::Objective::lasting);
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(w.settle());
        QCOMPARE(w.headline(), before);
    }
    void needsAreSaidInWords() {
        WeighWindow w;
        w.choose(w.spots(), "screen in the sitting room");
        auto* uses = w.child<QLineEdit>("uses");
        QCOMPARE(uses->text(), QStringLiteral("2 4K streams"));
        uses->setText("3 4K streams + 2 game consoles");
        QTest::keyClick(uses, Qt::Key_Return);
        QVERIFY(w.settle());
        QVERIFY2(w.child<QLabel>("needWords")->text().contains("290"),
                 qPrintable(w.child<QLabel>("needWords")->text()));
        QCOMPARE(w.saved().spots[3].uses.size(), std::size_t(2));
        uses->setText("3 swimming pools");
        QTest::keyClick(uses, Qt::Key_Return);
        QVERIFY2(w.status().contains("swimming pools"), qPrintable(w.status()));
        QCOMPARE(w.saved().spots[3].uses.size(), std::size_t(2)); // nothing was lost
    }
    void theOtherEndIsSaidInWords() {
        WeighWindow w;
        w.choose(w.spots(), "screen in the sitting room");
        auto* uses = w.child<QLineEdit>("uses");
        uses->setFocus();
        uses->selectAll();
        QTest::keyClicks(uses, "editing from Dome camera computer");
        QTest::keyClick(uses, Qt::Key_Return);
        QVERIFY(w.settle());
        QCOMPARE(w.saved().spots[3].uses.at(0).peer, std::string("dome-camera"));
        QCOMPARE(uses->text(), QStringLiteral("editing from the store from Dome camera computer"));
        uses->selectAll();
        QTest::keyClicks(uses, "editing from the moon");
        QTest::keyClick(uses, Qt::Key_Return);
        QVERIFY2(w.status().contains("there is no device “the moon”"), qPrintable(w.status()));
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(w.settle());
        QCOMPARE(w.saved().spots[3].uses.at(0).useClass, std::string("stream-4k"));
    }
    void aServiceThatBringsTooLittleIsTheLimit() {
        WeighWindow w([](house::House& h) { h.service->down = quantity::BitRate::megabits(40); });
        const auto said = [&](const QString& words) {
            const auto labels = w.window.findChildren<QLabel*>("quiet");
            return std::any_of(labels.begin(), labels.end(),
                               [&](QLabel* l) { return l->text().contains(words); });
        };
        // Two streams of 30 Mbit/s and four calls of 4 towards the house.
        QVERIFY(said("The service is the limit: 76.0 Mbit/s are wanted from the service at once, it brings "
                     "40.0 Mbit/s"));
        QVERIFY(said("The wiring of this plan carries all that the service can give"));
        QVERIFY(!said("carry every need"));
        QVERIFY2(w.status().contains("no wiring can bring more than the service does"),
                 qPrintable(w.status()));
        QVERIFY(w.spots()->texts().at(3).contains("the service brings less"));
    }
    void howMuchGoesOnAtOnceIsChosen() {
        WeighWindow w;
        auto* atOnce = w.child<QComboBox>("atOnce");
        QCOMPARE(atOnce->currentData().toDouble(), 0.5);
        atOnce->setFocus();
        QTest::keyClick(atOnce, Qt::Key_End);
        Q_EMIT atOnce->activated(atOnce->currentIndex());
        QVERIFY(w.settle());
        QCOMPARE(w.saved().weighing.atOnce, 1.0);
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(w.settle());
        QCOMPARE(w.saved().weighing.atOnce, 0.5);
    }
    void whatOthersDrawFromCannotBePinned() {
        WeighWindow w;
        w.choose(w.spots(), "Dome camera computer");
        QVERIFY(w.child<QLabel>("needWords")->text().startsWith("Others draw 1.60 Gbit/s"));
        QVERIFY(!w.child<QLineEdit>("uses")->isEnabled());
        w.ways()->setFocus();
        QTest::keyClick(w.ways(), Qt::Key_P);
        QVERIFY2(w.status().contains("give it a need in Walk"), qPrintable(w.status()));
    }
    void aPinHoldsWhateverThePlanThinks() {
        WeighWindow w;
        const QString before = w.headline();
        w.choose(w.spots(), "image stacking");
        w.choose(w.ways(), "New cable, contractor");
        w.ways()->setFocus();
        QTest::keyClick(w.ways(), Qt::Key_P);
        QVERIFY(w.settle());
        QVERIFY2(w.spots()->texts().at(0).contains("pinned"), qPrintable(w.spots()->texts().at(0)));
        QVERIFY(w.headline() != before);
        QCOMPARE(w.saved().spots[0].pin, std::string("new-hired"));
        w.choose(w.ways(), "New cable, contractor");
        QTest::keyClick(w.ways(), Qt::Key_P);
        QVERIFY(w.settle());
        QCOMPARE(w.headline(), before);
        w.choose(w.ways(), "Fibre");
        QTest::keyClick(w.ways(), Qt::Key_P);
        QVERIFY2(w.status().contains("ruled out"), qPrintable(w.status()));
    }
    void theStripShowsTheWayThatIsLookedAt() {
        WeighWindow w;
        w.choose(w.spots(), "image stacking");
        w.choose(w.ways(), "Mains");
        QVERIFY(w.settle());
        QVERIFY(w.headline().startsWith("¤ "));
        QTest::keyClick(&w.window, Qt::Key_4, Qt::ControlModifier);
        QVERIFY(QTest::qWaitFor([&] { return w.window.isSettled(); }, 10'000));
        QVERIFY2(w.status().contains("front USB socket"), qPrintable(w.status())); // the route is back
    }
    void anyPointOfTheFrontOpens() {
        WeighWindow w;
        w.window.setPage(Page::front);
        auto* front = w.window.findChild<FrontChart*>();
        QVERIFY(front != nullptr && front->pointCount() >= 2);
        const QString before = w.headline();
        front->setFocus();
        QTest::keyClick(front, Qt::Key_Right);
        QVERIFY(w.headline() != before);
        QTest::keyClick(front, Qt::Key_Left);
        QCOMPARE(w.headline(), before);
    }
    void twoPlansSideBySide() {
        WeighWindow w;
        w.window.setPage(Page::compare);
        QVERIFY2(w.child<QLabel>("compareWords")->text().contains("costs ¤"),
                 qPrintable(w.child<QLabel>("compareWords")->text()));
        QVERIFY(w.child<QTableWidget>("differences")->rowCount() > 0);
    }
    void thePriceBookIsKeptOutsideTheJob() {
        WeighWindow w;
        w.window.setPage(Page::prices);
        auto* table = w.child<QTableWidget>("prices");
        int labour = -1;
        for (int r = 0; r < table->rowCount(); ++r)
            if (table->item(r, 0)->data(Qt::UserRole).toString() == "labour") labour = r;
        QVERIFY(labour >= 0);
        const QString before = w.headline();
        table->item(labour, 2)->setText("200");
        QVERIFY(w.settle());
        QVERIFY(w.headline() != before);
        table->item(labour, 2)->setText("a lot");
        QVERIFY2(w.status().contains("no price"), qPrintable(w.status()));
        table->item(labour, 1)->setText("Ours");
        auto* currency = w.child<QLineEdit>("currency");
        currency->setText("Kr");
        Q_EMIT currency->editingFinished();
        QVERIFY(w.settle());
        QVERIFY2(w.headline().startsWith("Kr "), qPrintable(w.headline()));
        QFile kept(m_home.filePath("prices.csv"));
        QVERIFY(kept.open(QIODevice::ReadOnly));
        QVERIFY(kept.readAll().contains("Ours"));
        QFile jobFile(QString::fromStdString(w.file.string()));
        QVERIFY(jobFile.open(QIODevice::ReadOnly));
        QVERIFY(!jobFile.readAll().contains("Ours"));
    }
    void partsAndGrowthFollowThePlan() {
        WeighWindow w;
        w.window.setPage(Page::parts);
        QVERIFY(w.child<QTableWidget>("parts")->rowCount() > 2);
        w.window.setPage(Page::growth);
        QVERIFY(!w.window.findChild<GrowthChart*>()->words().isEmpty());
    }
    void aPlanBecomesRealAndCanBeTakenBack() {
        WeighWindow w;
        const auto before = w.saved();
        w.spots()->setFocus();
        QTest::keyClick(w.spots(), Qt::Key_Return, Qt::ControlModifier);
        QVERIFY(w.settle());
        QVERIFY2(w.status().contains("steps in Fit, and a trial in Measure"), qPrintable(w.status()));
        const auto after = w.saved();
        QVERIFY(after.devices.size() + after.connections.size() >
                before.devices.size() + before.connections.size());
        QCOMPARE(after.trials.size(), before.trials.size() + 1);
        QCOMPARE(after.weighing.plan.size(), after.spots.size());
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(w.settle());
        QVERIFY(w.saved() == before);
    }
    void withoutNeedsTheEmptyStateSaysWhatToDo() {
        WeighWindow w([](house::House& h) { h.spots.clear(); });
        QVERIFY2(w.headline().contains("Walk"), qPrintable(w.headline()));
    }

  private:
    QTemporaryDir m_home;
};

QTEST_MAIN(TestWeigh)
#include "test_weigh.moc"
