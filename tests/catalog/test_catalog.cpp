#include "catalog/check.h"
#include "catalog/load.h"
#include "support/houses.h"
#include "support/plant.h"

#include <QTemporaryDir>
#include <QTest>
#include <fstream>

using namespace metrodos;
namespace fs = std::filesystem;

namespace {

// A copy of the shipped catalog with one text replaced.
std::string errorAfter(const char* file, const std::string& from, const std::string& to) {
    QTemporaryDir folder;
    const fs::path copy = folder.path().toStdString();
    fs::copy(catalog::dataFolder().value() / "catalog", copy, fs::copy_options::recursive);
    std::ifstream in(copy / file);
    std::string text((std::istreambuf_iterator<char>(in)), {});
    const auto at = text.find(from);
    if (at == std::string::npos) return "the test's text is not in the file";
    text.replace(at, from.size(), to);
    std::ofstream(copy / file) << text;
    const auto loaded = catalog::load(copy);
    return loaded ? "" : loaded.error().sentence();
}

} // namespace

class TestCatalog : public QObject {
    Q_OBJECT

  private slots:
    void thePlantsHaveTheirClasses() {
        const auto c = catalog::loadDefault().value();
        // Every coax and mains adapter class has its channel model, and no model stands for a class that is
        // not there.
        for (const auto& d : c.devices) {
            if (d.family == catalog::Family::coax) QVERIFY2(c.coax.classOf(d.id) != nullptr, d.id.c_str());
            if (d.family == catalog::Family::mains) QVERIFY2(c.mains.classOf(d.id) != nullptr, d.id.c_str());
        }
        for (const auto& k : c.coax.classes)
            QVERIFY2(c.device(k.id) != nullptr, k.id.c_str());
        for (const auto& k : c.mains.classes)
            QVERIFY2(c.device(k.id) != nullptr, k.id.c_str());
        for (std::size_t i = 1; i < c.coax.splitters.size(); ++i) {
            QVERIFY(c.coax.splitters[i].ways > c.coax.splitters[i - 1].ways);
            QVERIFY(c.coax.splitters[i].ratedDb > c.coax.splitters[i - 1].ratedDb);
        }
        for (const auto& s : c.coax.splitters)
            QVERIFY(s.ratedDb < s.unratedDb);
        QVERIFY(c.mains.strip("surge_protected")->lossDb >= 30);
        QVERIFY(c.mains.protection("arc_fault")->slopeDbPerMegahertz >
                c.mains.protection("breaker")->slopeDbPerMegahertz);
        QVERIFY(c.disk("hard-disk")->read.p10 < c.disk("nvme")->read.p10);
        QVERIFY(c.protocol("modern")->share.p50 > c.protocol("small-files")->share.p50);
        QVERIFY(c.termination("tested")->badPairFactor < c.termination("poor")->badPairFactor);
        QVERIFY(c.coax.cable("rg11")->loss.p50 < c.coax.cable("rg6")->loss.p50);
        QVERIFY(c.coax.cable("nonsense") == nullptr && c.mains.appliance("nonsense") == nullptr);
    }
    void everyFigureOfThePlantsIsChecked_data() {
        QTest::addColumn<QString>("file");
        QTest::addColumn<QString>("from");
        QTest::addColumn<QString>("to");
        QTest::addColumn<QString>("word");
        QTest::newRow("no band") << "coax.json"
                                 << "\"band\""
                                 << "\"bond\""
                                 << "band";
        QTest::newRow("band falls") << "coax.json"
                                    << "\"low_hz\": 1125e6"
                                    << "\"low_hz\": 1800e6"
                                    << "must rise";
        QTest::newRow("power") << "coax.json"
                               << "\"transmit_dbm\": 3"
                               << "\"transmit_dbm\": 300"
                               << "transmit_dbm";
        QTest::newRow("cable loss") << "coax.json"
                                    << "[0.65, 0.68, 0.74]"
                                    << "[0.65, 0.6, 0.74]"
                                    << "must not fall";
        QTest::newRow("cable loss missing") << "coax.json"
                                            << "\"loss_db\": [0.65"
                                            << "\"lost_db\": [0.65"
                                            << "loss_db";
        QTest::newRow("weight") << "coax.json"
                                << "\"rg6\": 0.6"
                                << "\"rg7\": 0.6"
                                << "weight";
        QTest::newRow("splitter id") << "coax.json"
                                     << "\"id\": \"2\""
                                     << "\"id\": \"two\""
                                     << "number of ways";
        QTest::newRow("probability") << "coax.json"
                                     << "\"bad_probability\": 0.12"
                                     << "\"bad_probability\": 12"
                                     << "bad_probability";
        QTest::newRow("channels") << "coax.json"
                                  << "\"channels\": 5"
                                  << "\"channels\": 0"
                                  << "channels";
        QTest::newRow("no source") << "coax.json"
                                   << "\"source\": \"working value: two connectors back to back\""
                                   << "\"sauce\": \"\""
                                   << "source";
        QTest::newRow("spacing") << "mains.json"
                                 << "\"spacing_hz\": 24414"
                                 << "\"spacing_hz\": 0"
                                 << "spacing_hz";
        QTest::newRow("density") << "mains.json"
                                 << "\"low_dbm_hz\": -50"
                                 << "\"low_dbm_hz\": 50"
                                 << "low_dbm_hz";
        QTest::newRow("exponent") << "mains.json"
                                  << "\"exponent\": -0.3"
                                  << "\"exponent\": \"x\""
                                  << "exponent";
        QTest::newRow("protection") << "mains.json"
                                    << "\"id\": \"breaker\""
                                    << "\"id\": \"brake\""
                                    << "breaker";
        QTest::newRow("strip") << "mains.json"
                               << "\"id\": \"wall\""
                               << "\"id\": \"wail\""
                               << "wall";
        QTest::newRow("streams") << "mains.json"
                                 << "\"streams\": 2"
                                 << "\"streams\": 9"
                                 << "streams";
        QTest::newRow("twice") << "mains.json"
                               << "\"id\": \"kettle\""
                               << "\"id\": \"motor\""
                               << "used twice";
        QTest::newRow("disk") << "storage.json"
                              << "[0.96e9, 1.5e9, 2.08e9]"
                              << "[0.96e9, 1.5e9]"
                              << "read_bps";
        QTest::newRow("share") << "storage.json"
                               << "[0.92, 0.965, 0.99]"
                               << "[0.92, 0.965, 1.99]"
                               << "share";
        QTest::newRow("air") << "air.json"
                             << "\"exponent\": 3"
                             << "\"exponent\": 30"
                             << "exponent";
        QTest::newRow("stations") << "air.json"
                                  << "[1, 2, 5]"
                                  << "[0, 2, 5]"
                                  << "range";
        QTest::newRow("service") << "media.json"
                                 << "[20e6, 100e6, 900e6]"
                                 << "[]"
                                 << "rate_bps";
        QTest::newRow("lead") << "cables.json"
                              << "\"patch_lead\""
                              << "\"patch_bed\""
                              << "patch_lead";
        QTest::newRow("termination") << "cables.json"
                                     << "\"bad_pair_factor\": 0.1"
                                     << "\"bad_pair_factor\": -1"
                                     << "bad_pair_factor";
    }
    void everyFigureOfThePlantsIsChecked() {
        QFETCH(QString, file);
        QFETCH(QString, from);
        QFETCH(QString, to);
        QFETCH(QString, word);
        const std::string error = errorAfter(file.toUtf8(), from.toStdString(), to.toStdString());
        QVERIFY2(error.find(word.toStdString()) != std::string::npos, error.c_str());
        QVERIFY2(error.find(file.toStdString()) != std::string::npos, error.c_str());
    }
    void classesOfASurveyMustBeInTheCatalog() {
        const auto c = catalog::loadDefault().value();
        const auto fault = [&](const house::House& h) {
            const auto faults = catalog::check(h, c);
            return faults.empty() ? std::string() : faults.front().sentence();
        };
        QVERIFY(fault(testing::coaxTreeHouse(true, true)).empty());
        QVERIFY(fault(testing::mainsHouse()).empty());
        house::House h = testing::coaxTreeHouse(true, true);
        h.connections[0].cableClass = "cat6"; // a data category is no type of coax
        QVERIFY(fault(h).find("cat6") != std::string::npos);
        h = testing::mainsHouse();
        h.circuits[0].wiring = "string";
        QVERIFY(fault(h).find("string") != std::string::npos);
        h = testing::mainsHouse();
        h.appliances = {{"a", "a", "dragon", "o0-0", {}}};
        QVERIFY(fault(h).find("dragon") != std::string::npos);
        h = testing::wiredHouse();
        h.devices[0].storage = house::Storage{"drum"};
        QVERIFY(fault(h).find("drum") != std::string::npos);
        h = testing::wiredHouse();
        h.routes[0].fileProtocol = "pigeon";
        QVERIFY(fault(h).find("pigeon") != std::string::npos);
        h = testing::wiredHouse();
        h.connections[0].termination = "glue";
        QVERIFY(fault(h).find("glue") != std::string::npos);
    }
    void theShippedCatalogLoads() {
        const auto c = catalog::loadDefault();
        QVERIFY2(c.has_value(), c ? "" : c.error().sentence().c_str());
        QCOMPARE(c->phy("1000base-t")->rate.bps(), 1e9);
        QVERIFY(c->device("coax-2500") != nullptr);
        QVERIFY(c->phy("nonsense") == nullptr);
        for (const auto& d : c->devices)
            QVERIFY2(!d.source.empty(), d.id.c_str());
        for (std::size_t i = 1; i < c->phys.size(); ++i)
            QVERIFY(c->phys[i - 1].rate < c->phys[i].rate);
    }
    void saysWhichEntryIsWrong() {
        QVERIFY(errorAfter("phys.json", "\"rate_bps\": 1e9", "\"rate_bps\": -1").find("phys[1]") !=
                std::string::npos);
        QVERIFY(
            errorAfter("phys.json", "\"id\": \"1000base-t\"", "\"id\": \"100base-tx\"").find("used twice") !=
            std::string::npos);
        QVERIFY(errorAfter("buses.json", "\"source\"", "\"sauce\"").find("source") != std::string::npos);
        QVERIFY(errorAfter("buses.json", "[280e6, 315e6, 350e6]", "[350e6, 315e6, 280e6]")
                    .find("must not fall") != std::string::npos);
        QVERIFY(errorAfter("devices.json", "\"family\": \"coax\"", "\"family\": \"string\"").find("family") !=
                std::string::npos);
        QVERIFY(errorAfter("devices.json", "\"price\": 25", "\"price\": -1").find("price") !=
                std::string::npos);
        QVERIFY(errorAfter("media.json", "\"id\": \"poor\"", "\"id\": \"awful\"").find("lacks") !=
                std::string::npos);
        QVERIFY(errorAfter("cables.json", "\"format\": \"metrodos-catalog\"", "\"format\": \"x\"")
                    .find("not a catalog") != std::string::npos);
        QVERIFY(errorAfter("cables.json", "{", "{{").find("not a catalog") != std::string::npos);
    }
    void aMissingFolderIsAProblem() { QVERIFY(!catalog::load("no/such/folder")); }
    void findsClassesThatAreNotThere() {
        const auto c = catalog::loadDefault().value();
        auto h = testing::coaxHouse();
        QVERIFY(catalog::check(h, c).empty());
        h.devices[0].deviceClass = "mainframe";
        h.devices[1].ports[0].phy = "usb2"; // a bus rate on an Ethernet port
        h.connections[0].cableClass = "cat3";
        h.connection("coax")->situation = "neighbouring"; // of another medium
        QCOMPARE(catalog::check(h, c).size(), std::size_t(4));
    }
};

QTEST_GUILESS_MAIN(TestCatalog)
#include "test_catalog.moc"
