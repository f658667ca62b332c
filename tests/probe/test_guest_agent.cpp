// The guest of an agent: its page is served by another machine, and who has that agent's key leads the runs.
#include "probe/guest_door.h"
#include "probe/guest_remote.h"
#include "support/guest_device.h"
#include "support/meeting_agent.h"

#include <QElapsedTimer>
#include <QTest>

using namespace metrodos;
using namespace metrodos::probe;
using nlohmann::json;
using testing::Device;
using testing::GuestedAgent;
using testing::shortRun;

class TestGuestAgent : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void anAgentsGuestIsLedOverItsLink() {
        const GuestedAgent agent;
        const auto server = agent.door->open().value();
        Device device(*server);
        RemoteGuest guest(agent.address, [&] { return EndpointLink::connect(agent.address, agent.key); });
        QTRY_VERIFY_WITH_TIMEOUT(guest.state().isPresent, 5000);
        QCOMPARE(guest.state().code, server->state().code);
        QCOMPARE(guest.state().urls, server->state().urls);
        QCOMPARE(guest.state().medium, std::string("cable"));
        QCOMPARE(guest.state().peer, std::string("127.0.0.1"));
        QCOMPARE(guest.servedBy(), agent.address);
        device.work();
        std::vector<GuestLeg> legs{{shortRun(benchmark::Direction::backward), {}},
                                   {shortRun(benchmark::Direction::forward, 3), {}}};
        legs[1].config.warmup = 0.3;
        std::array<int, 2> samples{};
        std::array<std::string, 2> begun;
        for (std::size_t i = 0; i < 2; ++i) {
            legs[i].observer.sample = [&samples, i](const benchmark::Sample&) { ++samples[i]; };
            legs[i].observer.started = [&begun, i](const benchmark::Run& run) { begun[i] = run.id; };
        }
        const auto runs = guest.runAll(legs, {});
        QVERIFY2(runs.has_value(), runs ? "" : runs.error().sentence().c_str());
        QCOMPARE(runs->size(), std::size_t(2));
        for (std::size_t i = 0; i < 2; ++i) {
            const benchmark::Run& run = (*runs)[i];
            QVERIFY(run.complete && !run.simulated && run.rttIdleUs);
            QCOMPARE(run.config.direction, legs[i].config.direction);
            QCOMPARE(run.config.streams, legs[i].config.streams);
            QCOMPARE(run.samples.size(), std::size_t(10));
            QCOMPARE(samples[i], 10);
            QCOMPARE(begun[i], run.id);
            QVERIFY2(run.goodput.inMegabits() > 50, qPrintable(QString::number(run.goodput.inMegabits())));
        }
        QCOMPARE((*runs)[1].warmupSeconds, 0.3);
        QVERIFY(!(*runs)[0].config.group.empty());
        QCOMPARE((*runs)[0].config.group, (*runs)[1].config.group);
    }
    void aStopReachesTheAgentsGuest() {
        const GuestedAgent agent;
        Device device(*agent.door->open().value());
        device.work();
        RemoteGuest guest(agent.address, [&] { return EndpointLink::connect(agent.address, agent.key); });
        std::stop_source stop;
        std::atomic<int> samples{0};
        QElapsedTimer timer;
        RunObserver observer;
        observer.sample = [&](const benchmark::Sample&) {
            if (++samples != 5) return;
            timer.start();
            stop.request_stop();
        };
        const auto run =
            guest.run(shortRun(benchmark::Direction::forward, 2, 30), observer, stop.get_token());
        QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
        QVERIFY(!run->complete);
        QVERIFY2(timer.elapsed() < 600, qPrintable(QString::number(timer.elapsed())));
        // And the next run finds it free.
        Device again(*agent.door->open().value());
        again.work();
        QVERIFY(guest.run(shortRun(benchmark::Direction::forward, 1, 0.5), {}, {}).has_value());
    }
    void aControllerThatIsGoneEndsTheRun() {
        const GuestedAgent agent;
        const auto server = agent.door->open().value();
        Device device(*server);
        device.work();
        {
            auto link = EndpointLink::connect(agent.address, agent.key).value();
            const json leg{{"direction", "backward"}, {"streams", 1}, {"seconds", 60}};
            (void)link.channel().send({{"type", "guest-run"}, {"legs", json::array({leg})}});
            QTRY_VERIFY_WITH_TIMEOUT(device.bytes.load() > 0, 5000);
        } // the link closes in the middle of the run
        Device again(*server);
        again.work();
        auto next = server->run(shortRun(benchmark::Direction::forward, 1, 0.5), {}, {});
        for (int i = 0; i < 20 && !next && next.error().what.find("busy") != std::string::npos; ++i) {
            QTest::qWait(50);
            next = server->run(shortRun(benchmark::Direction::forward, 1, 0.5), {}, {});
        }
        QVERIFY2(next.has_value(), next ? "" : next.error().sentence().c_str());
    }
    void anAgentWithoutGuestsSaysSo() {
        const testing::LoopbackAgent agent;
        RemoteGuest guest(agent.address, [&] { return EndpointLink::connect(agent.address, agent.key); });
        QTRY_VERIFY_WITH_TIMEOUT(!guest.state().problem.empty(), 5000);
        QVERIFY2(guest.state().problem.find("--guest") != std::string::npos, guest.state().problem.c_str());
        const auto run = guest.run(shortRun(benchmark::Direction::forward), {}, {});
        QVERIFY(!run.has_value());
        QVERIFY2(run.error().sentence().find("--guest") != std::string::npos, run.error().sentence().c_str());
        RemoteGuest nobody("127.0.0.1:1",
                           [] { return EndpointLink::connect("127.0.0.1:1", Key::generate()); });
        QTRY_VERIFY_WITH_TIMEOUT(!nobody.state().problem.empty(), 5000);
    }
    void anOrderOutOfBoundsIsRefused() {
        const GuestedAgent agent;
        auto link = EndpointLink::connect(agent.address, agent.key).value();
        const json good{{"direction", "forward"}, {"streams", 1}, {"seconds", 1}};
        const auto with = [&](const char* field, const json& value) {
            json leg = good;
            leg[field] = value;
            return json::array({leg});
        };
        for (const json& legs :
             {json(), json("x"), json::array(), json::array({1}), json::array({good, good, good}),
              with("direction", "sideways"), with("streams", 0), with("streams", 9), with("streams", "1"),
              with("seconds", 0), with("seconds", 1e9), with("warmup_s", -1)}) {
            const auto answer =
                link.ask({{"type", "guest-run"}, {"legs", legs}}, "guest-runs", std::chrono::seconds(2));
            QVERIFY2(!answer.has_value() && answer.error().what.find("field") != std::string::npos,
                     legs.dump().c_str());
        }
        // One that is sound, while no device is there.
        const auto alone = link.ask({{"type", "guest-run"}, {"legs", json::array({good})}}, "guest-runs",
                                    std::chrono::seconds(2));
        QVERIFY(!alone.has_value());
        QVERIFY2(alone.error().what.find("no device") != std::string::npos, alone.error().what.c_str());
    }
    void aCodeThatHasEndedIsMadeAnew() {
        GuestSettings settings;
        settings.listen = "127.0.0.1:0";
        settings.lifetime = std::chrono::seconds(1);
        GuestDoor door(settings);
        const auto first = door.open().value();
        QCOMPARE(door.open().value()->state().code, first->state().code);
        QTRY_COMPARE_WITH_TIMEOUT(first->state().expiresIn.count(), 0, 3000);
        QVERIFY(door.open().value()->state().code != first->state().code);
    }
};

QTEST_GUILESS_MAIN(TestGuestAgent)
#include "test_guest_agent.moc"
