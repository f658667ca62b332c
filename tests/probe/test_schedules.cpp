// Runs that an agent makes by itself: in time, kept over a restart, bounded, handed over with the right times
// whatever its clock says, and refused to who sends nonsense.
#include "benchmark/run_json.h"
#include "probe/peer_clock.h"
#include "probe/schedule_messages.h"
#include "quantity/moment.h"
#include "support/agents.h"
#include "support/puppet.h"
#include "support/runs.h"

#include <QTemporaryDir>
#include <QTest>
#include <cmath>
#include <fstream>
#include <sys/stat.h>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

constexpr std::int64_t start = 1'777'888'800; // 2026-05-04T10:00:00Z

// A clock that stands until the test moves it.
struct Clock {
    std::shared_ptr<std::atomic<std::int64_t>> now = std::make_shared<std::atomic<std::int64_t>>(start - 10);
    std::shared_ptr<std::atomic<double>> up = std::make_shared<std::atomic<double>>(1000);
    std::string boot = "boot-1";
};

struct KeepingAgent {
    Key key = Key::generate();
    std::shared_ptr<ScheduleKeeper> keeper;
    std::unique_ptr<Agent> agent;
    std::string address;

    explicit KeepingAgent(const Clock& clock, const std::filesystem::path& folder = {}) {
        KeeperSettings settings;
        settings.folder = folder;
        settings.own = [] { return EndpointLink::here("agent"); };
        settings.now = [now = clock.now] { return now->load(); };
        settings.uptime = [up = clock.up, boot = clock.boot] { return Uptime{boot, up->load()}; };
        keeper = ScheduleKeeper::start(std::move(settings)).value();
        AgentSettings agents{"127.0.0.1:0", "agent", ringOf(key), {}};
        agents.schedules = keeper;
        agent = Agent::start(agents, [](const PeerFilter& filter) {
                    return makePerformer("agent", filter);
                }).value();
        address = agent->address().text();
    }
    [[nodiscard]] EndpointLink link() const { return EndpointLink::connect(address, key).value(); }
};

Assignment hourly(const LoopbackAgent& peer, const std::string& id = "schedule") {
    house::Schedule s{id, "Hourly", "r", quantity::utcText(start), 60, 5};
    s.seconds = 1;
    s.streams = 1;
    return {s, peer.address, peer.key};
}

bool waitFor(const ScheduleKeeper& keeper, std::size_t records) {
    return QTest::qWaitFor(
        [&] { return !keeper.states().empty() && keeper.states().front().records >= records; }, 20'000);
}

ScheduleRecord record(const nlohmann::json& run = nullptr) {
    ScheduleRecord r;
    r.slot = start;
    r.at = start;
    r.uptime = {"boot-1", 5};
    r.run = run;
    if (run.is_null()) r.problem = "nobody there.";
    return r;
}

} // namespace

class TestSchedules : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void runsAreMadeWhenTheyAreDueAndHandedOver() {
        const LoopbackAgent peer;
        const Clock clock;
        const KeepingAgent agent(clock);
        auto link = agent.link();
        QVERIFY(giveSchedule(link, hourly(peer)).has_value());
        QCOMPARE(agent.keeper->states().front().records, std::size_t(0)); // not yet
        *clock.now = start + 5;
        agent.keeper->wake();
        QVERIFY(waitFor(*agent.keeper, 2));
        // Days later somebody asks; the clock of the agent was two hours ahead all the time.
        *clock.up = 1000 + 3 * 86400.0;
        const auto collected = collectSchedule(link, "schedule", 0);
        QVERIFY2(collected.has_value(), collected ? "" : collected.error().sentence().c_str());
        QCOMPARE(collected->runs.size(), std::size_t(2));
        QCOMPARE(collected->newest, std::int64_t(2));
        QVERIFY(collected->missed.empty());
        QCOMPARE(collected->unreadable, std::size_t(0));
        QVERIFY(collected->runs[0].config.direction == benchmark::Direction::forward);
        QVERIFY(collected->runs[1].config.direction == benchmark::Direction::backward);
        for (const benchmark::Run& run : collected->runs) {
            QVERIFY(run.complete && run.goodput.bps() > 0 && run.samples.size() >= 9);
            // Three days ago by the clock that nobody sets.
            const double age = wallSeconds() - static_cast<double>(*quantity::utcSeconds(run.startedAt));
            QVERIFY2(std::fabs(age - 3 * 86400.0) < 5, qPrintable(QString::number(age)));
        }
        // What was collected does not come again; the same time is not run twice.
        QVERIFY(collectSchedule(link, "schedule", collected->newest)->runs.empty());
        agent.keeper->wake();
        *clock.now = start + 3600;
        agent.keeper->wake();
        QVERIFY(waitFor(*agent.keeper, 4));
        QCOMPARE(collectSchedule(link, "schedule", collected->newest)->runs.size(), std::size_t(2));
        // Taken back, it is forgotten.
        QCOMPARE(endSchedule(link, "schedule").value(), credentialOf(peer.key).identity);
        QVERIFY(agent.keeper->states().empty());
        QVERIFY(!collectSchedule(link, "schedule", 0));
        QVERIFY(!endSchedule(link, "schedule"));
    }
    void theClockOfTheOtherEndIsRead() {
        const Clock clock;
        *clock.now = static_cast<std::int64_t>(wallSeconds()) + 7200;
        const KeepingAgent agent(clock);
        auto link = agent.link();
        const auto ahead = clockAhead(link);
        QVERIFY(ahead && std::fabs(*ahead - 7200) < 2);
        const LoopbackAgent same;
        auto other = EndpointLink::connect(same.address, same.key).value();
        QVERIFY(std::fabs(clockAhead(other).value()) < 0.1);
    }
    // After another boot only the wall's clock speaks, less what it is ahead now.
    void recordsOfAnotherBootHaveTheWallsTime() {
        const QTemporaryDir folder;
        const std::filesystem::path own = std::filesystem::path(folder.path().toStdString());
        const LoopbackAgent peer;
        Clock clock;
        *clock.now = static_cast<std::int64_t>(wallSeconds()) + 7200; // two hours ahead
        Assignment a = hourly(peer);
        a.schedule.from = quantity::utcText(clock.now->load());
        {
            const KeepingAgent agent(clock, own);
            auto link = agent.link();
            QVERIFY(giveSchedule(link, a).has_value());
            QVERIFY(waitFor(*agent.keeper, 2));
        }
        clock.boot = "boot-2";
        *clock.up = 3;
        const KeepingAgent again(clock, own);
        QCOMPARE(again.keeper->states().size(), std::size_t(1));
        auto link = again.link();
        const auto collected = collectSchedule(link, "schedule", 0);
        QVERIFY(collected && collected->runs.size() == 2);
        QVERIFY2(std::fabs(collected->agentAhead - 7200) < 25, // its clock stands
                 qPrintable(QString::number(collected->agentAhead)));
        const double age =
            wallSeconds() - static_cast<double>(*quantity::utcSeconds(collected->runs[0].startedAt));
        QVERIFY2(std::fabs(age) < 30, qPrintable(QString::number(age)));
        // What was tried before the restart is not tried again.
        again.keeper->wake();
        QCOMPARE(again.keeper->states().front().records, std::size_t(2));
        // Nobody but its owner reads the key of the peer.
        struct stat info {};
        QCOMPARE(::stat((own / "schedule" / "assignment").c_str(), &info), 0);
        QCOMPARE(info.st_mode & 0777U, 0600U);
        QCOMPARE(::stat((own / "schedule").c_str(), &info), 0);
        QCOMPARE(info.st_mode & 0777U, 0700U);
    }
    void whoIsNotThereIsNoted() {
        const Clock clock;
        const KeepingAgent agent(clock);
        auto link = agent.link();
        Assignment a{hourly(LoopbackAgent()).schedule, "127.0.0.1:1", Key::generate()};
        QVERIFY(giveSchedule(link, a).has_value());
        *clock.now = start;
        agent.keeper->wake();
        QVERIFY(waitFor(*agent.keeper, 1));
        const auto collected = collectSchedule(link, "schedule", 0);
        QVERIFY(collected->runs.empty());
        QCOMPARE(collected->missed.size(), std::size_t(1));
        QVERIFY(!collected->missed.front().why.empty());
        QCOMPARE(agent.keeper->states().front().lastProblem, collected->missed.front().why);
        // One outside this network is not spoken to at all.
        a.peer = "203.0.113.7:47710";
        a.schedule.id = "far";
        QVERIFY(giveSchedule(link, a).has_value());
        QVERIFY(QTest::qWaitFor([&] {
            const auto far = collectSchedule(link, "far", 0);
            return far && far->missed.size() == 1 &&
                   far->missed.front().why.find("not on this network") != std::string::npos;
        }));
    }
    // Somebody is measuring: the scheduled run waits, and is noted as missed when its time is over.
    void otherRunsGoFirst() {
        const LoopbackAgent peer;
        const Clock clock;
        const KeepingAgent agent(clock);
        auto link = agent.link();
        QVERIFY(giveSchedule(link, hourly(peer)).has_value());
        ++agent.keeper->busy();
        *clock.now = start;
        agent.keeper->wake();
        QTest::qWait(300);
        QCOMPARE(agent.keeper->states().front().records, std::size_t(0));
        *clock.now = start + 1000; // more than a quarter of the hour
        agent.keeper->wake();
        QVERIFY(waitFor(*agent.keeper, 1));
        QVERIFY(agent.keeper->states().front().lastProblem.find("busy") != std::string::npos);
        --agent.keeper->busy();
        *clock.now = start + 3600;
        agent.keeper->wake();
        QVERIFY(waitFor(*agent.keeper, 3));
    }
    // A run over the control connection says by itself that the agent is busy.
    void aRunInASessionMakesItBusy() {
        const LoopbackAgent peer;
        const Clock clock;
        const KeepingAgent agent(clock);
        auto from = agent.link();
        auto to = EndpointLink::connect(peer.address, peer.key).value();
        benchmark::RunConfig config;
        config.seconds = 1;
        std::atomic<int> most{0};
        const auto run = conduct(
            from, to, config,
            {{},
             [&](const benchmark::Sample&) { most = std::max(most.load(), agent.keeper->busy().load()); }},
            {});
        QVERIFY(run.has_value());
        QCOMPARE(most.load(), 1);
        { const auto gone = std::move(from); }
        QVERIFY(QTest::qWaitFor([&] { return agent.keeper->busy() == 0; }));
    }
    void theNewestRecordsAreKept() {
        const QTemporaryDir folder;
        const std::filesystem::path own = std::filesystem::path(folder.path().toStdString()) / "s";
        auto records = ScheduleRecords::open(own).value();
        for (std::size_t i = 0; i < maxRecords + 10; ++i)
            QVERIFY(records.add(record()).has_value());
        QCOMPARE(records.size(), maxRecords);
        QCOMPARE(records.newest(), static_cast<std::int64_t>(maxRecords + 10));
        QCOMPARE(records.after(0, 1).size(), std::size_t(1)); // at least one
        QCOMPARE(records.after(0, 1).front().at("number").get<int>(), 11);
        const auto files =
            std::distance(std::filesystem::directory_iterator(own), std::filesystem::directory_iterator());
        QCOMPARE(files, static_cast<std::ptrdiff_t>(maxRecords));
        // One that cannot be read is left out; the rest is there again.
        std::ofstream(own / "record-20.json") << "{";
        std::ofstream(own / "record-21.json") << "[]";
        std::ofstream(own / "other.json") << "{}";
        const auto again = ScheduleRecords::open(own).value();
        QCOMPARE(again.size(), maxRecords - 2);
        QCOMPARE(again.newest(), records.newest());
    }
    // The bytes are bounded as well, and a run that is too long goes without its samples.
    void longRunsGoWithoutTheirSamples() {
        auto records = ScheduleRecords::open({}).value();
        benchmark::Run run = steadyRun(benchmark::Direction::forward, 100);
        const benchmark::Sample one = run.samples.back();
        for (int i = 0; i < 3000; ++i)
            run.samples.push_back(one);
        QVERIFY(benchmark::toJson(run).dump().size() > maxRecordBytes);
        QVERIFY(records.add(record(benchmark::toJson(run))).has_value());
        const auto kept = records.after(0, 1).front();
        QVERIFY(!kept.at("run").contains("samples"));
        QVERIFY(kept.dump().size() < maxRecordBytes);
    }
    void theOldestGoWhereTheBytesAreTooMany() {
        auto records = ScheduleRecords::open({}).value();
        ScheduleRecord large = record();
        large.problem = std::string(140'000, 'x');
        for (std::size_t i = 0; i < 250; ++i)
            QVERIFY(records.add(large).has_value());
        std::vector<std::size_t> sizes;
        std::size_t all = 0;
        for (const auto& kept : records.after(0, maxStoreBytes)) {
            sizes.push_back(kept.dump().size());
            all += sizes.back();
        }
        QCOMPARE(sizes.size(), records.size());
        QVERIFY(all <= maxStoreBytes && all + sizes.back() > maxStoreBytes);
        // As many as fit, to the byte.
        const std::int64_t first = records.newest() - static_cast<std::int64_t>(records.size());
        QCOMPARE(records.after(first, sizes[0] + sizes[1]).size(), std::size_t(2));
        QCOMPARE(records.after(first, sizes[0] + sizes[1] - 1).size(), std::size_t(1));
        QCOMPARE(records.after(first + 1, maxStoreBytes).size(), sizes.size() - 1);
        QCOMPARE(records.lastProblem(), large.problem);
        QVERIFY(records.add(record(benchmark::toJson(steadyRun(benchmark::Direction::forward, 100)))));
        QCOMPARE(records.lastProblem(), std::string());
    }
    // An agent whose records do not hold together: what does is taken, the rest is counted, and it ends.
    void recordsThatDoNotFitAreCounted() {
        const nlohmann::json run = benchmark::toJson(steadyRun(benchmark::Direction::forward, 100));
        const auto numbered = [](std::int64_t number, const nlohmann::json& what = nullptr) {
            ScheduleRecord r = record(what);
            r.number = number;
            return toJson(r);
        };
        int asked = 0;
        std::vector<double> after;
        Puppet agent([&](const nlohmann::json& order) -> std::vector<nlohmann::json> {
            const std::string type = order.value("type", "");
            if (type == "hello") return {greeting()};
            if (type == "clock") return {{{"type", "clock"}, {"utc_s", wallSeconds() + 100}}};
            after.push_back(order.value("after", -1.0));
            nlohmann::json records = nlohmann::json::array();
            if (++asked == 1)
                records = {numbered(6, run),
                           numbered(5, run),
                           numbered(6, run),
                           numbered(8),
                           numbered(9, {{"id", "no run"}}),
                           nlohmann::json("none"),
                           numbered(12, run)};
            return {
                {{"type", "schedule-records"}, {"records", records}, {"boot", "boot-1"}, {"uptime_s", 3605}}};
        });
        QVERIFY(agent.link->has_value());
        EndpointLink& link = agent.link->value();
        const double now = wallSeconds();
        const auto got = collectSchedule(link, "schedule", 5);
        QVERIFY2(got.has_value(), got ? "" : got.error().sentence().c_str());
        QCOMPARE(got->runs.size(), std::size_t(2));
        QCOMPARE(got->unreadable, std::size_t(4)); // 5, the second 6, what is no run, what is no record
        QCOMPARE(got->missed.size(), std::size_t(1));
        QCOMPARE(got->missed[0].why, std::string("nobody there."));
        QCOMPARE(got->newest, std::int64_t(12));
        QVERIFY(std::fabs(got->agentAhead - 100) < 5);
        QCOMPARE(after, (std::vector<double>{5, 12}));
        // They began at 5 s of the same boot, an hour ago.
        for (const std::string& at : {got->runs[0].startedAt, got->runs[1].startedAt, got->missed[0].at}) {
            const double age = now - static_cast<double>(*quantity::utcSeconds(at));
            QVERIFY2(std::fabs(age - 3600) < 5, qPrintable(QString::number(age)));
        }
    }
    void onlySoManySchedules() {
        const Clock clock;
        const KeepingAgent agent(clock);
        auto link = agent.link();
        const LoopbackAgent peer;
        for (std::size_t i = 0; i < maxAssignments; ++i)
            QVERIFY(giveSchedule(link, hourly(peer, "s-" + std::to_string(i))).has_value());
        const auto refused = giveSchedule(link, hourly(peer, "one-more"));
        QVERIFY(!refused && refused.error().what.find("16 schedules already") != std::string::npos);
        QVERIFY(giveSchedule(link, hourly(peer, "s-3")).has_value()); // in its place
    }
    void nonsenseIsRefusedAndTheSessionGoesOn() {
        const Clock clock;
        const KeepingAgent agent(clock);
        auto link = agent.link();
        nlohmann::json good = toJson(hourly(LoopbackAgent()));
        good["type"] = "schedule-give";
        const auto refused = [&](const nlohmann::json& change) {
            nlohmann::json order = good;
            order.merge_patch(change); // null takes a field out
            return !link.ask(order, "schedule", std::chrono::seconds(2)).has_value();
        };
        for (const char* change : {R"({"id": "../../etc"})", R"({"id": ""})", R"({"from": "yesterday"})",
                                   R"({"every_minutes": 0})", R"({"every_minutes": 1, "seconds": 60})",
                                   R"({"hours": 1e9})", R"({"seconds": 1e6})", R"({"streams": 1000})",
                                   R"({"peer": null})", R"({"peer_key": "short"})", R"({"peer_key": null})"})
            QVERIFY2(refused(nlohmann::json::parse(change)), change);
        QVERIFY(!refused(nlohmann::json::object()));
        QVERIFY(!link.ask({{"type", "schedule-records"}, {"id", "nobody"}, {"after", 0}}, "schedule-records",
                          std::chrono::seconds(2)));
        QVERIFY(!link.ask({{"type", "schedule-records"}, {"id", "schedule"}, {"after", -1}},
                          "schedule-records", std::chrono::seconds(2)));
        const auto list = link.ask({{"type", "schedule-list"}}, "schedule", std::chrono::seconds(2));
        QVERIFY(list && list->at("schedules").size() == 1);
        // The key of the peer is told to nobody.
        QVERIFY(list->dump().find(good.at("peer_key").get<std::string>()) == std::string::npos);
        // An agent that keeps none says so.
        const LoopbackAgent plain;
        auto other = EndpointLink::connect(plain.address, plain.key).value();
        QVERIFY(!giveSchedule(other, hourly(plain)));
    }
};

QTEST_GUILESS_MAIN(TestSchedules)
#include "test_schedules.moc"
