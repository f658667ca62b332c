// The agent's calls of the system fail one after the other, wherever it makes them: it goes on, and serves
// the next who comes.
#include "support/agents.h"
#include "support/failing_calls.h"
#include "support/programs.h"

#include <QElapsedTimer>
#include <QTest>
#include <cerrno>
#include <fcntl.h>
#include <sys/mman.h>

using namespace metrodos;
using namespace metrodos::testing;
using namespace std::chrono_literals;

namespace {

// An agent whose calls can be made to fail.
class FaultyAgent : public Workplace {
  public:
    FaultyAgent() {
        const QString file = path("orders");
        QFile made(file);
        if (!made.open(QIODevice::WriteOnly)) qFatal("no file for orders");
        made.resize(sizeof(CallOrders));
        made.close();
        const int fd = ::open(file.toStdString().c_str(), O_RDWR | O_CLOEXEC);
        orders = static_cast<CallOrders*>(
            ::mmap(nullptr, sizeof(CallOrders), PROT_READ | PROT_WRITE, MAP_SHARED, fd, 0));
        ::close(fd);
        orders->failing = -1;
        qputenv(callOrdersVariable, file.toUtf8());
        qputenv("LD_PRELOAD", QByteArray::fromStdString(failingCalls()));
        agent = std::make_unique<Served>(
            "metrodos-agent",
            QStringList{"--listen", "127.0.0.1:0", "--key-file", key, "--pairs", path("pairs"), "--silent"});
        qunsetenv("LD_PRELOAD");
        address = "127.0.0.1:" + std::to_string(agent->ready.value("port", 0));
        secret = Key::load(key.toStdString()).value();
    }
    ~FaultyAgent() { ::munmap(orders, sizeof(CallOrders)); }
    FaultyAgent(const FaultyAgent&) = delete;
    FaultyAgent& operator=(const FaultyAgent&) = delete;

    [[nodiscard]] bool runs() const {
        return !agent->process.waitForFinished(1) && agent->process.state() == QProcess::Running;
    }
    [[nodiscard]] std::ptrdiff_t entries(const char* what) const {
        return testing::entries(("/proc/" + std::to_string(agent->process.processId()) + "/" + what).c_str());
    }

    CallOrders* orders = nullptr;
    std::unique_ptr<Served> agent;
    std::string address;
    Key secret;

  private:
    static std::string failingCalls() { return programPath("libfailing_calls.so"); }
};

// A figure once it has stayed the same for a while: what has ended closes its files a little later.
template <typename Read>
auto settled(Read read) {
    auto last = read();
    QElapsedTimer same;
    same.start();
    while (same.elapsed() < 500) {
        QTest::qWait(20);
        if (const auto now = read(); now != last) {
            last = now;
            same.restart();
        }
    }
    return last;
}

enum class Part { waits, joins, waitsForDatagrams, asks };

// A short part of a run with it, as far as it goes. True when all of it went as it should. `patience`: what
// must go well may take its time on a loaded machine; what is made to fail is not waited for.
bool take(const FaultyAgent& there, Part part, int patience = 1) {
    auto link = EndpointLink::connect(there.address, there.secret);
    if (!link) return false;
    if (part == Part::asks)
        return link->facts().has_value() &&
               link->ask({{"type", "schedule-list"}}, "schedule", 2s * patience).has_value();
    RunTask task;
    task.run = "run-1";
    task.config.seconds = 1;
    task.config.streams = 2;
    if (part == Part::waitsForDatagrams) {
        task.config.protocol = benchmark::Protocol::udp;
        task.config.streams = 1;
        task.config.rate = quantity::BitRate::bitsPerSecond(1e6);
    }
    const bool isJoining = part == Part::joins;
    const auto own = makePerformer("here", {}, true);
    const auto never = [] { return false; };
    nlohmann::json order;
    RunTask mine = task;
    mine.role = Role::send;
    task.role = Role::receive;
    if (isJoining) {
        const auto target = own->prepare(mine, "127.0.0.1");
        if (!target) return false;
        order = toJson(task);
        order.update(toJson(*target));
        order["type"] = "join";
        if (!link->ask(order, "joined", 4s * patience) ||
            !link->ask({{"type", "idle"}}, "idle", 4s * patience))
            return false;
    } else {
        order = toJson(task);
        order["type"] = "prepare";
        const auto prepared = link->ask(order, "prepared", 4s * patience);
        if (!prepared) return false;
        const auto target = readTarget(*prepared);
        if (!target || !own->join(mine, *target, never)) return false;
    }
    std::atomic<int> samples{0};
    if (!link->channel().send({{"type", "start"}})) return false;
    if (!own->start([&](const nlohmann::json&) { return true; })) return false;
    QElapsedTimer timer;
    timer.start();
    bool isBroken = false;
    while (samples < 2 && !isBroken && timer.elapsed() < 3000 * patience) {
        const auto message = link->channel().receive(50ms);
        isBroken = !message || (*message && (**message).value("type", "") == "problem");
        if (message && *message && (**message).value("type", "") == "sample") ++samples;
    }
    own->cancel();
    return !isBroken && samples >= 2 &&
           link->ask({{"type", "cancel"}}, "cancelled", 2s * patience).has_value();
}

} // namespace

class TestAgentFaults : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void whateverFailsItServesTheNext_data() {
        QTest::addColumn<int>("call");
        QTest::addColumn<QList<int>>("errors");
        const auto row = [](SystemCall call, QList<int> errors) {
            QTest::newRow(systemCallNames[static_cast<std::size_t>(call)])
                << static_cast<int>(call) << errors;
        };
        row(SystemCall::threadMade, {EAGAIN});
        row(SystemCall::socketMade, {EMFILE, ENOBUFS});
        row(SystemCall::accepted, {EMFILE, ECONNABORTED, ENOMEM});
        row(SystemCall::bound, {EADDRINUSE});
        row(SystemCall::listened, {EADDRINUSE});
        row(SystemCall::connected, {ENETUNREACH, ETIMEDOUT});
        row(SystemCall::named, {ENOTCONN});
        row(SystemCall::optionSet, {ENOMEM});
        row(SystemCall::shut, {ENOTCONN});
        row(SystemCall::waited, {EINTR, ENOMEM});
        row(SystemCall::sent, {EPIPE, ENOBUFS, EINTR});
        row(SystemCall::received, {ECONNRESET, EINTR});
        row(SystemCall::read, {ECONNRESET, EINTR});
        row(SystemCall::written, {EPIPE, EINTR});
    }
    void whateverFailsItServesTheNext() {
        QFETCH(int, call);
        QFETCH(QList<int>, errors);
        if (!qEnvironmentVariable("METRODOS_AGENT").isEmpty()) QSKIP("that agent may be static");
        FaultyAgent there;
        QVERIFY(there.runs());
        const auto threads = settled([&] { return there.entries("task"); });
        const std::vector<Part> parts{Part::asks, Part::waits, Part::joins, Part::waitsForDatagrams};
        const auto counter = [&] { return there.orders->counts[static_cast<std::size_t>(call)].load(); };
        std::vector<int> counts;
        for (const Part part : parts) {
            const int before = counter();
            QVERIFY(take(there, part, 5));
            counts.push_back(counter() - before);
        }
        QTRY_COMPARE_WITH_TIMEOUT(there.entries("task"), threads, 20000);
        const auto files = settled([&] { return there.entries("fd"); });
        constexpr int most = 2; // of those that are made again and again, so many over the whole
        int failed = 0;
        for (std::size_t p = 0; p < parts.size(); ++p) {
            const int step = std::max(1, counts[p] / most);
            for (int at = 0; at < counts[p]; at += step) {
                const int error = errors[(at / step) % errors.size()];
                there.orders->error = error;
                there.orders->left = at;
                there.orders->failing = call;
                (void)take(there, parts[p]);
                there.orders->failing = -1;
                failed += there.orders->happened.exchange(0);
                QVERIFY2(there.runs(), qPrintable(QString("call %1, error %2").arg(at).arg(error)));
                QVERIFY2(take(there, Part::asks, 5),
                         qPrintable(QString("call %1, error %2").arg(at).arg(error)));
            }
        }
        QVERIFY2(failed > 0 || std::all_of(counts.begin(), counts.end(), [](int n) { return n == 0; }),
                 "nothing was made to fail");
        for (const Part part : parts)
            QVERIFY(take(there, part, 5));
        QTRY_COMPARE_WITH_TIMEOUT(there.entries("task"), threads, 20000);
        QTRY_COMPARE_WITH_TIMEOUT(there.entries("fd"), files, 20000);
    }
};

QTEST_GUILESS_MAIN(TestAgentFaults)
#include "test_agent_faults.moc"
