// The catalog with a figure missing or out of range, choices for the boxes of shipped houses, and figures of
// one's own houses, as they were kept.
#include "catalog/experience.h"
#include "catalog/load.h"
#include "catalog/refit.h"
#include "house/route.h"
#include "support/classes.h"
#include "support/kept.h"

#include <QTemporaryDir>
#include <QTest>
#include <filesystem>
#include <fstream>

using namespace metrodos;
using nlohmann::json;
using testing::classes;
namespace fs = std::filesystem;

namespace {

json readAll(const fs::path& file) {
    return json::parse(std::ifstream(file));
}

json rates(const catalog::RateSpread& s) {
    return json::array({s.p10.inMegabits(), s.p50.inMegabits(), s.p90.inMegabits()});
}

} // namespace

class TestKeptCatalog : public QObject {
    Q_OBJECT

  private slots:
    // Every fourth value of every file by turns null, negative, or a text.
    void withAFaultInIt() {
        const QTemporaryDir folder;
        const fs::path root = folder.path().toStdString();
        const fs::path shipped = testing::dataPath("catalog");
        for (const auto& file : fs::directory_iterator(shipped))
            fs::copy_file(file.path(), root / file.path().filename());
        json all;
        for (const auto& file : fs::directory_iterator(shipped)) {
            const fs::path name = file.path().filename();
            const json whole = readAll(file.path());
            const json flat = whole.flatten();
            int n = 0;
            int turn = 0;
            for (const auto& [pointer, value] : flat.items()) {
                if (n++ % 4 != 0) continue;
                json broken = flat;
                broken[pointer] = turn % 3 == 0 ? json() : turn % 3 == 1 ? json(-1) : json("?");
                ++turn;
                std::ofstream(root / name) << broken.unflatten();
                const auto read = catalog::load(root);
                std::string said = read ? "taken" : read.error().sentence();
                if (const auto at = said.find(root.string()); at != std::string::npos)
                    said.replace(at, root.string().size(), "catalog"); // it differs from run to run
                all[name.string()][pointer] = said;
            }
            std::ofstream(root / name) << whole;
        }
        QVERIFY_KEPT("catalog-faults", all);
    }
    void choices() {
        json all;
        for (const auto& [name, house] : testing::shippedHouses())
            for (const house::Route& route : house.routes) {
                const auto elements = house::findRoute(house, route.from, route.to);
                if (!elements) continue;
                for (const house::Element& e : *elements) {
                    json& of = all[name][e.id];
                    of = json::array({catalog::choiceOf(house, e)});
                    for (const auto& choice : catalog::choicesFor(house, classes(), e)) {
                        const auto made = catalog::withChoice(house, classes(), e, choice.id);
                        of.push_back(
                            {choice.id, choice.label, made ? catalog::choiceOf(*made, e) : "refused"});
                    }
                }
            }
        for (const house::NewUnit& unit : catalog::newUnits(classes()))
            all["units"].push_back({unit.label, unit.deviceClass, unit.ethernetPhy, unit.patchCategory});
        QVERIFY_KEPT("choices", all);
    }
    void ownHouses() {
        json all;
        for (const char* device : {"mains-600", "mains-1200"})
            for (const char* situation : {"same_circuit", "same_panel", "between_panels"})
                for (const double mbps : {2.0, 40.0, 66.0, 400.0})
                    for (const bool isAtLeast : {false, true}) {
                        catalog::ClassExperience e{house::Medium::mains, device, situation, {}};
                        for (int n = 1; n <= 4; ++n)
                            e.houses.push_back({std::log(mbps * 1e6) + 0.2 * n, n, isAtLeast && n % 2 == 0});
                        const auto r = catalog::refined(classes(), e);
                        all.push_back({device, situation, mbps, isAtLeast, r ? rates(*r) : json()});
                    }
        QVERIFY_KEPT("own-houses", all);
    }
};

QTEST_GUILESS_MAIN(TestKeptCatalog)
#include "test_kept_catalog.moc"
