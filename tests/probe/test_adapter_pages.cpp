// How an adapter's status page is read: also one that means harm.
#include "probe/adapter_status.h"
#include "probe/socket.h"

#include <QElapsedTimer>
#include <QTest>
#include <netinet/in.h>
#include <nlohmann/json.hpp>
#include <sys/socket.h>
#include <thread>

using namespace metrodos;
using nlohmann::json;

namespace {

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
            char bytesAsked[2048];
            const auto n = ::recv(peer.get(), bytesAsked, sizeof(bytesAsked), 0);
            if (n > 0) request.assign(bytesAsked, static_cast<std::size_t>(n));
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
    std::string request;                // as it came
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

class TestAdapterPages : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { probe::ignoreBrokenPipes(); }

    void aPageIsReadWhereItIsSaidToBe() {
        const json body{{"format", "metrodos-adapter-status"},
                        {"name", "hall unit"},
                        {"private", true},
                        {"peers", json::array({{{"name", "office unit"}, {"phy_to_bps", 9e8}}})}};
        for (const char* path : {"/status?all=1", "/", ""}) {
            OneAnswer server(page(body), false);
            server.url.replace(server.url.rfind('/'), std::string::npos, path);
            const auto status = server.read();
            QVERIFY2(status.has_value(), status ? "" : status.error().sentence().c_str());
            QCOMPARE(status->name, std::string("hall unit"));
            QVERIFY(status->isPrivate == true && !status->simulated);
            QCOMPARE(status->peers.size(), std::size_t(1));
            QCOMPARE(status->peers[0].to->inMegabits(), 900.0);
            QVERIFY(!status->peers[0].from);
            const std::string asked = std::string("GET ") + (*path == 0 ? "/" : path) + " HTTP/1.1\r\n";
            QCOMPARE(server.request.substr(0, asked.size()), asked);
        }
        // Exactly as large as a page may be, and a byte more.
        for (const std::size_t more : {std::size_t{0}, std::size_t{1}}) {
            QByteArray whole = page(body);
            const QByteArray blanks(static_cast<qsizetype>(probe::maxStatusBytes + more - body.dump().size()),
                                    ' ');
            QCOMPARE(OneAnswer(whole + blanks, false).read().has_value(), more == 0);
        }
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
        QCOMPARE(read.error().where, server.url);
    }
    // Bytes that never end keep nobody longer than a few seconds.
    void aPageThatDripsIsLeft() {
        const OneAnswer server("HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n{", true);
        QElapsedTimer clock;
        clock.start();
        QVERIFY(!server.read());
        QVERIFY2(clock.elapsed() >= 2500 && clock.elapsed() < 8000, std::to_string(clock.elapsed()).c_str());
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
        // Refused for what it is, before anybody is asked.
        const std::string start = "http://127.0.0.1:1/";
        const auto said = [&](std::size_t size) {
            return probe::readAdapterStatus(start + std::string(size - start.size(), 'x')).error().sentence();
        };
        QVERIFY(said(301).find("is no address of an adapter's page") != std::string::npos);
        QVERIFY(said(300).find("does not answer") != std::string::npos);
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

QTEST_GUILESS_MAIN(TestAdapterPages)
#include "test_adapter_pages.moc"
