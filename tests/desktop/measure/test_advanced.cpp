// What a run can be ordered to be besides the four things of the run bar, by keyboard, against the stand-ins.
#include "desktop/measure/advanced_panel.h"
#include "support/measure_window.h"

#include <QLineEdit>
#include <QSpinBox>
#include <QTableWidget>
#include <QTest>

using namespace metrodos;
using namespace metrodos::desktop;
using testing::MeasureWindow;

namespace {

struct AdvancedWindow : MeasureWindow {
    void press(Qt::Key key) {
        QTest::keyClick(QApplication::focusWidget() != nullptr ? QApplication::focusWidget() : &window, key);
    }
    [[nodiscard]] AdvancedPanel* panel() { return child<AdvancedPanel>("advanced"); }
    void openPanel() {
        child<QWidget>("run")->setFocus();
        press(Qt::Key_M);
        QVERIFY(panel()->isVisible());
    }
    void type(const char* field, const QString& text) {
        auto* edit = child<QLineEdit>(field);
        edit->setFocus();
        edit->clear();
        QTest::keyClicks(edit, text);
    }
};

} // namespace

class TestAdvanced : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }
    void init() { qputenv("METRODOS_PRESETS", (m_home.filePath("presets")).toUtf8()); }
    void cleanup() { QFile::remove(m_home.filePath("presets")); }

    void oneKeyOpensItAndCloses() {
        AdvancedWindow w;
        QVERIFY(!w.panel()->isVisible());
        QVERIFY(w.child<QAbstractButton>("run-more")->text().startsWith("More  ("));
        w.openPanel();
        QCOMPARE(QApplication::focusWidget()->objectName(), QString("protocol"));
        // Every field can be reached and has a name.
        for (QWidget* field : w.panel()->findChildren<QWidget*>())
            if (field->focusPolicy() != Qt::NoFocus && !field->objectName().startsWith("qt_") &&
                qobject_cast<QLineEdit*>(field) != nullptr && !field->objectName().isEmpty())
                QVERIFY2(!field->accessibleName().isEmpty(), qPrintable(field->objectName()));
        w.picture("advanced");
        w.window.resize(1024, 700);
        QCoreApplication::processEvents();
        QCOMPARE(w.window.width(), 1024); // nothing in it asks for more
        for (const QWidget* field : w.panel()->findChildren<QWidget*>(Qt::FindDirectChildrenOnly))
            if (field->isVisible())
                QVERIFY2(w.panel()->rect().contains(field->geometry()), qPrintable(field->objectName()));
        w.picture("advanced-small");
        w.window.resize(1280, 800);
        w.press(Qt::Key_M);
        QVERIFY(!w.panel()->isVisible());
    }
    void whatIsOrderedIsDoneAndSaid() {
        AdvancedWindow w;
        w.openPanel();
        w.pick("congestion", w.child<QComboBox>("congestion")->itemText(1));
        const std::string congestion = w.child<QComboBox>("congestion")->currentText().toStdString();
        w.type("window", "256KiB");
        w.type("pace", "200M");
        w.type("bytes", "2GB");
        w.type("warmup", "1 s");
        w.child<QSpinBox>("dscp")->setValue(46);
        w.child<QSpinBox>("segment")->setValue(536);
        w.pick("ip-version", "IPv4");
        QVERIFY2(w.child<QAbstractButton>("run-more")->text().contains("8 set"),
                 qPrintable(w.child<QAbstractButton>("run-more")->text()));
        w.pick("direction", "forward");
        w.pick("seconds", "5 s");
        QVERIFY2(w.run(), qPrintable(w.status()));
        const auto runs = w.runs();
        QCOMPARE(runs.size(), std::size_t(1));
        const benchmark::RunConfig& c = runs.front().config;
        QCOMPARE(c.congestion, congestion);
        QCOMPARE(c.windowBytes, std::uint64_t(262144));
        QCOMPARE(c.rate->bps(), 200e6);
        QCOMPARE(c.maxBytes, std::uint64_t(2'000'000'000));
        QCOMPARE(*c.warmup, 1.0);
        QCOMPARE(c.dscp, 46);
        QCOMPARE(c.segmentBytes, 536);
        QCOMPARE(c.ipVersion, 4);
        const QString note = w.child<QTableWidget>("runs")->item(0, 5)->text();
        for (const char* said : {"paced at 200 Mbit/s", "DSCP 46", "segments of 536 bytes", "over IPv4",
                                 "warm-up of 1", "window of", "no more than"})
            QVERIFY2(note.contains(said), qPrintable(note));
        QVERIFY2(note.contains("congestion control " + QString::fromStdString(congestion)), qPrintable(note));
        // Left to the system again, nothing is said.
        w.openPanel();
        w.click("all-usual");
        QVERIFY(w.child<QAbstractButton>("run-more")->text().startsWith("More  ("));
        QVERIFY2(w.run(), qPrintable(w.status()));
        QVERIFY(!w.child<QTableWidget>("runs")->item(0, 5)->text().contains("paced"));
        QVERIFY(!w.runs().back().config.rate && w.runs().back().config.ipVersion == 0);
    }
    void whatCannotBeReadIsSaidAtItsField() {
        // Not a rate, too slow a one; no window, none, too large a one; as long as the run.
        for (const auto& [field, text] :
             {std::pair("pace", "quick"), std::pair("pace", "1k"), std::pair("window", "large"),
              std::pair("window", "0B"), std::pair("window", "2GB"), std::pair("bytes", "-1"),
              std::pair("warmup", "soon"), std::pair("warmup", "10 s")}) {
            AdvancedWindow w;
            w.openPanel();
            w.type(field, text);
            w.child<QWidget>("run")->setFocus();
            w.press(Qt::Key_M); // closed: it opens where something is wrong
            w.space();
            QVERIFY2(w.child<QLabel>("status")->text().contains(text), qPrintable(w.status()));
            QVERIFY(w.panel()->isVisible());
            QCOMPARE(QApplication::focusWidget()->objectName(), QString(field));
            QVERIFY(w.runs().empty());
        }
    }
    void anOrderIsKeptUnderAName() {
        {
            AdvancedWindow w;
            w.openPanel();
            w.pick("protocol", "streams");
            w.type("window", "64KiB");
            w.child<QSpinBox>("dscp")->setValue(34);
            auto* name = w.child<QComboBox>("run-preset");
            name->setFocus();
            QTest::keyClicks(name, "Video <b>calls</b>"); // its blank begins no run
            w.click("keep-preset");
            QVERIFY2(w.child<QLabel>("status")->text().contains("is kept"), qPrintable(w.status()));
            w.click("all-usual");
            QCOMPARE(w.child<QSpinBox>("dscp")->value(), 0);
        }
        AdvancedWindow again;
        again.openPanel();
        again.pick("run-preset", "Video <b>calls</b>");
        QCOMPARE(again.child<QSpinBox>("dscp")->value(), 34);
        const auto order = again.panel()->ordered({});
        QVERIFY(order.has_value());
        QCOMPARE(order->windowBytes, std::uint64_t(65536));
        again.click("drop-preset");
        QVERIFY(RunPresets(RunPresets::usualFile()).load().empty());
        again.click("drop-preset");
        QVERIFY2(again.child<QLabel>("status")->text().contains("Choose"), qPrintable(again.status()));
    }
    void aFileOfOrdersIsNotTrusted() {
        const std::filesystem::path file = m_home.filePath("presets").toStdString();
        const RunPresets presets(file);
        QVERIFY(presets.load().empty());
        for (
            const char* text :
            {"", "nonsense", "[]", R"({"format":"metrodos-run-presets","presets":7})",
             R"({"format":"metrodos-run-presets","presets":[7,{"name":"x"},{"name":"y","protocol":"tcp","dscp":99}]})",
             R"({"format":"other","presets":[{"name":"x","protocol":"tcp"}]})"}) {
            QFile out(m_home.filePath("presets"));
            QVERIFY(out.open(QIODevice::WriteOnly));
            out.write(text);
            out.close();
            QVERIFY2(presets.load().empty(), text);
        }
        QVERIFY(!presets.keep({"  ", {}}));
        for (std::size_t i = 0; i < RunPresets::most; ++i)
            QVERIFY(presets.keep({QString::number(i), {}}).has_value());
        QVERIFY(!presets.keep({"one too many", {}}));
        QCOMPARE(presets.load().size(), RunPresets::most);
    }
};

QTEST_MAIN(TestAdvanced)
#include "test_advanced.moc"
