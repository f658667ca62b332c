// The service test and how it finds its server, against servers on loopback that are not ours: steady ones,
// small ones, and such as mean harm.
#include "benchmark/remarks.h"
#include "benchmark/run_json.h"
#include "probe/web_client.h"
#include "support/service.h"

#include <QElapsedTimer>
#include <QTest>
#include <array>
#include <atomic>
#include <cmath>
#include <httplib.h>
#include <thread>

using namespace metrodos;
using testing::serviceTest;

namespace {

quantity::Result<benchmark::Run> tried(const std::string& url, bool down = true) {
    return probe::testService(serviceTest(url, down), {}, {});
}

bool refused(const quantity::Result<benchmark::Run>& run, const std::string& words) {
    return !run && run.error().sentence().find(words) != std::string::npos;
}

/// A web server on loopback while it lives; its answers are given to `server` before `listen`.
class WebServer {
  public:
    httplib::Server server;
    const std::string url = "http://127.0.0.1:" + std::to_string(server.bind_to_any_port("127.0.0.1"));

    /// "/file": 300 kB.
    void serveFile() {
        server.Get("/file", [](const httplib::Request&, httplib::Response& r) {
            r.set_content(std::string(300'000, 'x'), "application/octet-stream");
        });
    }
    void listen() {
        m_thread = std::thread([this] { server.listen_after_bind(); });
        while (!server.is_running())
            std::this_thread::yield();
    }
    ~WebServer() {
        server.stop();
        if (m_thread.joinable()) m_thread.join();
    }

  private:
    std::thread m_thread;
};

constexpr auto step = std::chrono::milliseconds(10);
constexpr std::size_t piece = 25'000;
constexpr double steadyBps = 8.0 * piece / 0.01; // of one connection, and never more
constexpr double headUs = 30'000;                // before the head of an answer

/// Loads and takes no faster than one piece in 10 ms for each connection; heads take 30 ms.
class SteadyServer : public WebServer {
  public:
    std::atomic<std::uint64_t> moved{0};
    std::atomic<int> heads{0}; // that were asked for

    SteadyServer() {
        server.Get("/steady", [this](const httplib::Request& q, httplib::Response& r) {
            if (q.method == "HEAD") {
                ++heads;
                std::this_thread::sleep_for(std::chrono::microseconds(static_cast<int>(headUs)));
            }
            r.set_content_provider(1'000'000'000, "application/octet-stream",
                                   [this](std::size_t, std::size_t, httplib::DataSink& sink) {
                                       std::this_thread::sleep_for(step);
                                       static const std::string bytes(piece, 'x');
                                       moved += piece;
                                       return sink.write(bytes.data(), bytes.size());
                                   });
        });
        server.Post("/steady", [this](const httplib::Request&, httplib::Response& r,
                                      const httplib::ContentReader& reader) {
            std::size_t taken = 0;
            reader([&](const char*, std::size_t n) {
                taken += n;
                moved += n;
                for (; taken >= piece; taken -= piece)
                    std::this_thread::sleep_for(step);
                return true;
            });
            r.set_content("taken", "text/plain");
        });
        listen();
    }
};

double movedIn(const benchmark::Run& run) {
    double bits = 0;
    double last = 0;
    for (const benchmark::Sample& s : run.samples) {
        bits += s.goodputBps * (s.t - last);
        last = s.t;
    }
    return bits / 8;
}

} // namespace

class TestWebService : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { probe::ignoreBrokenPipes(); }

    void aRunSaysWhatTheServerMoved_data() {
        QTest::addColumn<bool>("down");
        QTest::newRow("down") << true;
        QTest::newRow("up") << false;
    }
    void aRunSaysWhatTheServerMoved() {
        QFETCH(bool, down);
        SteadyServer server;
        int begun = 0;
        std::vector<double> seen;
        probe::RunObserver observer;
        observer.started = [&](const benchmark::Run& r) {
            begun += r.samples.empty() && !r.id.empty();
            QCOMPARE(server.heads.load(), 6); // the first opens the connection, and counts for nothing
        };
        observer.sample = [&](const benchmark::Sample& s) { seen.push_back(s.t); };
        const auto run = probe::testService(serviceTest(server.url + "/steady", down, 2, 3), observer, {});
        const auto moved = static_cast<double>(server.moved);
        QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
        QVERIFY(run->complete && !run->simulated && run->redirectedTo.empty() && !run->startedAt.empty());
        QCOMPARE(begun, 1);
        QCOMPARE(run->samples.size(), std::size_t(20));
        QCOMPARE(seen.size(), std::size_t(20));
        QCOMPARE(seen.back(), run->seconds);
        QVERIFY(run->seconds >= 2 && run->seconds < 2.5);
        // What is sent in the last step may be on its way; an upload waits in the server's own buffers too.
        const double counted = movedIn(*run);
        QVERIFY2(counted <= moved + (down ? 0 : 3 * 8e6) && counted >= moved - 3 * 20 * piece,
                 qPrintable(QString("%1 of %2").arg(counted).arg(moved)));
        if (down) QVERIFY(run->goodput.bps() <= 3 * steadyBps * 1.1);
        double last = 0;
        int known = 0;
        for (const benchmark::Sample& s : run->samples) {
            QVERIFY(s.t > last && s.goodputBps >= 0);
            last = s.t;
            QCOMPARE(s.streamBps.size(), std::size_t(3));
            const double sum = s.streamBps[0] + s.streamBps[1] + s.streamBps[2];
            QVERIFY(std::fabs(sum - s.goodputBps) <= 1e-6 * s.goodputBps);
            // This machine is that which loads, or that which sends; between two ticks the kernel knows
            // nothing.
            QVERIFY(!(down ? s.cpuSender : s.cpuReceiver));
            known += (down ? s.cpuReceiver : s.cpuSender).has_value() ? 1 : 0;
        }
        QVERIFY(known >= 10);
        for (const auto& rtt : {run->rttIdleUs, run->rttLoadedUs})
            QVERIFY(rtt && rtt->p50 >= headUs && rtt->p50 < 10 * headUs);
        QCOMPARE(run->delayLost, std::uint64_t(0));
        const auto& cores = down ? run->cpuProcessReceiver : run->cpuProcessSender;
        QVERIFY(cores && *cores > 0 && *cores <= std::thread::hardware_concurrency() * 1.05);
        QVERIFY(!(down ? run->cpuProcessSender : run->cpuProcessReceiver));
    }
    void aStopKeepsWhatWasMeasured() {
        SteadyServer server;
        for (const bool down : {true, false}) {
            std::stop_source stop;
            std::chrono::steady_clock::time_point asked;
            probe::RunObserver observer;
            observer.sample = [&](const benchmark::Sample& s) {
                if (s.t < 0.5 || stop.stop_requested()) return;
                asked = std::chrono::steady_clock::now();
                stop.request_stop();
            };
            const auto run =
                probe::testService(serviceTest(server.url + "/steady", down, 30), observer, stop.get_token());
            QVERIFY(std::chrono::steady_clock::now() - asked < std::chrono::milliseconds(200));
            QVERIFY(run && !run->complete && run->samples.size() >= 5);
            const auto none =
                probe::testService(serviceTest(server.url + "/steady", down, 30), {}, stop.get_token());
            QVERIFY(none && !none->complete && none->samples.empty());
        }
    }
    // What a server says before the load it need not say again within it.
    void whatGoesWrongLaterIsASentence() {
        WebServer web;
        const auto only = [](int status) {
            return [status](const httplib::Request& q, httplib::Response& r) {
                r.status = q.method == "HEAD" ? 200 : status;
                r.set_content("some", "text/plain");
            };
        };
        web.server.Get("/refused", only(403));
        web.server.Get("/later", only(200));
        web.server.Post("/later", [&](const httplib::Request&, httplib::Response& r,
                                      const httplib::ContentReader& reader) {
            std::size_t taken = 0;
            reader([&](const char*, std::size_t n) { return (taken += n) <= 100'000; });
            r.status = taken > 1024 ? 503 : 200;
        });
        web.server.Get("/broken", [](const httplib::Request& q, httplib::Response& r) {
            r.set_content_provider(1000, "text/plain", [](std::size_t, std::size_t, httplib::DataSink&) {
                return false; // breaks off
            });
            if (q.method == "HEAD") r.set_content("some", "text/plain");
        });
        // Broken off after a good part each time: taken up again.
        web.server.Get("/again", [](const httplib::Request&, httplib::Response& r) {
            r.set_content_provider(
                1'000'000, "text/plain", [](std::size_t at, std::size_t, httplib::DataSink& sink) {
                    std::this_thread::sleep_for(step);
                    return at < 50'000 && sink.write(std::string(25'000, 'x').data(), 25'000);
                });
        });
        web.listen();
        QVERIFY(refused(tried(web.url + "/refused"), "refuses with 403"));
        QVERIFY(refused(tried(web.url + "/broken"), "the connection broke"));
        const auto again = tried(web.url + "/again");
        QVERIFY2(again && again->complete && again->goodput.bps() > 1e6,
                 again ? "" : again.error().sentence().c_str());
        QVERIFY(refused(tried(web.url + "/later", false), "takes uploads"));
    }
    void aSimulatedServerIsSaidToBe() {
        WebServer web;
        web.server.Get("/file", [](const httplib::Request&, httplib::Response& r) {
            r.set_header(probe::simulatedHeader, "1");
            r.set_content(std::string(300'000, 'x'), "application/octet-stream");
        });
        web.listen();
        QVERIFY(tried(web.url + "/file")->simulated);
    }
    void whatIsAWebAddress() {
        const auto place = [](const std::string& url) { return probe::webPlace(url); };
        QCOMPARE(place("http://server:8080/a/b?c")->server, std::string("http://server:8080"));
        QCOMPARE(place("http://server:8080/a/b?c")->path, std::string("/a/b?c"));
        QCOMPARE(place("https://server")->text(), std::string("https://server/"));
        for (const char* wrong : {"", "server", "http://", "http:///path", "ftp://server/", "http://a b/",
                                  "http://server/\n", "HTTP//server"})
            QVERIFY2(!place(wrong), wrong);
        const std::string start = "http://server/";
        QVERIFY(place(start + std::string(1999 - start.size(), 'x')));
        QVERIFY(!place(start + std::string(2000 - start.size(), 'x')));
        QVERIFY(probe::sentOnTo({"http://server", "/"}, "/" + std::string(1998, 'x')));
        QVERIFY(!probe::sentOnTo({"http://server", "/"}, "/" + std::string(1999, 'x')));
    }
    void fiveTurnsAreFollowedAndNoSixth() {
        WebServer web;
        for (int i = 1; i <= 6; ++i)
            web.server.Get("/turn" + std::to_string(i), [i](const httplib::Request&, httplib::Response& r) {
                r.set_redirect(i == 1 ? "/file" : "/turn" + std::to_string(i - 1));
            });
        web.serveFile();
        web.listen();
        QVERIFY(tried(web.url + "/turn5").has_value());
        QVERIFY(!tried(web.url + "/turn6"));
    }
    void whatCannotBeIsASentence() {
        for (const auto& [url, words] : {std::pair("server", "is not a web address"),
                                         std::pair("ftp://server/file", "is not a web address"),
                                         std::pair("http://127.0.0.1:1/", "does not answer")}) {
            const auto run = tried(url);
            QVERIFY2(!run && run.error().sentence().find(words) != std::string::npos, url);
        }
    }
    // A server that is not ours: a small file again and again, and no uploads.
    void anyServerWillDo() {
        WebServer web;
        web.serveFile();
        web.server.Get("/empty", [](const httplib::Request&, httplib::Response& r) { r.status = 204; });
        web.listen();
        const auto run = tried(web.url + "/file");
        QVERIFY(run && !run->simulated && run->goodput.bps() > 1e6);
        QVERIFY(refused(tried(web.url + "/file", false), "takes uploads"));
        QVERIFY(refused(tried(web.url + "/empty"), "nothing to load"));
    }
    void redirectionsAreFollowedOnceAndShown() {
        WebServer web;
        int asked = 0;
        const auto to = [](const std::string& where) {
            return [where](const httplib::Request&, httplib::Response& r) { r.set_redirect(where, 302); };
        };
        web.serveFile();
        web.server.Get("/first", [&](const httplib::Request&, httplib::Response& r) {
            ++asked;
            r.set_redirect("/second");
        });
        web.server.Get("/second", to(web.url + "/file"));
        web.server.Get("/round", to("/round"));
        web.server.Get("/nowhere", to("//elsewhere/file"));
        web.server.Get("/other", to("ftp://127.0.0.1/file"));
        web.server.Get("/markup", to("/<b>\x1b[31m"));
        // Its head says one thing, its body another: no connection of the test follows on its own.
        web.server.Get("/later", [&](const httplib::Request& q, httplib::Response& r) {
            if (q.method == "HEAD")
                r.set_content("x", "text/plain");
            else
                r.set_redirect("/file");
        });
        web.listen();
        const auto run = tried(web.url + "/first");
        QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
        QCOMPARE(run->redirectedTo, web.url + "/file");
        QCOMPARE(asked, 1);
        QVERIFY(run->goodput.bps() > 1e6);
        const auto direct = tried(web.url + "/file");
        QVERIFY(direct && direct->redirectedTo.empty());
        const auto said = benchmark::remarks(*run);
        QVERIFY(std::any_of(said.begin(), said.end(), [&](const std::string& line) {
            return line.find("sends on to " + web.url + "/file") != std::string::npos;
        }));
        QVERIFY(benchmark::runFromJson(benchmark::toJson(*run))->redirectedTo == run->redirectedTo);
        QVERIFY(refused(tried(web.url + "/round"), "again and again"));
        QVERIFY(refused(tried(web.url + "/nowhere"), "not a web address"));
        QVERIFY(refused(tried(web.url + "/other"), "not a web address"));
        const auto markup = tried(web.url + "/markup");
        QVERIFY(!markup && markup.error().sentence().find('\x1b') == std::string::npos);
        QVERIFY(refused(tried(web.url + "/later"), "another address each time"));
    }
    void encryptedStaysEncrypted() {
        const probe::WebPlace from{"https://127.0.0.1", "/a"};
        QVERIFY(!probe::sentOnTo(from, "http://127.0.0.1/b"));
        QCOMPARE(probe::sentOnTo(from, "https://127.0.0.2:8/b")->text(),
                 std::string("https://127.0.0.2:8/b"));
        QCOMPARE(probe::sentOnTo(from, "/c?d")->text(), std::string("https://127.0.0.1/c?d"));
        QVERIFY(!probe::sentOnTo(from, "relative") && !probe::sentOnTo(from, "") &&
                !probe::sentOnTo(from, "/with blank") &&
                !probe::sentOnTo(from, "/" + std::string(2000, 'x')));
        QVERIFY(probe::sentOnTo({"http://127.0.0.1", "/"}, "https://127.0.0.1/b").has_value());
    }
    // A server that means harm: heads and answers without end, at the speed of loopback.
    void answersWithoutEndAreLeft_data() {
        QTest::addColumn<QByteArray>("begin");
        QTest::addColumn<QByteArray>("endless");
        QTest::addColumn<bool>("down");
        QTest::newRow("one line") << QByteArray("HTTP/1.1 200 OK\r\nX: ") << QByteArray(4096, 'x') << true;
        QTest::newRow("many lines") << QByteArray("HTTP/1.1 200 OK\r\n")
                                    << QByteArray("A: b\r\n").repeated(700) << true;
        QTest::newRow("answer to an upload")
            << QByteArray("HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\n")
            << (QByteArray("1000\r\n") + QByteArray(4096, 'x') + "\r\n") << false;
    }
    void answersWithoutEndAreLeft() {
        QFETCH(QByteArray, begin);
        QFETCH(QByteArray, endless);
        QFETCH(bool, down);
        probe::ignoreBrokenPipes();
        auto listener = probe::listenOn(probe::numericAddress("127.0.0.1", 0).value()).value();
        const auto port = probe::localAddress(listener.get()).port();
        std::atomic<bool> over{false};
        std::atomic<std::uint64_t> sent{0};
        std::thread server([&] {
            while (!over) {
                if (!probe::waitFor(listener.get(), false, std::chrono::milliseconds(50))) continue;
                const probe::Fd peer(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
                probe::setTimeouts(peer.get(), std::chrono::milliseconds(200), false);
                std::array<char, 4096> request{};
                for (;;) { // each HEAD is answered well; what comes after it without end
                    const auto n = ::recv(peer.get(), request.data(), request.size(), 0);
                    if (n <= 0) break;
                    const bool isHead =
                        std::string_view(request.data(), static_cast<std::size_t>(n)).starts_with("HEAD");
                    const QByteArray good = "HTTP/1.1 200 OK\r\nContent-Length: 9\r\n\r\n";
                    const QByteArray& head = isHead && !down ? good : begin;
                    (void)::send(peer.get(), head.data(), static_cast<std::size_t>(head.size()),
                                 MSG_NOSIGNAL);
                    if (isHead && !down) continue;
                    while (!over) {
                        const auto went = ::send(peer.get(), endless.data(),
                                                 static_cast<std::size_t>(endless.size()), MSG_NOSIGNAL);
                        if (went <= 0) break;
                        sent += static_cast<std::uint64_t>(went);
                    }
                    break;
                }
            }
        });
        QElapsedTimer timer;
        timer.start();
        const auto run = probe::testService(
            serviceTest("http://127.0.0.1:" + std::to_string(port) + "/x", down, 2), {}, {});
        const auto lasted = timer.elapsed();
        over = true;
        server.join();
        QVERIFY(!run.has_value());
        QVERIFY2(run.error().sentence().find("more before its answer") != std::string::npos ||
                     run.error().sentence().find("does not answer") != std::string::npos,
                 run.error().sentence().c_str());
        QVERIFY2(lasted < 2000, qPrintable(QString::number(lasted)));
        // 20 ms at the speed of loopback, and what the kernel buffers.
        QVERIFY2(sent < 600'000'000, qPrintable(QString::number(sent.load())));
    }
};

QTEST_GUILESS_MAIN(TestWebService)
#include "test_web_service.moc"
