// What of shipped houses is written out, listed, typed and completed, as it was kept.
#include "benchmark/run_filter.h"
#include "fit/labels.h"
#include "job/csv.h"
#include "job/digest.h"
#include "job/entry_grammar.h"
#include "job/entry_line.h"
#include "job/fitting_csv.h"
#include "job/house_json.h"
#include "job/log.h"
#include "job/price_book_csv.h"
#include "job/pseudonyms.h"
#include "job/runs_csv.h"
#include "job/schedule_ics.h"
#include "job/starter.h"
#include "job/survey_table.h"
#include "support/bounds.h"
#include "support/classes.h"
#include "support/kept.h"
#include "support/paths.h"

#include <QTest>

using namespace metrodos;
using nlohmann::json;
using testing::classes;
using testing::linesOf;

namespace {

json rate(const std::optional<quantity::BitRate>& r) {
    return r ? json(r->bps()) : json();
}

json digestOf(const job::Document& document) {
    const job::Digest d = job::digestOf(document, classes());
    json out{d.label, d.places, d.firstDay, d.lastDay,  d.runs,
             d.limit, d.open,   d.classes,  d.findings, d.notes};
    for (const job::MeasuredPair& p : d.pairs)
        out.push_back({p.medium, p.deviceClass, p.situation, p.goodput.bps(), p.isAtLeast});
    return out;
}

json logOf(const job::Document& document) {
    json out;
    for (const job::LogEntry& e : job::logOf(document.house, document.runs, {}, {}))
        out.push_back(
            {e.id, e.kind, e.at, rate(e.figure), rate(e.low), rate(e.high), e.used, e.words, e.isOfBefore});
    for (const std::string& typed : testing::keptKeys("summaries", "filters"))
        if (const auto filter = benchmark::parseRunFilter(typed))
            out.push_back({typed, job::logOf(document.house, document.runs, {}, *filter).size()});
    return out;
}

// What a cell becomes, or why it does not.
std::string typedInto(const job::SurveyTable& table, house::House house, std::size_t row, std::size_t column,
                      const std::string& text) {
    const auto done = table.set(house, row, column, text);
    return done ? table.text(house, row, column) : done.error().sentence();
}

} // namespace

class TestKeptExports : public QObject {
    Q_OBJECT

  private slots:
    void ofShippedHouses() {
        json all;
        for (const auto& [name, house] : testing::variedHouses()) {
            const job::Document document{house, testing::visited(house)};
            json& of = all[name];
            of["survey"] = linesOf(job::toCsv(house));
            of["runs"] = linesOf(job::runsToCsv(document));
            of["addresses"] = linesOf(job::addressesCsv(house));
            of["labels"] = linesOf(job::labelsCsv(house, fit::labelsOf(house)));
            of["schedules"] = linesOf(job::schedulesToIcs(house.schedules));
            of["digest"] = digestOf(document);
            of["log"] = logOf(document);
            const job::Document without = job::withoutNames(document);
            of["without"] = linesOf(job::toCsv(without.house));
            for (const job::PrivacyLine& line : job::privacyOf(document, without))
                of["privacy"].push_back({line.what, line.isIn, line.how});
            for (const job::LineForm& form : job::nextLines(house, classes()))
                of["next"].push_back({form.line, form.meaning});
        }
        all["prices"] = linesOf(job::toCsv(weigh::PriceBook{}, classes()));
        QVERIFY_KEPT("exports", all);
    }
    // The first row of every table: what it shows is taken as typed and changes nothing; odd words become
    // something or are refused.
    void ofCells() {
        const house::House house = testing::fullHouse();
        json all;
        for (std::size_t kind = 0; kind < job::surveyKinds; ++kind) {
            const auto table = job::surveyTable(static_cast<job::SurveyKind>(kind), classes());
            json& of = all[job::title(static_cast<job::SurveyKind>(kind))];
            for (std::size_t column = 0; column < table->columns(); ++column) {
                for (std::size_t row = 0; row < table->rows(house); ++row) {
                    const std::string text = table->text(house, row, column);
                    const std::string typed =
                        table->canChange(column) ? typedInto(*table, house, row, column, text) : text;
                    QVERIFY2(typed == text, (table->title(column) + ": " + typed + ", not " + text).c_str());
                    of[table->title(column)]["rows"].push_back(text);
                }
                if (!table->canChange(column) || table->rows(house) == 0) continue;
                json& typed = of[table->title(column)]["typed"];
                for (const char* text : {"", "x", "0", "-1", "1.5", "7", "2 m", "40M", "yes", "10-12"})
                    typed.push_back(typedInto(*table, house, 0, column, text));
                const auto choices = table->choices(house, 0, column);
                typed.push_back(choices.size());
                if (choices.empty()) continue;
                typed.push_back(typedInto(*table, house, 0, column, choices.back().label));
                typed.push_back(
                    typedInto(*table, house, 0, column, choices.front().label + "; " + choices.back().label));
            }
        }
        QVERIFY_KEPT("cells", all);
    }
    void ofSpoiltJobs() {
        const house::House house = testing::fullHouse();
        const json whole = job::toJson(job::Document{house, {}});
        QVERIFY(job::documentFromJson(whole).has_value());
        QVERIFY_KEPT("spoilt-jobs", testing::spoilt(whole, 3, [](const json& broken) {
                         const auto read = job::documentFromJson(broken);
                         return read ? std::string("taken") : read.error().sentence();
                     }));
    }
    // How far each figure, text and list of a house in a job may go before its form is refused.
    void ofBounds() {
        const json whole = job::toJson(testing::fullHouse());
        const auto isTaken = [](const json& form) { return job::houseFromJson(form).has_value(); };
        QVERIFY_KEPT("bounds-jobs", testing::boundsOf(whole, isTaken, 512));
    }
    void ofTypedLines() {
        json all;
        house::House house;
        for (const std::string& line : testing::typedLines("kept-entry")) {
            json of;
            for (std::size_t at = 0; at <= line.size(); ++at) {
                if (at != line.size() && line[at] != '/') continue;
                const std::string begun = line.substr(0, at);
                of["offers"].push_back(
                    {begun, job::lastField(begun), job::completions(house, classes(), begun)});
            }
            for (const std::string& wrong : {line + " / zzz", "zzz / " + line})
                if (const auto field = job::wrongField(house, classes(), wrong))
                    of["wrong"].push_back({wrong, *field, job::fieldAt(wrong, *field)});
            const auto next = job::enterLine(house, classes(), line);
            of["answer"] = next ? next->label + " (" + next->thing + ")" : next.error().sentence();
            if (next) house = next->house;
            all[line] = of;
        }
        all["house"] = job::toJson(house);
        const auto twin = job::duplicateRoom(house, "Loft", "Loft too");
        QVERIFY(twin.has_value());
        all["twin"] = linesOf(job::toCsv(twin->house));
        for (const auto between : {job::Between::cable, job::Between::network_switch, job::Between::coax_pair,
                                   job::Between::mains_pair})
            all["starters"].push_back(job::toJson(job::starterHouse(classes(), between, "10.0.0.7:47710")));
        QVERIFY_KEPT("entry", all);
    }
};

QTEST_GUILESS_MAIN(TestKeptExports)
#include "test_kept_exports.moc"
