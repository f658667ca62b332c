// A job in other forms: tables that read back, archives, documents that are kept, and jobs without names.
#include "capacity/predict.h"
#include "catalog/load.h"
#include "house/validate.h"
#include "job/csv_table.h"
#include "job/kept_document.h"
#include "job/open.h"
#include "job/pseudonyms.h"
#include "job/record_digest.h"
#include "job/runs_csv.h"
#include "job/store.h"
#include "job/zip_archive.h"
#include "support/paths.h"
#include "support/random_job.h"

#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>

using namespace metrodos;
using namespace metrodos::job;
using testing::RandomJob;

namespace {

std::size_t columnOf(const std::vector<CsvColumn>& columns, std::string_view name) {
    for (std::size_t i = 0; i < columns.size(); ++i)
        if (columns[i].name == name) return i;
    return columns.size();
}

Document demo() {
    return readJob(testing::dataPath("demo/quarry-house.json")).value();
}

} // namespace

class TestOtherForms : public QObject {
    Q_OBJECT

  private slots:
    // Every figure of a run and of its samples reads back from the table as it was, to the last bit.
    void tablesReadBack() {
        for (std::uint32_t seed = 1; seed <= 60; ++seed) {
            const Document d = RandomJob(seed).make();
            const auto runs = rowsOf(runsToCsv(d));
            QVERIFY(runs.has_value());
            QCOMPARE(runs->size(), d.runs.size() + 1);
            const auto& columns = runColumns();
            for (std::size_t i = 0; i < d.runs.size(); ++i) {
                const auto& row = (*runs)[i + 1];
                const benchmark::Run& run = d.runs[i].run;
                QCOMPARE(row.size(), columns.size());
                const auto at = [&](std::string_view name) { return row[columnOf(columns, name)]; };
                QCOMPARE(at("run"), run.id);
                QCOMPARE(at("route"), d.runs[i].route);
                QCOMPARE(at("route_label"), d.house.route(d.runs[i].route)->label);
                QCOMPARE(std::stod(at("goodput_bps")), run.goodput.bps());
                QCOMPARE(at("streams"), std::to_string(run.config.streams));
                QCOMPARE(at("complete"), std::string(run.complete ? "true" : "false"));
                QCOMPARE(at("simulated"), std::string(run.simulated ? "true" : "false"));
                QCOMPARE(at("retransmits"),
                         run.retransmits ? std::to_string(*run.retransmits) : std::string());
                QCOMPARE(at("cpu_sender"), std::string(run.cpuSender ? "0.25" : ""));
                QCOMPARE(at("others_active"), !run.conditions.othersActive   ? std::string()
                                              : *run.conditions.othersActive ? std::string("true")
                                                                             : std::string("false"));
                const house::SetAside* why = d.house.whySetAside(run.id);
                QCOMPARE(at("set_aside"), why == nullptr ? std::string() : why->reason);
                if (!run.conditions.appliances.empty())
                    QCOMPARE(at("appliances"),
                             run.conditions.appliances[0] + "; " + run.conditions.appliances[1]);
            }
            const auto samples = rowsOf(samplesToCsv(d));
            QVERIFY(samples.has_value());
            std::size_t next = 1;
            for (const benchmark::RouteRun& r : d.runs)
                for (const benchmark::Sample& s : r.run.samples) {
                    const auto& row = (*samples)[next++];
                    QCOMPARE(row.size(), sampleColumns().size());
                    const auto at = [&](std::string_view name) {
                        return row[columnOf(sampleColumns(), name)];
                    };
                    QCOMPARE(at("run"), r.run.id);
                    QCOMPARE(std::stod(at("t_s")), s.t);
                    QCOMPARE(std::stod(at("goodput_bps")), s.goodputBps);
                    QCOMPARE(at("rtt_us").empty(), !s.rttUs.has_value());
                    if (s.windowBytes) QCOMPARE(std::stod(at("window_bytes")), *s.windowBytes);
                    QCOMPARE(at("retransmits"), std::string(s.retransmits ? "7" : ""));
                }
            QCOMPARE(samples->size(), next);
        }
    }
    void archivesHoldWhatWasPutIn() {
        const std::string large(3'000'000, 'x');
        const auto zip = zipOf({{"a.txt", "one"}, {"folder/ä.txt", large}, {"empty", ""}});
        QVERIFY(zip.has_value() && isZip(*zip));
        QVERIFY(zip->size() < large.size() / 10); // it is packed
        QCOMPARE(zipEntry(*zip, "a.txt", 10).value(), std::string("one"));
        QVERIFY(zipEntry(*zip, "folder/ä.txt", 4'000'000).value() == large);
        QCOMPARE(zipEntry(*zip, "empty", 10).value(), std::string());
        QVERIFY(!zipEntry(*zip, "folder/ä.txt", 1'000'000).has_value()); // more than is wanted
        QVERIFY(!zipEntry(*zip, "b.txt", 10).has_value());
        QVERIFY(!isZip("PK") && !isZip("") && !zipEntry("no archive at all", "a", 10).has_value());
        // Any one bit turned is noticed, or changes nothing that is read.
        std::mt19937 random(3);
        for (int i = 0; i < 300; ++i) {
            std::string broken = zipOf({{"a.txt", "one two three"}}).value();
            broken[random() % broken.size()] ^= static_cast<char>(1U << random() % 8);
            const auto read = zipEntry(broken, "a.txt", 100);
            QVERIFY(!read || *read == "one two three");
        }
    }
    void whatWasHandedOverReadsBack() {
        KeptDocument d;
        d.reader = "offer";
        d.at = "2026-05-04T10:00:00Z";
        d.title = "House <b>";
        d.digest = std::string(64, 'a');
        d.text = "# Text\n\n- ä";
        d.currency = "Kr";
        d.cost = quantity::Money::units(318.3);
        d.parts = {
            {"cat6a", "cable", "metre", 22, quantity::Money::units(0.9), quantity::Money::units(19.8)}};
        d.promises = {{"desk", "Desk", "coax", quantity::BitRate::megabits(941),
                       quantity::BitRate::megabits(942), quantity::BitRate::megabits(100), false, 0.53}};
        const auto report = reportOf(d);
        QVERIFY(report.has_value());
        QCOMPARE(report->kind, std::string("document"));
        const auto back = readKept(*report);
        QVERIFY(back.has_value());
        QCOMPARE(back->reader, d.reader);
        QCOMPARE(back->at, d.at);
        QCOMPARE(back->title, d.title);
        QCOMPARE(back->digest, d.digest);
        QCOMPARE(back->text, d.text);
        QCOMPARE(back->currency, d.currency);
        QCOMPARE(back->cost->hundredths, std::int64_t(31830));
        QCOMPARE(back->parts[0].item, std::string("cat6a"));
        QCOMPARE(back->parts[0].label, std::string("cable"));
        QCOMPARE(back->parts[0].unit, std::string("metre"));
        QCOMPARE(back->parts[0].count, 22.0);
        QCOMPARE(back->parts[0].price.hundredths, std::int64_t(90));
        QCOMPARE(back->parts[0].total.hundredths, std::int64_t(1980));
        const KeptDocument::Promise& p = back->promises[0];
        QCOMPARE(p.spot, std::string("desk"));
        QCOMPARE(p.way, std::string("coax"));
        QCOMPARE(p.least.inMegabits(), 941.0);
        QCOMPARE(p.middle.inMegabits(), 942.0);
        QCOMPARE(p.need.inMegabits(), 100.0);
        QCOMPARE(p.isDown, false);
        QCOMPARE(p.chance, 0.53);
        d.text.assign(maxKeptText + 1, 'x');
        QVERIFY(!reportOf(d).has_value());
        // Of others nothing is taken; figures out of bounds are none.
        QVERIFY(!readKept({1, "watch", report->body}).has_value());
        QVERIFY(!readKept({1, "document", "[]"}).has_value());
        QVERIFY(!readKept({1, "document", R"({"format":"metrodos-document","version":1})"}).has_value());
        const auto odd = readKept({1, "document",
                                   R"({"started_at":"x","cost_hundredths":-5,"parts":[3,{"count":1e300}],)"
                                   R"("promises":{"a":1}})"});
        QVERIFY(odd.has_value());
        QCOMPARE(odd->cost->hundredths, std::int64_t(0));
        QCOMPARE(odd->parts.size(), std::size_t(1));
        QCOMPARE(odd->parts[0].count, 0.0);
        QVERIFY(odd->promises.empty());
    }
    // Neither a document that is kept nor how documents are arranged makes other records.
    void theDigestIsOfRecordsAlone() {
        Document d = demo();
        const std::string digest = recordDigest(d);
        KeptDocument kept;
        kept.at = "2026-05-04T10:00:00Z";
        d.reports.push_back(reportOf(kept).value());
        d.house.chapters = {{"slow", true, "note"}};
        QCOMPARE(recordDigest(d), digest);
        d.house.rooms[0].floor += 1;
        QVERIFY(recordDigest(d) != digest);
    }
    // None of the names, in any place of the document; the same names each time; sound, and predicted as
    // before.
    void aJobWithoutNamesHasNone() {
        const catalog::Catalog catalog = catalog::loadDefault().value();
        for (std::uint32_t seed = 0; seed <= 60; ++seed) {
            Document d = seed == 0 ? demo() : RandomJob(seed).make();
            // Names that can be told from words of the format.
            int n = 0;
            d.house.name = "Zzyzx house";
            for (house::Device& device : d.house.devices)
                device.label = "Zzdevice " + std::to_string(++n);
            for (house::Endpoint& e : d.house.endpoints) {
                e.label = "Zzend " + std::to_string(++n);
                e.address = "zzhost" + std::to_string(n) + ".example:7070";
            }
            for (house::Route& r : d.house.routes)
                r.label = "Zzroute " + std::to_string(++n);
            for (house::Jack& j : d.house.jacks)
                j.label = "Zzjack " + std::to_string(++n);
            for (house::Appliance& a : d.house.appliances)
                a.label = "Zzappliance " + std::to_string(++n);
            d.house.devices.front().setUp.keyPlace = "zzdrawer";
            for (benchmark::RouteRun& r : d.runs)
                if (!d.house.appliances.empty()) r.run.conditions.appliances = {d.house.appliances[0].label};
            const Document out = withoutNames(d);
            const std::string text = toJson(out).dump();
            for (const char* part : {"Zz", "zz"}) {
                const std::size_t at = text.find(part);
                QVERIFY2(at == std::string::npos,
                         text.substr(at < 50 ? 0 : std::min(at - 50, text.size()), 150).c_str());
            }
            const std::vector<quantity::Problem> faults = house::validate(out.house);
            QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().sentence().c_str());
            QVERIFY2(documentFromJson(toJson(out)).has_value(),
                     documentFromJson(toJson(out))
                         ? ""
                         : documentFromJson(toJson(out)).error().sentence().c_str());
            QVERIFY(toJson(withoutNames(d)) == toJson(out));
            QCOMPARE(out.runs.size(), d.runs.size());
            QCOMPARE(out.house.connections.size(), d.house.connections.size());
            for (std::size_t i = 0; i < d.runs.size(); ++i) {
                QCOMPARE(out.runs[i].run.goodput.bps(), d.runs[i].run.goodput.bps());
                QCOMPARE(out.runs[i].run.startedAt, d.runs[i].run.startedAt);
                QVERIFY(out.house.route(out.runs[i].route) != nullptr);
                if (!d.house.appliances.empty())
                    QCOMPARE(out.runs[i].run.conditions.appliances,
                             std::vector<std::string>{out.house.appliances[0].label});
            }
            QVERIFY(out.photos.empty() && out.house.setAside.empty() && out.house.changes.empty());
            for (std::size_t i = 0; i < d.house.routes.size(); ++i) {
                const auto before = capacity::predict(d.house, catalog, d.house.routes[i]);
                const auto after = capacity::predict(out.house, catalog, out.house.routes[i]);
                QCOMPARE(after.has_value(), before.has_value());
                if (!before) continue;
                QCOMPARE(after->elements.size(), before->elements.size());
                QVERIFY2(std::abs(after->forward.p50.bps() / before->forward.p50.bps() - 1) <
                             0.1, // drawn anew
                         qPrintable(QString("%1 %2: %3 %4")
                                        .arg(seed)
                                        .arg(QString::fromStdString(d.house.routes[i].id))
                                        .arg(before->forward.p50.inMegabits())
                                        .arg(after->forward.p50.inMegabits())));
            }
        }
    }
    void whatIsInIsSaid() {
        Document d = demo();
        d.photos.push_back({"x", "y"});
        std::string in;
        std::string out;
        for (const PrivacyLine& line : privacyOf(d, withoutNames(d)))
            (line.isIn ? in : out) += line.what + " (" + line.how + "); ";
        QVERIFY2(in.find("6 rooms, 11 devices") != std::string::npos, in.c_str());
        QVERIFY2(in.find("0 runs") != std::string::npos, in.c_str());
        QVERIFY2(out.find("1 photo)") != std::string::npos, out.c_str());
        QVERIFY2(out.find("6 addresses") != std::string::npos, out.c_str());
        // A watch that speaks of a route by its id stays; one in which a name stands does not.
        const std::string route = d.house.routes.front().id;
        const auto watch = [&](const std::string& note) {
            return Report{
                0, "watch",
                nlohmann::json(
                    {{"format", "metrodos-watch"}, {"version", 1}, {"route", route}, {"words", {note}}})
                    .dump()};
        };
        d.reports = {watch("nothing"), watch("beside the Stacking workstation"), watch("nothing more")};
        const Document made = withoutNames(d);
        QCOMPARE(made.reports.size(), std::size_t(2));
        QCOMPARE(made.reports[0].number, std::int64_t(1));
        QCOMPARE(made.reports[1].number, std::int64_t(2));
        QVERIFY(made.reports[0].body.find(made.house.routes.front().id) != std::string::npos);
        QVERIFY(made.reports[0].body.find(route) == std::string::npos);
    }
};

QTEST_GUILESS_MAIN(TestOtherForms)
#include "test_other_forms.moc"
