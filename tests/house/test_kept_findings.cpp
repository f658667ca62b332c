// What is found in shipped and random houses, and what is refused in damaged ones, as it was kept.
#include "house/addressing.h"
#include "house/findings.h"
#include "house/propose.h"
#include "house/validate.h"
#include "support/kept.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;

namespace {

json ofHouse(const house::House& house) {
    json out;
    for (const quantity::Problem& p : house::findings(house))
        out["findings"].push_back(p.sentence());
    for (const quantity::Problem& p : house::validate(house))
        out["faults"].push_back(p.sentence());
    for (const house::OpenEnd& e : house::continuityList(house))
        out["open"].push_back({e.connection, e.candidates});
    for (const house::Clash& c : house::clashesOf(house))
        out["clashes"].push_back({c.what, c.mend});
    for (const house::Route& route : house.routes)
        out["wrong-ports"][route.id] = house::wrongPorts(house, route);
    out["names"] = house::hostNames(house);
    return out;
}

// Takes every third thing of one kind out and leaves what points to it.
house::House damaged(house::House h, int kind) {
    const auto thin = [](auto& list) {
        for (std::size_t i = list.size() / 3 * 3; i > 0; i -= 3)
            list.erase(list.begin() + static_cast<std::ptrdiff_t>(i) - 1);
    };
    switch (kind) {
    case 0:
        thin(h.rooms);
        break;
    case 1:
        thin(h.devices);
        break;
    case 2:
        thin(h.jacks);
        break;
    case 3:
        thin(h.endpoints);
        break;
    case 4:
        thin(h.coaxParts);
        thin(h.panels);
        break;
    default:
        for (house::Device& d : h.devices)
            thin(d.ports);
    }
    return h;
}

} // namespace

class TestKeptFindings : public QObject {
    Q_OBJECT

  private slots:
    void ofShippedHouses() {
        json all;
        for (const auto& [name, house] : testing::shippedHouses()) {
            all[name]["whole"] = ofHouse(house);
            for (int kind = 0; kind < 6; ++kind)
                for (const quantity::Problem& p : house::validate(damaged(house, kind)))
                    all[name]["damaged"].push_back(p.sentence());
        }
        QVERIFY_KEPT("findings", all);
    }
    void ofRandomHouses() {
        json all;
        for (std::uint32_t seed = 1; seed <= 12; ++seed) {
            house::House house = testing::RandomHouse(seed).make({});
            house.routes = testing::allRoutes(house);
            json& of = all[std::to_string(seed)];
            of["whole"] = ofHouse(house);
            for (const quantity::Problem& p : house::validate(damaged(house, static_cast<int>(seed % 6))))
                of["damaged"].push_back(p.sentence());
        }
        QVERIFY_KEPT("findings-random", all);
    }
};

QTEST_GUILESS_MAIN(TestKeptFindings)
#include "test_kept_findings.moc"
