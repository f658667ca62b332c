// The first meeting of an agent with a controller: its words, its key, and who cannot take part.
#include "probe/agent.h"
#include "probe/invitation.h"
#include "probe/meeting.h"
#include "probe/pair_store.h"
#include "probe/words.h"
#include "support/agents.h"
#include "support/meeting_agent.h"

#include <QTest>
#include <poll.h>
#include <set>
#include <sys/socket.h>

using namespace metrodos;
using namespace metrodos::probe;
using testing::MeetingAgent;

namespace {

// Stands between two machines and keeps all that passes.
class Tap {
  public:
    explicit Tap(const std::string& to)
        : m_listener(listenOn(numericAddress("127.0.0.1", 0).value()).value())
        , m_thread([this, to](const std::stop_token& stop) { relay(to, stop); }) {}
    [[nodiscard]] std::string address() const { return localAddress(m_listener.get()).text(); }
    std::string finish() {
        m_thread.request_stop();
        m_thread.join();
        return m_seen;
    }

  private:
    void relay(const std::string& to, const std::stop_token& stop) {
        while (!waitFor(m_listener.get(), false, std::chrono::milliseconds(20)))
            if (stop.stop_requested()) return;
        const Fd near(::accept(m_listener.get(), nullptr, nullptr));
        const Fd far = connectTo(resolve(to).value(), std::chrono::seconds(2)).value();
        setBlocking(far.get(), true);
        std::array<char, 4096> buffer{};
        while (!stop.stop_requested()) {
            std::array<pollfd, 2> both{{{near.get(), POLLIN, 0}, {far.get(), POLLIN, 0}}};
            if (::poll(both.data(), both.size(), 20) <= 0) continue;
            for (std::size_t i = 0; i < 2; ++i) {
                if (both[i].revents == 0) continue;
                const ssize_t got = ::recv(both[i].fd, buffer.data(), buffer.size(), 0);
                if (got <= 0) return;
                m_seen.append(buffer.data(), static_cast<std::size_t>(got));
                (void)::send(both[1 - i].fd, buffer.data(), static_cast<std::size_t>(got), MSG_NOSIGNAL);
            }
        }
    }
    Fd m_listener;
    std::string m_seen;
    std::jthread m_thread;
};

} // namespace

class TestMeeting : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void theWordsAreToldApartByFourLetters() {
        std::set<std::string> starts;
        std::string before;
        std::size_t count = 0;
        std::istringstream list{std::string(wordList())};
        for (std::string word; std::getline(list, word); ++count) {
            QVERIFY2(word.size() >= 4 && word.size() <= 6, word.c_str());
            QVERIFY2(std::all_of(word.begin(), word.end(), [](char c) { return c >= 'a' && c <= 'z'; }),
                     word.c_str());
            QVERIFY2(starts.insert(word.substr(0, 4)).second, word.c_str());
            QVERIFY2(before < word, word.c_str());
            before = word;
        }
        QCOMPARE(count, std::size_t(2048));
    }
    void elevenBitsAreAWord() {
        std::istringstream list{std::string(wordList())};
        const std::vector<std::string> words{std::istream_iterator<std::string>(list), {}};
        // 00000000001 11111111111 00000000010 and one bit that is not used.
        const std::vector<std::uint8_t> bits{0b00000000, 0b00111111, 0b11111100, 0b00000010, 0b01000000};
        QCOMPARE(toWords(bits, 3), words[1] + " " + words[2047] + " " + words[4]);
        QCOMPARE(toWords(std::vector<std::uint8_t>(11, 0), 1), words[0]);
        QCOMPARE(readWords(words[1] + " " + words[2047] + " " + words[4], 3).value(),
                 (std::vector<std::uint16_t>{1, 2047, 4}));
    }
    void wordsAreReadAsPeopleTypeThem() {
        const std::vector<std::uint16_t> expected = readWords("result shift", 2).value();
        for (const char* text :
             {"Result SHIFT", "  result\tshift\n", "result-shift", "resu shif", "resul shift"})
            QCOMPARE(readWords(text, 2).value(), expected);
        QVERIFY(readWords("res shift", 2).error().what.find("“res”") != std::string::npos);
        QVERIFY(readWords("results shift", 2).error().what.find("“results”") != std::string::npos);
        QVERIFY(readWords("result", 2).error().what.find("1 word was") != std::string::npos);
        QVERIFY(!readWords("result shift table", 2).has_value());
        QVERIFY(!readWords("", 2).has_value());
        QVERIFY(!readWords(std::string(10'000, 'a'), 2).has_value());
        const auto hostile = readWords("\x1b[2J shift", 2);
        QVERIFY(!hostile.has_value() && hostile.error().what.find('\x1b') == std::string::npos);
    }
    void aCodeSurvivesBeingWrittenDown() {
        std::set<std::string> seen;
        for (int i = 0; i < 200; ++i) {
            const MeetingCode code = MeetingCode::generate();
            QVERIFY(seen.insert(code.words()).second);
            QCOMPARE(MeetingCode::parse(code.words()).value(), code);
            const Invitation invitation{"192.168.1.20:47710", std::nullopt, code};
            QCOMPARE(Invitation::parse(invitation.text()).value(), invitation);
        }
        QVERIFY(!Invitation::parse("METRODOS:192.168.1.20/MEET:RESULT-SHIFT").has_value());
        const std::string words = MeetingCode::generate().words();
        QVERIFY(!Invitation::parse("METRODOS:/MEET:" + words).has_value()); // nobody knows where
    }
    void bothSidesHaveTheSameWordsAndKey() {
        MeetingAgent there;
        Tap tap(there.address);
        auto call = MeetingCall::to(tap.address(), there.code(), "anna at the laptop");
        QVERIFY2(call.has_value(), call ? "" : call.error().sentence().c_str());
        QCOMPARE(call->agent(), std::string("cellar box"));
        QTRY_COMPARE(there.met.size(), std::size_t(1));
        QCOMPARE(there.met[0], call->pairing().words);
        QCOMPARE(std::count(there.met[0].begin(), there.met[0].end(), ' '), 3);
        QCOMPARE(there.controllers[0], std::string("anna at the laptop"));
        QVERIFY(there.kept.empty()); // not before both said so
        QVERIFY(call->keep().has_value());
        QCOMPARE(there.kept.size(), std::size_t(1));
        QCOMPARE(there.kept[0], call->pairing().key);
        // It is good for a link from now on, and for that alone.
        QVERIFY(EndpointLink::connect(there.address, call->pairing().key).has_value());
        QVERIFY(!EndpointLink::connect(there.address, Key::generate()).has_value());
        // Neither key nor words went over the wire.
        const std::string seen = tap.finish();
        QVERIFY(seen.size() > 500);
        QVERIFY(seen.find(call->pairing().words) == std::string::npos);
        QVERIFY(seen.find(call->pairing().key.text()) == std::string::npos);
        const auto secret = call->pairing().key.secret();
        QVERIFY(seen.find(std::string(secret.begin(), secret.end())) == std::string::npos);
        QVERIFY(seen.find("anna") == std::string::npos);
        QVERIFY(seen.find("metrodos meeting") != std::string::npos); // the tap does see what is in clear
        // The code is used up.
        const std::size_t codes = there.codes();
        QVERIFY(!MeetingCall::to(there.address, there.code(), "bruno").has_value());
        QTest::qWait(100);
        QCOMPARE(there.codes(), codes); // who has met waits for nobody else
    }
    void everyMeetingMakesAnotherKey() {
        std::set<std::string> keys;
        std::set<std::string> words;
        for (int i = 0; i < 5; ++i) {
            MeetingAgent there;
            const auto call = MeetingCall::to(there.address, there.code(), "anna").value();
            QVERIFY(keys.insert(call.pairing().key.text()).second);
            QVERIFY(words.insert(call.pairing().words).second);
        }
    }
    void whoGoesAwayGetsNothing() {
        MeetingAgent there;
        const MeetingCode first = there.code();
        Key key;
        {
            const auto call = MeetingCall::to(there.address, first, "anna").value();
            key = call.pairing().key;
        }                                            // the words were not the same, say
        QTRY_COMPARE(there.codes(), std::size_t(2)); // and others may try
        QVERIFY(there.kept.empty());
        QVERIFY(!EndpointLink::connect(there.address, key).has_value());
        QVERIFY(!MeetingCall::to(there.address, first, "anna").has_value());
        auto again = MeetingCall::to(there.address, there.code(), "anna");
        QVERIFY(again.has_value() && again->keep().has_value());
    }
    void whatCannotBeKeptIsNotSaidToBe() {
        MeetingAgent there;
        there.canKeep = false;
        auto call = MeetingCall::to(there.address, there.code(), "anna").value();
        const auto kept = call.keep();
        QVERIFY(!kept.has_value());
        QVERIFY2(kept.error().what.find("disk is full") != std::string::npos, kept.error().what.c_str());
        QVERIFY(!EndpointLink::connect(there.address, call.pairing().key).has_value());
    }
    void tenWrongTriesMakeANewCode() {
        MeetingAgent there;
        const MeetingCode right = there.code();
        for (int i = 0; i < 9; ++i) {
            const auto call = MeetingCall::to(there.address, MeetingCode::generate(), "mallory");
            QVERIFY(!call.has_value());
        }
        QTest::qWait(50);
        QCOMPARE(there.codes(), std::size_t(1));
        QVERIFY(!MeetingCall::to(there.address, MeetingCode::generate(), "mallory").has_value());
        QTRY_COMPARE(there.codes(), std::size_t(2));
        QVERIFY(!MeetingCall::to(there.address, right, "anna").has_value());
    }
    void aCodeIsGoodForItsTime() {
        MeetingAgent there(std::chrono::seconds(1));
        const MeetingCode first = there.code();
        QTRY_VERIFY_WITH_TIMEOUT(there.codes() >= 2, 3000);
        QVERIFY(!(there.code() == first));
        QVERIFY(!MeetingCall::to(there.address, first, "anna").has_value());
    }
    void ofTwoAtOnceOneMeets() {
        MeetingAgent there;
        const MeetingCode code = there.code();
        std::array<std::optional<quantity::Result<MeetingCall>>, 4> calls;
        {
            std::vector<std::jthread> threads;
            for (auto& call : calls)
                threads.emplace_back([&] { call.emplace(MeetingCall::to(there.address, code, "anna")); });
        }
        const auto met =
            std::count_if(calls.begin(), calls.end(), [](const auto& c) { return c->has_value(); });
        QCOMPARE(met, std::ptrdiff_t(1));
        QCOMPARE(there.met.size(), std::size_t(1));
    }
    // Whoever has the code but speaks no meeting, and whoever sends garbage in one.
    void nonsenseEndsAMeeting() {
        for (const nlohmann::json& message :
             {nlohmann::json{{"type", "hello"}, {"protocol", protocolVersion}},
              nlohmann::json{{"type", "meet"}}, nlohmann::json{{"type", "meet"}, {"name", 5}},
              nlohmann::json{{"type", "keep"}},
              nlohmann::json{{"type", "meet"}, {"name", std::string(5000, 'x')}}}) {
            MeetingAgent there;
            auto socket = connectTo(resolve(there.address).value(), std::chrono::seconds(2)).value();
            auto channel = TlsContext(there.code().credential())
                               .connect(std::move(socket), std::chrono::seconds(2))
                               .value();
            (void)channel->send(message);
            QTRY_COMPARE(there.codes(), std::size_t(2));
            QVERIFY(there.kept.empty() && there.met.empty());
        }
    }
    void anAgentWithoutAMeetingHasNone() {
        const testing::LoopbackAgent agent;
        const auto call = MeetingCall::to(agent.address, MeetingCode::generate(), "anna");
        QVERIFY(!call.has_value());
        // And a key is no code.
        auto socket = connectTo(resolve(agent.address).value(), std::chrono::seconds(2)).value();
        Credential mixed = credentialOf(agent.key);
        mixed.identity = meetingIdentity;
        QVERIFY(!TlsContext(mixed).connect(std::move(socket), std::chrono::seconds(2)).has_value());
    }
    void severalKeysAreToldApart() {
        testing::LoopbackAgent agent;
        const Key second = Key::generate();
        QVERIFY(!EndpointLink::connect(agent.address, second).has_value());
        agent.keys->add(second);
        QVERIFY(EndpointLink::connect(agent.address, second).has_value());
        QVERIFY(EndpointLink::connect(agent.address, agent.key).has_value());
        QVERIFY(credentialOf(second).identity != credentialOf(agent.key).identity);
        QVERIFY(agent.keys->remove(credentialOf(agent.key).identity));
        QVERIFY(!agent.keys->remove(credentialOf(agent.key).identity));
        QVERIFY(!EndpointLink::connect(agent.address, agent.key).has_value());
        QVERIFY(EndpointLink::connect(agent.address, second).has_value());
        // The plain identity is that of a key file alone, and goes with its key.
        Credential plain = credentialOf(second);
        plain.identity = sharedIdentity;
        auto unshared = connectTo(resolve(agent.address).value(), std::chrono::seconds(2)).value();
        QVERIFY(!TlsContext(plain).connect(std::move(unshared), std::chrono::seconds(2)).has_value());
        const Key file = Key::generate();
        agent.keys->addShared(file);
        plain = credentialOf(file);
        plain.identity = sharedIdentity;
        auto shared = connectTo(resolve(agent.address).value(), std::chrono::seconds(2)).value();
        QVERIFY(TlsContext(plain).connect(std::move(shared), std::chrono::seconds(2)).has_value());
        QVERIFY(agent.keys->remove(credentialOf(file).identity));
        auto removed = connectTo(resolve(agent.address).value(), std::chrono::seconds(2)).value();
        QVERIFY(!TlsContext(plain).connect(std::move(removed), std::chrono::seconds(2)).has_value());
        // One that names another's identity has not its secret.
        Credential stolen = credentialOf(Key::generate());
        stolen.identity = credentialOf(second).identity;
        auto socket = connectTo(resolve(agent.address).value(), std::chrono::seconds(2)).value();
        QVERIFY(!TlsContext(stolen).connect(std::move(socket), std::chrono::seconds(2)).has_value());
    }
    void nothingIsLeftBehind() {
        const auto files = testing::openFiles();
        const auto threads = testing::threads();
        {
            MeetingAgent there;
            (void)MeetingCall::to(there.address, there.code(), "anna");
        }
        QTRY_COMPARE(testing::threads(), threads);
        QCOMPARE(testing::openFiles(), files);
    }
};

QTEST_GUILESS_MAIN(TestMeeting)
#include "test_meeting.moc"
