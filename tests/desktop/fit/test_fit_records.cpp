// Adapters, addresses, the cupboard and labels in the real window, by keyboard.
#include "desktop/fit/addresses_page.h"
#include "desktop/fit/cupboard_page.h"
#include "desktop/fit/labels_page.h"
#include "desktop/model/field_form.h"
#include "fit/adapter_reading.h"
#include "standin/simulated_adapters.h"
#include "support/fit_window.h"

#include <QFile>
#include <QLineEdit>
#include <QListWidget>

using namespace metrodos;
using namespace metrodos::desktop;
using testing::FittingWindow;

namespace {

QByteArray contents(const QString& file) {
    QFile f(file);
    return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
}

// Copies: what they are taken from is gone at the end of the line.
house::AdapterRecord setUpOf(const house::House& house, const char* device) {
    return house.device(device)->setUp;
}
house::FoundBy foundBy(const house::House& house, const house::Id& run) {
    return house.connection(run)->foundBy;
}
std::string addressOf(const house::House& house, const char* endpoint) {
    return house.endpoint(endpoint)->address;
}

} // namespace

class TestFitRecords : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

    // Types into a field of a form, and leaves it with Enter.
    static void fill(FittingWindow& w, const char* form, const QString& title, const QString& text) {
        auto* line = qobject_cast<QLineEdit*>(w.child<FieldForm>(form)->field(title));
        QVERIFY2(line != nullptr, qPrintable(title));
        line->setFocus();
        line->selectAll();
        QTest::keyClicks(line, text);
        QTest::keyClick(line, Qt::Key_Return);
        QCoreApplication::processEvents();
    }
    static void pick(FittingWindow& w, const char* form, const QString& title, const QString& text) {
        auto* box = qobject_cast<QComboBox*>(w.child<FieldForm>(form)->field(title));
        QVERIFY2(box != nullptr && box->findText(text) >= 0, qPrintable(title + " " + text));
        box->setCurrentIndex(box->findText(text));
        Q_EMIT box->activated(box->currentIndex());
        QCoreApplication::processEvents();
    }
    static int rowOf(FittingWindow& w, const char* table, const QString& text) {
        auto* t = w.child<QTableWidget>(table);
        for (int row = 0; row < t->rowCount(); ++row)
            for (int column = 0; column < t->columnCount(); ++column)
                if (t->item(row, column) != nullptr && t->item(row, column)->text().contains(text))
                    return row;
        return -1;
    }

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void anAdapterIsRecorded() {
        FittingWindow w;
        w.page(Page::adapters);
        const int row = rowOf(w, "adapters-list", "workshop");
        QVERIFY(row >= 0);
        w.child<QTableWidget>("adapters-list")->setCurrentCell(row, 0);
        fill(w, "adapter-form", "Firmware", "2.17");
        pick(w, "adapter-form", "Power saving", "no");
        pick(w, "adapter-form", "Lights off", "yes");
        const auto record = [&] { return setUpOf(w.saved(), "mains-workshop"); };
        QCOMPARE(record().firmware, std::string("2.17"));
        QVERIFY(record().powerSaving == false && record().lightsOff == true && !record().modemProtection);
        QVERIFY(!record().at.empty());
        // A key is refused, its place is not.
        fill(w, "adapter-form", "Its key is kept", "A1B2-C3D4-E5F6-G7H8");
        QVERIFY2(w.said().contains("looks like a key"), qPrintable(w.said()));
        QVERIFY(record().keyPlace.empty());
        fill(w, "adapter-form", "Its key is kept", "drawer 3 in the study");
        QCOMPARE(record().keyPlace, std::string("drawer 3 in the study"));
        fill(w, "adapter-form", "Its page", "ftp://somewhere");
        QVERIFY2(w.said().contains("no address of an adapter"), qPrintable(w.said()));
        w.undo();
        QVERIFY(record().keyPlace.empty());
        w.picture("fit-adapters");
    }
    void aRateIsTypedAndSaysWhatItStandsFor() {
        FittingWindow w;
        w.page(Page::adapters);
        w.child<QTableWidget>("adapters-list")->setCurrentCell(rowOf(w, "adapters-list", "workshop"), 0);
        auto* field = w.child<QLineEdit>("phy-to-mains-hall");
        field->setFocus();
        QTest::keyClicks(field, "400M");
        QTest::keyClick(field, Qt::Key_Return);
        QCoreApplication::processEvents();
        const auto rates = fit::ratesOf(w.saved(), "mains-workshop");
        QCOMPARE(rates[0].to->inMegabits(), 400.0);
        QVERIFY(!rates[0].at.empty());
        bool isSaid = false;
        for (const QLabel* l : w.child<QWidget>("adapter-rates")->findChildren<QLabel*>())
            isSaid = isSaid || l->text().contains("140 to 220 Mbit/s");
        QVERIFY(isSaid);
        field = w.child<QLineEdit>("phy-from-mains-hall");
        field->setFocus();
        QTest::keyClicks(field, "fast");
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY2(w.said().startsWith("Not done"), qPrintable(w.said()));
    }
    void anAdaptersPageIsRead() {
        const house::House demo = testing::demoHouse();
        standin::SimulationSettings settings;
        settings.house = [demo] { return demo; };
        settings.catalog = catalog::loadDefault().value();
        const auto adapters = standin::SimulatedAdapters::start(settings).value();
        FittingWindow w([&](house::House& h) {
            for (const standin::SimulatedPage& p : adapters->pages())
                h.device(p.adapter)->setUp.statusUrl = p.url;
            h.connection("house-mains")->phyRates.clear();
        });
        w.page(Page::adapters);
        auto* list = w.child<QTableWidget>("adapters-list");
        list->setCurrentCell(rowOf(w, "adapters-list", "workshop"), 0);
        list->setFocus();
        w.key(Qt::Key_R);
        QTRY_VERIFY_WITH_TIMEOUT(w.said().startsWith("Read from the simulated page"), 8000);
        QVERIFY2(w.said().contains("public"), qPrintable(w.said()));
        QVERIFY(setUpOf(w.saved(), "mains-workshop").isPrivate == false);
        QVERIFY(fit::ratesOf(w.saved(), "mains-workshop")[0].to.has_value());
        w.picture("fit-adapter-read");
        w.undo();
        QVERIFY(!fit::ratesOf(w.saved(), "mains-workshop")[0].to);
        // One that does not answer is said so.
        house::House next = w.saved();
        next.device("mains-workshop")->setUp.statusUrl = "http://127.0.0.1:9/none";
        auto store = job::Store::open(w.file).value();
        QVERIFY(store.change("page", next).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(
            qobject_cast<QLineEdit*>(w.child<FieldForm>("adapter-form")->field("Its page"))
                ->text()
                .contains(":9/"),
            5000);
        w.key(Qt::Key_R);
        QTRY_VERIFY_WITH_TIMEOUT(w.said().contains("does not answer"), 8000);
    }
    void aClashIsMendedWithEnter() {
        FittingWindow w;
        w.page(Page::addresses);
        auto* clashes = w.child<QListWidget>("clashes");
        QVERIFY(clashes->count() >= 1);
        w.picture("fit-addresses");
        int row = -1;
        for (int i = 0; i < clashes->count(); ++i)
            if (clashes->item(i)->text().contains("automatic pool")) row = i;
        QVERIFY(row >= 0);
        clashes->setCurrentRow(row);
        clashes->setFocus();
        w.key(Qt::Key_Return);
        QVERIFY2(w.said().startsWith("Done in the plan: let the pool go from"), qPrintable(w.said()));
        QVERIFY(w.saved().addressing.networks[0].poolFrom !=
                testing::demoHouse().addressing.networks[0].poolFrom);
        w.undo();
        QVERIFY(w.saved().addressing == testing::demoHouse().addressing);
    }
    void aPlanIsMadeFromNothing() {
        FittingWindow w([](house::House& h) { h.addressing = {}; });
        w.page(Page::addresses);
        QVERIFY2(w.child<QListWidget>("clashes")->item(0)->text().contains("Shift+A"),
                 "the empty page says what to do");
        w.child<QWidget>("addresses")->setFocus();
        w.child<QTableWidget>("addresses-list")->setFocus();
        w.key(Qt::Key_A);
        QVERIFY2(w.said().contains("add one first"), qPrintable(w.said()));
        w.key(Qt::Key_A, Qt::ShiftModifier);
        QCOMPARE(w.saved().addressing.networks.size(), std::size_t(1));
        fill(w, "address-form", "Prefix", "10.7.0.9/24");
        QCOMPARE(w.saved().addressing.networks[0].prefix, std::string("10.7.0.0/24"));
        QVERIFY(w.child<QListWidget>("clashes")->item(0)->text().contains("gateway"));
        fill(w, "address-form", "Gateway", "10.7.0.1");
        fill(w, "address-form", "Automatic from", "10.7.0.100");
        fill(w, "address-form", "Automatic to", "10.7.0.199");
        w.child<QTableWidget>("addresses-list")->setFocus();
        w.key(Qt::Key_A);
        QCOMPARE(w.saved().addressing.ports.size(), std::size_t(1));
        QCOMPARE(w.saved().addressing.ports[0].address, std::string("10.7.0.2"));
        fill(w, "address-form", "Address", "10.7.0");
        QVERIFY2(w.said().contains("is no address"), qPrintable(w.said()));
        pick(w, "address-form", "Kept by", "fixed");
        QCOMPARE(w.saved().addressing.ports[0].kind, house::AddressKind::fixed);
        w.child<QTableWidget>("addresses-list")->setFocus();
        w.child<QTableWidget>("addresses-list")->setCurrentCell(0, 0);
        w.key(Qt::Key_Delete);
        QVERIFY(w.saved().addressing.ports.empty());
    }
    void anAddressSaysWhichPortIsUnderTest() {
        FittingWindow w;
        w.page(Page::addresses);
        auto* list = w.child<QTableWidget>("addresses-list");
        // The slow port of the workstation.
        int slow = -1;
        const auto ports = w.saved().addressing.ports;
        for (std::size_t i = 0; i < ports.size(); ++i)
            if (ports[i].device == "loft-workstation") slow = static_cast<int>(i);
        QVERIFY(slow >= 0);
        list->setFocus();
        list->setCurrentCell(slow, 0);
        QVERIFY2(w.text("address-tests").contains("P has them go here"), qPrintable(w.text("address-tests")));
        const std::string before = addressOf(w.saved(), "loft-workstation-end");
        w.key(Qt::Key_P);
        const std::string after = addressOf(w.saved(), "loft-workstation-end");
        QCOMPARE(after, ports[static_cast<std::size_t>(slow)].address + before.substr(before.find(':')));
        QVERIFY2(w.said().contains("is under test"), qPrintable(w.said()));
        QCOMPARE(list->item(slow, 3)->text(), QStringLiteral("go here"));
        w.undo();
        QCOMPARE(addressOf(w.saved(), "loft-workstation-end"), before);
    }
    // The address of a run is that of another port than the route's: it is said with the run.
    void aRunToAnotherPortIsSaid() {
        FittingWindow w([](house::House& h) {
            // Where the simulated machine answers is the address of its slow port in this plan.
            const std::string host = "127.0.0.1";
            for (house::PortAddress& p : h.addressing.ports)
                if (p.device == "loft-workstation") p.address = host;
        });
        w.window.setStage(Stage::measure);
        w.pick("seconds", "5 s");
        QVERIFY2(w.run(), qPrintable(w.status()));
        bool isSaid = false;
        for (const QLabel* l : w.window.findChildren<QLabel*>())
            isSaid = isSaid || l->text().contains("that port is under test");
        QVERIFY(isSaid);
    }
    void whatThisComputerSeesIsTakenOver() {
        FittingWindow w([](house::House& h) { h.addressing = {}; });
        w.page(Page::addresses);
        const auto at = [](const char* text) { return quantity::IpAddress::parse(text).value(); };
        w.child<AddressesPage>("addresses")
            ->takeOver({{{"wire", "02:00:5e:10:00:01", at("192.0.2.20"),
                          *quantity::IpPrefix::parse("192.0.2.0/24")}},
                        {{"wire", at("192.0.2.1")}},
                        {{"wire", "02:00:5e:10:00:03", at("192.0.2.30")}}});
        QCOMPARE(w.saved().addressing.networks.size(), std::size_t(1));
        QVERIFY2(w.said().startsWith("Taken over: "), qPrintable(w.said()));
        auto* list = w.child<QTableWidget>("addresses-list");
        QCOMPARE(list->rowCount(), 2);
        list->setFocus();
        list->setCurrentCell(1, 0);
        w.key(Qt::Key_Return);
        QCOMPARE(w.saved().addressing.ports.size(), std::size_t(1));
        QCOMPARE(w.saved().addressing.ports[0].address, std::string("192.0.2.30"));
        QCOMPARE(w.saved().addressing.ports[0].hardware, std::string("02:00:5e:10:00:03"));
        // L asks the kernel itself.
        list->setFocus();
        w.key(Qt::Key_L);
        QVERIFY2(w.said().startsWith("Taken over: ") || w.said().startsWith("This computer sees"),
                 qPrintable(w.said()));
    }
    void thePlanIsWritten() {
        FittingWindow w;
        w.page(Page::addresses);
        for (const char* name : {"a.csv", "a.hosts", "a.conf"}) {
            const QString file = w.folder.filePath(QString::fromLatin1(name));
            w.child<AddressesPage>("addresses")->exportTo(file);
            QVERIFY2(w.said().startsWith("Written to"), qPrintable(w.said()));
            QVERIFY(contents(file).contains("192.168.7.20"));
        }
        w.child<AddressesPage>("addresses")->exportTo(QStringLiteral("/no/such/folder/a.csv"));
        QVERIFY2(w.said().startsWith("Not done"), qPrintable(w.said()));
    }
    void theCupboardShowsWhatIsJoined() {
        FittingWindow w;
        w.page(Page::cupboard);
        w.picture("fit-cupboard");
        auto* map = w.child<CupboardMap>("cupboard-map");
        const auto runs = fit::cupboardOf(w.saved()).runs;
        QCOMPARE(map->rows().size(), runs.size());
        QVERIFY(runs.size() >= 2);
        QVERIFY2(w.text("cupboard-title").startsWith("Cupboard in “"), qPrintable(w.text("cupboard-title")));
        map->setFocus();
        w.key(Qt::Key_Down);
        const int at = map->current();
        w.key(Qt::Key_C);
        const auto& id = runs[static_cast<std::size_t>(at)].connection;
        QCOMPARE(foundBy(w.saved(), id), house::FoundBy::continuity);
        QVERIFY2(map->rows()[static_cast<std::size_t>(at)].label.contains("by continuity"),
                 qPrintable(map->rows()[static_cast<std::size_t>(at)].label));
        w.key(Qt::Key_T);
        QCOMPARE(foundBy(w.saved(), id), house::FoundBy::tone);
        w.undo();
        QCOMPARE(foundBy(w.saved(), id), house::FoundBy::continuity);
    }
    void labelsAreSavedAndStay() {
        FittingWindow w;
        w.page(Page::labels);
        w.picture("fit-labels");
        auto* list = w.child<QTableWidget>("label-list");
        QCOMPARE(list->rowCount(), static_cast<int>(fit::labelsOf(w.saved()).size()));
        QVERIFY(w.saved().fitting.codes.empty());
        const QString file = w.folder.filePath(QStringLiteral("labels.pdf"));
        w.child<LabelsPage>("labels")->exportTo(file);
        QVERIFY(contents(file).startsWith("%PDF"));
        QCOMPARE(static_cast<int>(w.saved().fitting.codes.size()), list->rowCount());
        const QString table = w.folder.filePath(QStringLiteral("labels.csv"));
        w.child<LabelsPage>("labels")->exportTo(table);
        QVERIFY(contents(table).startsWith("code,what,where"));
        // Letter has other rows; the preview follows.
        w.pick("paper", "Letter");
        QVERIFY2(w.text("label-title").contains("sheet"), qPrintable(w.text("label-title")));
        QVERIFY(w.child<QWidget>("label-preview")->isVisible());
    }
    void anEmptyHouseSaysWhatToDo() {
        testing::TestedWindow w;
        w.create({});
        w.open(Stage::fit);
        for (const auto& [page, label, words] :
             {std::tuple(Page::adapters, "adapter-title", "No adapters"),
              std::tuple(Page::cupboard, "cupboard-title", "No runs of cable"),
              std::tuple(Page::labels, "label-title", "Nothing to label")}) {
            w.window.setPage(page);
            QCoreApplication::processEvents();
            QVERIFY2(w.child<QLabel>(label)->text().startsWith(words),
                     qPrintable(w.child<QLabel>(label)->text()));
        }
    }
};

QTEST_MAIN(TestFitRecords)
#include "test_fit_records.moc"
