// Every operation of a job under every fault of the disk, one step at a time: after a cut of the power the
// job is as it was before or after, and what was confirmed is there; after an error or without memory it is
// used on.
#include "job/kept_document.h"
#include "job/store.h"
#include "support/fault_vfs.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTemporaryDir>
#include <QTest>
#include <filesystem>
#include <fstream>
#include <functional>

using namespace metrodos;
using job::Store;
using testing::FaultVfs;

namespace {

// SQLite's memory, of which one piece is not to be had.
struct Memory {
    static inline long left = -1; // until it fails; below 0: never
    static inline bool isShort = false;
    static bool mayHave() {
        if (left < 0) return true;
        if (left-- > 0) return true;
        left = -1;
        isShort = true;
        return false;
    }
    // With its size before it, since SQLite asks for that.
    static void* take(int n) {
        if (!mayHave()) return nullptr;
        auto* p = static_cast<std::int64_t*>(std::malloc(static_cast<std::size_t>(n) + 8));
        if (p == nullptr) return nullptr;
        *p = n;
        return p + 1;
    }
    static void give(void* p) { std::free(p == nullptr ? nullptr : static_cast<std::int64_t*>(p) - 1); }
    static int size(void* p) {
        return p == nullptr ? 0 : static_cast<int>(static_cast<std::int64_t*>(p)[-1]);
    }
    static void* again(void* p, int n) {
        if (!mayHave()) return nullptr;
        auto* q = static_cast<std::int64_t*>(
            std::realloc(static_cast<std::int64_t*>(p) - 1, static_cast<std::size_t>(n) + 8));
        if (q == nullptr) return nullptr;
        *q = n;
        return q + 1;
    }
    static void use() {
        static sqlite3_mem_methods methods{&take,
                                           &give,
                                           &again,
                                           &size,
                                           [](int n) { return (n + 7) & ~7; },
                                           [](void*) { return SQLITE_OK; },
                                           [](void*) {},
                                           nullptr};
        if (sqlite3_config(SQLITE_CONFIG_MALLOC, &methods) != SQLITE_OK) qFatal("SQLite was used before");
    }
};

using Outcome = quantity::Result<void>;
struct Operation {
    const char* name;
    std::function<Outcome(Store&)> does;
};

Outcome only(bool done) {
    return done ? Outcome() : Outcome(quantity::problem("not done"));
}

benchmark::Run shortRun(const std::string& id, int samples = 12) {
    benchmark::Run run = testing::steadyRun(benchmark::Direction::forward, 100, 1, 0.01, id);
    run.samples.change().resize(static_cast<std::size_t>(samples));
    return run;
}

house::House renamed(house::House h, const std::string& label) {
    h.rooms.front().label = label;
    return h;
}

std::vector<Operation> operations() {
    return {
        {"change", [](Store& s) { return s.change("rename", renamed(s.house(), "Other")); }},
        {"undo", [](Store& s) { return s.undo(); }},
        {"redo", [](Store& s) { return s.redo(); }},
        {"add a run",
         [](Store& s) {
             return s.addRun({"desk-shelf", shortRun("new")});
         }},
        {"remove a run", [](Store& s) { return s.removeRun("old"); }},
        {"add a report",
         [](Store& s) {
             job::KeptDocument kept;
             kept.at = "2026-05-04T10:00:00Z";
             kept.text = std::string(9000, 'x'); // several pages
             return only(s.addReport(job::reportOf(kept).value()).has_value());
         }},
        {"remove a report", [](Store& s) { return s.removeReport(1); }},
        {"add a picture",
         [](Store& s) { return only(s.addPhoto("\xff\xd8\xff" + std::string(9000, 'p')).has_value()); }},
        {"record a run",
         [](Store& s) {
             const benchmark::Run run = shortRun("recorded");
             auto recorder = job::RunRecorder::begin(s.file(), "desk-shelf", run);
             if (!recorder) return only(false);
             for (const benchmark::Sample& sample : run.samples)
                 if (const auto kept = recorder->append(sample); !kept) return kept;
             return recorder->finish(run);
         }},
    };
}

std::string bytesOf(const std::string& file) {
    std::ifstream stream(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

// All that a job holds; empty where it cannot be opened.
std::string stateOf(const std::string& file) {
    const auto store = Store::open(file);
    if (!store) return {};
    const auto document = store->document();
    if (!document || !document->unreadable.empty()) return {};
    return job::toJson(*document).dump() + " undo: " + store->undoLabel() + " redo: " + store->redoLabel();
}

} // namespace

class TestPowerCuts : public QObject {
    Q_OBJECT

    QTemporaryDir m_folder;
    std::string m_file;
    std::string m_initial; // bytes of a job with something of everything

    void restore() {
        std::filesystem::remove(m_file + "-journal");
        std::ofstream(m_file, std::ios::binary | std::ios::trunc) << m_initial;
        FaultVfs::get().reset();
    }

    // An operation when nothing fails.
    struct Undisturbed {
        std::string before;
        std::string after;
        long steps = 0; // of the disk
    };
    Undisturbed undisturbed(const Operation& operation) {
        Undisturbed out;
        restore();
        out.before = stateOf(m_file);
        {
            auto store = Store::open(m_file).value();
            FaultVfs::get().reset();
            if (!operation.does(store)) return {};
            out.steps = FaultVfs::get().steps();
        }
        out.after = stateOf(m_file);
        return out;
    }

  private slots:
    void initTestCase() {
        Memory::use();
        (void)FaultVfs::get();
        m_file = m_folder.filePath("job.metrodos").toStdString();
        {
            auto store =
                Store::create(m_file, {testing::wiredHouse(), {{"desk-shelf", shortRun("old")}}}).value();
            QVERIFY(store.change("first", renamed(store.house(), "First")).has_value());
            QVERIFY(store.change("second", renamed(store.house(), "Second")).has_value());
            QVERIFY(store.undo().has_value());
            job::KeptDocument kept;
            kept.at = "2026-05-04T09:00:00Z";
            QVERIFY(store.addReport(job::reportOf(kept).value()).has_value());
        }
        m_initial = bytesOf(m_file);
        QVERIFY(!stateOf(m_file).empty());
    }
    void everythingSurvivesAPulledPlug_data() {
        QTest::addColumn<int>("which");
        for (int i = 0; i < static_cast<int>(operations().size()); ++i)
            QTest::newRow(operations()[static_cast<std::size_t>(i)].name) << i;
    }
    void everythingSurvivesAPulledPlug() {
        QFETCH(int, which);
        const Operation operation = operations()[static_cast<std::size_t>(which)];
        const auto [before, after, steps] = undisturbed(operation);
        QVERIFY(steps > 5 && !after.empty() && after != before);
        std::mt19937 random(1);
        int confirmed = 0;
        int undone = 0;
        for (long k = 0; k <= steps; ++k)
            for (int variant = 0; variant < 6; ++variant) {
                restore();
                bool isDone = false;
                {
                    auto store = Store::open(m_file).value();
                    FaultVfs::get().reset();
                    FaultVfs::get().cutAt(k);
                    isDone = operation.does(store).has_value();
                    // The power is gone before the program is.
                    FaultVfs::get().cutAt(FaultVfs::get().steps());
                }
                FaultVfs::get().leaveAsCut(random);
                const std::string left = stateOf(m_file);
                const QString where = QString("step %1 of %2, variant %3").arg(k).arg(steps).arg(variant);
                QVERIFY2(!left.empty(), qPrintable(where));
                confirmed += isDone ? 1 : 0;
                undone += left == before ? 1 : 0;
                if (isDone) QVERIFY2(left == after, qPrintable(where));
                // A run that is recorded comes piece by piece; all else is whole or not there.
                if (QLatin1String(operation.name) != QLatin1String("record a run"))
                    QVERIFY2(left == before || left == after, qPrintable(where));
            }
        QVERIFY(confirmed >= 6 && undone >= 6);
    }
    void aNewJobIsWholeOrNotConfirmed() {
        std::mt19937 random(2);
        const job::Document content{testing::wiredHouse(), {{"desk-shelf", shortRun("one")}}};
        const std::string fresh = m_folder.filePath("new.metrodos").toStdString();
        FaultVfs::get().reset();
        QVERIFY(Store::create(fresh, content).has_value());
        const long steps = FaultVfs::get().steps();
        const std::string whole = stateOf(fresh);
        for (long k = 0; k <= steps; ++k)
            for (int variant = 0; variant < 3; ++variant) {
                std::filesystem::remove(fresh);
                std::filesystem::remove(fresh + "-journal");
                FaultVfs::get().reset();
                FaultVfs::get().cutAt(k);
                const bool isDone = Store::create(fresh, content).has_value();
                FaultVfs::get().leaveAsCut(random);
                const std::string left = stateOf(fresh);
                QVERIFY2(left == whole || (left.empty() && !isDone), std::to_string(k).c_str());
            }
    }
    // One step fails, in every way that a disk has; the store says so, and goes on.
    void anErrorIsSaidAndTheJobIsUsedOn_data() { everythingSurvivesAPulledPlug_data(); }
    void anErrorIsSaidAndTheJobIsUsedOn() {
        QFETCH(int, which);
        const Operation operation = operations()[static_cast<std::size_t>(which)];
        const auto [before, after, steps] = undisturbed(operation);
        QVERIFY(steps > 5 && !after.empty() && after != before);
        for (const int code : {SQLITE_IOERR, SQLITE_FULL, SQLITE_IOERR_NOMEM})
            for (long k = 0; k < steps; ++k) {
                restore();
                auto store = Store::open(m_file).value();
                FaultVfs::get().reset();
                FaultVfs::get().failAt(k, code);
                const auto outcome = operation.does(store);
                if (!outcome) QVERIFY(!outcome.error().sentence().empty());
                FaultVfs::get().reset();
                const std::string left = stateOf(m_file);
                const QString where = QString("step %1, code %2").arg(k).arg(code);
                QVERIFY2(!left.empty(), qPrintable(where));
                if (outcome) QVERIFY2(left == after, qPrintable(where));
                if (QLatin1String(operation.name) != QLatin1String("record a run"))
                    QVERIFY2(left == before || left == after, qPrintable(where));
                // What the store has in its memory is what it writes on.
                const auto next = store.change("on", renamed(store.house(), "Used on"));
                QVERIFY2(next.has_value(), next ? "" : next.error().sentence().c_str());
                const auto reopened = Store::open(m_file);
                QVERIFY2(reopened.has_value() && reopened->house() == store.house(), qPrintable(where));
            }
    }
    void withoutMemoryNothingIsLost_data() { everythingSurvivesAPulledPlug_data(); }
    void withoutMemoryNothingIsLost() {
        QFETCH(int, which);
        const Operation operation = operations()[static_cast<std::size_t>(which)];
        const auto [before, after, steps] = undisturbed(operation);
        QVERIFY(steps > 5 && !after.empty() && after != before);
        int failed = 0;
        for (long k = 0; k < 4000; k += 1 + k / 12) {
            restore();
            auto store = Store::open(m_file).value();
            Memory::isShort = false;
            Memory::left = k;
            const auto outcome = operation.does(store);
            Memory::left = -1;
            failed += outcome ? 0 : 1;
            const std::string left = stateOf(m_file);
            QVERIFY2(!left.empty(), std::to_string(k).c_str());
            if (outcome) QVERIFY2(left == after, std::to_string(k).c_str());
            if (QLatin1String(operation.name) != QLatin1String("record a run"))
                QVERIFY2(left == before || left == after, std::to_string(k).c_str());
            const auto next = store.change("on", renamed(store.house(), "Used on"));
            QVERIFY2(next.has_value(), next ? "" : next.error().sentence().c_str());
            QVERIFY(Store::open(m_file).value().house() == store.house());
            if (!Memory::isShort) break; // all that it takes was there
        }
        QVERIFY(failed > 0);
    }
};

QTEST_GUILESS_MAIN(TestPowerCuts)
#include "test_power_cuts.moc"
