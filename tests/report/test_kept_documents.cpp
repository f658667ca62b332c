// What is handed over of the shipped houses, as it was kept.
#include "fit/labels.h"
#include "report/handover.h"
#include "report/label_sheet.h"
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
        for (const auto& [name, house] : testing::shippedHouses()) {
            const job::Document job{house, testing::visited(house)};
            json& of = all[name];
            of["client"] = testing::linesOf(toMarkdown(report::clientDocument(job, classes(), settings)));
            of["technician"] = testing::linesOf(toHtml(report::technicianDocument(job, classes(), settings)));
            of["section"] = testing::linesOf(toSvg(report::drawSection(house)));
            of["labels"] = numbersOf(report::labelSheet(house, fit::labelsOf(house), report::Paper::a4));
        }
        QVERIFY_KEPT("documents", all, 0.01);
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
