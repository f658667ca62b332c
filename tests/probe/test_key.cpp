#include "probe/account.h"
#include "probe/key.h"

#include <QProcess>
#include <QSysInfo>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <fstream>
#include <sys/stat.h>

using metrodos::probe::Key;

class TestKey : public QObject {
    Q_OBJECT

  private slots:
    void theWrittenFormCanBeReadAgain() {
        for (int i = 0; i < 200; ++i) {
            const Key key = Key::generate();
            QCOMPARE(key.text().size(), std::size_t(31)); // 26 characters and 5 hyphens
            QVERIFY(Key::parse(key.text()).value() == key);
        }
        QVERIFY(!(Key::generate() == Key::generate()));
    }
    void readingForgivesHandCopies() {
        const Key key = Key::generate();
        std::string text = key.text();
        std::transform(text.begin(), text.end(), text.begin(),
                       [](char c) { return static_cast<char>(std::tolower(c)); });
        std::replace(text.begin(), text.end(), '0', 'o');
        std::replace(text.begin(), text.end(), '1', 'l');
        std::replace(text.begin(), text.end(), '-', ' ');
        QVERIFY(Key::parse(text + "\r\n").value() == key);
    }
    void refusesWhatIsNoKey() {
        const std::string good = Key::generate().text();
        for (const std::string& bad :
             {std::string(), std::string("hello"), good + "A", good.substr(1), good.substr(0, 30) + "Z",
              std::string("U") + good.substr(1), std::string(5000, 'A')})
            QVERIFY2(!Key::parse(bad), bad.c_str());
    }
    void whoAsksSaysWhoHeIs() {
        QProcess id;
        id.start("id", {"-un"});
        QVERIFY(id.waitForFinished());
        const QString account = QString::fromUtf8(id.readAllStandardOutput()).trimmed();
        QCOMPARE(QString::fromStdString(metrodos::probe::ownAccount()),
                 account + "@" + QSysInfo::machineHostName());
    }
    void filesAreKeptFromOthers() {
        QTemporaryDir folder;
        const std::string file = folder.filePath("key").toStdString();
        const Key key = Key::generate();
        QVERIFY(key.save(file).has_value());
        struct stat info {};
        QCOMPARE(::stat(file.c_str(), &info), 0);
        QCOMPARE(info.st_mode & 0777U, 0600U);
        QVERIFY(Key::load(file).value() == key);
        QVERIFY(!key.save(file)); // an existing file is left alone
        ::chmod(file.c_str(), 0644);
        QVERIFY(Key::load(file).error().sentence().find("chmod 600") != std::string::npos);
        QVERIFY(!Key::load(file + ".missing"));
        QVERIFY(!key.save(folder.filePath("no/such/folder/key").toStdString()));
    }
};

QTEST_GUILESS_MAIN(TestKey)
#include "test_key.moc"
