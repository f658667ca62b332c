// The control connection: who gets in, and what each malformed message earns.
#include "support/agents.h"

#include <QTest>
#include <unistd.h>

using namespace metrodos::testing;
using nlohmann::json;
using namespace std::chrono_literals;

namespace {

std::unique_ptr<Channel> dial(const LoopbackAgent& agent) {
    auto fd = connectTo(resolve(agent.address).value(), 2s);
    return TlsContext(agent.key).connect(std::move(*fd), 2s).value();
}

// The type of the answer to the last message; "closed" when the agent hung up without one.
std::string answer(Channel& channel) {
    const auto message = channel.receive(3s);
    if (!message) return "closed";
    if (!*message) return "silent";
    return (**message).value("type", "untyped") + ": " + (**message).value("what", "");
}

const json hello{{"type", "hello"}, {"protocol", protocolVersion}};

} // namespace

class TestProtocol : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }
    void aPeerWithTheKeyIsGreeted() {
        const LoopbackAgent agent("Loft computer");
        const auto link = EndpointLink::connect(agent.address, agent.key);
        QVERIFY2(link.has_value(), link ? "" : link.error().sentence().c_str());
        QCOMPARE(link->name(), std::string("Loft computer"));
        QVERIFY(!link->simulated());
    }
    void factsDescribeTheMachine() {
        const LoopbackAgent agent;
        auto link = EndpointLink::connect(agent.address, agent.key);
        const json facts = link->facts().value();
        QVERIFY(facts.at("cpu").at("cores").get<int>() >= 1);
        QVERIFY(facts.at("ports").is_array());
        for (const auto& port : facts.at("ports"))
            for (const char* key : {"name", "up", "rate_bps", "duplex", "driver", "addresses", "bus"})
                QVERIFY2(port.contains(key), key);
    }
    void aWrongKeyIsTurnedAwayWithAdvice() {
        const LoopbackAgent agent;
        const auto link = EndpointLink::connect(agent.address, Key::generate());
        QVERIFY(!link);
        QVERIFY2(link.error().sentence().find("does not accept this key") != std::string::npos,
                 link.error().sentence().c_str());
    }
    void whatIsNoAgentIsSaidToBeNone() {
        // A listener that hangs up, one that talks nonsense, and a closed port.
        const auto server = listenOn(resolve("127.0.0.1:0").value()).value();
        const std::string address = localAddress(server.get()).text();
        std::thread nonsense([&] {
            for (const char* text : {"", "220 welcome\r\n"}) {
                const Fd peer(::accept4(server.get(), nullptr, nullptr, SOCK_CLOEXEC));
                if (*text != '\0') ::send(peer.get(), text, std::strlen(text), MSG_NOSIGNAL);
            }
        });
        const auto hangsUp = EndpointLink::connect(address, Key::generate());
        const auto talks = EndpointLink::connect(address, Key::generate());
        nonsense.join();
        QVERIFY(hangsUp.error().sentence().find("not an agent") != std::string::npos);
        QVERIFY(talks.error().sentence().find("not an agent") != std::string::npos);
        const auto nobody = EndpointLink::connect("127.0.0.1:1", Key::generate());
        QVERIFY(nobody.error().sentence().find("nothing listens there") != std::string::npos);
    }
    void otherProtocolVersionsAreNamed() {
        const LoopbackAgent agent;
        for (const auto& [version, word] : {std::pair(0, "older"), std::pair(protocolVersion + 1, "newer")}) {
            const auto channel = dial(agent);
            QVERIFY(channel->send({{"type", "hello"}, {"protocol", version}}).has_value());
            QVERIFY(answer(*channel).find(word) != std::string::npos);
            QCOMPARE(answer(*channel), std::string("closed"));
        }
    }
    void theFirstMessageMustBeAGreeting() {
        const LoopbackAgent agent;
        const auto channel = dial(agent);
        QVERIFY(channel->send({{"type", "facts"}}).has_value());
        QVERIFY(answer(*channel).starts_with("problem: the first message was not a greeting"));
    }
    void everyFieldOfAnOrderIsChecked() {
        const LoopbackAgent agent;
        const auto channel = dial(agent);
        QVERIFY(channel->send(hello).has_value());
        QVERIFY(answer(*channel).starts_with("hello"));
        RunTask task;
        task.run = "r-1";
        task.config.seconds = 1;
        json good = toJson(task);
        good["type"] = "prepare";
        QVERIFY(channel->send(good).has_value());
        QVERIFY(answer(*channel).starts_with("prepared"));
        const std::vector<json> garbage{
            nullptr, -1, 1e300, "x y", json::array(), json::object(), true, std::string(5000, 'a')};
        for (const char* field : {"run", "role", "streams", "seconds", "maximum_bytes", "bind", "protocol",
                                  "rate_bps", "congestion_control", "window_bytes", "segment_bytes", "dscp"})
            for (const json& bad : garbage) {
                if (std::string(field) == "bind" && bad == "x y") continue; // refused when it is used
                json order = good;
                order[field] = bad;
                QVERIFY(channel->send(order).has_value());
                QVERIFY2(answer(*channel).starts_with("problem"),
                         (std::string(field) + " " + bad.dump().substr(0, 20)).c_str());
            }
        // The session has survived all of it.
        QVERIFY(channel->send({{"type", "facts"}}).has_value());
        QVERIFY(answer(*channel).starts_with("facts"));
        QVERIFY(channel->send({{"type", "start"}}).has_value());
    }
    void unknownOrdersEndTheSession() {
        const LoopbackAgent agent;
        const auto channel = dial(agent);
        QVERIFY(channel->send(hello).has_value());
        (void)answer(*channel);
        QVERIFY(channel->send({{"type", "dance"}}).has_value());
        QVERIFY(answer(*channel).find("not known") != std::string::npos);
        QCOMPARE(answer(*channel), std::string("closed"));
    }
    void tooLargeAMessageIsNeitherSentNorTaken() {
        const LoopbackAgent agent;
        const auto channel = dial(agent);
        QVERIFY(!channel->send({{"type", std::string(maxMessage, 'x')}}));
        QVERIFY(channel->send(hello).has_value()); // the channel is still whole
        QVERIFY(answer(*channel).starts_with("hello"));
    }
    void parsingRefusesDepthAndNoise() {
        QVERIFY(parseMessage("{\"a\":1}").has_value());
        QVERIFY(!parseMessage("[1]"));
        QVERIFY(!parseMessage(""));
        QVERIFY(!parseMessage("{\"a\":\"\xff\xfe\"}"));
        QVERIFY(!parseMessage(std::string(100000, '[')));
        std::string deep = "1";
        for (int i = 0; i < 40; ++i)
            deep = "{\"a\":" + deep + "}";
        QVERIFY(!parseMessage(deep));
    }
    void aPortInUseIsSaid() {
        const LoopbackAgent agent;
        const auto second = Agent::start({agent.address, "second", agent.keys, {}},
                                         [](const PeerFilter& f) { return makePerformer("x", f); });
        QVERIFY(!second);
        QVERIFY(second.error().sentence().find("in use by another program") != std::string::npos);
        QVERIFY(!Agent::start({"not an address", "x", agent.keys, {}}, {}));
    }
    void addressesAndRanges() {
        QVERIFY(resolve("10.1.2.3").value().isNearby());
        QVERIFY(resolve("172.20.0.1").value().isNearby());
        QVERIFY(!resolve("172.32.0.1").value().isNearby());
        QVERIFY(resolve("[::1]:99").value().isNearby());
        QVERIFY(resolve("[fd00::1]").value().isNearby());
        QVERIFY(!resolve("192.0.2.1").value().isNearby());
        QVERIFY(!resolve("[2001:db8::1]").value().isNearby());
        QCOMPARE(resolve("10.1.2.3:77").value().port(), std::uint16_t(77));
        QVERIFY(!resolve("10.1.2.3:99999"));
        QVERIFY(!resolve("[::1"));
        const auto range = AddressRange::parse("192.0.2.128/25").value();
        QVERIFY(range.contains(resolve("192.0.2.200").value()));
        QVERIFY(!range.contains(resolve("192.0.2.100").value()));
        QVERIFY(!AddressRange::parse("192.0.2.0/33"));
        QVERIFY(!AddressRange::parse("all"));
    }
};

QTEST_GUILESS_MAIN(TestProtocol)
#include "test_protocol.moc"
