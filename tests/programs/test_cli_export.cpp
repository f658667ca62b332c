// metrodos-cli writes a job in every other form, and says of a document whether it belongs to a job.
#include "support/programs.h"

#include <QFile>
#include <QTest>

using namespace metrodos::testing;

class TestCliExport : public QObject {
    Q_OBJECT

    Workplace m_place;
    QString made(const char* name) {
        const QString job = m_place.path(name);
        QFile::remove(job);
        return cli({"import", demoJob(), "--to", job}).code == 0 ? job : QString();
    }

  private slots:
    void documentsBelongToTheirJob() {
        Workplace place;
        const QString job = place.path("house.metrodos");
        QCOMPARE(cli({"import", demoJob(), "--to", job}).code, 0);
        for (const char* name : {"record.html", "record.md", "record.pdf"})
            for (const char* whom : {"client", "technician", "offer"}) {
                const QString file = place.path(name);
                const auto out = cli({"export", job, "--to", file, "--for", whom});
                QVERIFY2(out.code == 0, out.err.c_str());
                QVERIFY(contents(file).contains("Quarry House") || file.endsWith(".pdf"));
                const auto verified = cli({"verify", file, job});
                QVERIFY2(verified.code == 0, verified.err.c_str());
                // The interchange form of the same job has the same records.
                QCOMPARE(cli({"verify", file, demoJob()}).code, 0);
            }
        QCOMPARE(cli({"simulate", job, "--route", "dome-loft", "--seconds", "1", "--save", job}).code, 0);
        const auto other = cli({"verify", place.path("record.html"), job});
        QVERIFY(other.code == 1 && other.oneSentence());
        QVERIFY(cli({"verify", job, job}).oneSentence());
        QVERIFY(cli({"verify", place.path("nothing.html"), job}).oneSentence());
        QCOMPARE(cli({"export", job, "--to", place.path("a.html"), "--for", "nobody"}).code, 2);
        QCOMPARE(cli({"export", job, "--to", "/no/such/folder/a.html"}).code, 1);
    }
    void everyEndingIsWritten() {
        const QString job = made("house.metrodos");
        QCOMPARE(cli({"simulate", job, "--route", "dome-loft", "--seconds", "1", "--save", job}).code, 0);
        for (const auto& [name, begins] :
             {std::pair("a.json", "{"), std::pair("a.csv", "kind,id"), std::pair("a.svg", "<?xml"),
              std::pair("a.png", "\x89PNG"), std::pair("a.zip", "PK"), std::pair("a.pdf", "%PDF-"),
              std::pair("a.html", "<!DOCTYPE html>"), std::pair("a.md", "# Quarry House")}) {
            const QString file = m_place.path(name);
            const auto out = cli({"export", job, "--to", file});
            QVERIFY2(out.code == 0, out.err.c_str());
            QVERIFY2(contents(file).startsWith(begins), name);
        }
        QCOMPARE(cli({"export", job, "--to", m_place.path("r.csv"), "--table", "runs"}).code, 0);
        QCOMPARE(contents(m_place.path("r.csv")).count('\n'), 2);
        QCOMPARE(cli({"export", job, "--to", m_place.path("s.csv"), "--table", "samples"}).code, 0);
        QCOMPARE(contents(m_place.path("s.csv")).count('\n'), 11);
        QCOMPARE(cli({"export", job, "--to", m_place.path("w.svg"), "--drawing", "way"}).code, 0);
        QVERIFY(contents(m_place.path("w.svg")).contains("Dome to loft"));
        const auto none = cli({"export", job, "--to", m_place.path("w.svg"), "--drawing", "cellar"});
        QVERIFY2(none.oneSentence() && none.err.find("section, ranges, way") != std::string::npos,
                 none.err.c_str());
        const auto unknown = cli({"export", job, "--to", m_place.path("a.doc")});
        QVERIFY2(unknown.code == 1 && unknown.oneSentence(), unknown.err.c_str());
        // The package is a job again, the same to every command.
        const QString back = m_place.path("back.metrodos");
        QFile::remove(back);
        QCOMPARE(cli({"import", m_place.path("a.zip"), "--to", back}).code, 0);
        QCOMPARE(cli({"verify", m_place.path("a.pdf"), back}).code, 0);
        QCOMPARE(cli({"export", back, "--to", m_place.path("b.json")}).code, 0);
        QVERIFY(contents(m_place.path("b.json")) == contents(m_place.path("a.json")));
    }
    void theFirmIsOnIt() {
        const QString file = m_place.path("f.html");
        QCOMPARE(
            cli({"export", demoJob(), "--to", file, "--firm", "Hedgerow & Sons", "--colour", "#804020"}).code,
            0);
        QVERIFY(contents(file).contains("Hedgerow &amp; Sons") && contents(file).contains("--firm: #804020"));
        for (const QStringList& wrong : {QStringList{"--colour", "red"}, QStringList{"--logo", demoJob()},
                                         QStringList{"--logo", "/no/such.png"}}) {
            const auto out = cli(QStringList{"export", demoJob(), "--to", file} + wrong);
            QVERIFY2(out.code == 1 && out.oneSentence(), out.err.c_str());
        }
        QCOMPARE(cli({"export", demoJob(), "--to", m_place.path("l.pdf"), "--paper", "letter"}).code, 0);
        QCOMPARE(cli({"export", demoJob(), "--to", file, "--paper", "a3"}).code, 2);
    }
    // What is in and what is not is said first; no name is in any form.
    void withoutNames() {
        for (const char* name : {"p.json", "p.csv", "p.svg", "p.html", "p.md"}) {
            const QString file = m_place.path(name);
            const auto out = cli({"export", demoJob(), "--to", file, "--private"});
            QVERIFY2(out.code == 0, out.err.c_str());
            QVERIFY(out.err.find("in:  floors") != std::string::npos &&
                    out.err.find("out: photos") != std::string::npos);
            for (const char* word : {"Quarry", "Dome", "Stacking", "bandsaw", "192.0.2."})
                QVERIFY2(!contents(file).contains(word), (std::string(name) + " " + word).c_str());
        }
        QCOMPARE(cli({"check", m_place.path("p.json")}).out.find("cannot"), std::string::npos);
        QVERIFY(cli({"export", demoJob(), "--to", m_place.path("p.md"), "--private", "--firm", "F"})
                    .oneSentence());
    }
    // An offer is kept in the job with its date; the record after it holds what was fitted against it.
    void anOfferIsKept() {
        const QString job = made("kept.metrodos");
        const QString file = m_place.path("offer.md");
        const auto out = cli({"export", job, "--to", file, "--for", "offer", "--keep"});
        QVERIFY2(out.code == 0, out.err.c_str());
        for (const char* part :
             {"# Quarry House", "## What is offered", "## What is promised", "## Price",
              "## What will be done", " likely to be enough with everything in use", "predictions"})
            QVERIFY2(contents(file).contains(part), part);
        const auto log = cli({"log", job, "--json"}).json();
        QVERIFY2(log.dump().find("offer handed over") != std::string::npos, log.dump().c_str());
        QCOMPARE(cli({"verify", file, job}).code, 0); // keeping it changed no record
        const QString record = m_place.path("record.md");
        QCOMPARE(cli({"export", job, "--to", record}).code, 0);
        QVERIFY(contents(record).contains("## Parts and cost, against the offer"));
        QVERIFY(cli({"export", demoJob(), "--to", file, "--keep"}).oneSentence());
        QVERIFY(cli({"export", job, "--to", file, "--keep", "--private"}).oneSentence());
        QCOMPARE(cli({"export", job, "--to", "/no/such/folder/plan.md", "--for", "offer"}).code, 1);
        // With own prices another amount.
        QFile prices(m_place.path("prices.csv"));
        QVERIFY(prices.open(QIODevice::WriteOnly));
        prices.write("item,product,price\ncurrency,Kr,\nlabour,,500\n");
        prices.close();
        QCOMPARE(cli({"export", job, "--to", file, "--for", "offer", "--prices", prices.fileName()}).code, 0);
        QVERIFY(contents(file).contains("Kr "));
    }
};

QTEST_GUILESS_MAIN(TestCliExport)
#include "test_cli_export.moc"
