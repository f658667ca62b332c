#include "catalog/check.h"
#include "catalog/load.h"
#include "support/houses.h"
#include "support/paths.h"
#include "support/plant.h"

#include <QTemporaryDir>
#include <QTest>
#include <array>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace metrodos;
namespace fs = std::filesystem;

namespace {

// A copy of the shipped catalog with one text replaced.
std::string errorAfter(const std::string& file, const std::string& from, const std::string& to) {
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
    // {file, what stands in it, what shall stand there instead, a word of what is said}.
    void everyFigureIsChecked() {
        const auto cases =
            nlohmann::json::parse(std::ifstream(testing::sourcePath("tests/catalog/wrong-figures.json")));
        QVERIFY(cases.size() > 30);
        for (const std::array<std::string, 4> one : cases) {
            const auto& [file, from, to, word] = one;
            const std::string error = errorAfter(file, from, to);
            QVERIFY2(error.find(word) != std::string::npos && error.find(file) != std::string::npos,
                     (std::string(to) + ": " + error).c_str());
        }
        // What of another file hangs on it is said by its class.
        QVERIFY(errorAfter("media.json", R"("id": "poor")", R"("id": "awful")").find("lacks") !=
                std::string::npos);
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
