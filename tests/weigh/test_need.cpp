// Needs in words of use.
#include "support/classes.h"
#include "weigh/need.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::weigh;
using testing::classes;

namespace {

Need needOf(const std::string& text) {
    house::Spot spot;
    spot.uses = parseUses(text, classes()).value();
    return weigh::needOf({}, spot, classes());
}

} // namespace

class TestNeed : public QObject {
    Q_OBJECT

  private slots:
    void usesAddUp() {
        const Need one = needOf("4K stream");
        const Need all = needOf("2 4K streams + 8 calls");
        QVERIFY(!one.steady); // video has seconds in hand
        QVERIFY(all.steady);
        QCOMPARE(all.down.bps(), 2 * one.down.bps() + 8 * needOf("call").down.bps());
        QCOMPARE(all.up.bps(), 2 * one.up.bps() + 8 * needOf("call").up.bps());
        QVERIFY(all.delay == needOf("call").delay); // the strictest
        QCOMPARE(all.because.size(), std::size_t(2));
        QVERIFY(!needOf("").any());
        QVERIFY(!needOf("").steady);
    }
    void anAmountInATimeIsARate() {
        // 400 GB in 3 h = 3.2e12 bit / 10800 s
        const Need need = needOf("backup 400 GB in 3 h");
        QVERIFY(std::fabs(need.up.bps() / (400e9 * 8 / 10800) - 1) < 1e-9);
        QVERIFY(need.down.bps() < need.up.bps() / 5);
        QVERIFY(std::fabs(needOf("restore 400 GB in 3 h").down.bps() / need.up.bps() - 1) < 1e-9);
        QVERIFY(std::fabs(needOf("backup 1.5 TB in 90 min").up.bps() / (1.5e12 * 8 / 5400) - 1) < 1e-9);
    }
    void aFigureOfItsOwnGoesBeforeTheClass() {
        QCOMPARE(needOf("raw camera 900M").up.bps(), 900e6);
        QCOMPARE(needOf("3 cameras 12M").up.bps(), 36e6);
        house::Spot spot;
        spot.uses = parseUses("8 calls", classes()).value();
        spot.needDown = BitRate::megabits(500);
        spot.needSteady = false;
        spot.needDelay = std::chrono::microseconds(900);
        const Need need = weigh::needOf({}, spot, classes());
        QCOMPARE(need.down.bps(), 500e6);
        QCOMPARE(need.up.bps(), needOf("8 calls").up.bps());
        QVERIFY(!need.steady);
        QVERIFY(need.delay == std::chrono::microseconds(900));
    }
    void whatIsWrittenIsReadAgain() {
        for (const char* text :
             {"2 4K streams + 8 calls", "backup 400 GB in 3 h", "access point 2400", "raw camera 1.8 Gbit/s",
              "editing from the store + game console", "12 small devices, printer; browsing and mail"}) {
            const auto uses = parseUses(text, classes()).value();
            QVERIFY2(!uses.empty(), text);
            const std::string again = usesText(uses, classes());
            QVERIFY2(parseUses(again, classes()).value() == uses, again.c_str());
        }
        QCOMPARE(QString::fromStdString(usesText(parseUses("8 CALLS", classes()).value(), classes())),
                 QStringLiteral("8 calls"));
    }
    void everyClassCanBeWritten() {
        for (const catalog::UseClass& cls : classes().planning.uses)
            for (const std::string& word : cls.words) {
                const auto uses = parseUses(word + (cls.volume ? " 10 GB in 1 h" : ""), classes());
                QVERIFY2(uses && uses->size() == 1, word.c_str());
                QCOMPARE(uses->front().useClass, cls.id);
            }
    }
    void whatIsNotUnderstoodIsNamed() {
        for (const char* text : {"a swimming pool", "0 calls", "5000 calls", "backup", "backup 400 GB",
                                 "call 3 apples", "backup 0 GB in 3 h", "2 calls + nonsense"}) {
            const auto uses = parseUses(text, classes());
            QVERIFY2(!uses, text);
            QVERIFY(uses.error().sentence().find("“") != std::string::npos);
        }
        QVERIFY(!parseUses(std::string(3000, 'x'), classes()));
        std::string many = "call";
        for (int i = 0; i < 40; ++i)
            many += " + call";
        QVERIFY(!parseUses(many, classes()));
    }
    void aCommaInANumberIsNoSeparator() {
        QCOMPARE(needOf("raw camera 1,5G").up.bps(), 1.5e9);
        QCOMPARE(parseUses("call, game", classes())->size(), std::size_t(2));
    }
};

QTEST_GUILESS_MAIN(TestNeed)
#include "test_need.moc"
