// A stop is heard in every phase: while a link is opened, while the data connections are, while the idle
// delay is taken. And an agent that is told to open them does so at allowed doors only, and says no more than
// that.
#include "probe/service_test.h"
#include "support/agents.h"

#include <QElapsedTimer>
#include <QTest>
#include <set>
#include <sys/socket.h>

using namespace metrodos;
using namespace metrodos::testing;
using nlohmann::json;
using namespace std::chrono_literals;

namespace {

constexpr int stopMs = 200;
constexpr int slack = 60; // for this machine's own doings

json greeting() {
    return {{"type", "hello"}, {"protocol", protocolVersion}, {"name", "silent"}, {"simulated", true}};
}

// What an endpoint answers while a run is opened; null: nothing.
json answerTo(const std::string& order) {
    if (order == "hello") return greeting();
    if (order == "prepare")
        return {{"type", "prepared"},
                {"host", "x"},
                {"port", 1},
                {"delay_port", 1},
                {"token", std::string(32, '0')}};
    if (order == "join") return {{"type", "joined"}};
    if (order == "idle") return {{"type", "idle"}, {"rtt_us", nullptr}};
    if (order == "cancel") return {{"type", "cancelled"}};
    return nullptr;
}

// An endpoint that answers up to an order, and from then on to nothing.
class Silent {
  public:
    explicit Silent(const std::string& from) {
        auto [mine, theirs] = localChannel();
        m_thread = std::thread([from, channel = std::shared_ptr<Channel>(std::move(theirs))] {
            bool isSilent = false;
            for (;;) {
                const auto order = channel->receive(20s);
                if (!order || !*order) return;
                const std::string type = (*order)->value("type", "");
                isSilent = isSilent || type == from;
                if (isSilent) continue;
                const json answer = answerTo(type);
                if (answer.is_object() && !channel->send(answer)) return;
            }
        });
        link.emplace(EndpointLink::greet(std::move(mine), "silent"));
    }
    ~Silent() {
        link.reset();
        m_thread.join();
    }
    std::optional<quantity::Result<EndpointLink>> link;

  private:
    std::thread m_thread;
};

// How long it takes from the stop, 100 ms after the beginning, to the end.
template <class Act>
qint64 stoppedAfter(Act act) {
    std::stop_source stop;
    QElapsedTimer timer;
    timer.start();
    std::thread later([&] {
        std::this_thread::sleep_for(100ms);
        stop.request_stop();
    });
    act(stop.get_token());
    const qint64 took = timer.elapsed();
    later.join();
    return took - 100;
}

// A port of loopback that takes connections and says nothing; `isFull`: it takes none any more.
class Hole {
  public:
    explicit Hole(bool isFull = false)
        : m_listener(listenOn(resolve("127.0.0.1:0").value(), 0).value())
        , address(localAddress(m_listener.get())) {
        for (int i = 0; isFull && i < 8; ++i) {
            Fd fd(::socket(AF_INET, SOCK_STREAM | SOCK_NONBLOCK, 0));
            (void)::connect(fd.get(), reinterpret_cast<const sockaddr*>(&address.storage), address.length);
            m_waiting.push_back(std::move(fd));
        }
    }

  private:
    Fd m_listener;
    std::vector<Fd> m_waiting;

  public:
    Address address;
};

json joinOrder(const Address& to, int streams = 1) {
    RunTask task;
    task.run = "run-1";
    task.role = Role::send;
    task.config.streams = streams;
    json out = toJson(task);
    out.update(toJson(DataTarget{to.host(), to.port(), to.port(), {}}));
    out["type"] = "join";
    return out;
}

} // namespace

class TestStops : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void whileTheRunIsOpened_data() {
        QTest::addColumn<QString>("silentFrom");
        for (const char* order : {"prepare", "join", "idle", "start"})
            QTest::newRow(order) << QString(order);
    }
    void whileTheRunIsOpened() {
        QFETCH(QString, silentFrom);
        Silent from(silentFrom.toStdString());
        Silent to(silentFrom.toStdString());
        std::optional<quantity::Result<benchmark::Run>> run;
        const qint64 took = stoppedAfter([&](const std::stop_token& stop) {
            run = conduct(from.link->value(), to.link->value(), {}, {}, stop);
        });
        QVERIFY2(took < stopMs + slack, qPrintable(QString::number(took)));
        QVERIFY2(run->has_value(), *run ? "" : run->error().sentence().c_str());
        QVERIFY(!(*run)->complete && (*run)->samples.empty());
    }
    // Ends that talk of something else for ever do not keep a run from its end.
    void aRunHasADeadline() {
        const auto chatter = [] {
            auto [mine, theirs] = localChannel();
            auto thread = std::make_unique<std::jthread>(
                [channel = std::shared_ptr<Channel>(std::move(theirs))](const std::stop_token& stop) {
                    while (!stop.stop_requested()) {
                        const auto order = channel->receive(100ms);
                        if (!order) return;
                        json answer = answerTo(*order ? (*order)->value("type", "") : std::string());
                        if (answer.is_null())
                            answer = {{"type", "sample"},
                                      {"run", "another"},
                                      {"n", 1},
                                      {"t_s", 0.1},
                                      {"goodput_bps", 1}};
                        if (!channel->send(answer)) return;
                    }
                });
            return std::pair(EndpointLink::greet(std::move(mine), "chatter"), std::move(thread));
        };
        auto from = chatter();
        auto to = chatter();
        benchmark::RunConfig config;
        config.seconds = 0.5;
        QElapsedTimer timer;
        timer.start();
        const auto run = conduct(from.first.value(), to.first.value(), config, {}, {});
        QVERIFY(!run.has_value());
        QVERIFY2(run.error().what.find("did not end on time") != std::string::npos, run.error().what.c_str());
        QVERIFY2(timer.elapsed() > 10'000 && timer.elapsed() < 12'500,
                 qPrintable(QString::number(timer.elapsed())));
    }
    void whileALinkIsOpened_data() {
        QTest::addColumn<bool>("isFull");
        QTest::newRow("the handshake") << false;
        QTest::newRow("the connection") << true;
    }
    void whileALinkIsOpened() {
        QFETCH(bool, isFull);
        const Hole hole(isFull);
        std::optional<quantity::Result<EndpointLink>> link;
        const qint64 took = stoppedAfter([&](const std::stop_token& stop) {
            link.emplace(EndpointLink::connect(hole.address.text(), Key::generate(), AF_UNSPEC, stop));
        });
        QVERIFY2(took < stopMs + slack, qPrintable(QString::number(took)));
        QVERIFY(!link->has_value());
        QVERIFY2(link->error().what.find("stopped") != std::string::npos, link->error().what.c_str());
    }
    // The service's server takes the connection and says nothing, or takes none.
    void whileAServiceIsAsked_data() { whileALinkIsOpened_data(); }
    void whileAServiceIsAsked() {
        QFETCH(bool, isFull);
        const Hole hole(isFull);
        ServiceTestConfig config;
        config.url = "http://" + hole.address.text() + "/";
        std::optional<quantity::Result<benchmark::Run>> run;
        const qint64 took =
            stoppedAfter([&](const std::stop_token& stop) { run = testService(config, {}, stop); });
        QVERIFY2(took < stopMs + slack, qPrintable(QString::number(took)));
        QVERIFY2(run->has_value(), *run ? "" : run->error().sentence().c_str());
        QVERIFY(!(*run)->complete && (*run)->samples.empty());
    }
    // The same at the agent: told to open 32 streams to a port that takes none, it listens all the same.
    void anAgentThatOpensStreamsListens() {
        const LoopbackAgent agent;
        const Hole hole(true);
        auto link = EndpointLink::connect(agent.address, agent.key).value();
        QVERIFY(link.channel().send(joinOrder(hole.address, 32)).has_value());
        std::this_thread::sleep_for(100ms);
        QElapsedTimer timer;
        timer.start();
        QVERIFY(link.ask({{"type", "cancel"}}, "cancelled", 5s).has_value());
        QVERIFY2(timer.elapsed() < stopMs, qPrintable(QString::number(timer.elapsed())));
        QVERIFY(link.facts().has_value()); // and goes on
        // An order that comes meanwhile has its turn.
        QVERIFY(link.channel().send(joinOrder(hole.address)).has_value());
        QVERIFY(link.channel().send({{"type", "facts"}}).has_value());
        QVERIFY(link.ask({{"type", "cancel"}}, "facts", 5s).has_value());
    }
    void anAgentWhoseControllerIsGoneIsFree() {
        const LoopbackAgent agent;
        const Hole hole(true);
        const auto before = threads();
        {
            auto link = EndpointLink::connect(agent.address, agent.key).value();
            QVERIFY(link.channel().send(joinOrder(hole.address, 32)).has_value());
            std::this_thread::sleep_for(100ms);
        }
        QTRY_COMPARE_WITH_TIMEOUT(threads(), before, 1000);
    }
    // Closed, silent, or spoken to in another tongue: the answer is one and the same.
    void anAgentDoesNotTellWhichDoorsAreOpen() {
        const LoopbackAgent agent;
        auto link = EndpointLink::connect(agent.address, agent.key).value();
        const Hole silent;
        Address closed = silent.address;
        {
            const Hole gone;
            closed = gone.address;
        }
        std::set<std::string> said;
        for (const Address& to : {silent.address, closed, agent.agent->address()}) {
            const auto answer = link.ask(joinOrder(to), "joined", 10s);
            QVERIFY(!answer.has_value());
            said.insert(answer.error().what + answer.error().where + answer.error().advice);
        }
        QCOMPARE(said.size(), std::size_t(1));
        QVERIFY2(said.begin()->find("the data connections to the other endpoint could not be opened") == 0,
                 said.begin()->c_str());
    }
    void anAgentKnocksAtAllowedDoorsOnly() {
        const LoopbackAgent agent;
        auto link = EndpointLink::connect(agent.address, agent.key).value();
        QElapsedTimer timer;
        timer.start();
        for (const char* host : {"198.51.100.7", "203.0.113.1", "2001:db8::1"}) {
            const auto answer = link.ask(joinOrder(numericAddress(host, 80).value()), "joined", 10s);
            QVERIFY(!answer.has_value());
            QVERIFY2(answer.error().what.find("nearby machines only") != std::string::npos,
                     answer.error().what.c_str());
        }
        QVERIFY2(timer.elapsed() < 500, qPrintable(QString::number(timer.elapsed()))); // nothing was tried
    }
};

QTEST_GUILESS_MAIN(TestStops)
#include "test_stops.moc"
