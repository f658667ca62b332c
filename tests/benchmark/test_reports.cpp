// Reports of watches, matrices, searches and copies survive being kept, and refuse what does not hold
// together.
#include "support/reports.h"

#include <QTest>
#include <nlohmann/json.hpp>

using namespace metrodos;
using namespace metrodos::benchmark;
using namespace metrodos::testing;
using quantity::BitRate;

namespace {

// The document with each of its members taken out, or of another type, in turn: a reader says which it misses
// or does without it, but never breaks.
template <typename Read>
void readsWhatIsDamaged(const nlohmann::json& document, Read read) {
    for (const auto& [key, value] : document.items())
        for (const nlohmann::json& other : {nlohmann::json(nullptr), nlohmann::json(-1), nlohmann::json("x"),
                                            nlohmann::json::array({1, "x"})}) {
            nlohmann::json damaged = document;
            damaged[key] = other;
            if (const auto report = read(damaged))
                QVERIFY(read(toJson(*report)).has_value());
            else
                QVERIFY(!report.error().sentence().empty());
        }
    for (const char* whole : {"null", "[]", "{}", "7"})
        QVERIFY(!read(nlohmann::json::parse(whole)));
    nlohmann::json other = document;
    other["format"] = "metrodos-other";
    QVERIFY(!read(other));
}

const auto seconds = [](double t) { return std::to_string(static_cast<int>(t)) + " s"; };

} // namespace

class TestReports : public QObject {
    Q_OBJECT

  private slots:
    void watchesSurvive() {
        const auto document = toJson(watchReport());
        const auto again = readWatchReport(document);
        QVERIFY(again.has_value());
        QVERIFY(toJson(*again) == document);
        QVERIFY(again->head.simulated);
        QCOMPARE(again->head.about, head.about);
        QCOMPARE(again->head.route, head.route);
        QCOMPARE(again->dropOuts.size(), std::size_t(2));
        QCOMPARE(again->dropOuts[1].lost, std::string("the peer has gone"));
        QCOMPARE(again->hours.size(), std::size_t(2));
        QCOMPARE(again->hours[0].goodputP10Bps, std::optional<double>(80e6));
        QVERIFY(!again->hours[1].goodputP10Bps);
        QCOMPARE(sentences(*again, seconds), sentences(watchReport(), seconds));
        QCOMPARE(sentences(*again, seconds).front(), std::string("2 drop-outs in 2.0 h, together 33 s."));
        readsWhatIsDamaged(document, readWatchReport);
    }
    void matricesSurvive() {
        const auto document = toJson(matrixReport());
        const auto again = readMatrixReport(document);
        QVERIFY(again.has_value());
        QVERIFY(toJson(*again) == document);
        QCOMPARE(again->names, matrixReport().names);
        QCOMPARE(again->cells.size(), std::size_t(6));
        QCOMPARE(again->cells[3].pair, matrixReport().cells[3].pair);
        QCOMPARE(sentences(*again), sentences(matrixReport()));
        QVERIFY(!sentences(*again).empty());
        readsWhatIsDamaged(document, readMatrixReport);
    }
    void cellsNameEndpointsThatThereAre() {
        auto document = toJson(matrixReport());
        document["endpoints"] = {"Study"};
        QVERIFY(!readMatrixReport(document));
    }
    void searchesSurvive() {
        const auto document = toJson(searchReport());
        const auto again = readSearchReport(document);
        QVERIFY(again.has_value());
        QVERIFY(toJson(*again) == document);
        QCOMPARE(again->direction, std::optional(Direction::backward));
        QCOMPARE(again->trials.size(), std::size_t(2));
        QVERIFY(!again->trials[0].passed && again->trials[1].passed);
        QCOMPARE(sentences(*again), sentences(searchReport()));
        readsWhatIsDamaged(document, readSearchReport);
    }
    void copiesSurvive() {
        const auto document = toJson(copyReport());
        const auto again = readCopyReport(document);
        QVERIFY(again.has_value());
        QVERIFY(toJson(*again) == document);
        QVERIFY(!again->cold);
        QCOMPARE(again->write.bpsByTenth, copyReport().write.bpsByTenth);
        QCOMPARE(again->warm.cachedAtStart, std::optional<double>(1));
        QCOMPARE(again->network->bps(), 941e6);
        QCOMPARE(sentences(*again), sentences(copyReport()));
        readsWhatIsDamaged(document, readCopyReport);
    }
    void transfersSurviveAndSayWhatDecides() {
        TransferReport r;
        r.bytes = 1'000'000'000;
        r.from = "Store";
        r.to = "Desk";
        const auto pass = [](TransferSource source, TransferSink sink, double mbps,
                             std::optional<double> cached = {}) {
            TransferPass p;
            p.source = source;
            p.sink = sink;
            p.rate = BitRate::megabits(mbps);
            p.seconds = 8000 / mbps;
            p.syncSeconds = sink == TransferSink::disk ? 0.25 : 0;
            p.cachedAtStart = cached;
            return p;
        };
        r.passes = {pass(TransferSource::memory, TransferSink::memory, 940),
                    pass(TransferSource::coldDisk, TransferSink::memory, 930, 0.0),
                    pass(TransferSource::warmDisk, TransferSink::memory, 938, 1.0),
                    pass(TransferSource::memory, TransferSink::disk, 400),
                    pass(TransferSource::coldDisk, TransferSink::disk, 390, 0.01)};
        const auto document = toJson(r);
        const auto again = readTransferReport(document).value();
        QVERIFY(toJson(again) == document);
        QCOMPARE(again.passes[1].cachedAtStart, std::optional(0.0));
        readsWhatIsDamaged(document, readTransferReport);
        QVERIFY(!readTransferReport(toJson(copyReport())));
        const auto said = sentences(r);
        QCOMPARE(said.size(), std::size_t(2));
        QCOMPARE(
            said[0],
            std::string(
                "A copy from disk to disk carries 390 Mbit/s · 48.8 MB/s, 1.00 GB in 20.5 s until it is on "
                "the disk."));
        QVERIFY2(said[1].find("What decides is writing to the disk of Desk, 400 Mbit/s · 50.0 MB/s; ") == 0,
                 said[1].c_str());
        // Two that are nearly the same are both named; one that was in memory is no figure of a disk.
        r.passes[3].rate = BitRate::megabits(900);
        r.passes[1].cachedAtStart = 0.4;
        const auto both = sentences(r);
        QVERIFY2(both[1].find(", and ") != std::string::npos &&
                     both[1].find("reading the disk of Store") != std::string::npos,
                 both[1].c_str());
        QVERIFY(std::any_of(both.begin(), both.end(), [](const std::string& s) {
            return s.find("could not be emptied") != std::string::npos;
        }));
        // Of a reading that its cache makes faster the second figure is said.
        r.passes[1].rate = BitRate::megabits(500);
        QVERIFY(sentences(r).back().find("Read a second time, from memory, it carries 938 Mbit/s") == 0);
        const auto saysMore = [&] {
            const auto all = sentences(r);
            return std::any_of(all.begin(), all.end(), [](const std::string& s) {
                return s.find("choose a larger file") != std::string::npos;
            });
        };
        QVERIFY(!saysMore());
        r.passes[4].seconds = 0.9;
        QVERIFY(saysMore());
        // What was stopped halfway says what it has.
        r.passes.resize(1);
        QCOMPARE(sentences(r), std::vector<std::string>{"From memory to memory 940 Mbit/s · 118 MB/s."});
        nlohmann::json none = toJson(r);
        none["passes"] = nlohmann::json::array();
        QVERIFY(!readTransferReport(none));
    }
    void oneReportIsNotTakenForAnother() {
        QVERIFY(!readCopyReport(toJson(watchReport())));
        QVERIFY(!readWatchReport(toJson(matrixReport())));
        QVERIFY(!readMatrixReport(toJson(searchReport())));
        QVERIFY(!readSearchReport(toJson(copyReport())));
    }
};

QTEST_GUILESS_MAIN(TestReports)
#include "test_reports.moc"
