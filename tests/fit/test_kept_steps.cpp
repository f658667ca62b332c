// The steps of the shipped houses after a visit, with all that hangs on them, as they were kept.
#include "fit/cautions.h"
#include "fit/cupboard.h"
#include "fit/labels.h"
#include "fit/pairing.h"
#include "fit/steps_json.h"
#include "support/classes.h"
#include "support/kept.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;
using testing::classes;

class TestKeptSteps : public QObject {
    Q_OBJECT

  private slots:
    void ofEveryHouse() {
        json all;
        for (auto [name, house] : testing::shippedHouses()) {
            json& of = all[name];
            // As if all that is there were to be fitted.
            for (const house::Device& d : house.devices)
                house.fitting.planned.push_back(d.id);
            for (const house::Connection& c : house.connections)
                house.fitting.planned.push_back(c.id);
            of["steps"] = fit::stepsDocument(house, classes(), testing::visited(house));
            for (const fit::Caution& c : fit::cautionsOf(house))
                of["cautions"].push_back({c.where, c.what, c.why});
            for (const fit::Label& l : fit::labelsOf(house))
                of["labels"].push_back({l.thing, l.code, l.what, l.where, l.copies, fit::qrTextOf(house, l)});
            for (const house::Medium medium : {house::Medium::mains, house::Medium::coax, house::Medium::air})
                for (const fit::PairTurn& turn : fit::pairingOf(house, medium))
                    of["pairing"].push_back({turn.first, turn.second, turn.does, turn.isDone});
            const fit::Cupboard cupboard = fit::cupboardOf(house);
            of["cupboard"] = json::array({cupboard.room});
            for (const fit::CupboardRun& r : cupboard.runs)
                of["cupboard"].push_back({r.connection, r.label, r.isHere, r.joinedLabel, r.joinedPort,
                                          r.farLabel, r.farRoom, r.isFarLoose, r.isWhole()});
        }
        QVERIFY_KEPT("steps", all, 0.01);
    }
};

QTEST_GUILESS_MAIN(TestKeptSteps)
#include "test_kept_steps.moc"
