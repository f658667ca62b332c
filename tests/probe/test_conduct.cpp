// The conductor against endpoints that answer wrongly: every malformed, late or hostile event ends in one
// sentence.
#include "support/agents.h"
#include "support/puppet.h"

#include <QElapsedTimer>
#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;
using nlohmann::json;
using namespace std::chrono_literals;

namespace {

std::string runOf(const json& config) {
    return config.value("run", "");
}

/// What a well-behaved endpoint answers; `atStart` are its events, given the run's id.
Puppet::Script wellBehaved(std::function<std::vector<json>(const std::string&)> atStart) {
    auto run = std::make_shared<std::string>();
    return [run, atStart = std::move(atStart)](const json& config) -> std::vector<json> {
        const std::string type = config.value("type", "");
        if (type == "hello") return {greeting()};
        if (type == "prepare") {
            *run = runOf(config);
            return {{{"type", "prepared"},
                     {"host", "x"},
                     {"port", 1},
                     {"delay_port", 1},
                     {"token", std::string(32, '0')}}};
        }
        if (type == "join") {
            *run = runOf(config);
            return {{{"type", "joined"}, {"run", *run}}};
        }
        if (type == "idle") return {{{"type", "idle"}, {"rtt_us", {{"p50", 100}, {"p95", 200}}}}};
        if (type == "start") return atStart(*run);
        if (type == "cancel") return {{{"type", "cancelled"}}};
        return {};
    };
}

json sample(const std::string& run, int n) {
    return {{"type", "sample"},   {"run", run}, {"n", n},       {"t_s", n * 0.1},
            {"goodput_bps", 1e8}, {"cpu", 0.1}, {"rtt_us", 150}};
}

json finished(const std::string& run) {
    return {{"type", "finished"}, {"run", run}, {"seconds", 1}, {"bytes", 1}};
}

std::vector<json> goodRun(const std::string& run) {
    std::vector<json> events;
    for (int n = 1; n <= 10; ++n)
        events.push_back(sample(run, n));
    events.push_back(finished(run));
    return events;
}

benchmark::RunConfig oneSecond() {
    benchmark::RunConfig config;
    config.seconds = 1;
    return config;
}

/// The problem of a run whose receiver sends these events; empty when it went well.
std::string problemWith(const std::function<std::vector<json>(const std::string&)>& events) {
    Puppet from(wellBehaved([](const std::string& run) { return std::vector<json>{finished(run)}; }));
    Puppet to(wellBehaved(events));
    const auto run = conduct(from.link->value(), to.link->value(), oneSecond(), {}, {});
    return run ? "" : run.error().sentence();
}

} // namespace

class TestConduct : public QObject {
    Q_OBJECT

  private slots:
    void aGoodConversationGivesARun() {
        Puppet from(wellBehaved([](const std::string& run) { return std::vector<json>{finished(run)}; }));
        Puppet to(wellBehaved(goodRun));
        const auto run = conduct(from.link->value(), to.link->value(), oneSecond(), {}, {});
        QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
        QCOMPARE(run->samples.size(), std::size_t(10));
        QCOMPARE(run->goodput.inMegabits(), 100.0);
        QCOMPARE(run->rttIdleUs->p50, 100.0);
        QVERIFY(!run->retransmits.has_value()); // nobody said: nothing, not 0
        QVERIFY(!run->interfaceSender.has_value());
        QVERIFY(run->simulated);
    }
    // What an end says at the end is said of the side that it was on; the delay is that of the first.
    void eachEndsFiguresStayOnItsSide() {
        const auto saying = [](double cpu, unsigned bytes, const json& more) {
            return [=](const std::string& run) {
                std::vector<json> events = goodRun(run);
                json& end = events.back();
                end["cpu"] = cpu;
                end["interface"] = {{"name", "lan0"}, {"bytes", bytes}, {"errors", 0U}};
                end.update(more);
                return events;
            };
        };
        const json sent{
            {"retransmits", 7U},
            {"sender_limited", {{"network", 0.5}, {"receiver_window", 0.25}, {"send_buffer", 0.1}}}};
        const json none = json::object();
        for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward}) {
            const bool forward = direction == benchmark::Direction::forward;
            json first = forward ? sent : none;
            first["rtt_loaded_us"] = {{"p50", 300}, {"p95", 900}};
            json second = forward ? none : sent;
            second["rtt_loaded_us"] = {{"p50", 1}, {"p95", 2}};
            Puppet from(wellBehaved(saying(0.3, 1111U, first)));
            Puppet to(wellBehaved(saying(0.6, 2222U, second)));
            benchmark::RunConfig config = oneSecond();
            config.direction = direction;
            const auto run = conduct(from.link->value(), to.link->value(), config, {}, {});
            QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
            QCOMPARE(run->cpuSender.value(), forward ? 0.3 : 0.6);
            QCOMPARE(run->cpuReceiver.value(), forward ? 0.6 : 0.3);
            QCOMPARE(run->interfaceSender.value().bytes, std::uint64_t(forward ? 1111 : 2222));
            QCOMPARE(run->interfaceReceiver.value().bytes, std::uint64_t(forward ? 2222 : 1111));
            QCOMPARE(run->retransmits.value(), std::uint64_t(7));
            QCOMPARE(run->senderLimited.value().receiverWindow, 0.25);
            QCOMPARE(run->rttLoadedUs.value().p50, 300.0);
        }
    }
    void malformedEventsEndTheRun_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<QString>("value");
        for (const char* field : {"n", "t_s", "goodput_bps", "type"})
            for (const char* value : {"null", "-1", "1e300", "\"x\"", "[]", "{}", "true"})
                QTest::addRow("%s = %s", field, value) << field << value;
    }
    void malformedEventsEndTheRun() {
        QFETCH(QString, field);
        QFETCH(QString, value);
        const std::string problem = problemWith([&](const std::string& run) {
            json bad = sample(run, 1);
            bad[field.toStdString()] = json::parse(value.toStdString());
            return std::vector<json>{bad, finished(run)};
        });
        if (field == "type" && value == "\"x\"") { // an event of a later version is passed over
            QVERIFY(problem.empty());
            return;
        }
        QVERIFY2(problem.find("puppet") != std::string::npos, problem.c_str());
    }
    void figuresOutOfBoundsAreLeftOut() {
        Puppet from(wellBehaved([](const std::string& run) {
            json end = finished(run);
            end["sender_limited"] = {{"network", 7}, {"receiver_window", "x"}};
            end["retransmits"] = -4;
            end["interface"] = {{"name", std::string(500, 'x')}, {"bytes", 1}};
            end["rtt_loaded_us"] = json::array();
            return std::vector<json>{end};
        }));
        Puppet to(wellBehaved(goodRun));
        const auto run = conduct(from.link->value(), to.link->value(), oneSecond(), {}, {});
        QVERIFY(run.has_value());
        QVERIFY(!run->senderLimited && !run->retransmits && !run->interfaceSender);
    }
    void doubledAndMissingSamplesAreNoticed() {
        QVERIFY(problemWith([](const std::string& run) {
                    return std::vector<json>{sample(run, 1), sample(run, 1)};
                }).find("twice") != std::string::npos);
        QVERIFY(problemWith([](const std::string& run) {
                    return std::vector<json>{sample(run, 1), sample(run, 3)};
                }).find("missing") != std::string::npos);
    }
    void eventsOfAnotherRunAreIgnored() {
        QVERIFY(problemWith([](const std::string& run) {
                    std::vector<json> events{sample("run-before", 7), finished("run-before")};
                    for (const json& event : goodRun(run))
                        events.push_back(event);
                    return events;
                }).empty());
    }
    void aProblemOfTheEndpointIsPassedOn() {
        const std::string problem = problemWith([](const std::string& run) {
            return std::vector<json>{{{"type", "problem"},
                                      {"run", run},
                                      {"what", "no byte arrived"},
                                      {"where", ""},
                                      {"advice", "check the link"}}};
        });
        QCOMPARE(problem, std::string("puppet: no byte arrived; check the link."));
    }
    void anEndpointThatHangsUpOrFallsSilentIsLeft() {
        QVERIFY(problemWith([](const std::string& run) {
                    return std::vector<json>{sample(run, 1), nullptr};
                }).find("closed") != std::string::npos);
        QElapsedTimer timer;
        timer.start();
        QVERIFY(problemWith([](const std::string& run) {
                    return std::vector<json>{sample(run, 1)};
                }).find("silent") != std::string::npos);
        QVERIFY(timer.elapsed() < 9000);
    }
    void badAnswersToOrdersAreRefused() {
        const auto answering = [&](const json& answer) {
            Puppet from(wellBehaved(goodRun));
            auto good = wellBehaved(goodRun);
            Puppet to([=](const json& config) {
                return config.value("type", "") == "prepare" ? std::vector<json>{answer} : good(config);
            });
            const auto run = conduct(from.link->value(), to.link->value(), oneSecond(), {}, {});
            return run ? std::string() : run.error().sentence();
        };
        const auto prepared = [&](const json& change) {
            json answer{{"type", "prepared"},
                        {"host", "x"},
                        {"port", 1},
                        {"delay_port", 1},
                        {"token", std::string(32, '0')}};
            answer.update(change);
            return answering(answer);
        };
        for (const json& bad : {json{{"port", 0}}, json{{"token", "short"}}, json{{"host", 5}},
                                json{{"token", std::string(32, 'z')}}})
            QVERIFY2(!prepared(bad).empty(), bad.dump().c_str());
        QVERIFY(!answering({{"type", "prepared"}}).empty());
        QVERIFY(answering({{"type", "problem"}, {"what", "busy"}}).find("busy") != std::string::npos);
    }
    void greetingsAreChecked() {
        const auto greeted = [](const json& answer) {
            const Puppet puppet([=](const json&) { return std::vector<json>{answer}; });
            return puppet.link->has_value() ? std::string() : puppet.link->error().sentence();
        };
        QVERIFY(greeted(greeting()).empty());
        json wrong = greeting();
        wrong["protocol"] = protocolVersion + 1;
        QVERIFY(greeted(wrong).find("another protocol version") != std::string::npos);
        wrong = greeting();
        wrong.erase("simulated");
        QVERIFY(greeted(wrong).find("did not greet") != std::string::npos);
        wrong = greeting();
        wrong["name"] = std::string(1000, 'n');
        QVERIFY(!greeted(wrong).empty());
        QVERIFY(greeted({{"type", "problem"}, {"what", "go away"}}).find("go away") != std::string::npos);
        QVERIFY(!greeted(nullptr).empty());
    }
    void stoppingBeforeTheStartIsClean() {
        Puppet from(wellBehaved(goodRun));
        Puppet to(wellBehaved(goodRun));
        std::stop_source stop;
        stop.request_stop();
        const auto run = conduct(from.link->value(), to.link->value(), oneSecond(), {}, stop.get_token());
        QVERIFY(run.has_value());
        QVERIFY(!run->complete && run->samples.empty());
    }
};

QTEST_GUILESS_MAIN(TestConduct)
#include "test_conduct.moc"
