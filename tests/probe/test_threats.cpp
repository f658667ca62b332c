// What docs/security.md says of attackers, one by one: recorded handshakes, servers with a certificate,
// crowds of silent and slow connections, controllers that fall silent.
#include "support/agents.h"

#include <QElapsedTimer>
#include <QTest>
#include <openssl/evp.h>
#include <openssl/ssl.h>
#include <openssl/x509.h>
#include <sys/resource.h>

using namespace metrodos;
using namespace metrodos::testing;
using namespace std::chrono_literals;

namespace {

Fd connected(const std::string& address) {
    return connectTo(resolve(address).value(), 2s).value();
}

std::string receiveUntilClosed(int fd, std::chrono::milliseconds limit) {
    std::string out;
    std::array<char, 4096> buffer{};
    const auto end = std::chrono::steady_clock::now() + limit;
    while (std::chrono::steady_clock::now() < end) {
        if (!waitFor(fd, false, 50ms)) continue;
        const auto n = ::recv(fd, buffer.data(), buffer.size(), MSG_DONTWAIT);
        if (n == 0 || (n < 0 && errno != EAGAIN)) return out;
        if (n > 0) out.append(buffer.data(), static_cast<std::size_t>(n));
    }
    return out + "still open";
}

/// Stands between a controller and an agent and writes down what the controller sends.
class Recorder {
  public:
    explicit Recorder(const std::string& agent)
        : m_listener(listenOn(resolve("127.0.0.1:0").value()).value())
        , m_thread([this, agent] {
            const Fd in(::accept4(m_listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
            const Fd out = connected(agent);
            std::array<char, 4096> buffer{};
            while (!m_stop) {
                for (const auto& [from, to] :
                     {std::pair(in.get(), out.get()), std::pair(out.get(), in.get())}) {
                    if (!waitFor(from, false, 5ms)) continue;
                    const auto n = ::recv(from, buffer.data(), buffer.size(), MSG_DONTWAIT);
                    if (n <= 0) return;
                    auto& heard = from == in.get() ? sent : answered;
                    heard.append(buffer.data(), static_cast<std::size_t>(n));
                    (void)!::send(to, buffer.data(), static_cast<std::size_t>(n), MSG_NOSIGNAL);
                }
            }
        }) {}
    ~Recorder() {
        m_stop = true;
        m_thread.join();
    }
    [[nodiscard]] std::string address() const { return localAddress(m_listener.get()).text(); }
    std::string sent;
    std::string answered;

  private:
    Fd m_listener;
    std::atomic<bool> m_stop{false};
    std::thread m_thread;
};

/// A TLS server that has a certificate but not the key, and serves one handshake.
class CertificateServer {
  public:
    CertificateServer()
        : m_listener(listenOn(resolve("127.0.0.1:0").value()).value()) {
        m_key = EVP_EC_gen("P-256");
        m_certificate = X509_new();
        X509_gmtime_adj(X509_getm_notBefore(m_certificate), 0);
        X509_gmtime_adj(X509_getm_notAfter(m_certificate), 3600);
        X509_set_pubkey(m_certificate, m_key);
        X509_sign(m_certificate, m_key, EVP_sha256());
        m_context = SSL_CTX_new(TLS_server_method());
        SSL_CTX_use_certificate(m_context, m_certificate);
        SSL_CTX_use_PrivateKey(m_context, m_key);
        m_thread = std::thread([this] {
            const Fd in(::accept4(m_listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
            SSL* ssl = SSL_new(m_context);
            SSL_set_fd(ssl, in.get());
            (void)SSL_accept(ssl);
            std::array<char, 256> buffer{};
            heard = SSL_read(ssl, buffer.data(), static_cast<int>(buffer.size())) > 0;
            SSL_free(ssl);
        });
    }
    ~CertificateServer() {
        if (m_thread.joinable()) m_thread.join();
        SSL_CTX_free(m_context);
        X509_free(m_certificate);
        EVP_PKEY_free(m_key);
    }
    void join() { m_thread.join(); }
    [[nodiscard]] std::string address() const { return localAddress(m_listener.get()).text(); }
    std::atomic<bool> heard{false};

  private:
    Fd m_listener;
    EVP_PKEY* m_key = nullptr;
    X509* m_certificate = nullptr;
    SSL_CTX* m_context = nullptr;
    std::thread m_thread;
};

} // namespace

class TestThreats : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        ignoreBrokenPipes();
        rlimit files{};
        ::getrlimit(RLIMIT_NOFILE, &files);
        files.rlim_cur = files.rlim_max;
        ::setrlimit(RLIMIT_NOFILE, &files);
    }

    void aRecordedSessionPlayedAgainOpensNothing() {
        const LoopbackAgent agent;
        std::string sent;
        std::size_t answered = 0;
        {
            Recorder recorder(agent.address);
            auto link = EndpointLink::connect(recorder.address(), agent.key);
            QVERIFY2(link.has_value(), link ? "" : link.error().sentence().c_str());
            QVERIFY(link->facts().has_value());
            sent = recorder.sent;
            answered = recorder.answered.size();
        }
        QVERIFY(sent.size() > 200);
        const Fd replay = connected(agent.address);
        (void)!::send(replay.get(), sent.data(), sent.size(), MSG_NOSIGNAL);
        const std::string got = receiveUntilClosed(replay.get(), 10s);
        QVERIFY(!got.ends_with("still open"));
        // The agent's half of a handshake and an alert, but no greeting and no facts.
        QVERIFY2(got.size() < 500 && got.size() < answered / 2, qPrintable(QString::number(got.size())));
        QVERIFY(EndpointLink::connect(agent.address, agent.key).has_value());
    }
    void aServerWithACertificateIsNotBelieved() {
        CertificateServer server;
        const auto link = EndpointLink::connect(server.address(), Key::generate());
        QVERIFY(!link);
        server.join();
        QVERIFY(!server.heard);
    }
    void aThousandSilentConnectionsAreOutlived() {
        const LoopbackAgent agent;
        auto from = EndpointLink::here("here").value();
        auto to = EndpointLink::connect(agent.address, agent.key).value();
        std::vector<Fd> silent;
        for (int i = 0; i < 1000; ++i)
            if (auto fd = connectTo(resolve(agent.address).value(), 5s)) silent.push_back(std::move(*fd));
        QVERIFY2(silent.size() > 900, qPrintable(QString::number(silent.size())));
        // Who was in goes on, and who has the key gets in.
        benchmark::RunConfig config;
        config.seconds = 1;
        QVERIFY(conduct(from, to, config, {}, {}).has_value());
        QVERIFY(EndpointLink::connect(agent.address, agent.key).has_value());
    }
    void whoWritesTooSlowlyIsLeft() {
        const LoopbackAgent agent;
        const Fd slow = connected(agent.address);
        // The head of a handshake, a byte now and then: the whole of it has five seconds.
        const std::string head("\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03\x03", 11);
        QElapsedTimer timer;
        timer.start();
        std::size_t next = 0;
        bool closed = false;
        while (!closed && timer.elapsed() < 12'000) {
            (void)!::send(slow.get(), head.data() + next++ % head.size(), 1, MSG_NOSIGNAL);
            std::array<char, 64> buffer{};
            if (waitFor(slow.get(), false, 300ms))
                closed = ::recv(slow.get(), buffer.data(), buffer.size(), MSG_DONTWAIT) <= 0;
        }
        QVERIFY(closed);
        QVERIFY(timer.elapsed() < 8000);
    }
    // The controller is there no more, but nothing says so: as when its machine was switched off.
    void aHalfOpenControllerEndsItsRun() {
        const LoopbackAgent agent;
        const auto idle = threads();
        auto to = EndpointLink::connect(agent.address, agent.key).value();
        auto from = EndpointLink::connect(agent.address, agent.key).value();
        const auto ask = [](EndpointLink& link, const char* type, nlohmann::json config, const char* answer) {
            config["type"] = type;
            return link.ask(config, answer, 5s);
        };
        RunTask task;
        task.run = "run-half-open";
        task.config.seconds = 600;
        task.role = Role::receive;
        const auto prepared = ask(to, "prepare", probe::toJson(task), "prepared");
        QVERIFY2(prepared.has_value(), prepared ? "" : prepared.error().sentence().c_str());
        auto target = readTarget(*prepared).value();
        target.host = to.remoteHost();
        task.role = Role::send;
        nlohmann::json join = probe::toJson(task);
        join.update(probe::toJson(target));
        QVERIFY(ask(from, "join", join, "joined").has_value());
        QVERIFY(to.channel().send({{"type", "start"}}).has_value());
        QVERIFY(from.channel().send({{"type", "start"}}).has_value());
        QTRY_VERIFY(threads() > idle + 2);
        // Neither "alive" nor the end of the connection comes: after three seconds the run is over all the
        // same.
        const auto busy = threads();
        QTRY_VERIFY_WITH_TIMEOUT(threads() <= busy - 2, 8000);
    }
};

QTEST_GUILESS_MAIN(TestThreats)
#include "test_threats.moc"
