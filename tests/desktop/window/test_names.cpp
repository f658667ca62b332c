// Every page of the window on a job whose every name is hostile: all of it is shown as it stands.
#include "support/hostile_names.h"
#include "support/runs.h"
#include "support/tested_window.h"

#include <QAbstractItemView>
#include <QFile>
#include <QTextBrowser>
#include <QTextDocument>

using namespace metrodos;
using namespace metrodos::desktop;
using testing::TestedWindow;

namespace {

struct HostileWindow : TestedWindow {
    HostileWindow() {
        QFile demo(QString::fromStdString(testing::dataPath("demo/quarry-house.json")));
        (void)demo.open(QIODevice::ReadOnly);
        nlohmann::json value = nlohmann::json::parse(demo.readAll().toStdString());
        std::size_t next = 0;
        testing::poison(value.at("house"), next);
        job::Document document = job::documentFromJson(value).value();
        int n = 0;
        for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward})
            for (int i = 0; i < 3; ++i) {
                benchmark::Run run =
                    testing::steadyRun(direction, 281 + i, 4, 0.02, "run-" + std::to_string(++n));
                run.conditions.changed = testing::hostileNames[static_cast<std::size_t>(n)];
                run.conditions.appliances = {std::string(testing::hostileNames[0])};
                document.runs.push_back({"dome-loft", run});
            }
        file = folder.filePath("house.metrodos").toStdString();
        (void)job::Store::create(file, document).value();
        open(Stage::walk);
        settle();
    }
};

// Whether Qt would take the tip for HTML that is not what plainTip makes of a text.
bool isTamed(const QString& tip) {
    return !Qt::mightBeRichText(tip) ||
           (tip.startsWith("<p>") && tip.endsWith("</p>") && !tip.mid(3, tip.size() - 7).contains('<'));
}

} // namespace

class TestNames : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

    // What is there is plain: labels, tips, items and their tips.
    static QString whatIsMarkup(const QWidget& window) {
        for (const QLabel* label : window.findChildren<QLabel*>())
            if (label->textFormat() != Qt::PlainText && Qt::mightBeRichText(label->text()))
                return "label " + label->objectName() + ": " + label->text();
        for (const QWidget* widget : window.findChildren<QWidget*>())
            if (!isTamed(widget->toolTip()))
                return "tip of " + widget->objectName() + ": " + widget->toolTip();
        for (const QAbstractItemView* view : window.findChildren<QAbstractItemView*>()) {
            const QAbstractItemModel* model = view->model();
            if (model == nullptr) continue;
            for (int row = 0; row < std::min(model->rowCount(), 300); ++row)
                for (int column = 0; column < model->columnCount(); ++column) {
                    const QString tip = model->index(row, column).data(Qt::ToolTipRole).toString();
                    if (!isTamed(tip)) return "tip in " + view->objectName() + ": " + tip;
                    const QString text = model->index(row, column).data(Qt::DisplayRole).toString();
                    for (const QChar c : text)
                        if (c.category() == QChar::Other_Control && c != '\n')
                            return "control in " + view->objectName() + ": " + text;
                }
        }
        return {};
    }

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    void everyPageShowsThemAsTheyStand() {
        HostileWindow w;
        int shown = 0;
        const auto look = [&](const QString& page) {
            QVERIFY2(w.settle(), qPrintable(page));
            const QString markup = whatIsMarkup(w.window);
            QVERIFY2(markup.isEmpty(), qPrintable(page + ": " + markup));
            QVERIFY(!w.window.grab().isNull()); // painted, whatever it is
            for (const QLabel* label : w.window.findChildren<QLabel*>())
                shown += label->isVisible() && label->text().contains("<img src=\"/dev/zero\">") ? 1 : 0;
        };
        for (const PageName& page : pages) {
            w.window.setStage(page.stage);
            w.window.setPage(page.page);
            look(QString::fromLatin1(page.name.data(), static_cast<int>(page.name.size())));
            if (QTest::currentTestFailed()) return;
        }
        for (const Stage stage : {Stage::trace, Stage::handover}) {
            w.window.setStage(stage);
            look(QStringLiteral("trace, handover"));
            if (QTest::currentTestFailed()) return;
        }
        QVERIFY(shown > 0);
    }
    // A document that was handed over with such names is shown without what it names.
    void aKeptDocumentLoadsNothing() {
        HostileWindow w;
        w.window.setStage(Stage::handover);
        QVERIFY(w.settle());
        auto* text = w.child<QTextBrowser>("handover-text");
        text->setMarkdown("![x](/dev/zero) <img src=\"/dev/zero\"> [l](file:///etc/passwd)");
        QVERIFY(!text->openLinks());
        QVERIFY(!w.window.grab().isNull()); // comes back
        const auto image = text->document()->resource(QTextDocument::ImageResource, QUrl("/dev/zero"));
        QCOMPARE(image.value<QImage>().size(), QSize(1, 1));
    }
};

QTEST_MAIN(TestNames)
#include "test_names.moc"
