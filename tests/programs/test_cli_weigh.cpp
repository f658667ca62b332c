// metrodos-cli plans a house from outside: the document of its contract, and own prices.
#include "support/programs.h"

#include <QFile>
#include <QTest>

using namespace metrodos::testing;

class TestCliWeigh : public QObject {
    Q_OBJECT

  private slots:
    void weighKeepsItsContract() {
        const auto out = cli({"weigh", demoJob(), "--json"});
        QVERIFY2(out.code == 0, out.err.c_str());
        const auto document = out.json();
        QCOMPARE(document.at("format").get<std::string>(), std::string("metrodos-plans"));
        QCOMPARE(document.at("version").get<int>(), 1);
        QVERIFY(document.at("plans").size() >= 2);
        for (const auto& plan : document.at("plans")) {
            for (const char* key : {"id", "label", "cost", "currency", "labour_minutes", "holes",
                                    "carries_all", "spots", "parts"})
                QVERIFY2(plan.contains(key), key);
            if (plan.at("carries_all").get<bool>())
                QVERIFY(plan.at("cost").get<double>() >= document.at("plans").at(0).at("cost").get<double>());
            QVERIFY(plan.at("carries_all").get<bool>() || !plan.at("limits").empty());
            for (const auto& spot : plan.at("spots"))
                for (const char* key : {"spot", "way", "p10_bps", "p50_bps", "need_bps", "headroom"})
                    QVERIFY2(spot.contains(key), key);
            for (const auto& part : plan.at("parts"))
                for (const char* key : {"class", "count", "unit_price"})
                    QVERIFY2(part.contains(key), key);
        }
        Workplace place;
        QFile prices(place.path("prices.csv"));
        QVERIFY(prices.open(QIODevice::WriteOnly));
        prices.write("item,product,price\ncurrency,Kr,\nlabour,,500\n");
        prices.close();
        const auto dear = cli({"weigh", demoJob(), "--json", "--prices", prices.fileName()}).json();
        QCOMPARE(dear.at("plans").at(0).at("currency").get<std::string>(), std::string("Kr"));
        QVERIFY(dear.at("plans").at(0).at("cost").get<double>() >
                document.at("plans").at(0).at("cost").get<double>());
        QVERIFY(cli({"weigh", demoJob()}).out.find("cheapest that carries every need") != std::string::npos);
        QCOMPARE(cli({"weigh", demoJob(), "--objective", "loudest"}).code, 1);
        QCOMPARE(cli({"weigh", demoJob(), "--prices", place.path("none.csv")}).code, 1);
        QCOMPARE(cli({"weigh"}).code, 2);
    }
};

QTEST_GUILESS_MAIN(TestCliWeigh)
#include "test_cli_weigh.moc"
