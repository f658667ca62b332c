// Text that comes from and goes to files: tables, price books, in what it was written, JSON by the letter.
#include "job/csv.h"
#include "job/csv_table.h"
#include "job/document.h"
#include "job/json_text.h"
#include "job/price_book_csv.h"
#include "job/text_file.h"
#include "support/classes.h"
#include "support/houses.h"

#include <QTemporaryDir>
#include <QTest>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>
#include <sys/stat.h>
#include <unistd.h>

using namespace metrodos;
using namespace metrodos::job;
using nlohmann::json;
using testing::classes;

namespace {

std::string bytesOf(const std::string& file) {
    std::ifstream stream(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

} // namespace

class TestTextFiles : public QObject {
    Q_OBJECT

    QTemporaryDir m_folder;
    std::string path(const char* name) { return m_folder.filePath(QLatin1String(name)).toStdString(); }

  private slots:
    void theSignBeforeAmountsHasOneToEightBytes() {
        for (const std::size_t bytes : {0U, 1U, 8U, 9U}) {
            const auto book = job::priceBookFrom("item,product\ncurrency," + std::string(bytes, '$') + "\n",
                                                 testing::classes());
            QCOMPARE(book.has_value(), bytes >= 1 && bytes <= 8);
            if (book) QCOMPARE(book->currency.size(), bytes);
        }
    }
    // "Käse, 5 €" in each; the expected bytes are those of the standards' tables.
    void aPriceBookIsKeptInItsFile() {
        const QTemporaryDir folder;
        const std::filesystem::path file =
            std::filesystem::path(folder.path().toStdString()) / "new" / "prices.csv";
        const auto items = weigh::pricedItems(classes());
        weigh::PriceBook book;
        book.currency = "$";
        book.lineFor(items[0].item) = {items[0].item, "our own", quantity::Money::units(12.5), 3};
        book.lineFor(items[1].item) = {items[1].item, "", std::nullopt, 100'000};
        QVERIFY(job::loadPriceBook(file, classes()).value() == weigh::PriceBook());
        QVERIFY(job::savePriceBook(file, book, classes()).has_value());
        QVERIFY(job::loadPriceBook(file, classes()).value() == book);
        const auto with = [&](const std::string& rest) {
            std::ofstream(file) << "item,product,price,stock\n" << items[0].item << rest << "\n";
            return job::loadPriceBook(file, classes());
        };
        QCOMPARE(with(",,10000000,100000")->line(items[0].item)->stock, 100'000);
        QCOMPARE(with(",,\"7,25\",")->line(items[0].item)->price->inUnits(), 7.25);
        QCOMPARE(with(",,0,")->line(items[0].item)->price->inUnits(), 0.0);
        QVERIFY(with("," + std::string(200, 'x') + ",,").has_value());
        for (const std::string& wrong : {std::string(",,10000000.01,"), std::string(",,-1,"),
                                         std::string(",,1x,"), std::string(",,,100001"), std::string(",,,-1"),
                                         std::string(",,,1.5"), "," + std::string(201, 'x') + ",,"}) {
            const auto refused = with(wrong);
            QVERIFY2(!refused, wrong.c_str());
            QCOMPARE(refused.error().where, file.string());
            QVERIFY(refused.error().what.starts_with("row 2: "));
        }
        // The same figure as the guide's is nothing of one's own.
        QVERIFY(with(",," + std::to_string(items[0].guide.inUnits()) + ",")->lines.empty());
    }
    void partsAreListedWithWhatIsToBuy() {
        weigh::PartLine part;
        part.item = "lead";
        part.label = "Lead";
        part.unit = "metre";
        part.count = 12.346;
        part.fromStock = 2;
        part.unitPrice = quantity::Money::units(1.5);
        part.total = quantity::Money::units(15.519);
        QCOMPARE(job::partsCsv({part}),
                 std::string("item,label,unit,count,from_stock,to_buy,unit_price,total\r\n"
                             "lead,Lead,metre,12.35,2,10.35,1.50,15.52\r\n"));
    }
    void textIsReadInWhatItWasWritten() {
        const std::string utf8 = "K\xC3\xA4se\r\n\xF0\x9D\x84\x9E"; // with U+1D11E
        QCOMPARE(plainText(utf8)->text, utf8);
        QVERIFY(plainText(utf8)->note.empty());
        QCOMPARE(plainText("\xEF\xBB\xBF" + utf8)->text, utf8);
        const std::string little("\xFF\xFEK\0\xE4\0s\0e\0\r\0\n\0\x34\xD8\x1E\xDD", 18);
        QCOMPARE(plainText(little)->text, utf8);
        QVERIFY(plainText(little)->note.find("UTF-16") != std::string::npos);
        const std::string big("\xFE\xFF\0K\0\xE4\0s\0e\0\r\0\n\xD8\x34\xDD\x1E", 18);
        QCOMPARE(plainText(big)->text, utf8);
        QCOMPARE(plainText("K\xE4se")->text, std::string("K\xC3\xA4se"));
        QVERIFY(plainText("K\xE4se")->note.find("Latin-1") != std::string::npos);
        QCOMPARE(plainText("")->text, std::string());
        QCOMPARE(plainText(std::string("\xFF\xFE\x34\xD8", 4))->text, std::string("\xEF\xBF\xBD"));
        QCOMPARE(plainText(std::string("\xFF\xFE\x34\xD8\x1E\xDD", 6))->text,
                 std::string("\xF0\x9D\x84\x9E"));
        QCOMPARE(plainText(std::string("\xFF\xFE\x1E\xDD\x34\xD8", 6))->text,
                 std::string("\xEF\xBF\xBD\xEF\xBF\xBD"));
        QCOMPARE(plainText(std::string("\xFF\xFE\x00\xD8\x00\xDC", 6))->text,
                 std::string("\xF0\x90\x80\x80"));
        // What stands behind the end is no part of it.
        const std::string_view whole("\xC3\xA4");
        QCOMPARE(plainText(whole.substr(0, 1))->text, std::string("\xC3\x83"));
        // Half a pair is no letter; what only looks like UTF-8 is none.
        QCOMPARE(plainText(std::string("\xFF\xFE\x34\xD8x\0", 6))->text, std::string("\xEF\xBF\xBDx"));
        for (const char* bad :
             {"\xC0\x80", "\xE0\x80\x80", "\xED\xA0\x80", "\xF4\x90\x80\x80", "\xC3", "\x80", "\xF0\x9F"})
            QVERIFY2(plainText(bad)->note.find("Latin-1") != std::string::npos, bad);
        for (const char* good : {"\xC2\x80", "\xE0\xA0\x80", "\xED\x9F\xBF", "\xEE\x80\x80",
                                 "\xF0\x90\x80\x80", "\xF4\x8F\xBF\xBF"})
            QVERIFY2(plainText(good)->note.empty(), good);
        for (const std::string& none : {std::string("a\0b", 3),
                                        std::string("\x7f"
                                                    "ELF\x02\x01",
                                                    6),
                                        std::string("\x1b[31m")})
            QVERIFY(!plainText(none).has_value());
        QCOMPARE(plainText("a\tb\r\nc\f")->text, std::string("a\tb\r\nc\f"));
    }
    // The ends of the ranges in the table of RFC 3629, 4, and what lies just outside.
    void utf8EndsWhereItEnds() {
        for (const std::string in : {"\x7F", "\xC2\x80", "\xDF\xBF", "\xE0\xA0\x80", "\xED\x9F\xBF",
                                     "\xEE\x80\x80", "\xEF\xBF\xBF", "\xF0\x90\x80\x80", "\xF4\x8F\xBF\xBF"})
            for (const std::string& text : {in, "a" + in, in + "a"}) {
                QCOMPARE(plainText(text)->text, text);
                QVERIFY2(plainText(text)->note.empty(), plainText(text)->note.c_str());
            }
        for (const std::string out : {"\x80", "\xBF", "\xC1\xBF", "\xC2\x7F", "\xC2\xC0", "\xE0\x9F\xBF",
                                      "\xED\xA0\x80", "\xED\xBF\xBF", "\xF0\x8F\xBF\xBF", "\xF4\x90\x80\x80",
                                      "\xF5\x80\x80\x80", "\xC2", "\xE1\x80", "\xF1\x80\x80"})
            for (const std::string& text : {out, "a" + out, out + "a"}) {
                const auto read = plainText(text);
                QVERIFY2(!read || !read->note.empty(), text.c_str());
            }
    }
    void filesAreReadWithinBounds() {
        std::ofstream(path("a.csv")) << "K\xE4se";
        QCOMPARE(readTextFile(path("a.csv"), 100)->text, std::string("K\xC3\xA4se"));
        QVERIFY(readTextFile(path("a.csv"), 4).has_value());
        QVERIFY(!readTextFile(path("a.csv"), 3).has_value());
        const auto none = readTextFile(path("none.csv"), 100);
        QVERIFY(!none.has_value() && none.error().where == path("none.csv"));
    }
    // What a spreadsheet would run is marked, and comes back as it was; numbers stay numbers.
    void aSpreadsheetRunsNothing() {
        for (const char* text : {"=1+1", "+cmd", "-cmd", "@SUM(A1)", "=HYPERLINK(\"x\")", "-", "+", "--1",
                                 "=-1", "'=1", "''@"}) {
            const std::string row = csvRow({text, "b"});
            const std::string cell = row.substr(row.starts_with('"') ? 1 : 0);
            QVERIFY2(cell.starts_with('\''), row.c_str());
            const auto back = rowsOf(row);
            QCOMPARE(back->front().front(), std::string(text));
        }
        for (const char* number : {"-1", "+1", "-0.5", "-1e9", "+3.25"}) {
            QCOMPARE(csvRow({number}), std::string(number) + "\r\n");
            QCOMPARE(rowsOf(csvRow({number}))->front().front(), std::string(number));
        }
        for (const char* plain : {"'", "'a", "a=b", "'tis", "1-2"}) {
            QCOMPARE(csvRow({plain}), std::string(plain) + "\r\n");
            QCOMPARE(rowsOf(csvRow({plain}))->front().front(), std::string(plain));
        }
        std::mt19937 random(4);
        for (int i = 0; i < 20'000; ++i) {
            std::string text;
            for (unsigned n = random() % 6; n > 0; --n)
                text += "=+-@'1a \",;"[random() % 11];
            const auto back = rowsOf(csvRow({text, "end"}));
            // Blanks at the ends of a field are not kept by any table.
            QCOMPARE(QString::fromStdString(back->front().front()).trimmed(),
                     QString::fromStdString(text).trimmed());
        }
        house::House h = testing::wiredHouse();
        h.rooms.front().label = "=cmd|' /C calc'!A0";
        h.rooms.front().floor = -1;
        const std::string csv = toCsv(h);
        QVERIFY(csv.find(",=cmd") == std::string::npos && csv.find("\n=cmd") == std::string::npos);
        const auto back = withCsv({}, csv);
        QVERIFY2(back.has_value(), back ? "" : back.error().sentence().c_str());
        QCOMPARE(back->rooms.front().label, h.rooms.front().label);
        QCOMPARE(back->rooms.front().floor, -1);
    }
    void aFileIsPutInPlaceAsAWhole() {
        const std::string file = path("out.txt");
        QVERIFY(writeText(file, "one").has_value());
        QCOMPARE(bytesOf(file), std::string("one"));
        // Its rights stay; nothing is left beside it.
        QCOMPARE(::chmod(file.c_str(), 0640), 0);
        QVERIFY(writeText(file, "two").has_value());
        QCOMPARE(bytesOf(file), std::string("two"));
        struct stat there {};
        QCOMPARE(::stat(file.c_str(), &there), 0);
        QCOMPARE(there.st_mode & 0777U, 0640U);
        QCOMPARE(QDir(m_folder.path()).entryList({"out.txt*"}, QDir::Files).size(), 1);
        // A link in its place is replaced; what it leads to, and what stands under guessed names, stays.
        std::ofstream(path("victim")) << "mine";
        QCOMPARE(::symlink(path("victim").c_str(), path("link.txt").c_str()), 0);
        QCOMPARE(::symlink(path("victim").c_str(), path("link.txt.part").c_str()), 0);
        QVERIFY(writeText(path("link.txt"), "three").has_value());
        QCOMPARE(bytesOf(path("victim")), std::string("mine"));
        QCOMPARE(bytesOf(path("link.txt")), std::string("three"));
        QVERIFY(!QFileInfo(QString::fromStdString(path("link.txt"))).isSymLink());
        for (const char* none : {"/no/such/folder/a.txt", "/proc/a.txt"}) {
            const auto out = writeText(none, "x");
            QVERIFY(!out.has_value() && out.error().what.starts_with("the file cannot be written"));
        }
        // A folder of that name stays one.
        QVERIFY(QDir(m_folder.path()).mkdir("folder"));
        QVERIFY(!writeText(path("folder"), "x").has_value());
        QVERIFY(QFileInfo(QString::fromStdString(path("folder"))).isDir());
    }
    // The other parser of the program says the same of every kind of value.
    void valuesAreThoseOfRfc8259() {
        for (const char* text :
             {"null", "true", "false", "0", "1", "-7", "18446744073709551615", "-9223372036854775808", "0.1",
              "-2.5e-3", "1e308", "5e-324", "\"\"", "\"a\\n\\u00e9\\ud83d\\ude00\"", "[]", "{}",
              "[1,[2,{\"a\":[]}]]", "{\"b\":1,\"a\":{\"c\":null}}", "  [ 1 , 2 ]  "}) {
            const json value = job::readJson(text);
            QVERIFY2(value == json::parse(text), text);
            QCOMPARE(value.type(), json::parse(text).type());
        }
        QVERIFY(job::readJson("{\"a\":1,\"a\":2}") == json::parse("{\"a\":2}"));
        QVERIFY(job::readJson("0").is_number_unsigned());
        QVERIFY(job::readJson("-1").is_number_integer() && !job::readJson("-1").is_number_unsigned());
    }
    void whatIsNoJsonIsDiscarded() {
        for (const std::string& text :
             {std::string(), std::string(" "), std::string("{"), std::string("[1,]"), std::string("{\"a\"}"),
              std::string("01"), std::string("1 2"), std::string("NaN"), std::string("1e999"),
              std::string("\"\x01\""), std::string("\"\xff\""), std::string("[1]\0", 4), std::string("'a'")})
            QVERIFY2(job::readJson(text).is_discarded(), text.c_str());
    }
    void depthIsBounded() {
        const auto nested = [](int depth) {
            return std::string(static_cast<std::size_t>(depth), '[') +
                   std::string(static_cast<std::size_t>(depth), ']');
        };
        QVERIFY(!job::readJson(nested(20)).is_discarded());
        QVERIFY(!job::readJson(nested(job::maxJsonDepth - 1)).is_discarded());
        QVERIFY(job::readJson(nested(job::maxJsonDepth + 1)).is_discarded());
        QVERIFY(job::readJson(nested(1'000'000)).is_discarded());
    }
};

QTEST_GUILESS_MAIN(TestTextFiles)
#include "test_text_files.moc"
