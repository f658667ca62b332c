// The status pages of simulated adapters, and how such a page is read: also one that means harm.
#include "fit/adapter_reading.h"
#include "probe/adapter_status.h"
#include "probe/socket.h"
#include "standin/simulate.h"
#include "standin/simulated_adapters.h"
#include "support/classes.h"
#include "support/mains_rooms.h"

#include <QElapsedTimer>
#include <QTest>
#include <netinet/in.h>
#include <nlohmann/json.hpp>
#include <sys/socket.h>
#include <thread>

using namespace metrodos;
using nlohmann::json;
using testing::classes;

namespace {

standin::SimulationSettings settingsFor(const house::House& h) {
    standin::SimulationSettings settings;
    settings.house = [h] { return h; };
    settings.catalog = classes();
    settings.seed = 3;
    return settings;
}

// Answers one connection with these bytes; then, where it is dripping, with blanks until it is let go.
class OneAnswer {
  public:
    OneAnswer(const QByteArray& bytes, bool dripping, const QByteArray& endless = {})
        : m_listener(probe::listenOn(probe::numericAddress("127.0.0.1", 0).value()).value()) {
        sockaddr_in own{};
        socklen_t size = sizeof(own);
        ::getsockname(m_listener.get(), reinterpret_cast<sockaddr*>(&own), &size);
        url = "http://127.0.0.1:" + std::to_string(ntohs(own.sin_port)) + "/status";
        m_thread = std::jthread([this, bytes, dripping, endless](const std::stop_token& stop) {
            const probe::Fd peer(::accept(m_listener.get(), nullptr, nullptr));
            char request[2048];
            (void)!::recv(peer.get(), request, sizeof(request), 0);
            (void)!::send(peer.get(), bytes.data(), static_cast<std::size_t>(bytes.size()), MSG_NOSIGNAL);
            probe::setTimeouts(peer.get(), std::chrono::milliseconds(200), false);
            while (!endless.isEmpty() && !stop.stop_requested()) {
                const auto went = ::send(peer.get(), endless.data(), static_cast<std::size_t>(endless.size()),
                                         MSG_NOSIGNAL);
                if (went <= 0) return;
                sent += static_cast<std::uint64_t>(went);
            }
            while (dripping && !stop.stop_requested() && ::send(peer.get(), " ", 1, MSG_NOSIGNAL) == 1)
                std::this_thread::sleep_for(std::chrono::milliseconds(50));
        });
    }
    [[nodiscard]] quantity::Result<house::AdapterStatus> read() const {
        return probe::readAdapterStatus(url);
    }
    std::string url;
    std::atomic<std::uint64_t> sent{0}; // of what has no end

  private:
    probe::Fd m_listener;
    std::jthread m_thread; // last: it uses the above
};

QByteArray page(const json& body) {
    const std::string text = body.dump();
    return "HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nConnection: close\r\n\r\n" +
           QByteArray::fromStdString(text);
}

} // namespace

class TestAdapters : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { probe::ignoreBrokenPipes(); }

    void eachAdapterHasAPageThatSaysSimulated() {
        const house::House h = testing::mainsRooms();
        const auto adapters = standin::SimulatedAdapters::start(settingsFor(h)).value();
        QCOMPARE(adapters->pages().size(), std::size_t(2));
        for (const standin::SimulatedPage& p : adapters->pages()) {
            const auto status = probe::readAdapterStatus(p.url);
            QVERIFY2(status.has_value(), status ? "" : status.error().sentence().c_str());
            QVERIFY(status->simulated);
            QCOMPARE(status->name, h.device(p.adapter)->label);
            QVERIFY(status->isPrivate == false); // out of the box
            QCOMPARE(status->peers.size(), std::size_t(1));
            QVERIFY(status->peers[0].to && status->peers[0].from);
        }
        QVERIFY(!probe::readAdapterStatus(adapters->pages()[0].url + "-other")); // 404
        // What one calls "to" is the other's "from".
        const auto a = probe::readAdapterStatus(adapters->pages()[0].url).value().peers[0];
        const auto b = probe::readAdapterStatus(adapters->pages()[1].url).value().peers[0];
        QVERIFY(a.to == b.from && a.from == b.to && a.to != a.from);
    }
    // One that no route passes shows no rates, nor do the others of their way to it.
    void withoutARouteNoRates() {
        house::House h = testing::mainsRooms();
        house::Device third = *h.device("mains-a");
        third.id = "mains-c";
        third.label = "Third adapter";
        h.devices.push_back(third);
        for (house::Connection& c : h.connections)
            if (c.medium == house::Medium::mains) c.ends.push_back({"mains-c", c.ends[0].port});
        const auto adapters = standin::SimulatedAdapters::start(settingsFor(h)).value();
        QCOMPARE(adapters->pages().size(), std::size_t(3));
        for (const standin::SimulatedPage& p : adapters->pages()) {
            const auto status = probe::readAdapterStatus(p.url).value();
            QCOMPARE(status.peers.size(), std::size_t(2));
            for (const house::PeerRates& peer : status.peers) {
                const bool passed = p.adapter != "mains-c" && peer.name != "Third adapter";
                QCOMPARE(peer.to.has_value(), passed);
                QCOMPARE(peer.from.has_value(), passed);
            }
        }
    }
    // What the page shows stands for about what a run over the same simulated wiring gives.
    void theRateShownStandsForTheGoodput() {
        const house::House h = testing::mainsRooms();
        const auto adapters = standin::SimulatedAdapters::start(settingsFor(h)).value();
        const auto status = probe::readAdapterStatus(adapters->pages()[0].url).value(); // of mains-a
        benchmark::RunConfig config;
        config.streams = 4;
        for (const bool forward : {true, false}) {
            config.direction = forward ? benchmark::Direction::forward : benchmark::Direction::backward;
            const double run =
                standin::simulate(h, classes(), h.routes[0], config, 3, 0).value().goodput.inMegabits();
            const auto implied = fit::impliedGoodput(classes(), house::Medium::mains,
                                                     *(forward ? status.peers[0].to : status.peers[0].from))
                                     .value();
            QVERIFY2(run > implied.p10.inMegabits() * 0.8 && run < implied.p90.inMegabits() * 1.2,
                     (std::to_string(run) + " against " + std::to_string(implied.p50.inMegabits())).c_str());
        }
    }
    void thePageFollowsTheJob() {
        auto h = std::make_shared<house::House>(testing::mainsRooms());
        standin::SimulationSettings settings = settingsFor(*h);
        settings.house = [h] { return *h; };
        const auto adapters = standin::SimulatedAdapters::start(settings).value();
        h->device("mains-a")->setUp.name = "hall-unit";
        h->device("mains-a")->setUp.pairedAt = "2026-05-04T10:00:00Z";
        const auto status = probe::readAdapterStatus(adapters->pages()[0].url).value();
        QCOMPARE(status.name, std::string("hall-unit"));
        QVERIFY(status.isPrivate == true);
    }
    void whatIsWrittenIsRead() {
        house::AdapterStatus status;
        status.simulated = true;
        status.name = "a";
        status.firmware = "b";
        status.powerSaving = false;
        status.priority = "calls";
        status.lightsOff = true;
        status.modemProtection = false;
        status.isPrivate = true;
        status.peers = {{"c", quantity::BitRate::megabits(10), {}},
                        {"d", {}, quantity::BitRate::megabits(20)}};
        QVERIFY(probe::toJson(probe::adapterStatusOf(probe::toJson(status)).value()) ==
                probe::toJson(status));
        const auto empty =
            probe::adapterStatusOf({{"format", "metrodos-adapter-status"}, {"version", 1}}).value();
        QVERIFY(empty.name.empty() && !empty.isPrivate && empty.peers.empty() && !empty.simulated);
    }
    void whatIsNoPageIsRefused_data() {
        QTest::addColumn<QByteArray>("answer");
        QTest::newRow("nothing") << QByteArray();
        QTest::newRow("not JSON") << QByteArray("HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n<html>");
        QTest::newRow("another format") << page({{"format", "other"}});
        QTest::newRow("a list") << page(json::array({1, 2}));
        QTest::newRow("a text in place of a flag")
            << page({{"format", "metrodos-adapter-status"}, {"private", "yes"}});
        QTest::newRow("a rate out of bounds") << page(
            {{"format", "metrodos-adapter-status"}, {"peers", {{{"name", "x"}, {"phy_to_bps", -4}}}}});
        QTest::newRow("status 500") << QByteArray("HTTP/1.1 500 No\r\nConnection: close\r\n\r\n{}");
        QTest::newRow("elsewhere") << QByteArray(
            "HTTP/1.1 302 Found\r\nLocation: http://192.0.2.1/\r\nConnection: close\r\n\r\n");
        QTest::newRow("too large") << "HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n" +
                                          QByteArray(200'000, ' ');
        QTest::newRow("deep") << "HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n" + QByteArray(60'000, '[');
    }
    void whatIsNoPageIsRefused() {
        QFETCH(QByteArray, answer);
        const OneAnswer server(answer, false);
        const auto read = server.read();
        QVERIFY(!read);
        QVERIFY2(!read.error().advice.empty(), read.error().sentence().c_str());
    }
    // Bytes that never end keep nobody longer than a few seconds.
    void aPageThatDripsIsLeft() {
        const OneAnswer server("HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n{", true);
        QElapsedTimer clock;
        clock.start();
        QVERIFY(!server.read());
        QVERIFY2(clock.elapsed() < 8000, std::to_string(clock.elapsed()).c_str());
    }
    // Nor do they fill the memory.
    void aHeadWithoutEndIsLeft() {
        for (const QByteArray& endless : {QByteArray(4096, 'x'), QByteArray("A: b\r\n").repeated(700)}) {
            const OneAnswer server("HTTP/1.1 200 OK\r\nX: ", false, endless);
            QElapsedTimer clock;
            clock.start();
            QVERIFY(!server.read());
            QVERIFY2(clock.elapsed() < 2000, std::to_string(clock.elapsed()).c_str());
            QVERIFY2(server.sent < 600'000'000, std::to_string(server.sent.load()).c_str());
        }
    }
    void onlyTheHouseItselfIsAsked() {
        for (const char* url :
             {"http://192.0.2.1/status", "http://198.51.100.1:80/", "https://127.0.0.1/", "http://",
              "ftp://127.0.0.1/", "http://user@127.0.0.1/", "http://127.0.0.1/a b", ""}) {
            const auto read = probe::readAdapterStatus(url);
            QVERIFY2(!read, url);
        }
    }
    void namesFromThePageAreOneLine() {
        const auto status = probe::adapterStatusOf({{"format", "metrodos-adapter-status"},
                                                    {"name", "a\nb\x1b[31m"},
                                                    {"peers", json::array({{{"name", "c\td"}}})}})
                                .value();
        QCOMPARE(status.name, std::string("a b[31m"));
        QCOMPARE(status.peers[0].name, std::string("c d"));
    }
};

QTEST_GUILESS_MAIN(TestAdapters)
#include "test_adapters.moc"
