#include "catalog/check.h"
#include "catalog/load.h"
#include "support/houses.h"

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
