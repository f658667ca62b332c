// A folder of jobs: listed, searched, counted, and the index made anew whatever happens to it.
#include "catalog/load.h"
#include "job/library.h"
#include "job/store.h"
#include "support/houses.h"
#include "support/runs.h"

#include <QTemporaryDir>
#include <QTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <cmath>
#include <fstream>

using namespace metrodos;
using namespace metrodos::job;

namespace {

const catalog::Catalog& book() {
    static const catalog::Catalog catalog = catalog::loadDefault().value();
    return catalog;
}

// A pair of mains adapters between two machines, measured at so many Mbit/s.
Document mainsJob(const std::string& label, double mbps, const std::string& situation = "same_panel") {
    house::House h = testing::coaxHouse();
    h.name = label;
    h.rooms = {{"study", "Study of " + label, 0}};
    for (const char* id : {"coax-a", "coax-b"}) {
        h.device(id)->deviceClass = "mains-1200";
        h.device(id)->ports = {{"lan", "LAN", house::PortKind::ethernet, "1000base-t"},
                               {"line", "mains", house::PortKind::mains, ""}};
    }
    house::Connection* c = h.connection("coax");
    c->medium = house::Medium::mains;
    c->situation = situation;
    c->label = "mains to the shed";
    Document d{h, {}};
    int n = 0;
    for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward})
        for (int i = 0; i < 3; ++i) {
            benchmark::Run run = testing::steadyRun(direction, mbps, 4, 0.12, "run-" + std::to_string(++n));
            run.startedAt = "2026-05-0" + std::to_string(i + 1) + "T10:00:00Z";
            d.runs.push_back({"desk-shelf", run});
        }
    d.runs.back().run.conditions.changed = "Küchenlicht aus";
    return d;
}

struct Shelf {
    QTemporaryDir folder;
    std::filesystem::path jobs = std::filesystem::path(folder.path().toStdString()) / "jobs";
    std::filesystem::path index =
        std::filesystem::path(folder.path().toStdString()) / "cache" / "index.sqlite";
    Shelf() { std::filesystem::create_directories(jobs); }
    void put(const std::string& name, const Document& d) const {
        std::filesystem::create_directories((jobs / name).parent_path());
        (void)Store::create(jobs / name, d).value();
    }
    [[nodiscard]] Library library() const { return Library::open(jobs, index).value(); }
    [[nodiscard]] Library fresh() const {
        Library l = library();
        (void)l.refresh(book(), {}, {}).value();
        return l;
    }
};

std::vector<std::string> labels(const std::vector<LibraryEntry>& entries) {
    std::vector<std::string> out;
    for (const LibraryEntry& e : entries)
        out.push_back(e.digest.label);
    return out;
}
using Labels = std::vector<std::string>;

} // namespace

class TestLibrary : public QObject {
    Q_OBJECT

  private slots:
    void jobsAreListedWithWhatLimitsThem() {
        const Shelf shelf;
        shelf.put("a.metrodos", mainsJob("Larch Hall", 60));
        Document later = mainsJob("Birch Hall", 55);
        later.runs.back().run.startedAt = "2026-08-01T10:00:00Z";
        shelf.put("deep/er/b.metrodos", later);
        shelf.put("c.metrodos", {testing::wiredHouse(), {}});
        std::ofstream(shelf.jobs / "d.metrodos") << "no job at all";
        std::ofstream(shelf.jobs / "notes.txt") << "not looked at";
        Library l = shelf.library();
        std::vector<std::size_t> told;
        QCOMPARE(l.refresh(book(),
                           [&](std::size_t done, std::size_t all) {
                               told.push_back(done);
                               QCOMPARE(all, std::size_t(4));
                           },
                           {})
                     .value(),
                 std::size_t(4));
        QCOMPARE(told.back(), std::size_t(4));
        const auto all = l.list().value();
        QCOMPARE(labels(all), (Labels{"Birch Hall", "Larch Hall", "Test House", ""}));
        const Digest& d = all[1].digest;
        QCOMPARE(d.places, std::string("Study of Larch Hall"));
        QCOMPARE(d.firstDay, std::string("2026-05-01"));
        QCOMPARE(d.lastDay, std::string("2026-05-03"));
        QCOMPARE(d.runs, 6);
        QVERIFY2(d.limit.starts_with("mains to the shed ("), d.limit.c_str());
        QVERIFY(d.open.empty());
        QVERIFY(all[2].digest.limit.empty() && all[2].digest.runs == 0);
        QVERIFY(!all[3].problem.empty() && all[0].problem.empty());
        // Nothing new: nothing is read.
        QCOMPARE(l.refresh(book(), {}, {}).value(), std::size_t(0));
        QCOMPARE(l.refresh(book(), {}, {}, true).value(), std::size_t(4));
    }
    void wordsAreFoundInAllThatIsWritten() {
        const Shelf shelf;
        shelf.put("a.metrodos", mainsJob("Larch Hall", 60));
        shelf.put("b.metrodos", {testing::wiredHouse(), {}});
        const Library l = shelf.fresh();
        const auto found = [&](const char* words) { return labels(l.search(words).value()); };
        QCOMPARE(found("larch"), Labels{"Larch Hall"});
        QCOMPARE(found("lar"), Labels{"Larch Hall"}); // a beginning is enough
        QCOMPARE(found("study larch"), Labels{"Larch Hall"});
        QCOMPARE(found("1000–1300"), Labels{"Larch Hall"});   // of a class
        QCOMPARE(found("kuchenlicht"), Labels{"Larch Hall"}); // a note, whatever its accents
        QCOMPARE(found("shed"), Labels{"Larch Hall"});        // the verdict
        QVERIFY(!l.search("shed").value().front().snippet.empty());
        QCOMPARE(found("larch oak"), Labels{});
        QCOMPARE(found("").size(), std::size_t(2));
        // No word is a query's own.
        for (const char* hostile : {"\"", "larch OR test", "NEAR(", "label:larch", "*", "^", "(",
                                    "a\" OR \"b", "-larch", "'; DROP TABLE job"})
            QVERIFY2(l.search(hostile).has_value(), hostile);
        QCOMPARE(found("larch OR test"), Labels{});
        QCOMPARE(l.list()->size(), std::size_t(2));
    }
    void filesThatChangeOrGoAreFollowed() {
        const Shelf shelf;
        shelf.put("a.metrodos", mainsJob("Larch Hall", 60));
        shelf.put("b.metrodos", mainsJob("Birch Hall", 60));
        Library l = shelf.fresh();
        std::filesystem::remove(shelf.jobs / "b.metrodos");
        {
            auto store = Store::open(shelf.jobs / "a.metrodos").value();
            house::House h = store.house();
            h.name = "Oak Hall";
            QVERIFY(store.change("name", h).has_value());
        }
        std::filesystem::last_write_time(shelf.jobs / "a.metrodos",
                                         std::filesystem::file_time_type::clock::now() +
                                             std::chrono::seconds(5));
        QCOMPARE(l.refresh(book(), {}, {}).value(), std::size_t(1));
        QCOMPARE(labels(*l.list()), Labels{"Oak Hall"});
        QVERIFY(l.search("birch")->empty());
        QCOMPARE(labels(*l.search("oak")), Labels{"Oak Hall"});
        QCOMPARE(l.experience()->front().houses.size(), std::size_t(1));
    }
    // The index is never the master: whatever is done to it, it comes back from the files.
    void theIndexIsMadeAnew() {
        const Shelf shelf;
        shelf.put("a.metrodos", mainsJob("Larch Hall", 60));
        { const Library l = shelf.fresh(); }
        std::ofstream(shelf.index, std::ios::trunc) << std::string(5000, 'x');
        QCOMPARE(labels(*shelf.fresh().list()), Labels{"Larch Hall"});
        {
            SQLite::Database other(shelf.index.string(), SQLite::OPEN_READWRITE);
            other.exec("PRAGMA user_version=999");
        }
        QCOMPARE(labels(*shelf.fresh().list()), Labels{"Larch Hall"});
        std::filesystem::remove(shelf.index);
        QCOMPARE(labels(*shelf.fresh().list()), Labels{"Larch Hall"});
        // Not a byte of the job was changed by all that.
        QVERIFY(Store::open(shelf.jobs / "a.metrodos").has_value());
        QVERIFY(!Library::open(shelf.jobs / "nowhere", shelf.index));
        QVERIFY(!Library::open(shelf.jobs, "/proc/no/such/place.sqlite"));
    }
    void readingCanBeStopped() {
        const Shelf shelf;
        for (int i = 0; i < 3; ++i)
            shelf.put("j" + std::to_string(i) + ".metrodos", {testing::wiredHouse(), {}});
        Library l = shelf.library();
        std::stop_source stop;
        QCOMPARE(l.refresh(
                      book(),
                      [&](std::size_t done, std::size_t) {
                          if (done == 1) stop.request_stop();
                      },
                      stop.get_token())
                     .value(),
                 std::size_t(2));
        QCOMPARE(l.list()->size(), std::size_t(2));
        QCOMPARE(l.refresh(book(), {}, {}).value(), std::size_t(1)); // the rest
    }
    void housesAreCountedAgainstTheCatalog() {
        const Shelf shelf;
        shelf.put("a.metrodos", mainsJob("A", 60));
        shelf.put("b.metrodos", mainsJob("B", 40));
        shelf.put("c.metrodos", mainsJob("C", 50));
        shelf.put("d.metrodos", mainsJob("D", 150, "same_circuit"));
        const Library l = shelf.fresh();
        const auto figures = figuresOf(*l.experience(), book());
        QCOMPARE(figures.size(), std::size_t(2));
        const ClassFigures& f = figures.front(); // the one with the most houses
        QCOMPARE(f.label, std::string("mains adapter, 1000–1300 class, other circuit, same panel"));
        QCOMPARE(f.experience.houses.size(), std::size_t(3));
        QCOMPARE(f.pairs, 3);
        QCOMPARE(f.atLeast, 0);
        QVERIFY(std::fabs(f.median->inMegabits() - 50) < 1);
        QVERIFY(std::fabs(f.tenth->inMegabits() - 42) < 1);
        QCOMPARE(f.catalogue.p50.inMegabits(), 65.0);
        QVERIFY(f.refined.p50 < f.catalogue.p50 && f.refined.p50.inMegabits() > 50);
    }
    // A machine of 100 Mbit/s holds a medium back that carries more: the medium is only known to carry so
    // much.
    void whatSomethingElseHeldBackIsAtLeast() {
        const Shelf shelf;
        Document d = mainsJob("A", 94, "neighbouring");
        d.house.device("desk")->ports.front().phy = "100base-tx";
        shelf.put("a.metrodos", d);
        const auto figures = figuresOf(*shelf.fresh().experience(), book());
        QCOMPARE(figures.size(), std::size_t(1));
        QCOMPARE(figures.front().atLeast, 1);
        QCOMPARE(figures.front().pairs, 0);
        QVERIFY(!figures.front().median);
    }
    void howTheEndsLieIsReadFromTheCircuits() {
        house::House h = mainsJob("A", 60, "").house;
        QVERIFY(situationOf(h, *h.connection("coax")).empty());
        h.jacks = {{"o-1", "outlet 1", "study", house::JackKind::mains},
                   {"o-2", "outlet 2", "study", house::JackKind::mains}};
        h.device("coax-a")->ports[1].jack = "o-1";
        h.device("coax-b")->ports[1].jack = "o-2";
        h.panels = {{"p-1", "panel", "study", ""}, {"p-2", "shed panel", "study", "p-1"}};
        const auto by = [&](const std::string& panelA, const std::string& legA, const std::string& panelB,
                            const std::string& legB) {
            h.circuits = {{"c-1", "one", panelA, legA, {}, "", {{"o-1", {}}}},
                          {"c-2", "two", panelB, legB, {}, "", {{"o-2", {}}}}};
            return situationOf(h, *h.connection("coax"));
        };
        QCOMPARE(by("p-1", "1", "p-1", "1"), std::string("same_panel"));
        QCOMPARE(by("p-1", "1", "p-1", "2"), std::string("other_leg"));
        QCOMPARE(by("p-1", "", "p-1", "2"), std::string("same_panel"));
        QCOMPARE(by("p-1", "1", "p-2", "1"), std::string("other_panel"));
        h.circuits = {{"c-1", "one", "p-1", "1", {}, "", {{"o-1", {}}, {"o-2", {}}}}};
        QCOMPARE(situationOf(h, *h.connection("coax")), std::string("same_circuit"));
        h.connection("coax")->situation = "neighbouring"; // what somebody has noted goes first
        QCOMPARE(situationOf(h, *h.connection("coax")), std::string("neighbouring"));
    }
    void whatIsOpenIsCounted() {
        Document d = mainsJob("A", 60);
        QVERIFY(digestOf(d, book()).open.empty());
        house::Connection loose = *d.house.connection("run-1");
        loose.id = "loose";
        loose.label = "cable from somewhere";
        loose.ends = {{"shelf", ""}};
        loose.ends.clear();
        d.house.connections.push_back(loose);
        const Digest digest = digestOf(d, book());
        QVERIFY2(digest.open.find("finding") != std::string::npos, digest.open.c_str());
        QVERIFY2(digest.findings.find("cable from somewhere") != std::string::npos, digest.findings.c_str());
        // Of two directions the geometric mean: √(60 × 15) = 30.
        Document two = mainsJob("B", 60);
        for (benchmark::RouteRun& r : two.runs)
            if (r.run.config.direction == benchmark::Direction::backward) {
                const auto id = r.run.id;
                r.run = testing::steadyRun(benchmark::Direction::backward, 15, 4, 0.12, id);
            }
        const auto pairs = digestOf(two, book()).pairs;
        QCOMPARE(pairs.size(), std::size_t(1));
        QVERIFY2(std::fabs(pairs.front().goodput.inMegabits() - 30) < 1,
                 qPrintable(QString::number(pairs.front().goodput.inMegabits())));
    }
    void statementsAreGathered() {
        const Shelf shelf;
        Document d = mainsJob("A", 60);
        d.house.changes = {{"c", "2026-05-10T00:00:00Z", "coax-a", "adapter exchanged", 0.9, "desk-shelf"}};
        for (int i = 0; i < 3; ++i) {
            benchmark::Run run =
                testing::steadyRun(benchmark::Direction::forward, 120, 4, 0.02, "after-" + std::to_string(i));
            run.startedAt = "2026-05-2" + std::to_string(i) + "T10:00:00Z";
            d.runs.push_back({"desk-shelf", run});
        }
        shelf.put("a.metrodos", d);
        const auto s = shelf.fresh().statements().value();
        QCOMPARE(s.size(), std::size_t(1));
        QVERIFY(s.front().fate == benchmark::Fate::held && s.front().said == 0.9);
        QCOMPARE(s.front().text, std::string("adapter exchanged"));
        QCOMPARE(s.front().at, std::string("2026-05-10T00:00:00Z"));
        QVERIFY(!s.front().sentence.empty() && !s.front().isPlan);
    }
};

QTEST_GUILESS_MAIN(TestLibrary)
#include "test_library.moc"
