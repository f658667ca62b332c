// The documents of a job: what stands in them is true of it, in every form, and whatever its names are.
#include "catalog/load.h"
#include "job/open.h"
#include "job/record_digest.h"
#include "report/handover.h"
#include "support/houses.h"
#include "support/paths.h"
#include "support/runs.h"

#include <QRegularExpression>
#include <QTest>
#include <QXmlStreamReader>

using namespace metrodos;
using namespace metrodos::report;
using metrodos::quantity::BitRate;

namespace {

const catalog::Catalog& book() {
    static const catalog::Catalog catalog = catalog::loadDefault().value();
    return catalog;
}

// Two days: 100 Mbit/s forward on the first, 300 on the second.
job::Document twoDays() {
    job::Document d{testing::wiredHouse(), {}};
    d.house.routes.front().needForward = BitRate::megabits(200);
    int n = 0;
    for (const auto& [day, mbps] : {std::pair("2026-05-04", 100.0), std::pair("2026-11-02", 300.0)})
        for (int i = 0; i < 3; ++i) {
            benchmark::Run run = testing::steadyRun(benchmark::Direction::forward, mbps, 4, 0.002,
                                                    "run-" + std::to_string(++n));
            run.startedAt = std::string(day) + "T10:0" + std::to_string(i) + ":00Z";
            run.goodput = BitRate::megabits(mbps + i);
            d.runs.push_back({"desk-shelf", run});
        }
    return d;
}

Document clientOf(const job::Document& d) {
    return clientDocument(d, book(), {"2026-11-05", {"Hedgerow Networks", {}}});
}

const Chapter* chapter(const Document& d, const char* id) {
    for (const Chapter& c : d.chapters)
        if (c.id == id) return &c;
    return nullptr;
}

template <class Kind>
const Kind* block(const Chapter* c) {
    if (c == nullptr) return nullptr;
    for (const Block& b : c->blocks)
        if (const auto* found = std::get_if<Kind>(&b)) return found;
    return nullptr;
}

// The rows of the first table of a chapter, read back from the form itself.
QList<QStringList> tableIn(const QString& html, const QString& id) {
    const QString from = html.mid(html.indexOf("<section id=\"" + id + "\">"));
    const QString table = from.left(from.indexOf("</table>"));
    QList<QStringList> out;
    static const QRegularExpression row("<tr>(.*?)</tr>");
    static const QRegularExpression cell("<td[^>]*>(.*?)</td>");
    for (auto r = row.globalMatch(table); r.hasNext();) {
        QStringList cells;
        for (auto c = cell.globalMatch(r.next().captured(1)); c.hasNext();)
            cells << c.next()
                         .captured(1)
                         .remove(QRegularExpression("<sup>.*?</sup>"))
                         .remove(QRegularExpression("<[^>]*>"))
                         .trimmed();
        if (!cells.isEmpty()) out << cells;
    }
    return out;
}

QList<QStringList> tableIn(const QString& markdown, const char* title) {
    const QString from = markdown.mid(markdown.indexOf(QString("## ") + title));
    QList<QStringList> out;
    for (const QString& line : from.split('\n')) {
        if (line.startsWith("## ") && !out.isEmpty()) break;
        if (!line.startsWith("| ") || line.startsWith("| ---")) continue;
        QStringList cells;
        for (QString text : line.mid(1).split(" |")) {
            text.remove(QRegularExpression("\\\\\\[.*\\\\\\]"));
            text.replace(QRegularExpression("\\\\(.)"), "\\1");
            if (!text.trimmed().isEmpty()) cells << text.trimmed();
        }
        out << cells;
    }
    return out.mid(1);
}

} // namespace

class TestHandover : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        qputenv("TZ", "UTC");
        ::tzset();
    }
    void runsAreNamedInShort() {
        QCOMPARE(proofWords({}), std::string());
        QCOMPARE(proofWords({4}), std::string("[4]"));
        QCOMPARE(proofWords({3, 1, 2, 7, 3}), std::string("[1–3, 7]"));
        QCOMPARE(proofWords({1, 3, 5, 6}), std::string("[1, 3, 5–6]"));
    }
    // Worked by hand: 100, 101, 102 have the tenth percentile 100.2 and the ninetieth 101.8.
    void aWayIsShownBeforeAndNow() {
        const Document d = clientOf(twoDays());
        const auto* table = block<Table>(chapter(d, "ways"));
        QVERIFY(table != nullptr);
        QCOMPARE(table->rows.size(), std::size_t(1)); // only the way that was measured
        const auto& row = table->rows.front();
        QCOMPARE(row[2].text, std::string("100 Mbit/s to 102 Mbit/s (2026-05-04)"));
        QCOMPARE(row[3].text, std::string("300 Mbit/s to 302 Mbit/s (2026-11-02)"));
        QCOMPARE(row[4].text, std::string("200 Mbit/s"));
        QCOMPARE(row[2].runs, (std::vector<int>{1, 2, 3}));
        QCOMPARE(row[3].runs, (std::vector<int>{4, 5, 6}));
        QCOMPARE(d.proof.size(), std::size_t(6));
        QCOMPARE(d.proof[3].id, std::string("run-4"));
        QVERIFY2(d.proof[0].words.find("100 Mbit/s") != std::string::npos, d.proof[0].words.c_str());
        // Of one day there is no before.
        job::Document one = twoDays();
        one.runs.resize(3);
        const Document single = clientOf(one);
        QCOMPARE(block<Table>(chapter(single, "ways"))->rows.front()[2].text, std::string("–"));
    }
    // What the runs of the last day have in common, and each thing that was noted with them once.
    void howItWasIsSaid() {
        job::Document d = twoDays();
        for (benchmark::RouteRun& r : d.runs)
            r.run.conditions.othersActive = true;
        const Document alike = clientOf(d);
        QCOMPARE(block<Table>(chapter(alike, "ways"))->rows.front()[5].text,
                 std::string("3 runs of 4 streams, from 10:00 to 10:02 UTC; others active"));
        d.runs[4].run.config.streams = 1;
        d.runs[4].run.conditions.othersActive = false;
        const Document mixed = clientOf(d);
        QCOMPARE(block<Table>(chapter(mixed, "ways"))->rows.front()[5].text,
                 std::string("3 runs, from 10:00 to 10:02 UTC; others active; alone"));
        d.runs.resize(1);
        const Document one = clientOf(d);
        QCOMPARE(block<Table>(chapter(one, "ways"))->rows.front()[5].text,
                 std::string("1 run of 4 streams, at 10:00 UTC; others active"));
    }
    // Every figure of the record leads to its runs: those of verdicts as those of ranges. Many alike are one
    // line with all their numbers.
    void figuresLeadToTheirRuns() {
        job::Document d = twoDays();
        const Document few = clientOf(d);
        QCOMPARE(block<List>(chapter(few, "found"))->items.front().runs,
                 (std::vector<int>{1, 2, 3, 4, 5, 6}));
        QCOMPARE(block<List>(chapter(few, "limits"))->items.front().runs,
                 (std::vector<int>{1, 2, 3, 4, 5, 6}));
        for (int i = 0; i < 20; ++i) {
            benchmark::Run run = testing::steadyRun(benchmark::Direction::forward, 301 + i, 4, 0.002,
                                                    "many-" + std::to_string(i));
            run.startedAt = "2026-11-03T10:" + std::to_string(10 + i) + ":00Z";
            run.goodput = BitRate::megabits(301 + i);
            d.runs.push_back({"desk-shelf", run});
        }
        const Document made = clientOf(d);
        QCOMPARE(made.proof.size(), std::size_t(7)); // six, and a line for twenty
        const auto numbers = numbered(made.proof);
        QCOMPARE(numbers.back().first, 7);
        QCOMPARE(made.proof.back().count, 20);
        QCOMPARE(numberWords(7, made.proof.back()), std::string("7–26"));
        const std::string& words = made.proof.back().words;
        QVERIFY2(words.starts_with("20 runs of 2026-11-03, ") &&
                     words.find("4 streams") != std::string::npos &&
                     words.find("from 301 Mbit/s") != std::string::npos &&
                     words.find("to 320 Mbit/s") != std::string::npos,
                 words.c_str());
        QCOMPARE(block<Table>(chapter(made, "ways"))->rows.front()[3].runs.front(), 7);
        const std::string html = toHtml(made);
        for (int i = 1; i <= 26; ++i)
            QVERIFY2(html.find("id=\"run-" + std::to_string(i) + "\"") != std::string::npos,
                     std::to_string(i).c_str());
        QVERIFY(toMarkdown(made).find("- 7–26: 20 runs of ") != std::string::npos);
        QVERIFY(toPdf(made).has_value()); // no link of it leads nowhere
    }
    void formsSayTheSameToTheDigit() {
        const Document d = clientOf(twoDays());
        const QString html = QString::fromStdString(toHtml(d));
        const QString markdown = QString::fromStdString(toMarkdown(d));
        const auto* table = block<Table>(chapter(d, "ways"));
        const auto inHtml = tableIn(html, QStringLiteral("ways"));
        const auto inMarkdown = tableIn(markdown, "Each way, before and now");
        QCOMPARE(inHtml.size(), 1);
        QCOMPARE(inMarkdown.size(), 1);
        for (std::size_t i = 0; i < table->columns.size(); ++i) {
            QCOMPARE(inHtml[0][static_cast<int>(i)], QString::fromStdString(table->rows[0][i].text));
            QCOMPARE(inMarkdown[0][static_cast<int>(i)], QString::fromStdString(table->rows[0][i].text));
        }
        // Each figure leads to its runs.
        QVERIFY(html.contains("<a href=\"#run-1\">[1–3]</a>"));
        QVERIFY(html.contains("<li value=\"6\" id=\"run-6\">"));
        for (const QString& form : {html, markdown})
            QCOMPARE(digestIn(form.toStdString()), d.digest);
    }
    // No script, nothing from elsewhere, well formed but for the doctype.
    void theHtmlIsOneFileThatRunsNothing() {
        const QString html = QString::fromStdString(toHtml(clientOf(twoDays())));
        QVERIFY(html.startsWith("<!DOCTYPE html>"));
        for (const char* no : {"<script", "javascript:", "onload", "<img", "<link", "http://127", "url("})
            QVERIFY2(!html.contains(no, Qt::CaseInsensitive), no);
        QVERIFY(html.contains("default-src 'none'"));
        QVERIFY(html.contains("name=\"viewport\""));
        QVERIFY(html.contains("@media print"));
        QString body = html.mid(html.indexOf("<body>"));
        body.truncate(body.indexOf("</body>") + 7);
        QXmlStreamReader reader(body);
        while (!reader.atEnd())
            reader.readNext();
        QVERIFY2(!reader.hasError(), qPrintable(reader.errorString()));
    }
    void outsideTextIsText() {
        job::Document d = twoDays();
        d.house.name = "<script>alert(1)</script> & \"House\"";
        d.house.routes.front().label = "| **bold** [x](http://y) <b>\n# head";
        const Document made = clientOf(d);
        const std::string html = toHtml(made);
        QVERIFY(html.find("<script") == std::string::npos && html.find("<b>") == std::string::npos);
        QVERIFY(html.find("&lt;script&gt;alert(1)&lt;/script&gt; &amp; &quot;House&quot;") !=
                std::string::npos);
        const std::string markdown = toMarkdown(made);
        QVERIFY(markdown.find("\\<script\\>") != std::string::npos);
        QVERIFY(markdown.find("\n# head") == std::string::npos);
        QVERIFY(markdown.find("\\](http") != std::string::npos); // no link
        QVERIFY(markdown.find("\\*\\*bold\\*\\*") != std::string::npos);
    }
    void whatIsNotThereIsNotSaid() {
        const Document empty = clientOf({testing::wiredHouse(), {}});
        for (const char* none :
             {"wanted", "found", "fitted", "ways", "limits", "declined", "addresses", "keys"})
            QVERIFY2(chapter(empty, none) == nullptr, none);
        QVERIFY(chapter(empty, "house") != nullptr && chapter(empty, "slow") != nullptr &&
                chapter(empty, "again") != nullptr);
        QVERIFY(empty.proof.empty());
        // Without a stated need nobody says that one is met.
        job::Document d = twoDays();
        d.house.routes.front().needForward.reset();
        const std::string html = toHtml(clientOf(d));
        QVERIFY(html.find("is met") == std::string::npos && html.find("is not met") == std::string::npos);
    }
    // Runs of before an exchange are shown, and not judged by.
    void theVerdictIsOfWhatIsThereNow() {
        job::Document d = twoDays();
        d.house.changes = {{"c", "2026-07-01T00:00:00Z", "switch", "exchanged"}};
        const Document made = clientOf(d);
        QCOMPARE(block<Table>(chapter(made, "ways"))->rows.front()[2].text,
                 std::string("100 Mbit/s to 102 Mbit/s (2026-05-04)"));
        const auto* list = block<List>(chapter(made, "found"));
        QVERIFY2(list->items.front().text.find("30") != std::string::npos,
                 list->items.front().text.c_str()); // of 300 Mbit/s
        const Document technician = technicianDocument(d, book(), {"2026-11-05"});
        const auto* runs = block<Table>(chapter(technician, "runs"));
        QVERIFY2(runs->rows[0][6].text.ends_with("of before an exchange"), runs->rows[0][6].text.c_str());
        QVERIFY(runs->rows[5][6].text.find("exchange") == std::string::npos);
        const auto* limits = block<List>(chapter(made, "limits"));
        QVERIFY2(limits->items.front().text.find("what was asked of this way is met") != std::string::npos,
                 limits->items.front().text.c_str());
    }
    // Worked out beside each other they are the same as one by one.
    void verdictsAreThoseOfEachWay() {
        job::Document d = job::readJob(testing::dataPath("demo/quarry-house.json")).value();
        int n = 0;
        for (const house::Route& route : d.house.routes)
            for (int i = 0; i < 2; ++i)
                d.runs.push_back({route.id, testing::steadyRun(benchmark::Direction::forward, 60 + i, 4, 0.02,
                                                               "run-" + std::to_string(++n))});
        const auto verdicts = verdictsOf(d, book());
        QVERIFY(verdicts->size() > 2);
        for (const house::Route& route : d.house.routes) {
            const auto alone = trace::diagnoseRoute(d.house, book(), route, d.runs);
            const auto together = verdicts->find(route.id);
            QCOMPARE(together != verdicts->end(), alone.has_value());
            if (alone) QCOMPARE(together->second.sentence, alone->sentence);
        }
    }
    // Each chapter with figures of simulated runs says so; of others none does.
    void simulatedFiguresAreCalledSo() {
        job::Document d = twoDays();
        QVERIFY(toHtml(clientOf(d)).find("simulated") == std::string::npos);
        for (const std::size_t some : {std::size_t(1), d.runs.size()}) {
            for (std::size_t i = 0; i < some; ++i)
                d.runs[i].run.simulated = true;
            const Document made = clientOf(d);
            for (const char* id : {"found", "ways", "limits"}) {
                const auto* last = std::get_if<Paragraph>(&chapter(made, id)->blocks.back());
                QVERIFY2(last != nullptr && last->text.text.find("simulated runs") != std::string::npos, id);
                QCOMPARE(last->text.text.starts_with("All"), some == d.runs.size());
            }
        }
    }
    void whatIsSetAsideIsInNoFigure() {
        job::Document d = twoDays();
        d.house.setAside = {{"run-6", "the door", ""}};
        const Document made = clientOf(d);
        const auto* table = block<Table>(chapter(made, "ways"));
        QCOMPARE(table->rows.front()[3].text, std::string("300 Mbit/s to 301 Mbit/s (2026-11-02)"));
        QCOMPARE(table->rows.front()[3].runs.size(), std::size_t(2));
    }
    void keysAreNeverInIt() {
        job::Document d = twoDays();
        d.house.device("switch")->setUp.keyPlace = "envelope in the cupboard";
        const std::string html = toHtml(clientOf(d));
        QVERIFY(html.find("The key of the network of “Switch”: envelope in the cupboard.") !=
                std::string::npos);
    }
    void chaptersAreChosenAndNoted() {
        job::Document job = twoDays();
        const Document whole = clientOf(job);
        job.house.chapters = {{"slow", false, "Ring us first."}, {"ways", true}, {"nothing"}};
        const Document d = arranged(whole, job.house);
        QCOMPARE(d.chapters.size(), whole.chapters.size() - 1);
        QCOMPARE(d.chapters[0].id, std::string("slow"));
        QCOMPARE(d.chapters[0].note, std::string("Ring us first."));
        QVERIFY(chapter(d, "ways") == nullptr);
        QCOMPARE(inOrder(whole, job.house)[1]->id, std::string("ways"));
        QVERIFY(toHtml(d).find("<p class=\"note\">Ring us first.</p>") != std::string::npos);
        QVERIFY(toMarkdown(d).find("> Ring us first.") != std::string::npos);
    }
    void theTechnicianHasEveryElementAndRun() {
        job::Document d = job::readJob(testing::dataPath("demo/quarry-house.json")).value();
        benchmark::Run run = testing::steadyRun(benchmark::Direction::backward, 50, 2);
        d.runs.push_back({"workshop-loft", run});
        const Document made = technicianDocument(d, book(), {"2026-11-05"});
        const std::string html = toHtml(made);
        for (const house::Route& r : d.house.routes)
            QVERIFY2(html.find(r.label) != std::string::npos, r.label.c_str());
        for (const char* element : {"front USB socket", "old aerial coax", "mains, hall to workshop"})
            QVERIFY2(html.find(element) != std::string::npos, element);
        const auto* runs = block<Table>(chapter(made, "runs"));
        QCOMPARE(runs->rows.size(), std::size_t(1));
        QVERIFY2(runs->rows[0][3].text.find("TCP, 2 streams, 10.0 s") != std::string::npos,
                 runs->rows[0][3].text.c_str());
        QVERIFY(chapter(made, "method") != nullptr && chapter(made, "open") != nullptr);
    }
    // Of the same records the same digest; of any other another.
    void theDigestIsOfTheRecords() {
        const job::Document d = twoDays();
        const std::string digest = job::recordDigest(d);
        QCOMPARE(digest.size(), std::size_t(64));
        QCOMPARE(job::recordDigest(d), digest);
        job::Document other = d;
        other.runs[0].run.goodput = BitRate::megabits(100.1);
        QVERIFY(job::recordDigest(other) != digest);
        other = d;
        other.house.rooms[0].label += "x";
        QVERIFY(job::recordDigest(other) != digest);
        QVERIFY(digestIn("Records: SHA-256 short").empty());
        QVERIFY(digestIn("nothing").empty());
    }
    void rangesAreDrawnWithTheirNeed() {
        Ranges r;
        r.rows = {{"a & b",
                   catalog::RateSpread{BitRate::megabits(10), BitRate::megabits(20), BitRate::megabits(40)},
                   std::nullopt, BitRate::megabits(30)}};
        const std::string svg = toSvg(r);
        QXmlStreamReader reader(QString::fromStdString(svg));
        int rects = 0;
        while (!reader.atEnd()) {
            reader.readNext();
            rects += reader.isStartElement() && reader.name() == QLatin1String("rect") ? 1 : 0;
        }
        QVERIFY(!reader.hasError());
        QCOMPARE(rects, 3); // the range, and two in the key
        // From 10 to 100 Mbit/s over 664 units: 40 is at 0.602 of them, 8 + 399.8.
        QVERIFY2(svg.find("x=\"8.0\"") != std::string::npos &&
                     svg.find("width=\"399.8\"") != std::string::npos,
                 svg.c_str());
        QVERIFY(svg.find("<line x1=\"180.0\" y1=\"74.0\" x2=\"180.0\"") != std::string::npos); // in the key
        QVERIFY(!toSvg(Ranges{}).empty());
    }
};

QTEST_GUILESS_MAIN(TestHandover)
#include "test_handover.moc"
