// One's own houses against the catalog: few of them move little, many decide.
#include "catalog/experience.h"
#include "catalog/load.h"

#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>

using namespace metrodos;
using namespace metrodos::catalog;

namespace {

const Catalog& book() {
    static const Catalog catalog = loadDefault().value();
    return catalog;
}

ClassExperience of(std::vector<HouseFigure> houses) {
    return {house::Medium::mains, "mains-1200", "same_panel", std::move(houses)};
}

HouseFigure at(double mbps, bool isAtLeast = false) {
    return {std::log(mbps * 1e6), 1, isAtLeast};
}

} // namespace

class TestExperience : public QObject {
    Q_OBJECT

  private slots:
    // The catalog has 30, 65, 110 Mbit/s: ln 65 = 4.17439, deviation (ln 110 − ln 30) / (2 × 1.28155) =
    // 0.50691. Eight houses' worth of prior and two at 40 (3.68888): mean (8 × 4.17439 + 2 × 3.68888) / 10 =
    // 4.07729, so 58.98; scatter 0, between 8 × 2 / 10 × 0.48551² = 0.37715; deviation √((8 × 0.25696 +
    // 0.37715) / 10) = 0.49323.
    void twoHousesMoveLittle() {
        const auto r = refined(book(), of({at(40), {std::log(40e6), 3, false}}));
        QVERIFY2(std::fabs(r->p50.inMegabits() - 58.98) < 0.02,
                 qPrintable(QString::number(r->p50.inMegabits())));
        QVERIFY(std::fabs(std::log(r->p90.bps() / r->p50.bps()) / 1.28155 - 0.49323) < 1e-4);
        QVERIFY(std::fabs(std::log(r->p50.bps() / r->p10.bps()) / 1.28155 - 0.49323) < 1e-4);
    }
    void withoutHousesTheCatalogStands() {
        QCOMPARE(*refined(book(), of({})),
                 (RateSpread{BitRate::megabits(30), BitRate::megabits(65), BitRate::megabits(110)}));
        ClassExperience none = of({at(40)});
        none.deviceClass = "nothing";
        QVERIFY(!refined(book(), none));
        none = of({at(40)});
        none.situation = "nowhere";
        QVERIFY(!refined(book(), none));
    }
    // Houses drawn from another distribution: with two hundred of them its percentiles are found.
    void manyHousesDecide() {
        std::mt19937 random(3);
        std::normal_distribution<double> draw(std::log(100e6), 0.25);
        std::vector<HouseFigure> houses;
        for (int i = 0; i < 200; ++i)
            houses.push_back({draw(random), 1, false});
        const auto r = refined(book(), of(houses));
        QVERIFY2(std::fabs(r->p50.inMegabits() / 100 - 1) < 0.05,
                 qPrintable(QString::number(r->p50.inMegabits())));
        const double tenth = 100 * std::exp(-1.28155 * 0.25);
        QVERIFY2(std::fabs(r->p10.inMegabits() / tenth - 1) < 0.1,
                 qPrintable(QString::number(r->p10.inMegabits())));
    }
    // A switch held back every house in which the medium carried more than it lets through. Left out, or
    // taken for what was measured, those houses would make the class look slow.
    void whatIsOnlyAtLeastSoMuchPullsUp() {
        std::mt19937 random(5);
        std::normal_distribution<double> draw(std::log(90e6), 0.4);
        const double bound = std::log(94e6);
        std::vector<HouseFigure> censored;
        std::vector<HouseFigure> naive;
        std::vector<HouseFigure> left;
        for (int i = 0; i < 400; ++i) {
            const double x = draw(random);
            censored.push_back({std::min(x, bound), 1, x > bound});
            naive.push_back({std::min(x, bound), 1, false});
            if (x <= bound) left.push_back({x, 1, false});
        }
        const double right = refined(book(), of(censored))->p50.inMegabits();
        QVERIFY2(std::fabs(right / 90 - 1) < 0.06, qPrintable(QString::number(right)));
        QVERIFY(refined(book(), of(naive))->p50.inMegabits() < right - 5);
        QVERIFY(refined(book(), of(left))->p50.inMegabits() < right - 10);
        // One that is far above all that is known is taken at its word, and breaks nothing.
        const auto far = refined(book(), of({at(900, true)}));
        QVERIFY(far->p50.inMegabits() > 65 && far->p50.inMegabits() < 120);
    }
    void predictionsRestOnThemUntilTheyDoNot() {
        const Catalog with = withExperience(book(), {of({at(40), at(42)})});
        const DeviceClass* cls = with.device("mains-1200");
        QVERIFY(cls->medium.at("same_panel").p50 < book().device("mains-1200")->medium.at("same_panel").p50);
        QCOMPARE(cls->refinedBy.at("same_panel"), 2);
        QCOMPARE(cls->medium.at("same_circuit"), book().device("mains-1200")->medium.at("same_circuit"));
        QVERIFY(!cls->refinedBy.contains("same_circuit"));
        QVERIFY(book().device("mains-1200")->refinedBy.empty());
        QVERIFY(withExperience(book(), {of({})}).device("mains-1200")->refinedBy.empty());
    }
    void aFileHoldsFiguresOnlyAndComesBack() {
        const Experience mine{of({at(40), at(94, true)})};
        const nlohmann::json document = toJson(mine);
        const auto back = experienceFromJson(document);
        QVERIFY(back && back->size() == 1 && back->front().houses.size() == 2);
        QVERIFY(std::fabs(back->front().houses[0].meanLog - mine.front().houses[0].meanLog) < 1e-12);
        QVERIFY(back->front().houses[1].isAtLeast);
        // Nothing in it but what stands here.
        for (const auto& cls : document.at("classes")) {
            QCOMPARE(cls.size(), std::size_t(4));
            for (const auto& house : cls.at("houses"))
                QCOMPARE(house.size(), std::size_t(3));
        }
        // The same file twice is the same houses.
        QCOMPARE(joined(*back, *back).front().houses.size(), std::size_t(2));
        QCOMPARE(joined(*back, {of({at(50)})}).front().houses.size(), std::size_t(3));
        ClassExperience other = of({at(50)});
        other.situation = "same_circuit";
        QCOMPARE(joined(*back, {other}).size(), std::size_t(2));
    }
    void whatIsNoSuchFileIsRefused() {
        const nlohmann::json good = toJson({of({at(40)})});
        const auto refused = [&](const std::function<void(nlohmann::json&)>& spoil) {
            nlohmann::json bad = good;
            spoil(bad);
            return !experienceFromJson(bad).has_value();
        };
        QVERIFY(!refused([](nlohmann::json&) {}));
        QVERIFY(refused([](nlohmann::json& d) { d["format"] = "other"; }));
        QVERIFY(refused([](nlohmann::json& d) { d = nlohmann::json::array(); }));
        QVERIFY(refused([](nlohmann::json& d) { d["classes"][0]["medium"] = "water"; }));
        QVERIFY(refused([](nlohmann::json& d) { d["classes"][0].erase("class"); }));
        QVERIFY(refused([](nlohmann::json& d) { d["classes"][0]["houses"][0]["mean_bps"] = 0; }));
        QVERIFY(refused([](nlohmann::json& d) { d["classes"][0]["houses"][0]["mean_bps"] = -5; }));
        QVERIFY(refused([](nlohmann::json& d) { d["classes"][0]["houses"][0]["pairs"] = 0; }));
        QVERIFY(refused([](nlohmann::json& d) {
            d["classes"] = nlohmann::json::array();
            for (int i = 0; i < 501; ++i)
                d["classes"].push_back({{"medium", "mains"}, {"class", "a"}, {"situation", "b"}});
        }));
    }
};

QTEST_GUILESS_MAIN(TestExperience)
#include "test_experience.moc"
