// Whatever the ends of a run may say: what comes of it can be kept in a job, and read from it as it was.
#include "benchmark/run_json.h"
#include "job/store.h"
#include "probe/run_events.h"
#include "support/agents.h"
#include "support/houses.h"

#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>
#include <random>
#include <thread>

using namespace metrodos;
using namespace metrodos::probe;

namespace {

using nlohmann::json;

// An end of a run that says what it likes, in events of the right form.
class BabblingPerformer final : public Performer {
  public:
    explicit BabblingPerformer(std::shared_ptr<std::mt19937> random)
        : m_random(std::move(random)) {}
    ~BabblingPerformer() override { BabblingPerformer::cancel(); }

    bool simulated() const override { return true; }
    json facts() override { return json::object(); }
    quantity::Result<DataTarget> prepare(const RunTask& task, const std::string& host) override {
        m_task = task;
        return DataTarget{host, 1, 1, {}};
    }
    quantity::Result<void> join(const RunTask& task, const DataTarget&, const Interrupted&) override {
        m_task = task;
        return {};
    }
    std::optional<benchmark::Percentiles> idleDelay(const Interrupted&) override {
        return benchmark::Percentiles{number(), number()};
    }
    quantity::Result<void> start(Emit told) override {
        cancel();
        m_thread = std::thread([this, told = std::move(told)] { babble(told); });
        return {};
    }
    void cancel() override {
        if (m_thread.joinable()) m_thread.join();
    }

  private:
    int upTo(int n) { return std::uniform_int_distribution<int>(0, n)(*m_random); }
    bool chance(int percent) { return upTo(99) < percent; }
    // Of a figure: sound ones mostly, at the bounds and beyond them now and then.
    double number() {
        static constexpr double odd[] = {0,     1e-300, 1e-9, 1,    1 + 1e-9, 1e5,  1e6,
                                         6e7,   1e9,    1e12, 1e13, 1e15,     1e18, 1.8446744073709552e19,
                                         1e300, -1,     -1e-9};
        if (chance(85)) return std::uniform_real_distribution<double>(0, 1000)(*m_random);
        return odd[upTo(static_cast<int>(std::size(odd)) - 1)];
    }
    json value() {
        if (chance(90)) return number();
        static const json others[] = {
            nullptr, true,        "text", "", json::array(), json::object(), json::array({1, 2, 3}),
            -0.0,    4294967296LL};
        return others[upTo(static_cast<int>(std::size(others)) - 1)];
    }
    void change(json& event) {
        for (auto& [key, was] : event.items()) {
            if (key == "type" || key == "run" || key == "n" || !chance(8)) continue;
            if (was.is_object())
                change(was);
            else
                was = value();
        }
    }
    void babble(const Emit& told) {
        std::vector<json> events;
        const int count = 1 + upTo(6);
        for (int n = 1; n <= count; ++n) {
            SampleEvent sample{m_task.run, static_cast<std::size_t>(n), 0.1 * n};
            sample.cpu = 0.5;
            sample.goodputBps = 1e6 * (1 + upTo(1000));
            if (m_task.config.streams > 1) sample.streamBps = {1e6, 2e6};
            sample.tcpRttUs = 500;
            sample.windowBytes = 1e5;
            sample.retransmits = 3;
            sample.rttUs = 700;
            sample.lossRatio = 0.01;
            events.push_back(toJson(sample));
        }
        FinishedEvent end{m_task.run, 0.1 * count, 1000000};
        end.cpu = 0.3;
        end.cpuProcess = 1.2;
        end.interface = benchmark::InterfaceCount{"eth0", 1000000, 0, false, true, "eth1"};
        end.senderLimited = benchmark::SenderLimited{0.5, 0.25, 0.25};
        end.retransmits = 3;
        end.datagramsSent = 100;
        end.datagramsUnsent = 1;
        end.datagrams =
            benchmark::DatagramCount{100, 0, 90, 1, 2, 3, 45.5, benchmark::Percentiles{1, 2, 3, 4}};
        end.rttLoadedUs = benchmark::Percentiles{900, 1500, 1700, 2000};
        end.delayLost = 1;
        end.spikes = {{0.1, 30000}, {0.2, 40000}};
        events.push_back(toJson(end));
        for (json& event : events) {
            change(event);
            if (!told(event)) return;
        }
    }

    std::shared_ptr<std::mt19937> m_random;
    RunTask m_task;
    std::thread m_thread;
};

struct Babbler {
    Key key = Key::generate();
    std::unique_ptr<Agent> agent;

    explicit Babbler(unsigned seed) {
        auto random = std::make_shared<std::mt19937>(seed);
        AgentSettings settings{"127.0.0.1:0", "babbler", ringOf(key), {}};
        agent = Agent::start(settings, [random](const PeerFilter&) {
                    return std::make_unique<BabblingPerformer>(random);
                }).value();
    }
    [[nodiscard]] EndpointLink link() const {
        return EndpointLink::connect(agent->address().text(), key).value();
    }
};

} // namespace

class TestReadBack : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }
    void whateverARunReturnsReadsBack() {
        const Babbler one(1);
        const Babbler other(2);
        std::optional<EndpointLink> from(one.link());
        std::optional<EndpointLink> to(other.link());
        const QTemporaryDir folder;
        const std::string file = folder.filePath("job.metrodos").toStdString();
        QVERIFY(job::Store::create(file, {testing::wiredHouse(), {}}).has_value());
        const std::string route = testing::wiredHouse().routes.front().id;
        std::vector<std::string> kept;
        int refused = 0;
        for (int i = 0; i < 300; ++i) {
            benchmark::RunConfig config;
            config.seconds = 0.5;
            config.streams = 1 + i % 3;
            config.direction = i % 2 == 0 ? benchmark::Direction::forward : benchmark::Direction::backward;
            if (i % 5 == 0) {
                config.protocol = benchmark::Protocol::udp;
                config.streams = 1;
                config.rate = quantity::BitRate::bitsPerSecond(1e7);
            }
            const auto run = conduct(*from, *to, config, {}, {});
            if (!run) {
                ++refused;
                // One end may have been left in the middle of the run.
                from.emplace(one.link());
                to.emplace(other.link());
                continue;
            }
            const json written = benchmark::toJson(*run);
            const auto read = benchmark::runFromJson(json::parse(written.dump()));
            QVERIFY2(read.has_value(), (read ? "" : read.error().sentence() + written.dump()).c_str());
            QCOMPARE(benchmark::toJson(*read).dump(), written.dump());
            QVERIFY(job::keepRun(file, route, *run).has_value());
            kept.push_back(written.dump());
        }
        QVERIFY2(kept.size() > 40 && refused > 40,
                 qPrintable(QString("%1 %2").arg(kept.size()).arg(refused)));
        const auto store = job::Store::open(file).value();
        const auto runs = store.runs().value();
        QVERIFY(runs.unreadable.empty());
        QCOMPARE(runs.runs.size(), kept.size());
        for (std::size_t i = 0; i < kept.size(); ++i)
            QCOMPARE(benchmark::toJson(runs.runs[i].run).dump(), kept[i]);
    }
};

QTEST_GUILESS_MAIN(TestReadBack)
#include "test_read_back.moc"
