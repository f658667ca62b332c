// What is handed over of the shipped houses, as it was kept.
#include "fit/labels.h"
#include "report/handover.h"
#include "report/label_sheet.h"
#include "report/run_svg.h"
#include "report/section.h"
#include "support/classes.h"
#include "support/kept.h"
#include "support/planned.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;
using testing::classes;

namespace {

json numbersOf(const report::PrintedSheet& sheet) {
    json out = json::array({sheet.title, sheet.width, sheet.height});
    for (const report::PrintedPage& page : sheet.pages) {
        for (const report::PrintedText& t : page.texts)
            out.push_back({t.x, t.y, t.width, t.size, t.isBold, t.text});
        for (const report::PrintedBox& e : page.edges)
            out.push_back({e.x, e.y, e.width, e.height});
        out.push_back(page.ink.size());
    }
    return out;
}

} // namespace

class TestKeptDocuments : public QObject {
    Q_OBJECT

  private slots:
    void ofEveryHouse() {
        const report::HandOverSettings settings{"2026-11-05", {"Hedgerow Networks", {}}, {}, {}};
        json all;
        for (const auto& [name, house] : testing::variedHouses()) {
            const job::Document job{house, testing::visited(house)};
            json& of = all[name];
            of["client"] = testing::linesOf(toMarkdown(report::clientDocument(job, classes(), settings)));
            of["technician"] = testing::linesOf(toHtml(report::technicianDocument(job, classes(), settings)));
            of["section"] = testing::linesOf(toSvg(report::drawSection(house)));
            of["labels"] = numbersOf(report::labelSheet(house, fit::labelsOf(house), report::Paper::a4));
        }
        QVERIFY_KEPT("documents", all, 1e-4);
    }
    void drawings() {
        using quantity::BitRate;
        json all;
        report::WeekHours hours{"Week", {}};
        for (std::size_t day = 0; day < hours.week.size(); ++day)
            for (std::size_t hour = 0; hour < hours.week[day].size(); hour += day + 1) {
                const double mbps = 20 + 10 * static_cast<double>(day) + static_cast<double>(hour);
                hours.week[day][hour] = {3,
                                         BitRate::megabits(mbps * 0.8),
                                         BitRate::megabits(mbps),
                                         BitRate::megabits(mbps * 1.3),
                                         600,
                                         static_cast<int>(hour % 5 == 4),
                                         0.5};
            }
        all["week"] = testing::linesOf(toSvg(hours));
        report::WayStrip strip{"Way", {}, BitRate::megabits(90), BitRate::megabits(40)};
        for (int i = 0; i < 5; ++i)
            strip.elements.push_back({"element " + std::to_string(i), BitRate::megabits(100.0 * (5 - i)),
                                      BitRate::megabits(50.0 * (i + 1)), i == 3});
        all["strip"] = testing::linesOf(toSvg(strip));
        report::Ranges ranges;
        const auto spread = [](double low, double middle, double high) {
            return catalog::RateSpread{BitRate::megabits(low), BitRate::megabits(middle),
                                       BitRate::megabits(high)};
        };
        for (int i = 0; i < 6; ++i) {
            const double mbps = std::pow(10.0, 0.5 * i);
            report::Ranges::Row row{"row " + std::to_string(i), spread(mbps, 1.5 * mbps, 2 * mbps), {}, {}};
            if (i % 2 == 1) row.after = spread(3 * mbps, 4 * mbps, 9 * mbps);
            if (i % 3 != 0) row.need = BitRate::megabits(2.2 * mbps);
            ranges.rows.push_back(row);
        }
        all["ranges"] = testing::linesOf(toSvg(ranges));
        for (const report::Ranges& part : partsOf(ranges, 4))
            all["parts"].push_back({testing::linesOf(toSvg(part)), wordsOf(part)});
        benchmark::Run run = testing::steadyRun(benchmark::Direction::forward, 94, 4, 0.1);
        run.warmupSeconds = 1.5;
        all["run"] = testing::linesOf(report::toSvg(run, "A run"));
        QVERIFY_KEPT("drawings", all);
    }
    void theOfferOfAHouse() {
        const auto houses = testing::shippedHouses();
        for (const auto& [name, house] : houses) {
            if (house.spots.empty()) continue;
            const weigh::Options options = testing::optionsFor(house);
            const weigh::Plan plan = testing::planFor(house);
            const weigh::Plan other = testing::planFor(house, weigh::Objective::fastest);
            const report::Offered offered{options, testing::prices(), plan, {{"Most headroom", &other}}};
            const auto made =
                report::offerDocument({house, {}}, classes(), {"2026-11-05", {}, {}, {}}, offered);
            QVERIFY_KEPT("offer", testing::linesOf(toMarkdown(made)));
            return;
        }
        QFAIL("none of the shipped houses has a spot");
    }
};

QTEST_GUILESS_MAIN(TestKeptDocuments)
#include "test_kept_documents.moc"
