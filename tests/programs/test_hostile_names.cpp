// Every command on a job whose every name is hostile: nothing of it reaches the terminal or a file as
// anything but text.
#include "support/hostile_names.h"
#include "support/programs.h"

#include <QFile>
#include <QRegularExpression>
#include <QTest>
#include <QXmlStreamReader>

using namespace metrodos::testing;

class TestHostileNames : public QObject {
    Q_OBJECT

    Workplace m_place;
    QString m_job;

  private slots:
    void initTestCase() {
        nlohmann::json job = nlohmann::json::parse(contents(demoJob()).toStdString());
        std::size_t next = 0;
        poison(job.at("house"), next);
        QVERIFY(next > 60);
        QFile file(m_place.path("hostile.json"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(QByteArray::fromStdString(job.dump()));
        file.close();
        m_job = m_place.path("hostile.metrodos");
        const auto made = cli({"import", m_place.path("hostile.json"), "--to", m_job});
        QVERIFY2(made.code == 0, made.err.c_str());
        QVERIFY(isTame(made.out) && isTame(made.err));
        const auto run = cli({"simulate", m_job, "--route", "dome-loft", "--direction", "both", "--seconds",
                              "1", "--repeat", "2", "--save", m_job});
        QVERIFY2(run.code == 0, run.err.c_str());
        QVERIFY(isTame(run.out) && isTame(run.err));
    }
    void everyCommandPrintsText_data() {
        QTest::addColumn<QStringList>("arguments");
        const auto row = [](const char* name, const QStringList& arguments) {
            QTest::newRow(name) << arguments;
        };
        row("check", {"check", "JOB"});
        row("predict", {"predict", "JOB"});
        row("predict --json", {"predict", "JOB", "--json"});
        row("trace", {"trace", "JOB", "--route", "dome-loft"});
        row("trace --json", {"trace", "JOB", "--route", "dome-loft", "--json"});
        row("trace of none", {"trace", "JOB", "--route", "\x1b[31mno"});
        row("weigh", {"weigh", "JOB"});
        row("weigh --json", {"weigh", "JOB", "--json"});
        row("fit", {"fit", "JOB"});
        row("fit --json", {"fit", "JOB", "--json"});
        row("log", {"log", "JOB"});
        row("log --json", {"log", "JOB", "--json"});
        row("compare", {"compare", "JOB", "--a", "route dome-loft", "--b", "direction backward"});
        row("library", {"library", "list", "FOLDER"});
        row("search", {"library", "search", "img", "FOLDER"});
        row("a command that is none", {"\x1b[31mno"});
        row("a file that is none", {"check", "\x1b[31mno"});
        row("a word that is none", {"export", "JOB", "--to", "a.\x1b[31mx"});
    }
    void everyCommandPrintsText() {
        QFETCH(QStringList, arguments);
        for (QString& one : arguments) {
            if (one == QLatin1String("JOB")) one = m_job;
            if (one == QLatin1String("FOLDER")) one = QFileInfo(m_job).path();
        }
        qputenv("XDG_CACHE_HOME", m_place.path("cache").toUtf8());
        const auto out = cli(arguments);
        QVERIFY(out.code >= 0);
        QVERIFY2(isTame(out.out), out.out.c_str());
        QVERIFY2(isTame(out.err), out.err.c_str());
        qunsetenv("XDG_CACHE_HOME");
    }
    void everyFileHoldsText() {
        for (const char* name : {"a.json", "a.csv", "a.svg", "a.html", "a.md", "t.html", "o.md", "o.html"}) {
            const QString file = m_place.path(name);
            QStringList arguments{"export", m_job, "--to", file};
            if (name[0] == 't')
                arguments << "--for"
                          << "technician";
            if (name[0] == 'o')
                arguments << "--for"
                          << "offer";
            const auto out = cli(arguments);
            QVERIFY2(out.code == 0, (std::string(name) + " " + out.err).c_str());
            const QByteArray text = contents(file);
            QVERIFY2(isTame({text.constData(), static_cast<std::size_t>(text.size())}), name);
            if (file.endsWith(".html") || file.endsWith(".svg")) {
                for (const char* no : {"<img", "<script", "href='file", "href=\"file", "<b>"})
                    QVERIFY2(!text.contains(no), (std::string(name) + " " + no).c_str());
                // Well formed, so that no name has closed an element.
                QByteArray xml = text;
                if (file.endsWith(".html"))
                    xml = xml.mid(xml.indexOf("<body>"))
                              .left(xml.mid(xml.indexOf("<body>")).indexOf("</html>"));
                QXmlStreamReader reader(xml);
                while (!reader.atEnd())
                    reader.readNext();
                QVERIFY2(!reader.hasError(),
                         (std::string(name) + " " + reader.errorString().toStdString()).c_str());
            }
            if (file.endsWith(".md"))
                QVERIFY2(!QString::fromUtf8(text).contains(QRegularExpression("[^\\\\]\\]\\(javascript")) &&
                             !text.contains("\n# "),
                         name);
            if (file.endsWith(".csv"))
                QVERIFY2(!text.contains(",=") && !text.contains(",@") && !text.contains("\n="), name);
        }
        for (const char* name : {"a.pdf", "a.png", "a.zip", "labels.pdf", "labels.csv", "addresses.csv",
                                 "addresses.hosts", "addresses.conf"}) {
            const QString file = m_place.path(name);
            const QString command = QLatin1String(name).startsWith(QLatin1String("labels"))      ? "labels"
                                    : QLatin1String(name).startsWith(QLatin1String("addresses")) ? "addresses"
                                                                                                 : "export";
            const auto out = cli({command, m_job, "--to", file});
            QVERIFY2(out.code == 0, (std::string(name) + " " + out.err).c_str());
            QVERIFY(!contents(file).isEmpty());
            if (!file.endsWith(".pdf") && !file.endsWith(".png") && !file.endsWith(".zip")) {
                const QByteArray text = contents(file);
                QVERIFY2(isTame({text.constData(), static_cast<std::size_t>(text.size())}), name);
            }
        }
        // Nothing was written outside.
        QVERIFY(!QFile::exists("/etc/passwd.pdf"));
    }
};

QTEST_GUILESS_MAIN(TestHostileNames)
#include "test_hostile_names.moc"
