// Everything that agents do, at once and again and again: runs between three machines, a watch, a schedule,
// keys that come and go, questions, strangers, runs that are stopped. Five seconds as a rule; ten minutes
// where METRODOS_DEEP is set, under the thread sanitizer.
#include "probe/key_requests.h"
#include "probe/peer_clock.h"
#include "probe/schedule_messages.h"
#include "probe/watch.h"
#include "quantity/moment.h"
#include "support/agents.h"

#include <QTemporaryDir>
#include <QTest>
#include <atomic>
#include <random>
#include <thread>

using namespace metrodos;
using namespace metrodos::probe;
using namespace std::chrono_literals;

namespace {

using Clock = std::chrono::steady_clock;

// An agent with keys and schedules of its own.
struct WholeAgent {
    QTemporaryDir folder;
    Key key = Key::generate();
    std::shared_ptr<AgentKeys> keys;
    std::shared_ptr<ScheduleKeeper> keeper;
    std::unique_ptr<Agent> agent;
    std::string address;

    explicit WholeAgent(const std::string& name) {
        const std::string file = folder.filePath("key").toStdString();
        if (!key.save(file)) qFatal("no key could be written");
        keys = AgentKeys::open({file, folder.filePath("pairs").toStdString()}).value();
        KeeperSettings keeping;
        keeping.own = [name] { return EndpointLink::here(name); };
        keeper = ScheduleKeeper::start(std::move(keeping)).value();
        AgentSettings settings{"127.0.0.1:0", name, keys->ring(), {}};
        settings.kept = keys;
        settings.schedules = keeper;
        agent = Agent::start(settings, [name](const PeerFilter& filter) {
                    return makePerformer(name, filter);
                }).value();
        address = agent->address().text();
    }
    [[nodiscard]] quantity::Result<EndpointLink> link() const { return EndpointLink::connect(address, key); }
};

benchmark::RunConfig shortRun(int number) {
    benchmark::RunConfig config;
    config.seconds = 0.5;
    config.streams = 1 + number % 4;
    config.direction = number % 2 == 0 ? benchmark::Direction::forward : benchmark::Direction::backward;
    config.rate = quantity::BitRate::bitsPerSecond(50e6); // several at once on one machine
    if (number % 3 == 2) {
        config.protocol = benchmark::Protocol::udp;
        config.streams = 1;
        config.rate = quantity::BitRate::bitsPerSecond(5e6);
    }
    return config;
}

} // namespace

class TestEverything : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void agentsDoAllAtOnce() {
        const auto lasting = qEnvironmentVariableIsSet("METRODOS_DEEP") ? std::chrono::seconds(600) : 5s;
        const auto files = testing::openFiles();
        const auto threads = testing::threads();
        {
            const WholeAgent one("one");
            const WholeAgent two("two");
            const auto end = Clock::now() + lasting;
            const auto goesOn = [end] { return Clock::now() < end; };
            std::atomic<int> runs{0};
            std::atomic<int> stopped{0};
            std::atomic<int> granted{0};
            std::atomic<int> asked{0};
            std::atomic<int> scheduled{0};
            std::atomic<int> kept{0};
            std::vector<std::thread> all;
            // Ways of three machines, the third being this one; every fourth run is stopped in the middle.
            const auto runBetween = [&](auto openFrom, auto openTo) {
                for (int n = 0; goesOn(); ++n) {
                    auto from = openFrom();
                    auto to = openTo();
                    if (!from || !to) continue;
                    std::stop_source stop;
                    RunObserver observer;
                    if (n % 4 == 3) observer.sample = [&](const benchmark::Sample&) { stop.request_stop(); };
                    const auto run = conduct(*from, *to, shortRun(n), observer, stop.get_token());
                    if (run && run->complete) ++runs;
                    if (run && !run->complete) ++stopped;
                }
            };
            all.emplace_back(
                [&] { runBetween([] { return EndpointLink::here("here"); }, [&] { return one.link(); }); });
            all.emplace_back(
                [&] { runBetween([&] { return two.link(); }, [] { return EndpointLink::here("here"); }); });
            all.emplace_back([&] { runBetween([&] { return one.link(); }, [&] { return two.link(); }); });
            // A watch of the way between them.
            std::stop_source watched;
            all.emplace_back([&] {
                WatchConfig config;
                config.from = [&](const std::stop_token&) { return one.link(); };
                config.to = [&](const std::stop_token&) { return two.link(); };
                config.run = shortRun(2);
                config.seconds = 3600;
                WatchObserver observer;
                observer.kept = [&](const benchmark::WatchReport&) { ++kept; };
                (void)watch(config, observer, watched.get_token());
            });
            // Keys come, are used, and go, while their sessions are open.
            all.emplace_back([&] {
                while (goesOn()) {
                    auto link = one.link();
                    if (!link) continue;
                    const auto key =
                        askForKey(*link, granted % 2 == 0 ? Right::command : Right::takePart, "x");
                    if (!key) continue;
                    auto session = EndpointLink::connect(one.address, *key);
                    if (session && askToForget(*link, credentialOf(*key).identity)) ++granted;
                }
            });
            // Somebody asks.
            all.emplace_back([&] {
                while (goesOn())
                    if (auto link = two.link(); link && link->facts() && clockAhead(*link)) ++asked;
            });
            // A schedule is given, looked at, and taken back.
            all.emplace_back([&] {
                for (int n = 0; goesOn(); ++n) {
                    auto link = one.link();
                    if (!link) continue;
                    house::Schedule s;
                    s.id = "s-" + std::to_string(n % 3);
                    s.from = quantity::utcText(static_cast<std::int64_t>(wallSeconds()) - 1);
                    s.everyMinutes = 1;
                    s.hours = 1;
                    s.seconds = 1;
                    if (!giveSchedule(*link, {s, two.address, two.key})) continue;
                    (void)collectSchedule(*link, s.id, 0);
                    if (n % 2 == 0 && endSchedule(*link, s.id)) ++scheduled;
                }
            });
            // Strangers.
            all.emplace_back([&] {
                std::mt19937 random(1);
                const Address address = resolve(one.address).value();
                while (goesOn()) {
                    const auto fd = connectTo(address, 1s);
                    if (!fd) continue;
                    std::string noise(random() % 200, '\x16');
                    (void)!::send(fd->get(), noise.data(), noise.size(), MSG_NOSIGNAL);
                    std::this_thread::sleep_for(5ms);
                }
            });
            std::this_thread::sleep_until(end);
            watched.request_stop();
            for (std::thread& thread : all)
                thread.join();
            const QString said = QString("runs %1, stopped %2, keys %3, asked %4, schedules %5, watch %6")
                                     .arg(runs.load())
                                     .arg(stopped.load())
                                     .arg(granted.load())
                                     .arg(asked.load())
                                     .arg(scheduled.load())
                                     .arg(kept.load());
            QVERIFY2(runs > 3 && stopped > 0 && granted > 3 && asked > 3 && scheduled > 1 && kept > 1,
                     qPrintable(said));
            QCOMPARE(one.keys->ownKeys(), std::size_t(0));
            QVERIFY(one.link()->facts().has_value() && two.link()->facts().has_value());
        }
        QTRY_COMPARE(testing::threads(), threads);
        QTRY_COMPARE(testing::openFiles(), files);
    }
};

QTEST_GUILESS_MAIN(TestEverything)
#include "test_everything.moc"
