// All that was found out in a job in the order of time, and the one door to what is judged.
#include "benchmark/copy_report.h"
#include "benchmark/search_report.h"
#include "job/document.h"
#include "job/log.h"
#include "job/schedule_ics.h"
#include "support/houses.h"
#include "support/job_files.h"
#include "support/runs.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::job;
using metrodos::quantity::BitRate;

namespace {

benchmark::RunFilter filter(const char* text) {
    return benchmark::parseRunFilter(text).value();
}

Report watchReport(std::int64_t number, const std::string& at) {
    benchmark::WatchReport w;
    w.head = {true, at, "Desk to shelf", "desk-shelf"};
    w.config.direction = benchmark::Direction::forward;
    w.seconds = 3600;
    w.measuredSeconds = 3600;
    w.goodputP10 = BitRate::megabits(80);
    w.goodputP50 = BitRate::megabits(90);
    w.goodputP90 = BitRate::megabits(95);
    Report r = reportOf(benchmark::toJson(w)).value();
    r.number = number;
    return r;
}

struct Case {
    house::House house = testing::coaxHouse();
    benchmark::RouteRuns runs;
    std::vector<Report> reports;
    Case() {
        for (int i = 0; i < 3; ++i) {
            benchmark::Run run =
                testing::steadyRun(i == 1 ? benchmark::Direction::backward : benchmark::Direction::forward,
                                   100, 4, 0.02, "run-" + std::to_string(i));
            run.startedAt = "2026-05-0" + std::to_string(i + 2) + "T10:00:00Z";
            run.simulated = i == 2;
            runs.push_back({"desk-shelf", run});
        }
        runs[0].run.conditions.changed = "other outlet";
        benchmark::CopyReport copy;
        copy.head = {false, "2026-05-03T12:00:00Z", "Desk to shelf", "desk-shelf"};
        copy.bytes = 1'000'000;
        copy.write.rate = copy.warm.rate = BitRate::megabits(300);
        copy.write.seconds = copy.warm.seconds = 1;
        benchmark::SearchReport search;
        search.head = {false, "2026-05-06T12:00:00Z", "Desk to shelf", "desk-shelf"};
        search.direction = benchmark::Direction::backward;
        search.best = BitRate::megabits(70);
        reports = {watchReport(1, "2026-05-01T09:00:00Z"),
                   reportOf(benchmark::toJson(copy)).value(),
                   reportOf(benchmark::toJson(search)).value(),
                   {4, "watch", "{}"}};
        reports[1].number = 2;
        reports[2].number = 3;
        house.connection("coax")->phyRates = {
            {"coax-a", "coax-b", BitRate::megabits(2400), "2026-05-05T08:00:00Z"}};
    }
    [[nodiscard]] std::vector<std::string> ids(const char* text) const {
        std::vector<std::string> out;
        for (const LogEntry& e : logOf(house, runs, reports, filter(text)))
            out.push_back(e.id);
        return out;
    }
};

using Ids = std::vector<std::string>;

} // namespace

class TestLogEntries : public QObject {
    Q_OBJECT

  private slots:
    void everythingStandsInItsTime() {
        const Case c;
        QCOMPARE(c.ids(""), (Ids{"report-4", "report-1", "run-0", "run-1", "report-2", "run-2",
                                 "reading-coax", "report-3"}));
        const auto all = logOf(c.house, c.runs, c.reports, {});
        const LogEntry& watch = all[1];
        QCOMPARE(watch.kind, std::string("watch"));
        QCOMPARE(watch.figure->inMegabits(), 90.0);
        QCOMPARE(watch.low->inMegabits(), 80.0);
        QCOMPARE(watch.high->inMegabits(), 95.0);
        QVERIFY(watch.simulated && watch.used && !watch.words.empty());
        QVERIFY(watch.direction == benchmark::Direction::forward);
        QVERIFY(!all[0].used); // a report that cannot be read has its place all the same
        QCOMPARE(all[2].words, std::string("other outlet"));
        QVERIFY(all[2].run == &c.runs[0]);
        QCOMPARE(all[4].figure->inMegabits(), 300.0);
        QCOMPARE(all[5].words, std::string("simulated"));
        QCOMPARE(all[6].figure->inMegabits(), 2400.0);
        QCOMPARE(all[6].words, std::string("PHY rate from “Coax adapter” to “Coax adapter”"));
        QCOMPARE(all[7].figure->inMegabits(), 70.0);
    }
    void theFilterMeansAllKinds() {
        const Case c;
        QCOMPARE(c.ids("kind=run"), (Ids{"run-0", "run-1", "run-2"}));
        QCOMPARE(c.ids("kind=watch"), (Ids{"report-4", "report-1"}));
        QCOMPARE(c.ids("kind=reading"), Ids{"reading-coax"});
        QCOMPARE(c.ids("direction=backward"), (Ids{"run-1", "report-3"}));
        QCOMPARE(c.ids("from=2026-05-04 until=2026-05-05"), (Ids{"run-2", "reading-coax"}));
        QCOMPARE(c.ids("simulated=yes"), (Ids{"report-1", "run-2"}));
        QCOMPARE(c.ids("streams=4"), (Ids{"run-0", "run-1", "run-2"})); // what only runs have
        QCOMPARE(c.ids("bypassed=no kind=run"), (Ids{"run-0", "run-1", "run-2"}));
        QCOMPARE(c.ids("bypassed=yes"), Ids{});
        QCOMPARE(c.ids("without=saw"), (Ids{"run-0", "run-1", "run-2"}));
        QCOMPARE(c.ids("machine=shelf kind=run"), (Ids{"run-0", "run-1", "run-2"}));
        QCOMPARE(c.ids("machine=shelf-end kind=copy"), Ids{"report-2"});
        QCOMPARE(c.ids("machine=Desk kind=search"), Ids{"report-3"});
        QCOMPARE(c.ids("machine=lighthouse"), Ids{});
        QCOMPARE(c.ids("PHY"), Ids{"reading-coax"});
        QCOMPARE(c.ids("outlet"), Ids{"run-0"});
        QCOMPARE(c.ids("route=desk-shelf kind=copy"), Ids{"report-2"});
        QCOMPARE(c.ids("used=no"), Ids{"report-4"});
        for (const char* bad : {"kind=fish", "used=maybe", "bypassed=1"})
            QVERIFY2(!benchmark::parseRunFilter(bad), bad);
    }
    void whatIsSetAsideIsSeenAndCountsForNothing() {
        Case c;
        auto next = withSetAside(c.house, "run-1", "the cat sat on the cable", "2026-05-10T10:00:00Z");
        next = withSetAside(*next, "report-1", "the wrong way", "2026-05-10T10:00:00Z");
        c.house = *next;
        QCOMPARE(c.ids("kind=run"), (Ids{"run-0", "run-1", "run-2"}));
        QCOMPARE(c.ids("used=no"), (Ids{"report-4", "report-1", "run-1"}));
        const auto entries = logOf(c.house, c.runs, c.reports, filter("kind=run"));
        QCOMPARE(entries[1].aside, std::string("the cat sat on the cable"));
        QVERIFY(!entries[1].used && entries[0].used);
        const auto left = counted(c.runs, c.house);
        QCOMPARE(left.size(), std::size_t(2));
        QCOMPARE(left[1].run.id, std::string("run-2"));
        QCOMPARE(counted(c.reports, c.house).size(), std::size_t(3));
        QVERIFY(!filter("used=yes").matches(c.runs[1], c.house));
        // Again with another reason is one entry; without a reason it counts again.
        QCOMPARE(withSetAside(c.house, "run-1", "b", "")->setAside.size(), std::size_t(2));
        QCOMPARE(counted(c.runs, *withSetAside(c.house, "run-1", "", "")).size(), std::size_t(3));
        QVERIFY(!withSetAside(c.house, "reading-coax", "no", ""));
    }
    // Three runs, of the 2nd forward, the 3rd backward, the 4th forward.
    void runsOfWhatWasExchangedAreOfBefore() {
        Case c;
        QCOMPARE(evidence(c.runs, c.house).size(), std::size_t(3));
        // Exchanged after all of them: nothing was run again, so they stand.
        c.house.changes = {{"a", "2026-05-09T12:00:00Z", "coax-a", "exchanged"}};
        QCOMPARE(evidence(c.runs, c.house).size(), std::size_t(3));
        // Between them: forward was run again, backward was not.
        c.house.changes = {{"a", "2026-05-03T12:00:00Z", "coax-a", "exchanged"}};
        const auto left = evidence(c.runs, c.house);
        QCOMPARE(left.size(), std::size_t(2));
        QCOMPARE(left.front().run.id, std::string("run-1"));
        QCOMPARE(counted(c.runs, c.house).size(), std::size_t(3)); // compared they are all the same
        const auto log = logOf(c.house, c.runs, c.reports, filter("kind=run"));
        QVERIFY(log[0].isOfBefore && !log[0].used && log[0].words.ends_with("of before an exchange"));
        QVERIFY(!log[1].isOfBefore && log[1].used && !log[2].isOfBefore);
        c.house.changes.front().thing = "coax-a";
        QCOMPARE(c.ids("kind=run used=no"), Ids{"run-0"}); // the filter sees it as the list does
        QCOMPARE(c.ids("kind=run used=yes"), (Ids{"run-1", "run-2"}));
        // Set up otherwise is another question; what is not on the way is none.
        benchmark::RouteRuns bench = c.runs;
        bench[0].run.config.arrangement.setup = house::Setup::bench;
        QCOMPARE(evidence(bench, c.house).size(), std::size_t(3));
        c.house.changes.front().thing = "elsewhere";
        QCOMPARE(evidence(c.runs, c.house).size(), std::size_t(3));
        // A run that was cut off proves nothing about what is there now.
        c.house.changes.front().thing = "coax";
        c.runs[2].run.complete = false;
        QCOMPARE(evidence(c.runs, c.house).size(), std::size_t(3));
        // Set aside is set aside.
        c.house.setAside = {{"run-2", "x", ""}};
        QCOMPARE(evidence(c.runs, c.house).size(), std::size_t(2));
    }
    void aRunOfOneSecondHasNoSpread() {
        benchmark::Run run = testing::steadyRun(benchmark::Direction::forward, 100, 4, 0.05);
        const auto spread = spreadOf(run);
        QVERIFY(spread && spread->first < run.goodput && run.goodput < spread->second);
        // Seconds of 10, 20, … 100 Mbit/s: a tenth of them is below 19, a tenth above 91.
        for (std::size_t i = 0; i < 100; ++i)
            run.samples.change()[i].goodputBps = 10e6 * static_cast<double>(i / 10 + 1);
        run.config.warmup = 0;
        benchmark::finish(run);
        QCOMPARE(spreadOf(run)->first.inMegabits(), 19.0);
        QCOMPARE(spreadOf(run)->second.inMegabits(), 91.0);
        run.samples =
            std::vector<benchmark::Sample>(run.samples.all().begin(), run.samples.all().begin() + 12);
        QVERIFY(!spreadOf(run));
    }
    // Log records go through the file and its JSON form.
    void theyAreKeptInTheJob() {
        testing::JobFiles files;
        Document document{testing::wiredHouse(), {}};
        document.house.setAside = {{"run-1", "why not", "2026-05-10T10:00:00Z"}};
        document.house.schedules = {
            {"s", "Hourly", "desk-shelf", "2026-05-10T10:00:00Z", 30, 48, 3, 2, true, 17}};
        document.house.changes = {{"c", "2026-05-10T10:00:00Z", "switch", "exchanged", 0.7, "desk-shelf"}};
        house::TrialStep step;
        step.id = "t-1";
        step.route = "desk-shelf";
        document.house.trials = {{"t", "Revisit", {step}, "2026-05-04"}};
        const std::string file = files.made(document);
        const house::House back = Store::open(file)->house();
        QVERIFY(back == document.house);
        const auto again = documentFromJson(toJson(document));
        QVERIFY2(again.has_value(), again ? "" : again.error().sentence().c_str());
        QVERIFY(again->house == document.house);
        QVERIFY(faultsOf(toJson(document)).empty());
    }
    // An exchange is noted by the file itself, whoever makes it, and goes with its undo.
    void theFileNotesExchanges() {
        testing::JobFiles files;
        auto store = Store::open(files.made()).value();
        house::House next = store.house();
        next.device("switch")->deviceClass = "switch-10g";
        QVERIFY(store.change("exchange", next).has_value());
        QCOMPARE(store.house().changes.size(), std::size_t(1));
        QVERIFY(store.undo().has_value());
        QVERIFY(store.house().changes.empty());
        // What is only known better was not exchanged.
        QVERIFY(store.change("read", next, true).has_value());
        QVERIFY(store.house().device("switch")->deviceClass == "switch-10g" && store.house().changes.empty());
    }
    void schedulesGoToCalendarsAndBack() {
        house::House h = testing::wiredHouse();
        h.schedules = {{"s", "Hourly; with, signs \\ and \"quotes\"", "desk-shelf", "2026-05-10T10:00:00Z",
                        30, 48, 3, 2},
                       {"s-2", "Daily", "desk-shelf", "2026-12-31T23:30:00Z", 1440, 744, 10, 4}};
        const std::string text = schedulesToIcs(h.schedules);
        for (const char* line : {"BEGIN:VCALENDAR", "VERSION:2.0", "DTSTART:20260510T100000Z",
                                 "RRULE:FREQ=MINUTELY;COUNT=96;INTERVAL=30", "BEGIN:VEVENT"})
            QVERIFY2(text.find(line) != std::string::npos, (std::string(line) + "\n" + text).c_str());
        const auto back = schedulesFromIcs(text, h, "");
        QVERIFY2(back.has_value(), back ? "" : back.error().sentence().c_str());
        QCOMPARE(back->size(), std::size_t(2));
        for (std::size_t i = 0; i < 2; ++i) {
            house::Schedule expected = h.schedules[i];
            expected.id = (*back)[i].id;
            QVERIFY2((*back)[i] == expected, (*back)[i].label.c_str());
            QVERIFY((*back)[i].id != h.schedules[0].id && (*back)[i].id != h.schedules[1].id);
        }
    }
    // As a calendar writes them, without anything of ours.
    void eventsOfACalendarAreTakenOver() {
        const house::House h = testing::wiredHouse();
        const auto event = [](const std::string& body) {
            return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:"
                   "Evening\r\n" +
                   body + "END:VEVENT\r\nEND:VCALENDAR\r\n";
        };
        const auto hourly = schedulesFromIcs(
            event("DTSTART:20260510T180000Z\r\nRRULE:FREQ=HOURLY;INTERVAL=2;COUNT=6\r\n"), h, "desk-shelf");
        QVERIFY2(hourly.has_value(), hourly ? "" : hourly.error().sentence().c_str());
        QCOMPARE(hourly->front().label, std::string("Evening"));
        QCOMPARE(hourly->front().from, std::string("2026-05-10T18:00:00Z"));
        QCOMPARE(hourly->front().everyMinutes, 120);
        QCOMPARE(hourly->front().hours, 12);
        QCOMPARE(hourly->front().route, std::string("desk-shelf"));
        const auto until =
            schedulesFromIcs(event("DTSTART:20260510T180000Z\r\nRRULE:FREQ=DAILY;UNTIL=20260513T180000Z\r\n"),
                             h, "desk-shelf");
        QVERIFY(until && until->front().everyMinutes == 1440 && until->front().hours == 72);
        const auto endless =
            schedulesFromIcs(event("DTSTART:20260510T180000Z\r\nRRULE:FREQ=HOURLY\r\n"), h, "desk-shelf");
        QVERIFY(endless && endless->front().hours == 24);
        for (const char* bad : {"DTSTART:20260510T180000Z\r\n", // does not repeat
                                "RRULE:FREQ=HOURLY\r\n",        // no beginning
                                "DTSTART:20260510T180000Z\r\nRRULE:FREQ=WEEKLY\r\n",
                                "DTSTART:20260510T180000Z\r\nRRULE:FREQ=DAILY;BYDAY=MO,WE\r\n",
                                "DTSTART:20260510T180000Z\r\nRRULE:FREQ=DAILY;INTERVAL=3\r\n",
                                "DTSTART:20260510T180000Z\r\nRRULE:FREQ=SECONDLY\r\n"}) {
            const auto refused = schedulesFromIcs(event(bad), h, "desk-shelf");
            QVERIFY2(!refused, bad);
            QVERIFY2(refused.error().what.find("Evening") != std::string::npos, refused.error().what.c_str());
        }
        QVERIFY(!schedulesFromIcs(event("DTSTART:20260510T180000Z\r\nRRULE:FREQ=HOURLY\r\n"), h, "nowhere"));
        for (const std::string& text :
             {std::string(), std::string("hello"), std::string("BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n"),
              std::string(maxIcsBytes + 1, 'x'), std::string("BEGIN:VCALENDAR\r\nBEGIN:VEVENT"),
              std::string("\0\xff\xfe", 3)})
            QVERIFY(!schedulesFromIcs(text, h, "desk-shelf"));
    }
};

QTEST_GUILESS_MAIN(TestLogEntries)
#include "test_log_entries.moc"
