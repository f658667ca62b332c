// Sheets of labels: where each lies, and the PDF as others read it.
#include "probe/qr_code.h"
#include "report/label_sheet.h"
#include "support/plant.h"

#include <QFile>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <fstream>
#include <set>

using namespace metrodos;

namespace {

house::House houseWith(int jacks) {
    house::House h;
    h.name = "Mill House";
    h.rooms = {{"loft", "Loft", 2}};
    for (int i = 1; i <= jacks; ++i)
        h.jacks.push_back(
            {"j" + std::to_string(i), "Loft data " + std::to_string(i), "loft", house::JackKind::data});
    return h;
}

report::PrintedSheet sheetOf(const house::House& h, report::Paper paper = report::Paper::a4) {
    return report::labelSheet(h, fit::labelsOf(h), paper);
}

QByteArray outputOf(const QString& program, const QStringList& arguments) {
    QProcess p;
    p.start(program, arguments);
    p.waitForFinished(20'000);
    return p.readAllStandardOutput();
}

} // namespace

class TestLabelSheet : public QObject {
    Q_OBJECT

    QTemporaryDir m_folder;
    QString written(const house::House& h, report::Paper paper) {
        const QString file = m_folder.filePath(QStringLiteral("labels.pdf"));
        const auto pdf = report::pdfOf(sheetOf(h, paper)).value();
        std::ofstream(file.toStdString(), std::ios::binary) << pdf;
        return file;
    }

  private slots:
    void labelsLieBesideEachOtherAndOnThePaper() {
        for (const report::Paper paper : {report::Paper::a4, report::Paper::letter}) {
            const report::PrintedSheet sheet = sheetOf(houseWith(70), paper);
            const std::size_t each = paper == report::Paper::a4 ? 27 : 24; // three by nine, three by eight
            QCOMPARE(sheet.pages.size(), (70 + each - 1) / each);
            std::size_t all = 0;
            for (const report::PrintedPage& page : sheet.pages) {
                all += page.edges.size();
                for (std::size_t i = 0; i < page.edges.size(); ++i) {
                    const report::PrintedBox& a = page.edges[i];
                    QVERIFY(a.x >= 5 && a.y >= 5 && a.x + a.width <= sheet.width - 5 &&
                            a.y + a.height <= sheet.height - 5);
                    for (std::size_t k = 0; k < i; ++k) {
                        const report::PrintedBox& b = page.edges[k];
                        QVERIFY(a.x >= b.x + b.width - 1e-9 || b.x >= a.x + a.width - 1e-9 ||
                                a.y >= b.y + b.height - 1e-9 || b.y >= a.y + a.height - 1e-9);
                    }
                }
                for (const report::PrintedText& t : page.texts)
                    QVERIFY(t.x + t.width <= sheet.width - 5);
            }
            QCOMPARE(all, std::size_t(70));
        }
        QVERIFY(sheetOf(house::House{}).pages.empty());
    }
    void aRunHasALabelForEachEnd() {
        house::House h = houseWith(1);
        house::Connection run;
        run.id = run.label = "run";
        run.ends = {{"j1", ""}};
        h.connections = {run};
        QCOMPARE(sheetOf(h).pages[0].edges.size(), std::size_t(3));
    }
    void thePdfIsReadByOthers_data() {
        QTest::addColumn<bool>("isA4");
        QTest::addColumn<QString>("size");
        QTest::newRow("A4") << true << "595.276 x 841.89 pts (A4)";
        QTest::newRow("Letter") << false << "612 x 792 pts (letter)";
    }
    void thePdfIsReadByOthers() {
        QFETCH(bool, isA4);
        QFETCH(QString, size);
        if (QStandardPaths::findExecutable(QStringLiteral("pdfinfo")).isEmpty())
            QSKIP("poppler's tools are not installed");
        const QString file = written(houseWith(30), isA4 ? report::Paper::a4 : report::Paper::letter);
        const QByteArray info = outputOf(QStringLiteral("pdfinfo"), {file});
        QVERIFY2(info.contains(size.toUtf8()), info.constData());
        QVERIFY2(info.contains("Labels of Mill House"), info.constData());
        QVERIFY2(info.contains("Pages:           2"), info.constData());
        const QByteArray text = outputOf(QStringLiteral("pdftotext"), {file, QStringLiteral("-")});
        for (int i = 1; i <= 30; ++i)
            QVERIFY2(text.contains("L-D" + QByteArray::number(i) + "\n"), text.constData());
        QVERIFY2(text.contains("Loft data 30") && text.contains("Mill House"), text.constData());
        const QByteArray fonts = outputOf(QStringLiteral("pdffonts"), {file});
        QVERIFY2(fonts.contains("B612") && !fonts.contains(" no  yes"), fonts.constData());
    }
    // As a camera would see it: the printed codes say what they should.
    void theCodesAreRead() {
        if (QStandardPaths::findExecutable(QStringLiteral("pdftoppm")).isEmpty())
            QSKIP("poppler's tools are not installed");
        const house::House h = houseWith(5);
        const QString stem = m_folder.filePath(QStringLiteral("page"));
        outputOf(QStringLiteral("pdftoppm"), {QStringLiteral("-r"), QStringLiteral("200"),
                                              QStringLiteral("-gray"), written(h, report::Paper::a4), stem});
        // A grey map: "P5", width, height, 255, each behind one blank, then a byte for each dot.
        QFile file(stem + QStringLiteral("-1.pgm"));
        QVERIFY(file.open(QIODevice::ReadOnly));
        QByteArray lines;
        for (int i = 0; i < 3; ++i)
            lines += file.readLine();
        const QList<QByteArray> head = lines.simplified().split(' ');
        QCOMPARE(head.value(0), QByteArray("P5"));
        const int width = head.value(1).toInt();
        const int height = head.value(2).toInt();
        const QByteArray dots = file.readAll();
        QCOMPARE(dots.size(), static_cast<qsizetype>(width) * height);
        const std::vector<std::uint8_t> grey(dots.begin(), dots.end());
        const auto read = probe::readQr(grey, width, height);
        QVERIFY2(read.has_value(), read ? "" : read.error().sentence().c_str());
        std::set<std::string> expected;
        for (const fit::Label& l : fit::labelsOf(h))
            expected.insert(fit::qrTextOf(h, l));
        QVERIFY(std::set<std::string>(read->begin(), read->end()) == expected);
    }
    void longNamesAreCutShortAndNoMarkup() {
        house::House h = houseWith(1);
        h.name = std::string(300, 'n');
        h.jacks[0].label = "<b>" + std::string(150, 'x') + "</b>&amp;";
        const auto pdf = report::pdfOf(sheetOf(h));
        QVERIFY(pdf.has_value() && pdf->starts_with("%PDF"));
        if (QStandardPaths::findExecutable(QStringLiteral("pdftotext")).isEmpty()) return;
        const QByteArray text =
            outputOf(QStringLiteral("pdftotext"), {written(h, report::Paper::a4), QStringLiteral("-")});
        QVERIFY2(text.contains("<b>xxx"), text.constData());
    }
};

QTEST_GUILESS_MAIN(TestLabelSheet)
#include "test_label_sheet.moc"
