// Programs that are killed anywhere, and two that write one job at once.
#include "job/store.h"
#include "support/houses.h"
#include "support/job_files.h"
#include "support/runs.h"

#include <QTest>
#include <csignal>
#include <random>
#include <set>
#include <sstream>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

using namespace metrodos;
using job::Store;

namespace {

benchmark::Run shortRun(const std::string& id) {
    benchmark::Run run = testing::steadyRun(benchmark::Direction::forward, 100, 1, 0.01, id);
    run.samples.change().resize(8);
    return run;
}

std::string labelIn(const Store& store) {
    return store.house().rooms.front().label;
}

// Says what it is about to do and what is done, one line each: "to X", "is X"; of runs "run X", "kept X".
class Worker {
  public:
    Worker(std::string file, unsigned seed, int out)
        : m_file(std::move(file))
        , m_random(seed)
        , m_out(out) {}

    [[noreturn]] void run() {
        auto store = Store::open(m_file);
        if (!store) ::_exit(3);
        for (int n = 0; n < 100'000; ++n) {
            switch (m_random() % 6) {
            case 0:
            case 1: {
                house::House next = store->house();
                next.rooms.front().label = "label-" + std::to_string(m_random());
                say("to " + next.rooms.front().label);
                if (!store->change("rename", next)) ::_exit(4);
                say("is " + labelIn(*store));
                break;
            }
            case 2:
            case 3: {
                const bool isUndo = m_random() % 2 == 0;
                say("to ?"); // whatever the step brings
                if (!(isUndo ? store->undo() : store->redo())) ::_exit(5);
                say("is " + labelIn(*store));
                break;
            }
            case 4: {
                const std::string id = "run-" + std::to_string(m_random());
                say("run " + id);
                if (!store->addRun({"desk-shelf", shortRun(id)})) ::_exit(6);
                say("kept " + id);
                break;
            }
            default: {
                const std::string id = "recorded-" + std::to_string(m_random());
                const benchmark::Run run = shortRun(id);
                auto recorder = job::RunRecorder::begin(m_file, "desk-shelf", run);
                if (!recorder) ::_exit(7);
                say("kept " + id);
                for (const benchmark::Sample& s : run.samples)
                    (void)recorder->append(s);
                if (!recorder->finish(run)) ::_exit(8);
            }
            }
        }
        ::_exit(0);
    }

  private:
    void say(const std::string& line) const {
        const std::string text = line + "\n";
        if (::write(m_out, text.data(), text.size()) < 0) ::_exit(9);
    }
    std::string m_file;
    std::mt19937 m_random;
    int m_out;
};

std::string readAll(int fd) {
    std::string out;
    char buffer[4096];
    for (ssize_t got = 0; (got = ::read(fd, buffer, sizeof buffer)) > 0;)
        out.append(buffer, static_cast<std::size_t>(got));
    return out;
}

} // namespace

class TestKilled : public QObject {
    Q_OBJECT

    testing::JobFiles m_files;

  private slots:
    // 200 programs, killed in the middle of edits, undone and redone steps and runs: what was confirmed is
    // there, and nothing that was not begun.
    void whatWasConfirmedIsThere() {
        const std::string file = m_files.made();
        std::mt19937 random(11);
        std::set<std::string> kept;
        std::string label = Store::open(file).value().house().rooms.front().label;
        int inTheMiddle = 0;
        for (int round = 0; round < 200; ++round) {
            int pipe[2];
            QCOMPARE(::pipe(pipe), 0);
            const unsigned seed = random();
            const pid_t child = ::fork();
            QVERIFY(child >= 0);
            if (child == 0) {
                ::close(pipe[0]);
                Worker(file, seed, pipe[1]).run();
            }
            ::close(pipe[1]);
            std::this_thread::sleep_for(std::chrono::microseconds(3000 + random() % 25'000));
            ::kill(child, SIGKILL);
            int status = 0;
            ::waitpid(child, &status, 0);
            QVERIFY2(WIFSIGNALED(status), std::to_string(WEXITSTATUS(status)).c_str());
            std::istringstream lines(readAll(pipe[0]));
            ::close(pipe[0]);
            std::string wanted; // begun, and not said to be done
            std::string begunRun;
            for (std::string word, what; lines >> word >> what;) {
                if (word == "to") wanted = what;
                if (word == "is") {
                    label = what;
                    wanted.clear();
                }
                if (word == "run") begunRun = what;
                if (word == "kept") {
                    kept.insert(what);
                    begunRun.clear();
                }
            }
            const auto store = Store::open(file);
            QVERIFY2(store.has_value(), store ? "" : store.error().sentence().c_str());
            const std::string now = labelIn(*store);
            QVERIFY2(now == label || now == wanted || wanted == "?",
                     (now + " " + label + " " + wanted).c_str());
            inTheMiddle += wanted.empty() ? 0 : 1;
            label = now;
            const auto runs = store->runs();
            QVERIFY(runs.has_value() && runs->unreadable.empty());
            std::set<std::string> there;
            for (const benchmark::RouteRun& r : runs->runs)
                there.insert(r.run.id);
            for (const std::string& id : kept)
                QVERIFY2(there.contains(id), id.c_str());
            kept.insert(there.begin(), there.end()); // one that was begun may be there
            if (there.size() > 60) {                 // it is not about many
                auto writer = Store::open(file).value();
                for (const std::string& id : there)
                    QVERIFY(writer.removeRun(id).has_value());
                kept.clear();
            }
        }
        QVERIFY2(inTheMiddle > 20, std::to_string(inTheMiddle).c_str());
    }
    // 1,000 changes by two programs at once, each of something of its own and now and then of the same: none
    // is lost, and of the same thing one stands.
    void twoProgramsLoseNothing() {
        const std::string file = m_files.made();
        constexpr int each = 500;
        std::array<pid_t, 2> children{};
        for (int who = 0; who < 2; ++who) {
            children[static_cast<std::size_t>(who)] = ::fork();
            if (children[static_cast<std::size_t>(who)] != 0) continue;
            auto store = Store::open(file);
            if (!store) ::_exit(3);
            std::mt19937 random(static_cast<unsigned>(who) + 5);
            for (int n = 0; n < each; ++n) {
                house::House next = store->house();
                const std::string id = "room-" + std::to_string(who) + "-" + std::to_string(n);
                next.rooms.push_back({id, id, 0});
                // Another thing of both now and then: then one of them is told, and does it anew.
                if (random() % 7 == 0) next.devices.front().label = id;
                if (!store->change("add", next)) {
                    --n; // told that both have changed it, or that the other was too busy
                    continue;
                }
                if (random() % 3 == 0)
                    std::this_thread::sleep_for(std::chrono::microseconds(random() % 2000));
            }
            ::_exit(0);
        }
        for (const pid_t child : children) {
            int status = 0;
            ::waitpid(child, &status, 0);
            QVERIFY(WIFEXITED(status));
            QCOMPARE(WEXITSTATUS(status), 0);
        }
        const auto store = Store::open(file);
        QVERIFY2(store.has_value(), store ? "" : store.error().sentence().c_str());
        std::set<std::string> there;
        for (const house::Room& room : store->house().rooms)
            there.insert(room.id);
        QCOMPARE(there.size(), std::size_t(2 * each + 1)); // with the one that was there
        for (int who = 0; who < 2; ++who)
            for (int n = 0; n < each; ++n)
                QVERIFY(there.contains("room-" + std::to_string(who) + "-" + std::to_string(n)));
        QVERIFY(there.contains(store->house().devices.front().label));
    }
};

QTEST_GUILESS_MAIN(TestKilled)
#include "test_killed.moc"
