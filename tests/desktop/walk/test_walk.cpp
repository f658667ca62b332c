// Walk in the real window: typing a house in, the section and its ways, tables, pairs, the tester.
#include "desktop/route/route_strip.h"
#include "desktop/walk/loss_view.h"
#include "desktop/walk/section_view.h"
#include "desktop/walk/survey_table.h"
#include "desktop/widgets/range_list.h"
#include "desktop/widgets/theme.h"
#include "desktop/window/main_window.h"
#include "job/store.h"
#include "probe/socket.h"
#include "support/random_house.h"
#include "support/tested_window.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAction>
#include <QApplication>
#include <QComboBox>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTabWidget>
#include <QTableView>
#include <QTemporaryDir>
#include <QTest>

using namespace metrodos;
using namespace metrodos::desktop;

namespace {

/// The window in stage Walk on a job of its own.
struct WalkWindow : testing::TestedWindow {
    explicit WalkWindow(const house::House& house) {
        create(house, QStringLiteral("walk.metrodos"));
        open(Stage::walk);
    }
    template <typename Widget>
    [[nodiscard]] Widget* on(const char* page, const char* name) {
        return child<QWidget>(page)->findChild<Widget*>(QLatin1String(name));
    }
    void type(const QString& line) {
        auto* entry = child<QLineEdit>("entry");
        entry->setFocus();
        entry->selectAll();
        QTest::keyClick(entry, Qt::Key_Delete);
        QTest::keyClicks(entry, line);
        QTest::keyClick(entry, Qt::Key_Return);
    }
    void page(Page page) { child<QTabWidget>("pages")->setCurrentIndex(tabOf(page)); }
    void kind(job::SurveyKind kind) { child<QComboBox>("kind")->setCurrentIndex(static_cast<int>(kind)); }
};

using testing::demoHouse;

house::House nothing() {
    house::House h;
    h.name = "Empty";
    return h;
}

} // namespace

class TestWalk : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void aHouseIsTypedInAndUndone() {
        WalkWindow w({});
        w.type("Hall / floor 0");
        w.type("Loft / floor 2");
        w.type("splitter / hall splitter / 3-way / rated / Hall");
        w.type("Loft / coax / from hall splitter / RG-6 / 23 m");
        QVERIFY2(w.status().contains("Loft coax 1"), qPrintable(w.status()));
        QCOMPARE(w.child<QLineEdit>("entry")->text(), QString("Loft / ")); // the room stays
        house::House h = w.saved();
        QCOMPARE(h.jacks.size(), std::size_t(1));
        QCOMPARE(h.connections[0].length->inMetres(), 23.0);
        w.child<QLineEdit>("entry")->clear();
        w.child<QWidget>("section")->setFocus();
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(w.saved().jacks.empty());
        QTest::keyClick(&w.window, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(w.saved().jacks.size(), std::size_t(1));
    }
    void whatIsNotUnderstoodIsSaidAndKept() {
        WalkWindow w({});
        w.type("Attic / coax");
        QVERIFY2(w.status().contains("enter it first"), qPrintable(w.status()));
        QCOMPARE(w.child<QLineEdit>("entry")->text(), QString("Attic / coax")); // to be corrected
        QVERIFY(w.saved().rooms.empty());
    }
    // The limiter of the demo, a USB adapter in a socket, entered by keyboard and then measured over.
    void anAdapterInASocketIsEnteredAndRoutedOver() {
        WalkWindow w(nothing());
        for (const char* line :
             {"Hall", "Loft / floor 2", "Hall / router / Box / 2.5G", "service / 900M down / 100M up",
              "Loft / workstation / Stacker / 1G", "port / Stacker / USB 2 / front socket",
              "Loft / USB network adapter, 2.5 Gbit/s / Nic / in Stacker front socket",
              "cable / Box / Nic / cat 6 / 12 m", "Hall / laptop / Lap / from Box / 2 m",
              "Loft / need / 500M down / 50M up / stacks / at Stacker"})
            w.type(QLatin1String(line));
        QVERIFY2(w.child<QLabel>("status")->text().startsWith("Entered"), qPrintable(w.status()));
        // Routes are proposed, with what is needed; Enter makes one of the first.
        w.page(Page::routes);
        auto* proposed = w.child<QListWidget>("proposed");
        QCOMPARE(proposed->count(), 3);
        QVERIFY2(proposed->item(0)->text().startsWith("Stacker to the service, needs 50.0 Mbit/s"),
                 qPrintable(proposed->item(0)->text()));
        proposed->setFocus();
        QTest::keyClick(proposed, Qt::Key_Return);
        QCOMPARE(w.saved().routes.size(), std::size_t(1));
        QCOMPARE(w.saved().routes[0].needBackward->inMegabits(), 500.0);
        QVERIFY(w.settle());
        const QString verdict = w.child<RouteStrip>("routeStrip")->verdict();
        QVERIFY2(verdict.contains("front socket"), qPrintable(verdict));
        QCOMPARE(proposed->count(), 2);
        w.click("add-proposed");
        QCOMPARE(w.saved().routes.size(), std::size_t(3));
        QVERIFY(!proposed->isVisible());
        w.child<QAction>("undo")->trigger();
        QCOMPARE(w.saved().routes.size(), std::size_t(1));
        // It is renamed and given its framing in the table, and removed with a key.
        auto* table = w.child<QTableView>("routes");
        QApplication::setActiveWindow(&w.window); // the list of the line was a window of its own
        table->setFocus();
        table->setCurrentIndex(table->model()->index(0, 0));

        QTest::keyClick(table, Qt::Key_F2);
        QTest::keyClicks(QApplication::focusWidget(), "Stacks");
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
        QTRY_COMPARE(QString::fromStdString(w.saved().routes[0].label), QString("Stacks"));
        table->setFocus();
        QTRY_VERIFY(table->currentIndex().isValid());
        QTest::keyClick(table, Qt::Key_Delete);
        QVERIFY(w.saved().routes.empty());
    }
    void aMachineGetsItsRouteToTheServiceByOneKey() {
        WalkWindow w(demoHouse());
        auto* section = w.child<SectionView>("section");
        section->setFocus();
        for (int i = 0; i < 200 && section->current() != "Stacking workstation"; ++i)
            QTest::keyClick(section, Qt::Key_Period);
        QTest::keyClick(section, Qt::Key_S);
        QCOMPARE(w.saved().routes.size(), demoHouse().routes.size() + 1);
        QCOMPARE(w.saved().routes.back().label, std::string("Loft to the service"));
        // Again finds it; of a jack no route can be made.
        QTest::keyClick(section, Qt::Key_S);
        QCOMPARE(w.saved().routes.size(), demoHouse().routes.size() + 1);
        for (int i = 0; i < 200 && section->current() != "Loft coax 1"; ++i)
            QTest::keyClick(section, Qt::Key_Period);
        QTest::keyClick(section, Qt::Key_S);
        QVERIFY2(w.child<QLabel>("status")->text().contains("only a machine"),
                 qPrintable(w.child<QLabel>("status")->text()));
    }
    // What is chosen in the section is filled in beside it.
    void theChosenThingIsEditedBesideTheSection() {
        WalkWindow w(demoHouse());
        auto* section = w.child<SectionView>("section");
        auto* panel = w.child<QWidget>("thing-panel");
        QVERIFY(!panel->isVisible());
        const auto choose = [&](const QString& label) {
            section->setFocus();
            for (int i = 0; i < 200 && section->current() != label; ++i)
                QTest::keyClick(section, Qt::Key_Period);
            QTest::keyClick(section, Qt::Key_Return);
            QCoreApplication::processEvents();
        };
        const auto field = [&](const QString& name) {
            for (auto* f : panel->findChildren<QWidget*>())
                if (f->accessibleName() == name) return f;
            qFatal("no field %s", qPrintable(name));
        };
        choose("loft splitter");
        QVERIFY(panel->isVisible());
        QCOMPARE(w.child<QLabel>("thing-title")->text(), QString("loft splitter"));
        auto* ways = qobject_cast<QLineEdit*>(field("Ways"));
        ways->setFocus();
        ways->selectAll();
        QTest::keyClicks(ways, "5");
        QTest::keyClick(ways, Qt::Key_Return);
        QCOMPARE(w.saved().coaxPart("loft-splitter")->ways, 5);
        QTRY_COMPARE(qobject_cast<QLineEdit*>(field("Ways"))->text(), QString("5"));
        // A part is no place that a way could lead to.
        QVERIFY(!w.child<QWidget>("ways-panel")->isVisible());
        choose("Mains adapter, hall");
        auto* strip = qobject_cast<QComboBox*>(field("outlet, Strip"));
        strip->setFocus();
        strip->setCurrentIndex(strip->findText("surge protected"));
        Q_EMIT strip->activated(strip->currentIndex());
        QCOMPARE(w.saved().device("mains-hall")->ports[1].strip, house::Strip::surge_protected);
        const auto says = [&](const char* text) {
            for (const QLabel* label : panel->findChildren<QLabel*>())
                if (label->text().contains(QLatin1String(text))) return true;
            return false;
        };
        QTRY_VERIFY(says("surge-protected strip shorts"));
        QTest::keyClick(section, Qt::Key_Escape);
        QTRY_VERIFY(!panel->isVisible());
        // What is taken out has no panel any more.
        choose("landing splitter");
        w.click("remove-chosen");
        QVERIFY(w.saved().coaxPart("landing-splitter") == nullptr);
        QTRY_VERIFY(!panel->isVisible());
    }
    // A strip that was noted at an outlet is reckoned with where the outlets are compared.
    void aStripAtAnOutletCountsOnTheMainsPage() {
        WalkWindow w(demoHouse());
        const auto rate = [&] {
            w.page(Page::mains);
            return w.on<RangeList>("mains-page", "pairs")->rows().front().forward->p50.bps();
        };
        const double before = rate();
        w.page(Page::things);
        w.kind(job::SurveyKind::jacks);
        auto* model = w.child<QTableView>("things")->model();
        int row = 0;
        while (row < model->rowCount() && model->index(row, 0).data().toString() != "Workshop outlet 1")
            ++row;
        int column = 0;
        while (model->headerData(column, Qt::Horizontal).toString() != "Strip")
            ++column;
        auto* from = w.on<QComboBox>("mains-page", "from");
        w.page(Page::mains);
        from->setCurrentIndex(from->findText("Workshop outlet 1"));
        Q_EMIT from->activated(from->currentIndex());
        const double wall = w.on<RangeList>("mains-page", "pairs")->rows().front().forward->p50.bps();
        QVERIFY(model->setData(model->index(row, column), "surge_protected", Qt::EditRole));
        QVERIFY(rate() < wall / 2); // 30 dB and more, where 13 dB are one bit a carrier in four
        QVERIFY(before > 0);
    }
    void linesArePastedByTheDozen() {
        WalkWindow w(nothing());
        auto* entry = w.child<QLineEdit>("entry");
        QApplication::clipboard()->setText(
            "Hall\nLoft / floor 2\nLoft / cauliflower / RG-6\nLoft / coax / RG-6\n");
        entry->setFocus();
        QTest::keySequence(entry, QKeySequence::Paste);
        QCOMPARE(w.saved().rooms.size(), std::size_t(2));
        QCOMPARE(entry->text(), QString("Loft / cauliflower / RG-6"));
        QCOMPARE(entry->selectedText(), QString("cauliflower"));
        QVERIFY2(w.child<QLabel>("status")->text().contains("1 more"),
                 qPrintable(w.child<QLabel>("status")->text()));
        QTest::keyClicks(entry, "coax"); // over the wrong field
        QCOMPARE(entry->text(), QString("Loft / coax / RG-6"));
        QTest::keyClick(entry, Qt::Key_Return); // and the rest follows
        QCOMPARE(w.saved().jacks.size(), std::size_t(2));
        // What was typed comes back.
        QTest::keyClick(entry, Qt::Key_Up);
        QCOMPARE(entry->text(), QString("Loft / coax / RG-6"));
        QTest::keyClick(entry, Qt::Key_Down);
        QVERIFY(entry->text().isEmpty());
    }
    void theEmptyLineShowsWhatFitsHere() {
        WalkWindow w(nothing());
        auto* entry = w.child<QLineEdit>("entry");
        entry->setFocus();
        QTest::keyClick(entry, Qt::Key_Down);
        QWidget* popup = QApplication::activePopupWidget();
        QVERIFY(popup != nullptr);
        auto* list = qobject_cast<QAbstractItemView*>(popup);
        QVERIFY(list->model()->index(0, 0).data().toString().startsWith("Hall"));
        QTest::keyClick(popup, Qt::Key_Down);
        QTest::keyClick(popup, Qt::Key_Return);
        QCOMPARE(entry->text(), QString("Hall"));
        QTest::keyClick(entry, Qt::Key_Return);
        QCOMPARE(w.saved().rooms.size(), std::size_t(1));
    }
    void tabTakesTheFirstOffer() {
        WalkWindow w(demoHouse());
        auto* entry = w.child<QLineEdit>("entry");
        entry->setFocus();
        QTest::keyClicks(entry, "stu");
        QTest::keyClick(entry, Qt::Key_Tab);
        QCOMPARE(entry->text(), QString("Study / "));
        QTest::keyClicks(entry, "coa");
        QTest::keyClick(entry, Qt::Key_Tab);
        QCOMPARE(entry->text(), QString("Study / coax / "));
    }
    void twoPlacesGiveTheirWaysInTheStrip() {
        WalkWindow w(demoHouse());
        auto* section = w.child<SectionView>("section");
        // Choosing places one after the other, as two clicks do.
        Q_EMIT section->placeChosen("hall");
        Q_EMIT section->placeChosen("loft");
        auto* ways = w.child<RangeList>("ways");
        QVERIFY2(ways->rows().size() >= 3, qPrintable(ways->texts().join('\n')));
        QVERIFY(ways->texts().join('\n').contains("oax"));
        for (std::size_t i = 1; i < ways->rows().size(); ++i)
            if (ways->rows()[i - 1].forward && ways->rows()[i].forward)
                QVERIFY(std::min(ways->rows()[i - 1].forward->p50, ways->rows()[i - 1].backward->p50) >=
                        std::min(ways->rows()[i].forward->p50, ways->rows()[i].backward->p50));
        const QString first = w.status();
        ways->setFocus();
        QTest::keyClick(ways, Qt::Key_Down);
        QVERIFY(w.status() != first);                   // the strip and its sentence follow
        QVERIFY(w.find<QLineEdit>("label") == nullptr); // a way is looked at, not edited
        w.window.setStage(Stage::measure);
        QVERIFY(w.status().contains("front USB socket")); // the job's own route again
    }
    void anInstalledWayBecomesARouteToMeasure() {
        WalkWindow w(demoHouse());
        w.window.showWays("study-laptop", "loft-workstation");
        auto* ways = w.child<RangeList>("ways");
        auto* keep = w.child<QAbstractButton>("keep-route");
        for (int row = 0; row < static_cast<int>(ways->rows().size()) && !keep->isEnabled(); ++row)
            ways->setCurrent(row);
        QVERIFY(keep->isEnabled());
        const auto before = w.saved().routes.size();
        QTest::mouseClick(keep, Qt::LeftButton);
        const house::House h = w.saved();
        QCOMPARE(h.routes.size(), before + 1);
        QCOMPARE(h.routes.back().from, house::Id("study-laptop-end")); // the endpoints that were there
        QCOMPARE(h.endpoints.size(), demoHouse().endpoints.size());
    }
    void theServiceTheTreeAndTheDisksAreEdited() {
        WalkWindow w(demoHouse());
        w.page(Page::things);
        auto* model = w.child<QTableView>("things")->model();
        w.kind(job::SurveyKind::service);
        QVERIFY(model->setData(model->index(0, 2), "1.2G", Qt::EditRole));
        QCOMPARE(w.saved().service->down->inMegabits(), 1200.0);
        w.kind(job::SurveyKind::coax_use);
        QVERIFY(model->setData(model->index(0, 1), "yes", Qt::EditRole));
        QVERIFY(model->setData(model->index(0, 2), "1218", Qt::EditRole));
        QCOMPARE(w.saved().coaxUse.satellite, std::optional(true));
        w.page(Page::coax); // and rules the coax out at once
        QVERIFY(w.on<RangeList>("coax-page", "pairs")->texts().join('\n').contains("ruled out"));
        w.page(Page::things);
        w.kind(job::SurveyKind::devices);
        int row = 0;
        while (model->index(row, 0).data().toString() != "Study laptop")
            ++row;
        QVERIFY(model->setData(model->index(row, 4), "hard disk", Qt::EditRole));
        QVERIFY(model->setData(model->index(row, 5), "4", Qt::EditRole));
        QVERIFY(model->setData(model->index(row, 6), "parity", Qt::EditRole));
        QCOMPARE(w.saved().device("study-laptop")->storage->layout, house::DiskLayout::parity);
        QVERIFY(!model->setData(model->index(row, 5), "99", Qt::EditRole));
        QVERIFY(!model->setData(model->index(row, 3), "switch, 1 Gbit/s ports", Qt::EditRole)); // no machine
    }
    void aClickInTheSectionChoosesARoom() {
        WalkWindow w(demoHouse());
        auto* section = w.child<SectionView>("section");
        QString chosen;
        connect(section, &SectionView::placeChosen, this, [&](const QString& id) { chosen = id; });
        for (int y = 5; y < section->height() && chosen.isEmpty(); y += 9)
            QTest::mouseClick(section, Qt::LeftButton, {}, {section->width() / 3, y});
        QVERIFY(!chosen.isEmpty());
        QTest::keyClick(section, Qt::Key_Plus);
        const double zoomed = section->scale();
        QTest::keyClick(section, Qt::Key_0);
        QVERIFY(section->scale() < zoomed);
    }
    void theSectionIsSavedAsSvgAndPng() {
        WalkWindow w(demoHouse());
        auto* section = w.child<SectionView>("section");
        QVERIFY(section->save(w.folder.filePath("s.svg")));
        QVERIFY(section->save(w.folder.filePath("s.png")));
        QVERIFY(QImage(w.folder.filePath("s.png")).width() > 400);
        QVERIFY(!section->save("/nowhere/s.png"));
        QVERIFY(!section->save("/nowhere/s.svg"));
    }
    void theSectionOfALargeHouseMovesAtSixtyPicturesASecond() {
        WalkWindow w(testing::RandomHouse(7).make({40, 60, 5}));
        auto* section = w.child<SectionView>("section");
        QImage image(section->size(), QImage::Format_RGB32);
        std::vector<double> times;
        for (int i = 0; i < 60; ++i) { // pan and zoom by keys, a picture after each
            QTest::keyClick(section, i % 3 == 0   ? Qt::Key_Plus
                                     : i % 3 == 1 ? Qt::Key_Minus
                                     : i % 2 == 0 ? Qt::Key_Left
                                                  : Qt::Key_Right);
            QElapsedTimer timer;
            timer.start();
            section->render(&image);
            times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
        }
        std::sort(times.begin(), times.end());
        qInfo("picture of the section: median %.1f ms, slowest %.1f ms", times[times.size() / 2],
              times.back());
        QVERIFY(times[times.size() / 2] < 100); // the figure belongs to the release build: tests/bench
    }
    void cellsAreEditedAndRefused() {
        WalkWindow w(demoHouse());
        w.page(Page::things);
        auto* kind = w.child<QComboBox>("kind");
        kind->setCurrentIndex(2); // runs
        auto* view = w.child<QTableView>("things");
        auto* model = view->model();
        int row = -1;
        for (int r = 0; r < model->rowCount(); ++r)
            if (model->index(r, 0).data().toString() == "duct run to the dome") row = r;
        QVERIFY(row >= 0);
        QVERIFY(model->setData(model->index(row, 5), "60 ft", Qt::EditRole));
        QVERIFY(std::fabs(w.saved().connection("dome-run")->length->inMetres() - 18.288) < 1e-6);
        QVERIFY(!model->setData(model->index(row, 5), "long", Qt::EditRole));
        QVERIFY2(w.status().contains("not a length"), qPrintable(w.status()));
        QVERIFY(model->setData(model->index(row, 5), "", Qt::EditRole)); // unknown is legal
        QVERIFY(!w.saved().connection("dome-run")->length);
        QVERIFY(model->index(row, 5).data().toString() == "–");
        for (int k = 0; k < kind->count(); ++k) { // every table can be read whole
            kind->setCurrentIndex(k);
            for (int r = 0; r < model->rowCount(); ++r)
                for (int c = 0; c < model->columnCount(); ++c)
                    (void)model->index(r, c).data();
            QVERIFY(model->rowCount() > 0);
        }
        kind->setCurrentIndex(6); // appliances
        view->setCurrentIndex(model->index(0, 0));
        const int before = model->rowCount();
        view->setFocus();
        QTest::keyClick(view, Qt::Key_Delete);
        QCOMPARE(model->rowCount(), before - 1);
    }
    void everyPairOfCoaxJacksHasItsBudget() {
        WalkWindow w(demoHouse());
        w.page(Page::coax);
        auto* pairs = w.on<RangeList>("coax-page", "pairs");
        QCOMPARE(pairs->rows().size(), std::size_t(3));
        QVERIFY(pairs->texts().join('\n').contains("Study coax 1: ruled out"));
        auto* losses = w.on<LossView>("coax-page", "losses");
        QVERIFY2(losses->text().contains("landing splitter"), qPrintable(losses->text()));
        QVERIFY(losses->text().contains("dB"));
        QVERIFY(losses->text().contains("rated for the adapters"));
        pairs->setFocus();
        QTest::keyClick(pairs, Qt::Key_Down);
        QTest::keyClick(pairs, Qt::Key_Down);
        QVERIFY2(losses->text().contains("not joined"), qPrintable(losses->text()));
    }
    void everyPairOfOutletsHasItsRateAndHours() {
        WalkWindow w(demoHouse());
        w.page(Page::mains);
        auto* pairs = w.on<RangeList>("mains-page", "pairs");
        QCOMPARE(pairs->rows().size(), std::size_t(10));
        QVERIFY(std::any_of(pairs->rows().begin(), pairs->rows().end(),
                            [](const RangeRow& r) { return r.isBest; }));
        auto* losses = w.on<LossView>("mains-page", "losses");
        QVERIFY2(losses->text().contains("wire"), qPrintable(losses->text()));
        // Changing a circuit is seen at once.
        const QString before = losses->text();
        w.page(Page::things);
        w.kind(job::SurveyKind::circuits);
        auto* model = w.child<QTableView>("things")->model();
        QVERIFY(model->setData(model->index(0, 4), "old, many joints", Qt::EditRole));
        w.page(Page::mains);
        QVERIFY(losses->text() != before);
    }
    void noCellTakesWhatMakesNoSense() {
        WalkWindow w(demoHouse());
        w.page(Page::things);
        auto* kind = w.child<QComboBox>("kind");
        auto* model = w.child<QTableView>("things")->model();
        const QStringList garbage{"",
                                  "–",
                                  "-1",
                                  "1e99",
                                  "NaN",
                                  "yes; no",
                                  "9-25",
                                  QString(300, 'x'),
                                  "Loft outlet 1 far",
                                  "\u0001\u0007",
                                  "port 1"};
        for (int k = 0; k < kind->count(); ++k) {
            kind->setCurrentIndex(k);
            for (int c = 0; c < model->columnCount(); ++c) {
                const QModelIndex cell = model->index(0, c);
                if (!(model->flags(cell) & Qt::ItemIsEditable)) continue;
                for (const QString& text : garbage) {
                    (void)model->setData(model->index(0, c), text, Qt::EditRole);
                    const house::House h = w.saved(); // reading it validates it
                    QVERIFY(!h.rooms.empty());
                }
                while (w.child<QAction>("undo")->isEnabled())
                    w.child<QAction>("undo")->trigger();
            }
        }
        QCOMPARE(w.saved(), demoHouse());
    }
    void everyOfferOfACellIsTaken() {
        WalkWindow w(demoHouse());
        w.page(Page::things);
        auto* kind = w.child<QComboBox>("kind");
        auto* model = qobject_cast<SurveyTableModel*>(w.child<QTableView>("things")->model());
        QVERIFY(model != nullptr);
        int taken = 0;
        for (int k = 0; k < kind->count(); ++k) {
            kind->setCurrentIndex(k);
            for (int c = 0; c < model->columnCount(); ++c)
                for (const job::Choice& choice : model->choices(model->index(0, c))) {
                    if (!model->setData(model->index(0, c), QString::fromStdString(choice.value),
                                        Qt::EditRole))
                        continue;
                    ++taken;
                    QCOMPARE(model->index(0, c).data(Qt::EditRole).toString(),
                             QString::fromStdString(choice.label));
                }
        }
        QVERIFY2(taken > 40, qPrintable(QString::number(taken)));
    }
    void theTesterFindsTheCutCable() {
        WalkWindow w(demoHouse());
        w.page(Page::find);
        auto* cables = w.on<QListWidget>("find-page", "cables");
        QVERIFY(cables->item(0)->text().contains("coax to the study"));
        cables->setCurrentRow(0);
        auto* place = w.on<QComboBox>("find-page", "place");
        const int port = place->findText("landing splitter, out-3");
        QVERIFY(port >= 0);
        place->setCurrentIndex(port);
        QTest::mouseClick(w.on<QPushButton>("find-page", "found"), Qt::LeftButton);
        QCOMPARE(w.saved().connection("study-drop")->ends[1], (house::PortRef{"landing-splitter", "out-3"}));
        QCOMPARE(cables->count(), 0);
        w.page(Page::coax);
        QVERIFY(!w.on<RangeList>("coax-page", "pairs")->texts().join('\n').contains("ruled out"));
        QVERIFY(w.on<QListWidget>("find-page", "cautions")->count() > 3);
    }
    void spaceTypesABlankAndStartsNoRunInWalk() {
        WalkWindow w(demoHouse());
        w.child<QWidget>("section")->setFocus();
        QTest::keyClick(w.child<QWidget>("section"), Qt::Key_Space);
        QVERIFY(!w.status().contains("A run is in progress"));
    }
};

QTEST_MAIN(TestWalk)
#include "test_walk.moc"
