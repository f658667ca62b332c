// Requests and answers of one HTTP connection, from the side of the server, as RFC 9112 has them.
#include "probe/http_connection.h"

#include <QElapsedTimer>
#include <QTest>
#include <array>
#include <sys/socket.h>
#include <thread>

using namespace metrodos;
using namespace metrodos::probe;

namespace {

/// A client on loopback that sends and reads bytes as a test has them, and the server's side of it.
struct Client {
    std::atomic<bool> stop{false};
    Fd fd;
    std::unique_ptr<HttpConnection> server;

    Client() {
        const auto listener = listenOn(numericAddress("127.0.0.1", 0).value()).value();
        fd = connectTo(localAddress(listener.get()), std::chrono::seconds(1)).value();
        server = std::make_unique<HttpConnection>(
            Fd(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC)), stop);
        setTimeouts(fd.get(), std::chrono::milliseconds(500), true);
    }
    void send(const std::string& bytes) const {
        QCOMPARE(::send(fd.get(), bytes.data(), bytes.size(), MSG_NOSIGNAL),
                 static_cast<ssize_t>(bytes.size()));
    }
    /// What has come, until nothing comes any more.
    [[nodiscard]] std::string answer() const {
        std::string out;
        std::array<char, 4096> bytes{};
        for (;;) {
            const auto n = ::recv(fd.get(), bytes.data(), bytes.size(), out.empty() ? 0 : MSG_DONTWAIT);
            if (n <= 0) return out;
            out.append(bytes.data(), static_cast<std::size_t>(n));
        }
    }
    std::string body(std::size_t size, std::size_t atOnce) const {
        std::string out;
        std::vector<char> bytes(atOnce);
        while (out.size() < size) {
            const auto n = server->readBody(bytes.data(), bytes.size());
            if (!n || *n == 0) return out;
            if (*n > atOnce) return "more than there is room for";
            out.append(bytes.data(), *n);
        }
        return out;
    }
};

std::string head(const std::string& fields, const std::string& first = "GET /page HTTP/1.1") {
    return first + "\r\nHost: house\r\n" + fields + "\r\n";
}

} // namespace

class TestHttpConnection : public QObject {
    Q_OBJECT

  private slots:
    void requestsComeOneAfterTheOther() {
        Client c;
        c.send(
            head(
                "Origin: http://o\r\nSec-Fetch-Site: same-origin\r\nX-Code: code\r\nX-Session: session\r\n") +
            head("Content-Length: 10\r\n", "POST /up HTTP/1.1") + "0123456789" +
            head("Content-Length: 6\r\n", "POST /left HTTP/1.0") + "abcdef" + head(""));
        const auto first = c.server->read();
        QVERIFY(first.has_value());
        QCOMPARE(first->method, std::string("GET"));
        QCOMPARE(first->target, std::string("/page"));
        QCOMPARE(first->host, std::string("house"));
        QCOMPARE(first->origin, std::string("http://o"));
        QCOMPARE(first->fetchSite, std::string("same-origin"));
        QCOMPARE(first->code, std::string("code"));
        QCOMPARE(first->session, std::string("session"));
        QCOMPARE(first->length, std::uint64_t(0));
        QCOMPARE(c.body(1, 4), std::string());
        const auto second = c.server->read();
        QCOMPARE(second->length, std::uint64_t(10));
        QVERIFY(second->origin.empty() && second->code.empty());
        std::array<char, 4> four{};
        for (const std::size_t piece : {4, 4, 2, 0})
            QCOMPARE(c.server->readBody(four.data(), four.size()), std::optional(piece));
        const auto third = c.server->read();
        QCOMPARE(third->target, std::string("/left"));
        QCOMPARE(c.body(2, 2), std::string("ab"));
        // What nobody took of a body is no request.
        const auto fourth = c.server->read();
        QVERIFY(fourth && fourth->target == "/page");
        c.fd.reset();
        QVERIFY(!c.server->read());
        QCOMPARE(c.server->peer().host(), std::string("127.0.0.1"));
    }
    // A body that comes later goes straight to whoever reads it, and no byte of the next request with it.
    void aBodyMayComeLater() {
        Client c;
        c.send(head("Content-Length: 100000\r\n", "POST /up HTTP/1.1"));
        QVERIFY(c.server->read().has_value());
        std::string sent(100'000, 'x');
        for (std::size_t i = 0; i < sent.size(); ++i)
            sent[i] = static_cast<char>('a' + i % 23);
        std::thread sender([&] { c.send(sent + head("")); });
        const std::string came = c.body(sent.size(), 7000);
        sender.join();
        QVERIFY(came == sent);
        QVERIFY(c.server->read().has_value());
        c.send(head("Content-Length: 50\r\n", "POST /up HTTP/1.1") + "broken off");
        QVERIFY(c.server->read().has_value());
        QCOMPARE(c.body(10, 64), std::string("broken off"));
        c.fd.reset();
        std::array<char, 8> more{};
        QVERIFY(!c.server->readBody(more.data(), more.size()).has_value());
        QVERIFY(!c.server->skipBody());
    }
    void whatIsOutOfBoundsIsRefused_data() {
        QTest::addColumn<QByteArray>("request");
        QTest::addColumn<int>("status"); // 0: taken
        const auto row = [](const char* name, const std::string& request, int status) {
            QTest::newRow(name) << QByteArray::fromStdString(request) << status;
        };
        row("plain", head(""), 0);
        row("HTTP/1.0", head("", "GET / HTTP/1.0"), 0);
        row("HTTP/2.0", head("", "GET / HTTP/2.0"), 400);
        row("no request", "nonsense\r\n\r\n", 400);
        row("bare line ends", "GET / HTTP/1.1\nHost: a\n\n", 400);
        row("chunks", head("Transfer-Encoding: chunked\r\n"), 400);
        row("two lengths", head("Content-Length: 1\r\nContent-Length: 2\r\n"), 400);
        row("the largest body", head("Content-Length: 1073741824\r\n", "POST / HTTP/1.1"), 0);
        row("a larger body", head("Content-Length: 1073741825\r\n", "POST / HTTP/1.1"), 400);
        row("no length", head("Content-Length: x\r\n"), 400);
        row("a large head", head("X: " + std::string(8000, 'x') + "\r\n"), 0);
        row("a larger head", head("X: " + std::string(8300, 'x') + "\r\n"), 431);
        row("a line without end", "GET /" + std::string(9000, 'x'), 431);
    }
    void whatIsOutOfBoundsIsRefused() {
        QFETCH(QByteArray, request);
        QFETCH(int, status);
        Client c;
        c.send(request.toStdString());
        const auto read = c.server->read();
        QCOMPARE(read.has_value(), status == 0);
        if (status == 0) return;
        const std::string said = c.answer();
        QVERIFY2(said.starts_with("HTTP/1.1 " + std::to_string(status) + " "), said.c_str());
        QVERIFY(said.find("\r\nConnection: close\r\n") != std::string::npos);
        QVERIFY(said.ends_with("\r\nContent-Length: 0\r\n\r\n"));
    }
    void answersAreWhole() {
        Client c;
        QVERIFY(c.server->answer(200, "text/plain", "seven b", {"X-A: 1", "X-B: 2"}));
        QCOMPARE(c.answer(), std::string("HTTP/1.1 200 OK\r\nX-A: 1\r\nX-B: 2\r\nContent-Type: text/plain\r\n"
                                         "Content-Length: 7\r\n\r\nseven b"));
        QVERIFY(c.server->answer(204, "text/plain", ""));
        QCOMPARE(c.answer(), std::string("HTTP/1.1 204 No Content\r\n\r\n"));
        for (const auto& [status, reason] :
             {std::pair(403, "Forbidden"), std::pair(404, "Not Found"), std::pair(405, "Method Not Allowed"),
              std::pair(408, "Request Timeout"), std::pair(409, "Conflict"), std::pair(410, "Gone"),
              std::pair(421, "Misdirected Request"), std::pair(431, "Request Header Fields Too Large"),
              std::pair(599, "Error")}) {
            QVERIFY(c.server->answer(status, "text/plain", ""));
            const std::string said = c.answer();
            QVERIFY2(said.starts_with("HTTP/1.1 " + std::to_string(status) + " " + reason + "\r\n"),
                     said.c_str());
        }
        QVERIFY(c.server->beginEndless({"X-A: 1"}));
        QCOMPARE(c.answer(),
                 std::string("HTTP/1.1 200 OK\r\nX-A: 1\r\nContent-Type: application/octet-stream\r\n"
                             "Connection: close\r\n\r\n"));
    }
    // More than any buffer between the two holds.
    void aSlowReaderGetsAll() {
        Client c;
        const std::string all(20'000'000, 'y');
        std::size_t got = 0;
        std::thread reader([&] {
            std::vector<char> bytes(1'000'000);
            for (ssize_t n = 1; n > 0 && got < all.size();
                 got += static_cast<std::size_t>(std::max<ssize_t>(n, 0))) {
                std::this_thread::sleep_for(std::chrono::milliseconds(2));
                n = ::recv(c.fd.get(), bytes.data(), bytes.size(), 0);
            }
        });
        QVERIFY(c.server->send(all.data(), all.size()));
        reader.join();
        QCOMPARE(got, all.size());
    }
    void aStopEndsEveryWait() {
        for (const int wait : {0, 1, 2}) {
            Client c;
            if (wait == 1) {
                c.send(head("Content-Length: 50\r\n", "POST / HTTP/1.1"));
                QVERIFY(c.server->read().has_value());
            }
            QElapsedTimer since;
            std::thread stopper([&] {
                std::this_thread::sleep_for(std::chrono::milliseconds(300));
                since.start();
                c.stop = true;
            });
            const std::string much(50'000'000, 'y');
            std::array<char, 8> some{};
            if (wait == 0) QVERIFY(!c.server->read());
            if (wait == 1) QVERIFY(!c.server->readBody(some.data(), some.size()));
            if (wait == 2) QVERIFY(!c.server->send(much.data(), much.size()));
            stopper.join();
            QVERIFY2(since.elapsed() < 1000, qPrintable(QString::number(since.elapsed())));
        }
    }
    void whoHasGoneGetsNothingMore() {
        Client c;
        resetOnClose(c.fd.get());
        c.fd.reset();
        QElapsedTimer timer;
        timer.start();
        QVERIFY(!c.server->read());
        const std::string much(50'000'000, 'y');
        QVERIFY(!c.server->send(much.data(), much.size()));
        QVERIFY(timer.elapsed() < 2000);
    }
};

QTEST_GUILESS_MAIN(TestHttpConnection)
#include "test_http_connection.moc"
