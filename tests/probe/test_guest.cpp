// A device with a browser as the other end: what it is told, what counts, and what a stranger gets.
#include "benchmark/run.h"
#include "probe/counters.h"
#include "probe/guest_policy.h"
#include "probe/guest_server.h"
#include "probe/http_connection.h"
#include "support/agents.h"
#include "support/guest_device.h"

#include <QElapsedTimer>
#include <QTest>
#include <nlohmann/json.hpp>
#include <random>
#include <set>
#include <sys/socket.h>

using namespace metrodos;
using namespace metrodos::probe;
using nlohmann::json;
using testing::Client;
using testing::Device;
using testing::shortRun;

namespace {

const std::string page = "<!doctype html><style>p{}</style><script>'x'</script>";

std::unique_ptr<GuestServer> served(std::chrono::seconds lifetime = std::chrono::seconds(60)) {
    GuestSettings settings;
    settings.listen = "127.0.0.1:0";
    settings.lifetime = lifetime;
    settings.page = page;
    return std::move(GuestServer::start(settings).value());
}

} // namespace

class TestGuest : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void theCodeHasFortyBits() {
        std::set<std::string> seen;
        std::set<char> letters;
        for (int i = 0; i < 500; ++i) {
            const std::string code = newGuestCode();
            QCOMPARE(code.size(), std::size_t(9));
            QCOMPARE(code[4], '-');
            QVERIFY(seen.insert(code).second);
            letters.insert(code.begin(), code.end());
        }
        QCOMPARE(letters.size(), std::size_t(33)); // 32 signs for 5 bits each, and the hyphen
        QVERIFY(!letters.contains('I') && !letters.contains('O') && !letters.contains('L') &&
                !letters.contains('U'));
    }
    void thePageIsServedWithAStrictPolicy() {
        const auto server = served();
        Client c(server->address());
        for (const std::string& target :
             {std::string("/"), "/" + server->state().code, "/" + server->state().code + "?x=1"}) {
            const auto [status, body] = c.ask("GET", target);
            QCOMPARE(status, 200);
            QCOMPARE(body, page);
        }
        QVERIFY(c.head.find("default-src 'none'") != std::string::npos);
        QVERIFY(c.head.find("unsafe") == std::string::npos && c.head.find('*') == std::string::npos);
        // SHA-256 of 'x' and of p{}, by openssl dgst -sha256 -binary | base64.
        QVERIFY2(c.head.find("script-src 'sha256-R1W9GwF3H/q9iPdrLGikfGiuP5SqsOuFpf/R9HeA4kk='") !=
                     std::string::npos,
                 c.head.c_str());
        QVERIFY(c.head.find("Set-Cookie") == std::string::npos);
        QVERIFY(c.head.find("nosniff") != std::string::npos);
        QVERIFY(c.head.find("no-referrer") != std::string::npos);
    }
    void strangersGetNothing() {
        const auto server = served();
        for (const char* target : {"/next", "/etc/passwd", "/../page.html", "/stream/x", "/ping/x", "/a/b"})
            QVERIFY2(Client(server->address()).ask("GET", target).first >= 400, target);
        Client other(server->address());
        QCOMPARE(other.ask("POST", "/stop", "X-Session: 0\r\n").first, 403);
        QCOMPARE(Client(server->address()).ask("DELETE", "/").first, 403);
        // A name that somebody made point here, and pages of somebody else.
        QCOMPARE(Client(server->address()).ask("GET", "/", {}, {}, "evil.example:80").first, 421);
        QCOMPARE(Client(server->address()).ask("GET", "/", "Origin: http://evil.example\r\n").first, 403);
        QCOMPARE(Client(server->address()).ask("GET", "/", "Sec-Fetch-Site: cross-site\r\n").first, 403);
        QCOMPARE(Client(server->address()).ask("GET", "/", "Sec-Fetch-Site: none\r\n").first, 200);
        QVERIFY(!server->state().isPresent);
    }
    void whoMayConnect() {
        const auto may = [](const char* peer) {
            return mayBeGuest(numericAddress(peer, 5000).value(),
                              {AddressRange::parse("198.51.100.0/24").value()}, {"192.0.2.7", "2001:db8::7"});
        };
        for (const char* peer : {"127.0.0.1", "10.1.2.3", "198.51.100.9", "192.0.2.7", "2001:db8::7"})
            QVERIFY2(may(peer), peer);
        for (const char* peer : {"192.0.2.8", "2001:db8::8", "203.0.113.1"})
            QVERIFY2(!may(peer), peer);
    }
    void tenWrongTriesEndTheCode() {
        const auto server = served();
        for (int i = 0; i < 9; ++i)
            QCOMPARE(Client(server->address()).ask("POST", "/session", "X-Code: AAAA-AAAA\r\n").first, 403);
        std::string loose = server->state().code;
        std::transform(loose.begin(), loose.end(), loose.begin(), [](char ch) { return std::tolower(ch); });
        loose.erase(4, 1);
        QCOMPARE(Client(server->address()).ask("POST", "/session", "X-Code: " + loose + "\r\n").first, 200);
        QVERIFY(server->state().isPresent);
        QCOMPARE(Client(server->address()).ask("POST", "/session", "X-Code: AAAA-AAAA\r\n").first, 403);
        QCOMPARE(server->state().expiresIn.count(), 0);
        QCOMPARE(Client(server->address())
                     .ask("POST", "/session", "X-Code: " + server->state().code + "\r\n")
                     .first,
                 410);
        QVERIFY(server->run(shortRun(benchmark::Direction::forward), {}, {}).error().what.find("ended") !=
                std::string::npos);
    }
    void oneDeviceACodeAndOnlyForItsTime() {
        auto server = served();
        const Device device(*server);
        QCOMPARE(server->state().medium, std::string("cable"));
        const SocketSetup elsewhere = [](int fd) -> quantity::Result<void> {
            const Address from = numericAddress("127.0.0.2", 0).value();
            if (::bind(fd, reinterpret_cast<const sockaddr*>(&from.storage), from.length) != 0)
                return quantity::problem("cannot bind");
            return {};
        };
        const std::string code = "X-Code: " + server->state().code + "\r\n";
        QCOMPARE(Client(server->address(), elsewhere).ask("POST", "/session", code).first, 409);
        QCOMPARE(Client(server->address()).ask("POST", "/session", code).first,
                 200); // it loads the page anew
        QCOMPARE(Client(server->address()).ask("GET", "/next", device.mine()).first, 403); // the old one ends
        QCOMPARE(server->state().medium, std::string());
        server = served(std::chrono::seconds(1));
        QTRY_COMPARE_WITH_TIMEOUT(server->state().expiresIn.count(), 0, 3000);
        QCOMPARE(Client(server->address())
                     .ask("POST", "/session", "X-Code: " + server->state().code + "\r\n")
                     .first,
                 410);
    }
    // Malformed, too large, too slow; and requests that smuggle others.
    void whatIsNoRequestEndsTheConnection() {
        const auto server = served();
        const std::string host = "Host: " + server->address().text() + "\r\n";
        for (const std::string& text :
             {std::string("\r\n\r\n\r\n"), std::string("GET\r\n\r\n"), std::string("GET / HTTP/3.0\r\n\r\n"),
              std::string("\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03", 10) + "\r\n\r\n",
              "POST / HTTP/1.1\r\n" + host + "Content-Length: 5\r\nContent-Length: 6\r\n\r\nabcde",
              "POST / HTTP/1.1\r\n" + host +
                  "Content-Length: 5\r\nTransfer-Encoding: chunked\r\n\r\n0\r\n\r\n",
              "POST / HTTP/1.1\r\n" + host + "Transfer-Encoding: chunked\r\n\r\n0\r\n\r\n",
              "POST / HTTP/1.1\r\n" + host + "Content-Length: -1\r\n\r\n",
              "POST / HTTP/1.1\r\n" + host + "Content-Length: 99999999999999999999\r\n\r\n",
              "GET / HTTP/1.1\r\n" + host + "X-Large: " + std::string(20'000, 'a') + "\r\n\r\n",
              "GET /" + std::string(20'000, 'a') + " HTTP/1.1\r\n" + host + "\r\n"}) {
            Client c(server->address());
            c.write(text);
            const int status = c.answer().first;
            QVERIFY2(status == 0 || (status >= 400 && status < 500),
                     (std::to_string(status) + text.substr(0, 40)).c_str());
            QCOMPARE(c.answer().first, 0); // and no second answer
        }
        std::mt19937 random(5);
        for (int i = 0; i < 300; ++i) {
            Client c(server->address());
            std::string text = "GET / HTTP/1.1\r\n" + host + "\r\n";
            for (int k = 0; k < 3; ++k)
                text[random() % text.size()] = static_cast<char>(random());
            c.write(text);
            ::shutdown(c.fd(), SHUT_WR);
            (void)c.answer();
        }
        QCOMPARE(Client(server->address()).ask("GET", "/").first, 200); // it lives
    }
    void aSlowHeadIsGivenUp() {
        const auto server = served();
        Client c(server->address());
        c.write("GET / HT");
        QElapsedTimer timer;
        timer.start();
        QVERIFY(c.answer().first == 408 || timer.elapsed() >= 4900);
        QVERIFY2(timer.elapsed() < 6500, qPrintable(QString::number(timer.elapsed())));
    }
    void bothDirectionsAreMeasuredHere() {
        const auto server = served();
        for (const auto& [d, wholes] : {std::pair(benchmark::Direction::forward, false),
                                        {benchmark::Direction::backward, false},
                                        {benchmark::Direction::forward, true}}) {
            Device device(*server, "cable", wholes);
            device.work();
            int samples = 0;
            RunObserver observer;
            observer.sample = [&](const benchmark::Sample&) { ++samples; };
            const double usedBefore = processSeconds();
            const auto run = server->run(shortRun(d), observer, {});
            const double used = processSeconds() - usedBefore;
            QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
            QVERIFY(run->complete && !run->simulated);
            // Of a second each second; this program has used no more, the device's part included.
            const auto& mine =
                d == benchmark::Direction::forward ? run->cpuProcessSender : run->cpuProcessReceiver;
            QVERIFY2(mine && *mine > 0 && *mine * run->seconds <= used * 1.1,
                     qPrintable(QString("%1 of %2 s").arg(mine.value_or(-1)).arg(used)));
            QCOMPARE(run->samples.size(), std::size_t(10));
            QCOMPARE(samples, 10);
            QVERIFY2(run->goodput.inMegabits() > 200, qPrintable(QString::number(run->goodput.inMegabits())));
            QVERIFY(run->rttIdleUs && run->rttIdleUs->p50 > 0);
            QVERIFY(run->rttLoadedUs.has_value());
            QCOMPARE(run->interfaceSender.has_value(), d == benchmark::Direction::forward);
            if (d == benchmark::Direction::forward) {
                QVERIFY(run->senderLimited && run->retransmits && (wholes || run->samples[5].tcpRttUs));
                // What was acknowledged has arrived: the device cannot have seen less, but for what was in
                // its buffers.
                double counted = 0;
                double last = 0;
                for (const benchmark::Sample& s : run->samples) {
                    counted += s.goodputBps * (s.t - last) / 8;
                    last = s.t;
                }
                // Each as it ends; of answers that are taken whole the last ones are not.
                const double cut = wholes ? 2.0 * Device::wholeBytes : 0;
                QTRY_VERIFY2(static_cast<double>(device.bytes.load()) > 0.9 * counted - cut,
                             qPrintable(QString::number(static_cast<double>(device.bytes.load()) / counted)));
            }
        }
    }
    // Both are one group, and each counts its own bytes: neither is far above what the other leaves.
    void bothWaysAtOnceAreOneGroup() {
        const auto server = served();
        Device device(*server);
        device.work();
        std::vector<GuestLeg> legs{{shortRun(benchmark::Direction::forward, 8), {}},
                                   {shortRun(benchmark::Direction::backward, 8), {}}};
        std::array<std::atomic<int>, 2> samples{};
        std::array<std::atomic<qint64>, 2> first{}; // ms
        QElapsedTimer timer;
        timer.start();
        for (std::size_t i = 0; i < 2; ++i)
            legs[i].observer.sample = [&, i](const benchmark::Sample&) {
                if (samples[i]++ == 0) first[i] = timer.elapsed();
            };
        const auto runs = server->runAll(legs, {});
        QVERIFY2(runs.has_value(), runs ? "" : runs.error().sentence().c_str());
        QCOMPARE(runs->size(), std::size_t(2));
        QVERIFY(!(*runs)[0].config.group.empty());
        QCOMPARE((*runs)[0].config.group, (*runs)[1].config.group);
        for (std::size_t i = 0; i < 2; ++i) {
            const benchmark::Run& run = (*runs)[i];
            QVERIFY(run.complete);
            QCOMPARE(run.config.direction, legs[i].config.direction);
            QCOMPARE(run.samples.size(), std::size_t(10));
            QCOMPARE(samples[i].load(), 10);
            QVERIFY2(run.goodput.inMegabits() > 50, qPrintable(QString::number(run.goodput.inMegabits())));
            QVERIFY(run.rttIdleUs && run.rttLoadedUs); // of the one row of requests that there is
        }
        // They began together: neither has a lead of more than a sample or two.
        QVERIFY2(std::abs(first[0].load() - first[1].load()) < 300,
                 qPrintable(QString::number(first[0].load() - first[1].load())));
        // Sixteen streams, no more than six connections of a browser to one port: two of the page's are
        // taken.
        QCOMPARE(device.opened.size(), std::size_t(3));
        for (const auto& [port, streams] : device.opened)
            QCOMPARE(streams, port == server->address().port() ? 4 : 6);
    }
    // To a browser they are other origins: only the page of the same name may use them, for streams alone.
    void thePortsForStreamsServeNothingElse() {
        const auto server = served();
        Client page(server->address());
        QCOMPARE(page.ask("GET", "/").first, 200);
        const std::string policy = page.head;
        const std::size_t at = policy.find("connect-src 'self' http://127.0.0.1:");
        QVERIFY2(at != std::string::npos, policy.c_str());
        const auto port = static_cast<std::uint16_t>(std::stoi(policy.substr(at + 36)));
        QVERIFY(port != server->address().port());
        const Address other = numericAddress("127.0.0.1", port).value();
        const std::string ours = "Origin: http://" + server->address().text() + "\r\n";
        for (const char* target : {"/", "/next", "/ping/x", "/session", "/stop"})
            QCOMPARE(Client(other).ask("GET", target, ours).first, 404);
        QCOMPARE(Client(other).ask("GET", "/stream/x").first, 403); // no page asks
        QCOMPARE(Client(other).ask("GET", "/stream/x", "Origin: http://" + other.text() + "\r\n").first, 403);
        QCOMPARE(Client(other).ask("GET", "/stream/x", ours + "Sec-Fetch-Site: cross-site\r\n").first, 403);
        Client allowed(other);
        QCOMPARE(allowed.ask("GET", "/stream/x", ours + "Sec-Fetch-Site: same-site\r\n").first, 410);
        QVERIFY(allowed.head.find("Access-Control-Allow-Origin: http://" + server->address().text() +
                                  "\r\n") != std::string::npos);
        // The page's own port says to nobody else's page that it may read.
        Client own(server->address());
        QCOMPARE(own.ask("GET", "/stream/x").first, 410);
        QVERIFY(own.head.find("Access-Control") == std::string::npos);
        // The page is reached by one of these names alone, there as here.
        QCOMPARE(Client(other).ask("GET", "/stream/x", ours, {}, server->address().text()).first, 421);
    }
    // Then it tells of the air, and nothing of a cable on its route.
    void aDeviceOnRadioSaysSoInItsRuns() {
        const auto server = served();
        Device device(*server, "radio");
        device.work();
        const auto run = server->run(shortRun(benchmark::Direction::forward, 1, 0.5), {}, {});
        QVERIFY(run.has_value() && run->interfaceReceiver);
        QCOMPARE(run->interfaceReceiver->radio, std::optional(true));
        QVERIFY(run->interfaceSender->radio != std::optional(true));
    }
    void aStopFromEitherSideEndsItAtOnce() {
        const auto server = served();
        {
            Device device(*server);
            device.work();
            std::stop_source stop;
            std::thread later([&] {
                std::this_thread::sleep_for(std::chrono::milliseconds(900));
                stop.request_stop();
            });
            QElapsedTimer timer;
            timer.start();
            const auto run =
                server->run(shortRun(benchmark::Direction::forward, 2, 30), {}, stop.get_token());
            later.join();
            QVERIFY2(timer.elapsed() < 1400, qPrintable(QString::number(timer.elapsed())));
            QVERIFY(run.has_value() && !run->complete);
        }
        Device device(*server);
        device.work();
        std::thread later([&] {
            std::this_thread::sleep_for(std::chrono::milliseconds(900));
            (void)Client(server->address()).ask("POST", "/stop", device.mine());
        });
        QElapsedTimer timer;
        timer.start();
        const auto run = server->run(shortRun(benchmark::Direction::backward, 1, 30), {}, {});
        later.join();
        QVERIFY2(timer.elapsed() < 1500, qPrintable(QString::number(timer.elapsed())));
        QVERIFY(run.has_value() && !run->complete);
    }
    void withoutADeviceOneSentenceSaysSo() {
        const auto server = served();
        QVERIFY(server->run(shortRun(benchmark::Direction::forward), {}, {}).error().what.find("no device") !=
                std::string::npos);
        QVERIFY(!server->run(shortRun(benchmark::Direction::forward, 9), {}, {}).has_value());
        // Asked before it is looked for a device: it could not do it anyway.
        for (int i = 0; i < 7; ++i) {
            benchmark::RunConfig config = shortRun(benchmark::Direction::forward);
            if (i == 0) config.rate = quantity::BitRate::megabits(10);
            if (i == 1) config.congestion = "reno";
            if (i == 2) config.bind = "127.0.0.1";
            if (i == 3) config.maxBytes = 1;
            if (i == 4) config.windowBytes = 4096;
            if (i == 5) config.segmentBytes = 500;
            if (i == 6) config.dscp = 8;
            QVERIFY2(server->run(config, {}, {}).error().what.find("pace") != std::string::npos,
                     std::to_string(i).c_str());
        }
    }
    void nothingIsLeftBehind() {
        const auto files = testing::openFiles();
        const auto threads = testing::threads();
        {
            const auto server = served();
            Device device(*server);
            device.work();
            QVERIFY(server->run(shortRun(benchmark::Direction::forward, 4, 0.5), {}, {}).has_value());
        }
        QTRY_COMPARE(testing::threads(), threads);
        QCOMPARE(testing::openFiles(), files);
    }
};

QTEST_GUILESS_MAIN(TestGuest)
#include "test_guest.moc"
