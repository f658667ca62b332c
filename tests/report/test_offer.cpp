// The offer, and the record that comes after it: what was promised and asked for is what was weighed.
#include "catalog/load.h"
#include "job/open.h"
#include "quantity/format.h"
#include "report/chapters.h"
#include "report/handover.h"
#include "support/paths.h"
#include "support/runs.h"
#include "weigh/compare.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::report;
using quantity::BitRate;
using quantity::Money;

namespace {

const catalog::Catalog& book() {
    static const catalog::Catalog catalog = catalog::loadDefault().value();
    return catalog;
}

struct Demo {
    Demo()
        : job(job::readJob(testing::dataPath("demo/quarry-house.json")).value())
        , options(weigh::optionsOf(job.house, book()).value())
        , prices(book(), {})
        , weighed(weigh::weigh(options, prices, weigh::Objective::cheapest).value())
        , offered{options, prices, *plan(), othersOf(weighed, *plan())} {}
    [[nodiscard]] const weigh::Plan* plan() const {
        for (const weigh::Plan& p : weighed.plans)
            if (p.id == weighed.best.at(weigh::Objective::cheapest)) return &p;
        return nullptr;
    }
    job::Document job;
    weigh::Options options;
    weigh::Prices prices;
    weigh::Weighed weighed;
    Offered offered;
};

const Chapter* chapter(const Document& d, const char* id) {
    for (const Chapter& c : d.chapters)
        if (c.id == id) return &c;
    return nullptr;
}
const Table* tableOf(const Chapter* c) {
    if (c == nullptr) return nullptr;
    for (const Block& b : c->blocks)
        if (const auto* t = std::get_if<Table>(&b)) return t;
    return nullptr;
}

job::KeptDocument smallOffer() {
    job::KeptDocument offer;
    offer.reader = "offer";
    offer.at = "2026-05-04T10:00:00Z";
    offer.currency = "Kr";
    offer.cost = Money::units(100);
    // Four leads at 10, one of them in the van; two jacks at 20; work for 30 that no step counts.
    offer.parts = {{"lead", "patch lead", "piece", 4, Money::units(10), Money::units(30)},
                   {"jack", "data jack", "piece", 2, Money::units(20), Money::units(40)},
                   {"labour", "own labour", "hour", 1, Money::units(30), Money::units(30)}};
    return offer;
}

fit::Step stepWith(const char* item, double count, house::StepState state) {
    fit::Step s;
    s.parts = {{item, item, count}};
    s.state = state;
    return s;
}

} // namespace

class TestOffer : public QObject {
    Q_OBJECT

  private slots:
    void theOfferIsThePlan() {
        const Demo demo;
        const Document d = offerDocument(demo.job, book(), {"2026-11-05"}, demo.offered);
        QCOMPARE(d.subtitle, std::string("Offer"));
        const Table* price = tableOf(chapter(d, "price"));
        QVERIFY(price != nullptr);
        QCOMPARE(price->rows.size(), demo.plan()->parts.size() + 1);
        Money sum;
        for (const weigh::PartLine& p : demo.plan()->parts)
            sum = sum + p.total;
        QCOMPARE(sum.hundredths, demo.plan()->cost.hundredths);
        QCOMPARE(price->rows.back().back().text, weigh::amount(demo.prices, demo.plan()->cost));
        // What is promised are the plan's own figures, in its order, of spots that are somebody's.
        const Table* promise = tableOf(chapter(d, "promise"));
        QVERIFY(promise != nullptr);
        std::size_t row = 0;
        for (std::size_t i = 0; i < demo.plan()->spots.size(); ++i) {
            const weigh::SpotResult& s = demo.plan()->spots[i];
            if (s.way < 0 || demo.options.spots[i].isPeer) continue;
            QCOMPARE(promise->rows[row][0].text, demo.options.spots[i].label);
            QCOMPARE(promise->rows[row][3].text, quantity::plain(s.p10));
            QCOMPARE(promise->rows[row][4].text, quantity::plain(s.p50));
            if (s.need.bps() > 0) {
                QCOMPARE(promise->rows[row][1].text,
                         std::string(s.need == demo.options.spots[i].need.down ? "towards it" : "from it"));
                QVERIFY(promise->rows[row][5].text.ends_with(" %") && s.carriedShare <= s.soundShare);
            }
            ++row;
        }
        QCOMPARE(promise->rows.size(), row);
        QCOMPARE(row, demo.job.house.spots.size());
        for (const char* id : {"plan", "wanted", "house", "not-promised", "work", "others", "cautions"})
            QVERIFY2(chapter(d, id) != nullptr, id);
        // Each other plan once, never the one that is offered.
        const Table* others = tableOf(chapter(d, "others"));
        QCOMPARE(others->rows.size(), demo.offered.others.size());
        for (const auto& [label, plan] : demo.offered.others)
            QVERIFY(plan->id != demo.plan()->id);
        const job::KeptDocument kept = keptForm(d, "offer", "2026-11-05T10:00:00Z", &demo.offered);
        QCOMPARE(kept.cost->hundredths, demo.plan()->cost.hundredths);
        QCOMPARE(kept.parts.size(), demo.plan()->parts.size());
        QCOMPARE(kept.promises.size(), row);
        QCOMPARE(kept.text, toMarkdown(d));
        QCOMPARE(kept.digest, d.digest);
        QVERIFY(!keptForm(d, "client", "2026-11-05T10:00:00Z").cost.has_value());
    }
    // By hand: three of four leads were used, one of them the van's: 20; both jacks: 40; the work as
    // offered: 30.
    void costsAreHeldAgainstTheOffer() {
        using house::StepState;
        const Chapter c = quoteChapter(
            smallOffer(), {stepWith("lead", 2, StepState::done), stepWith("lead", 1, StepState::done),
                           stepWith("lead", 1, StepState::skipped), stepWith("jack", 2, StepState::done)});
        const Table* t = tableOf(&c);
        QVERIFY(t != nullptr);
        QCOMPARE(t->rows.size(), std::size_t(4));
        QCOMPARE(t->rows[0][1].text, std::string("4 pieces"));
        QCOMPARE(t->rows[0][2].text, std::string("3 pieces"));
        QCOMPARE(t->rows[0][5].text, std::string("Kr 20"));
        QCOMPARE(t->rows[1][5].text, std::string("Kr 40"));
        QCOMPARE(t->rows[2][2].text, std::string("–"));
        QCOMPARE(t->rows[2][5].text, std::string("Kr 30"));
        QCOMPARE(t->rows[3][4].text, std::string("Kr 100"));
        QCOMPARE(t->rows[3][5].text, std::string("Kr 90"));
        const auto& words = std::get<Paragraph>(c.blocks.front()).text.text;
        QVERIFY2(words.find("Offered on 2026-05-04 for Kr 100") != std::string::npos &&
                     words.find("comes to Kr 90") != std::string::npos,
                 words.c_str());
        QVERIFY(std::holds_alternative<Paragraph>(c.blocks.back())); // of the line that is not counted
        // Nothing fitted costs what nobody counts; fewer than the van holds cost nothing.
        const Chapter none = quoteChapter(
            smallOffer(), {stepWith("lead", 1, StepState::done), stepWith("jack", 2, StepState::open)});
        QCOMPARE(tableOf(&none)->rows[0][5].text, std::string("Kr 0"));
        QCOMPARE(tableOf(&none)->rows[1][5].text, std::string("Kr 0"));
        job::KeptDocument record = smallOffer();
        record.cost.reset();
        QVERIFY(quoteChapter(record, {}).blocks.empty());
    }
    // A promise towards a spot is held against runs that go there; the newest offer counts.
    void promisesAreHeldAgainstRuns() {
        Demo demo;
        const house::Spot& spot = demo.job.house.spots.front(); // image stacking, at the end of two routes
        int n = 0;
        for (const auto& [direction, mbps] : {std::pair(benchmark::Direction::forward, 281.0),
                                              std::pair(benchmark::Direction::backward, 120.0)})
            for (int i = 0; i < 3; ++i)
                demo.job.runs.push_back({"dome-loft", testing::steadyRun(direction, mbps, 4, 0.002,
                                                                         "run-" + std::to_string(++n))});
        const auto offerAt = [&](const char* at, double least, bool isDown) {
            job::KeptDocument offer = smallOffer();
            offer.at = at;
            offer.promises = {{spot.id, spot.label, "coax", BitRate::megabits(least),
                               BitRate::megabits(least), BitRate::megabits(100), isDown, 0.9}};
            return job::reportOf(offer).value();
        };
        demo.job.reports = {offerAt("2026-01-01T00:00:00Z", 5, true),
                            offerAt("2026-02-01T00:00:00Z", 250, true)};
        Document d = clientDocument(demo.job, book(), {"2026-11-05"});
        const Table* t = tableOf(chapter(d, "promised"));
        QVERIFY(t != nullptr);
        QCOMPARE(t->rows.size(), std::size_t(1));
        QCOMPARE(t->rows[0][0].text, spot.label);
        QCOMPARE(t->rows[0][1].text, std::string("250 Mbit/s"));
        QVERIFY2(t->rows[0][2].text.starts_with("281 "), t->rows[0][2].text.c_str());
        QCOMPARE(t->rows[0][3].text, std::string("Dome to loft, forward"));
        demo.job.reports = {offerAt("2026-02-01T00:00:00Z", 250, false)};
        d = clientDocument(demo.job, book(), {"2026-11-05"});
        QVERIFY2(tableOf(chapter(d, "promised"))->rows[0][2].text.starts_with("120 "),
                 tableOf(chapter(d, "promised"))->rows[0][2].text.c_str());
        demo.job.reports.clear();
        d = clientDocument(demo.job, book(), {"2026-11-05"});
        QVERIFY(chapter(d, "promised") == nullptr && chapter(d, "quote") == nullptr);
    }
};

QTEST_GUILESS_MAIN(TestOffer)
#include "test_offer.moc"
