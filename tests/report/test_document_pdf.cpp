// Documents as PDF, read by other programs than ours: what stands in them, how they are made, and that
// nothing of an outside text does anything.
#include "catalog/load.h"
#include "job/open.h"
#include "report/handover.h"
#include "report/svg.h"
#include "support/documents.h"
#include "support/houses.h"
#include "support/kept.h"
#include "support/paths.h"
#include "support/programs.h"
#include "support/runs.h"

#include <QBuffer>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QImage>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTest>
#include <QTextDocument>
#include <cmath>

using namespace metrodos;
using namespace metrodos::report;
using metrodos::quantity::BitRate;
using testing::run;
using testing::withBlock;

namespace {

const catalog::Catalog& book() {
    static const catalog::Catalog catalog = catalog::loadDefault().value();
    return catalog;
}

job::Document demoWithRuns() {
    job::Document d = job::readJob(testing::dataPath("demo/quarry-house.json")).value();
    int n = 0;
    for (const char* day : {"2026-05-04", "2026-11-02"})
        for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward})
            for (int i = 0; i < 3; ++i) {
                ++n;
                benchmark::Run one =
                    testing::steadyRun(direction, 40 + n, 4, 0.02, "run-" + std::to_string(n));
                one.startedAt = std::string(day) + "T10:0" + std::to_string(i) + ":00Z";
                d.runs.push_back({"workshop-loft", one});
            }
    return d;
}

Document record() {
    return clientDocument(demoWithRuns(), book(), {"2026-11-05", {"Hedgerow Networks", {}}});
}

QString squeezed(const QString& text) {
    QString out = text;
    static const QRegularExpression blank("\\s+");
    return out.remove(blank);
}
QString squeezed(const std::string& text) {
    return squeezed(QString::fromStdString(text));
}

// Every text of a document that has to stand in each of its forms, with the numbers of its runs.
std::vector<std::string> textsOf(const Document& d) {
    std::vector<std::string> out{d.title, d.firm.name};
    const auto add = [&](const Cell& cell) {
        if (!cell.text.empty()) out.push_back(cell.text);
        if (!cell.runs.empty()) out.push_back(proofWords(cell.runs));
    };
    for (const Chapter& c : d.chapters) {
        out.push_back(c.title);
        for (const Block& block : c.blocks) {
            if (const auto* p = std::get_if<Paragraph>(&block)) add(p->text);
            if (const auto* l = std::get_if<List>(&block))
                for (const Cell& item : l->items)
                    add(item);
            if (const auto* t = std::get_if<Table>(&block)) {
                for (const std::string& column : t->columns)
                    out.push_back(column);
                for (const auto& row : t->rows)
                    for (const Cell& cell : row)
                        add(cell);
            }
        }
    }
    for (const ProofRun& r : d.proof)
        out.push_back(r.words);
    return out;
}

class Written {
  public:
    explicit Written(const std::string& bytes, const char* name = "document.pdf")
        : m_file(m_folder.filePath(QLatin1String(name))) {
        QFile file(m_file);
        if (file.open(QIODevice::WriteOnly)) file.write(bytes.data(), static_cast<qint64>(bytes.size()));
    }
    [[nodiscard]] QString path() const { return m_file; }
    [[nodiscard]] QString near(const char* name) const { return m_folder.filePath(QLatin1String(name)); }
    // What a program of poppler's says of it.
    [[nodiscard]] QString asked(const char* program, const QStringList& options = {}) const {
        QStringList arguments = options;
        arguments << m_file;
        if (QLatin1String(program) == QLatin1String("pdftotext")) arguments << "-";
        const auto out = run(QLatin1String(program), arguments);
        return out.code == 0 ? QString::fromStdString(out.out) : "failed: " + QString::fromStdString(out.err);
    }

  private:
    QTemporaryDir m_folder;
    QString m_file;
};

// Where a word stands, as pdftotext -bbox says it: 1 is its left edge, 2 its right one.
QRegularExpression wordForm(const char* word) {
    return QRegularExpression(
        QString("<word xMin=\"([0-9.]+)\" yMin=\"[0-9.]+\" xMax=\"([0-9.]+)\"[^>]*>%1</word>").arg(word));
}

Table oneCell(const std::string& text) {
    return {{"One", "Two"}, {{{text, {}}, {"2", {}}}}, {1}};
}

} // namespace

class TestDocumentPdf : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() {
        qputenv("TZ", "UTC");
        ::tzset();
        for (const char* program : {"pdftotext", "pdfinfo", "pdffonts", "pdfimages"})
            if (QStandardPaths::findExecutable(QLatin1String(program)).isEmpty())
                QSKIP("needs poppler-utils");
    }
    void everyFormSaysTheSameToTheDigit() {
        const Document d = record();
        const Written pdf(toPdf(d).value());
        const QString inPdf = squeezed(pdf.asked("pdftotext", {"-raw"}));
        QTextDocument page;
        page.setHtml(QString::fromStdString(toHtml(d)));
        const QString inHtml = squeezed(page.toPlainText());
        QString markdown = QString::fromStdString(toMarkdown(d));
        const QString inMarkdown = squeezed(markdown.replace(QRegularExpression("\\\\(.)"), "\\1"));
        const auto texts = textsOf(d);
        QVERIFY(texts.size() > 100);
        for (const std::string& text : texts) {
            QVERIFY2(inHtml.contains(squeezed(text)), text.c_str());
            QVERIFY2(inMarkdown.contains(squeezed(text)), text.c_str());
            QVERIFY2(inPdf.contains(squeezed(text)) || inPdf.contains(squeezed(text).remove('-')),
                     text.c_str());
        }
        for (const std::string& form : {toPdf(d).value(), toHtml(d), toMarkdown(d)})
            QCOMPARE(digestIn(form), d.digest);
    }
    void thePdfIsTaggedEmbeddedAndLinked() {
        const Document d = record();
        const Written pdf(toPdf(d).value());
        const QString info = pdf.asked("pdfinfo");
        for (const char* line :
             {"Title:           Quarry House", "Author:          Hedgerow Networks", "Tagged:          yes",
              "JavaScript:      no", "Encrypted:       no", "Page size:       595.276 x 841.89 pts (A4)"})
            QVERIFY2(info.contains(QLatin1String(line)), qPrintable(info));
        const QStringList fonts = pdf.asked("pdffonts").trimmed().split('\n').mid(2);
        QVERIFY(!fonts.isEmpty());
        for (const QString& font : fonts) {
            // name, type, encoding, emb, sub, uni, object
            const QStringList words = font.simplified().split(' ');
            QVERIFY2(words[words.size() - 5] == "yes", qPrintable(font));
            QVERIFY2(words[words.size() - 3] == "yes", qPrintable(font)); // can be searched
        }
        const QString dests = pdf.asked("pdfinfo", {"-dests"});
        for (const Chapter& c : d.chapters)
            QVERIFY2(dests.contains("\"" + QString::fromStdString(c.id) + "\""), c.id.c_str());
        for (std::size_t i = 1; i <= d.proof.size(); ++i)
            QVERIFY(dests.contains("\"run-" + QString::number(i) + "\""));
        const QString structure = pdf.asked("pdfinfo", {"-struct"});
        for (const char* tag :
             {"H1", "H2", "Table", "TR", "TH", "TD", "LI", "LBody", "Figure", "Link", "TOCI"})
            QVERIFY2(structure.contains(QRegularExpression(QString("\\b%1\\b").arg(tag))), tag);
        QCOMPARE(structure.count(QRegularExpression("\\bH2\\b")), static_cast<int>(d.chapters.size()) + 1);
        // Pictures are drawn, not scanned.
        QCOMPARE(pdf.asked("pdfimages", {"-list"}).trimmed().split('\n').size(), 2);
        const Written letter(toPdf(d, Paper::letter).value());
        QVERIFY(letter.asked("pdfinfo").contains("612 x 792 pts (letter)"));
    }
    void pagesAreNumberedAndListed() {
        Document d = record();
        const Written pdf(toPdf(d).value());
        const int pages = pdf.asked("pdfinfo").split("Pages:")[1].trimmed().section('\n', 0, 0).toInt();
        QVERIFY(pages > 2);
        for (int i = 1; i <= pages; ++i) {
            const QString text =
                pdf.asked("pdftotext", {"-raw", "-f", QString::number(i), "-l", QString::number(i)});
            QVERIFY2(text.contains(QString("page %1 of %2").arg(i).arg(pages)), qPrintable(text));
            // The page that the list names has the chapter's title.
            for (const Chapter& c : d.chapters) {
                const QString title = QString::fromStdString(c.title);
                const QString first = pdf.asked("pdftotext", {"-layout", "-l", "1"});
                const QRegularExpression entry(QRegularExpression::escape(title) + "\\s+(\\d+)\n");
                const auto match = entry.match(first);
                QVERIFY2(match.hasMatch(), qPrintable(title));
                if (match.captured(1).toInt() == i) QVERIFY2(text.contains(title), qPrintable(title));
            }
        }
    }
    // A cell longer than pages, forty rooms, a word wider than its column: nothing of it is lost.
    void nothingIsLostOverPages() {
        std::string text;
        for (int i = 0; i < 4000; ++i)
            text += "w" + std::to_string(i) + " ";
        const Written pdf(toPdf(withBlock(oneCell(text))).value());
        const QString all = squeezed(pdf.asked("pdftotext", {"-raw"}));
        for (int i = 0; i < 4000; ++i)
            QVERIFY2(all.contains("w" + QString::number(i) + (i < 3999 ? "w" : "")) || all.contains("page"),
                     std::to_string(i).c_str());
        QCOMPARE(all.count("w39"), 111); // w39, w390–w399, w3900–w3999
        Table many{{"A", "B"}, {}, {}};
        for (int i = 0; i < 300; ++i)
            many.rows.push_back({{"row" + std::to_string(i) + "end", {}}, {"x", {}}});
        const Written rows(toPdf(withBlock(many)).value());
        const QString listed = rows.asked("pdftotext", {"-raw"});
        for (int i = 0; i < 300; ++i)
            QVERIFY(listed.contains("row" + QString::number(i) + "end"));
        // The titles stand above each piece.
        const int pages = rows.asked("pdfinfo").split("Pages:")[1].trimmed().section('\n', 0, 0).toInt();
        QVERIFY(pages > 5);
        QCOMPARE(listed.count(QRegularExpression("[\\n\\f]A B\\n")), pages);
        const std::string word(400, 'm');
        QCOMPARE(squeezed(Written(toPdf(withBlock(oneCell(word))).value()).asked("pdftotext", {"-raw"}))
                     .count('m'),
                 400);
    }
    // Ranges are parted over pages on the axis of the whole.
    void manyRangesShareAnAxis() {
        Ranges r;
        for (int i = 0; i < 40; ++i) {
            const BitRate rate = BitRate::megabits(i == 0 ? 2 : 900);
            r.rows.push_back(
                {"row" + std::to_string(i) + "end", catalog::RateSpread{rate, rate, rate}, {}, {}});
        }
        const auto parts = partsOf(r, 12);
        QCOMPARE(parts.size(), std::size_t(4));
        QCOMPARE(parts[3].rows.size(), std::size_t(4));
        for (const Ranges& part : parts) {
            QCOMPARE(part.low->inMegabits(), 1.0);
            QCOMPARE(part.high->inMegabits(), 1000.0);
            QVERIFY(toSvg(part).find(">1.00 Mbit/s<") != std::string::npos);
        }
        const QString text = Written(toPdf(withBlock(r)).value()).asked("pdftotext", {"-raw"});
        for (int i = 0; i < 40; ++i)
            QVERIFY2(text.contains("row" + QString::number(i) + "end"), std::to_string(i).c_str());
        QVERIFY(text.count("before") >= 3);
        QVERIFY(partsOf(Ranges{}, 5).empty());
        QVERIFY(toPdf(withBlock(Ranges{})).has_value());
    }
    void outsideTextIsText() {
        const std::string bad = "<b>&amp;</b> \x1b[31m \xff\xfe ' \" ) ( \\ dest='run-1' \xe2\x80\xae %n";
        Document d = withBlock(oneCell(bad));
        d.title = bad;
        d.firm.name = bad;
        d.chapters.front().title = bad;
        d.chapters.front().note = bad;
        d.chapters.front().blocks.push_back(
            WayStrip{bad, {{bad, BitRate::megabits(1), BitRate::megabits(2), true}}, {}, {}});
        d.chapters.front().blocks.push_back(Drawing{"<svg", "a picture that is none"});
        d.chapters.front().blocks.push_back(
            Drawing{"<svg xmlns=\"http://www.w3.org/2000/svg\"/>", "without a size"});
        const auto made = toPdf(d);
        QVERIFY2(made.has_value(), made ? "" : made.error().sentence().c_str());
        const Written pdf(*made);
        const QString text = pdf.asked("pdftotext", {"-raw"});
        QVERIFY2(text.contains("<b>&amp;</b>"), qPrintable(text));
        QVERIFY(!text.contains(QChar(0x1b)) && !text.contains(QChar(0x202e)));
        // What cannot be drawn is said.
        QVERIFY(text.contains("a picture that is none") && text.contains("without a size"));
        QVERIFY(pdf.asked("pdfinfo").contains("JavaScript:      no"));
        QVERIFY(toHtml(d).find("<b>&amp;</b>") == std::string::npos);
    }
    void aLogoIsAPngOfABearableSize() {
        QImage image(600, 150, QImage::Format_RGB32);
        image.fill(Qt::darkGreen);
        QByteArray bytes;
        QBuffer buffer(&bytes);
        buffer.open(QIODevice::WriteOnly);
        QVERIFY(image.save(&buffer, "PNG"));
        const auto logo = checkedLogo(bytes.toStdString());
        QVERIFY(logo.has_value());
        Document d = record();
        d.firm.logo = *logo;
        const Written pdf(toPdf(d).value());
        // 600 pixels on 130 points at most: 332 to the inch.
        const QString images = pdf.asked("pdfimages", {"-list"}).simplified();
        QVERIFY2(images.contains(QRegularExpression(" 600 150 .* 33[0-9] 33[0-9] ")), qPrintable(images));
        QVERIFY(squeezed(pdf.asked("pdftotext", {"-raw"})).contains("HedgerowNetworks"));
        QVERIFY(toHtml(d).find("data:image/png;base64," + bytes.toBase64().toStdString()) !=
                std::string::npos);
        for (std::string none : {std::string(), std::string("no picture"), bytes.toStdString().substr(0, 60),
                                 std::string(maxLogoBytes + 1, 'x')})
            QVERIFY(!checkedLogo(std::move(none)).has_value());
        std::string vast = bytes.toStdString();
        vast[17] = '\x7f'; // 8 million pixels wide
        QVERIFY(!checkedLogo(vast).has_value());
        // A colour that is typed only in part is none, and no harm.
        for (const char* part : {"", "#", "#1d6a8", "red", "#zzzzzz", "#1d6a85ff"}) {
            d.firm.colour = part;
            QVERIFY2(toPdf(d).has_value(), part);
            QVERIFY(toHtml(d).find("--firm: #26221b") != std::string::npos);
        }
        QVERIFY(isColour("#1d6A85") && !isColour("1d6a85") && !isColour("#1d6a8") && !isColour("#1d6a8g") &&
                !isColour("#1d6a85;"));
    }
    // The link of a figure is as wide as its brackets, and stands behind the figure.
    void aLinkIsWhereItsLettersAre() {
        Document d = withBlock(Paragraph{{"A figure", {1}}});
        d.proof = {{"run-1", "the run", 1}};
        const QString raw = QString::fromLatin1(QByteArray::fromStdString(toPdf(d).value()));
        static const QRegularExpression annotation(
            R"(/Subtype /Link[^>]*/Rect \[ ([0-9.]+) ([0-9.]+) ([0-9.]+) ([0-9.]+) \])");
        QList<QList<double>> links;
        for (auto it = annotation.globalMatch(raw); it.hasNext();) {
            const auto m = it.next();
            links << QList<double>{m.captured(1).toDouble(), m.captured(2).toDouble(),
                                   m.captured(3).toDouble(), m.captured(4).toDouble()};
        }
        QCOMPARE(links.size(), 1); // a document of one chapter has no list of them
        const double width = links[0][2] - links[0][0];
        QVERIFY2(links[0][0] > 51 + 35 && width > 6 && width < 25, qPrintable(QString::number(width)));
    }
    // Columns of figures end at one line, and others begin at one.
    void figuresAreSetToTheRight() {
        Table t{{"Name", "Figure"}, {{{"a", {}}, {"1", {}}}, {{"b", {}}, {"1000000", {}}}}, {1}};
        const QString words = Written(toPdf(withBlock(t)).value()).asked("pdftotext", {"-bbox"});
        const auto edge = [&](const char* word, int which) {
            return wordForm(word).match(words).captured(which).toDouble();
        };
        QVERIFY(edge("1000000", 2) > 100);
        QVERIFY(std::abs(edge("1", 2) - edge("1000000", 2)) < 1.5);
        QVERIFY(std::abs(edge("Figure", 2) - edge("1000000", 2)) < 1.5);
        QVERIFY(edge("1", 1) > edge("1000000", 1) + 20);
        QVERIFY(std::abs(edge("a", 1) - edge("b", 1)) < 0.5);
        // And none runs into the next.
        std::string text;
        for (int i = 0; i < 120; ++i)
            text += "left ";
        const Table wide{{"One", "Two"}, {{{text, {}}, {"right " + text, {}}}}, {}};
        const QString boxes = Written(toPdf(withBlock(wide)).value()).asked("pdftotext", {"-bbox"});
        const double second = wordForm("right").match(boxes).captured(1).toDouble();
        QVERIFY(second > 200);
        const QRegularExpression word = wordForm("left");
        int inFirst = 0;
        for (auto it = word.globalMatch(boxes); it.hasNext();) {
            const auto m = it.next();
            if (m.captured(1).toDouble() > second - 1) continue; // of the second column
            ++inFirst;
            QVERIFY2(m.captured(2).toDouble() < second - 4, qPrintable(m.captured(2)));
        }
        QCOMPARE(inFirst, 120);
    }
    // Drawings never stand out of the page's text, however wide they are in their own units.
    void drawingsFitTheText() {
        for (const double wide : {100.0, 5000.0}) {
            const std::string svg =
                svgDrawing(wide, 50, "t", svgText(wide, 30, "end", ink::black, "edge", wide / 40));
            const QString words =
                Written(toPdf(withBlock(Drawing{svg, "words"})).value()).asked("pdftotext", {"-bbox"});
            const auto m = wordForm("edge").match(words);
            QVERIFY2(m.hasMatch(), qPrintable(words));
            const double right = m.captured(2).toDouble();
            QVERIFY2(right <= 595.276 - 51 + 1, qPrintable(QString::number(right)));
            QVERIFY2(wide > 1000 ? right > 500 : right < 51 + 100, qPrintable(QString::number(right)));
        }
    }
    // How dark each tenth of an inch of every page is: what nobody meant to move stands where it stood.
    void pagesAreDrawnAsTheyWereKept() {
        Document blocks = withBlock(oneCell("one"));
        blocks.firm = {"Hedgerow Networks", {}};
        blocks.subtitle = "Every kind of block";
        Ranges ranges;
        for (int i = 0; i < 9; ++i) {
            const auto rate = [&](double factor) { return BitRate::megabits(factor * (i + 1)); };
            Ranges::Row row{
                "row " + std::to_string(i), catalog::RateSpread{rate(50), rate(60), rate(80)}, {}, {}};
            if (i % 2 == 1) row.after = catalog::RateSpread{rate(90), rate(100), rate(120)};
            if (i % 3 != 0) row.need = rate(70);
            ranges.rows.push_back(row);
        }
        const std::string words = "some words that go on for longer than a line of the page has room for, ";
        Table wide{{"Thing", "Words", "Mbit/s"}, {}, {2}};
        for (int i = 0; i < 40; ++i)
            wide.rows.push_back({{"thing " + std::to_string(i), {}},
                                 {i % 7 == 0 ? words + words + words : words, {i + 1}},
                                 {std::to_string(i * 37), {}}});
        blocks.chapters.push_back(
            {"two",
             "Two",
             {Paragraph{{words + words, {1, 2}}}, List{{{words + words, {}}, {"short", {}}}, true},
              List{{{"a", {}}, {"b", {3}}}, false}, ranges,
              Drawing{svgDrawing(700, 200, "t", svgText(10, 30, "start", ink::black, "begin", 20)), "words"},
              wide}});
        blocks.chapters.push_back({"three", "Three", {Paragraph{{"on its own", {}}}}, {}, true});
        blocks.proof = {{"run-1", "the first run"}, {"run-2", words + words}};
        nlohmann::json all;
        const auto keep = [&](const char* name, const Document& document, Paper paper) {
            const Written pdf(toPdf(document, paper).value());
            const auto made = run("pdftoppm", {"-r", "40", "-gray", pdf.path(), pdf.near("page")}).code;
            QCOMPARE(made, 0);
            const QStringList pages =
                QDir(QFileInfo(pdf.path()).path()).entryList({"page*.pgm"}, QDir::Files, QDir::Name);
            QVERIFY(!pages.isEmpty());
            for (const QString& page : pages) {
                const QImage image(pdf.near(qPrintable(page)));
                nlohmann::json rows = nlohmann::json::array();
                for (int y = 0; y + 4 <= image.height(); y += 4) {
                    nlohmann::json row = nlohmann::json::array();
                    for (int x = 0; x + 12 <= image.width(); x += 12) {
                        int dark = 0;
                        for (int at = 0; at < 48; ++at)
                            dark += 255 - qGray(image.pixel(x + at % 12, y + at / 12));
                        row.push_back(dark / 48);
                    }
                    rows.push_back(row);
                }
                all[name].push_back(rows);
            }
        };
        keep("blocks", blocks, Paper::a4);
        keep("letter", blocks, Paper::letter);
        keep("record", record(), Paper::a4);
        QVERIFY_KEPT("pages", all, 0.05);
    }
    // The page for the refrigerator's door stands alone on its sheet.
    void aPageOfItsOwnIsOne() {
        Document d = withBlock(Paragraph{{"before it", {}}});
        d.chapters.push_back({"two", "Two", {Paragraph{{"on its own", {}}}}, {}, true});
        d.chapters.push_back({"three", "Three", {Paragraph{{"behind it", {}}}}});
        const Written pdf(toPdf(d).value());
        for (const auto& [page, text] :
             {std::pair(1, "before it"), std::pair(2, "on its own"), std::pair(3, "behind it")}) {
            const QString n = QString::number(page);
            const QString words = pdf.asked("pdftotext", {"-f", n, "-l", n});
            for (const char* any : {"before it", "on its own", "behind it"})
                QCOMPARE(words.contains(QLatin1String(any)), QLatin1String(any) == QLatin1String(text));
        }
        QVERIFY(toHtml(d).find("<section id=\"two\" class=\"own\">") != std::string::npos);
    }
    // At the width of a telephone nothing makes the page itself wider; on paper everything stands.
    void aBrowserShowsAndPrintsIt() {
        const QString browser = QStandardPaths::findExecutable("chromium");
        if (browser.isEmpty()) QSKIP("needs chromium");
        const Document d = record();
        const std::string html = toHtml(d);
        const Written page(html, "page.html");
        const QStringList usual{"--headless",        "--no-sandbox",
                                "--disable-gpu",     "--no-first-run",
                                "--hide-scrollbars", "--user-data-dir=" + page.near("browser")};
        // A frame as wide as a telephone, measured from outside: the page itself may run nothing.
        const QString wrapper =
            "<body><iframe id=f style='width:360px;height:800px;border:0' src='page.html'></iframe><script>"
            "onload=()=>{const d=document.getElementById('f').contentDocument;document.title="
            "d.documentElement.scrollWidth+' '+d.getElementsByTagName('tr').length+' '+"
            "getComputedStyle(d.body).fontSize}</script></body>";
        QFile file(page.near("wrapper.html"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(wrapper.toUtf8());
        file.close();
        const auto shown = run(browser, usual + QStringList{"--allow-file-access-from-files", "--dump-dom",
                                                            "file://" + page.near("wrapper.html")});
        const QString dom = QString::fromStdString(shown.out);
        const auto title = QRegularExpression("<title>(\\d+) (\\d+) (\\d+)px</title>").match(dom);
        QVERIFY2(title.hasMatch(), qPrintable(dom.right(300) + QString::fromStdString(shown.err).right(300)));
        QVERIFY2(title.captured(1).toInt() <= 360, qPrintable(title.captured(0)));
        QVERIFY(title.captured(2).toInt() > 10);
        QVERIFY(title.captured(3).toInt() >= 16);
        const QString printed = page.near("printed.pdf");
        QVERIFY(run(browser, usual + QStringList{"--print-to-pdf=" + printed, "--no-pdf-header-footer",
                                                 "file://" + page.path()})
                    .code == 0);
        const auto text = run("pdftotext", {"-raw", printed, "-"});
        const QString onPaper = squeezed(text.out);
        for (const std::string& one : textsOf(d))
            QVERIFY2(onPaper.contains(squeezed(one)), one.c_str());
    }
};

QTEST_MAIN(TestDocumentPdf)
#include "test_document_pdf.moc"
