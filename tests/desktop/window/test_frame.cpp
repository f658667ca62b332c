// The frame of the window: room for the work, keys that lead back, and nothing cut at the sizes that it is
// made for.
#include "desktop/model/pages.h"
#include "desktop/route/route_strip.h"
#include "desktop/walk/section_view.h"
#include "desktop/widgets/range_list.h"
#include "support/runs.h"
#include "support/tested_window.h"

#include <QAccessible>
#include <QImage>
#include <QLineEdit>
#include <QScrollArea>
#include <QSet>
#include <QStyleOptionComboBox>
#include <QTabBar>
#include <QTableView>

using namespace metrodos;
using namespace metrodos::desktop;

namespace {

struct FrameWindow : testing::TestedWindow {
    explicit FrameWindow(Stage stage, bool withRuns = false) {
        create(testing::demoHouse());
        if (withRuns)
            for (const benchmark::Direction d :
                 {benchmark::Direction::forward, benchmark::Direction::backward})
                for (const char* id : {"first", "second"})
                    (void)job::keepRun(
                        file, "dome-loft",
                        testing::steadyRun(d, 281, 4, 0.01, benchmark::name(d) + std::string(id)));
        open(stage);
        settle();
    }
    RouteStrip* strip() { return child<RouteStrip>("routeStrip"); }
    QWidget* sheet() {
        return child<QLabel>("ceiling")->parentWidget()->parentWidget()->parentWidget()->parentWidget();
    }
    void onEachPage(const std::function<void(const QString& page)>& look) {
        for (const PageName& page : pages) {
            window.setStage(page.stage);
            window.setPage(page.page);
            look(QString::fromLatin1(page.name.data(), static_cast<int>(page.name.size())));
        }
        window.setStage(Stage::trace);
        look(QStringLiteral("trace"));
    }
    void key(int k, Qt::KeyboardModifiers m = Qt::NoModifier) {
        QWidget* to = QApplication::focusWidget();
        QTest::keyClick(to == nullptr ? &window : to, static_cast<Qt::Key>(k), m);
        QCoreApplication::processEvents();
    }
};

// What of a widget's text does not fit into it; empty: all does.
QString cutOff(const QWidget* widget) {
    constexpr int slack = 1;
    const auto tooSmall = [&](int needed, int has, const QString& text) {
        return needed > has + slack ? QStringLiteral("“%1” needs %2 of %3").arg(text).arg(needed).arg(has)
                                    : QString();
    };
    if (const auto* label = qobject_cast<const QLabel*>(widget)) {
        if (label->text().isEmpty()) return {};
        if (label->wordWrap())
            return tooSmall(label->heightForWidth(label->width()), label->height(), label->text());
        return tooSmall(label->sizeHint().width(), label->width(), label->text());
    }
    if (const auto* button = qobject_cast<const QAbstractButton*>(widget))
        return button->text().isEmpty()
                   ? QString()
                   : tooSmall(button->minimumSizeHint().width(), button->width(), button->text());
    if (const auto* list = qobject_cast<const RangeList*>(widget)) {
        const QStringList cut = list->cutTexts();
        return cut.isEmpty() ? QString() : cut.front() + QStringLiteral(" is longer than three lines");
    }
    if (const auto* box = qobject_cast<const QComboBox*>(widget); box != nullptr && !box->isEditable()) {
        QStyleOptionComboBox option;
        option.initFrom(box);
        const int has = box->style()
                            ->subControlRect(QStyle::CC_ComboBox, &option, QStyle::SC_ComboBoxEditField, box)
                            .width();
        return tooSmall(box->fontMetrics().horizontalAdvance(box->currentText()), has, box->currentText());
    }
    if (const auto* tabs = qobject_cast<const QTabBar*>(widget))
        return tabs->count() == 0 ? QString()
                                  : tooSmall(tabs->tabRect(tabs->count() - 1).right(), tabs->width(),
                                             tabs->tabText(tabs->count() - 1));
    return {};
}

// Controls beside each other in one parent that lie over each other.
QString overlap(const QWidget* parent) {
    QList<QWidget*> controls;
    for (QObject* child : parent->children())
        if (auto* w = qobject_cast<QWidget*>(child);
            w != nullptr && w->isVisible() && !w->isWindow() &&
            (qobject_cast<QAbstractButton*>(w) != nullptr || qobject_cast<QLabel*>(w) != nullptr ||
             qobject_cast<QLineEdit*>(w) != nullptr || qobject_cast<QComboBox*>(w) != nullptr))
            controls << w;
    for (int i = 0; i < controls.size(); ++i)
        for (int k = i + 1; k < controls.size(); ++k)
            if (controls[i]
                    ->geometry()
                    .adjusted(1, 1, -1, -1)
                    .intersects(controls[k]->geometry().adjusted(1, 1, -1, -1)))
                return controls[i]->objectName() + QStringLiteral(" lies over ") + controls[k]->objectName();
    return {};
}

} // namespace

class TestFrame : public QObject {
    Q_OBJECT

    QTemporaryDir m_home;

  private slots:
    void initTestCase() { testing::prepareWindows(m_home); }

    // Where the work is about the whole house the route is one line, which opens and closes by key and click.
    void theStripIsALineWhereTheHouseIsTheWork() {
        FrameWindow w(Stage::walk);
        for (const Stage stage : {Stage::walk, Stage::weigh}) {
            w.window.setStage(stage);
            QVERIFY(w.settle());
            QVERIFY(w.strip()->isSlim() && w.strip()->height() < 50);
            QVERIFY2(w.strip()->verdict().contains("front USB socket, 315 Mbit/s (77 %)"),
                     qPrintable(w.strip()->verdict()));
            w.key(Qt::Key_R, Qt::ControlModifier);
            QVERIFY(!w.strip()->isSlim() && w.strip()->height() > 150);
            w.strip()->setFocus();
            w.key(Qt::Key_Escape);
            QVERIFY(w.strip()->isSlim());
            w.strip()->setFocus();
            w.key(Qt::Key_Return);
            QVERIFY(!w.strip()->isSlim());
            w.key(Qt::Key_Escape);
            QTest::mouseClick(w.strip(), Qt::LeftButton, {}, {60, 12});
            QVERIFY(!w.strip()->isSlim());
        }
        for (const Stage stage : {Stage::measure, Stage::trace}) {
            w.window.setStage(stage);
            QVERIFY(!w.strip()->isSlim());
            w.key(Qt::Key_R, Qt::ControlModifier);
            QVERIFY(!w.strip()->isSlim());
        }
        // One figure: what the line says is what the sentence says.
        w.window.setStage(Stage::measure);
        QVERIFY2(w.status().contains("315 Mbit/s"), qPrintable(w.status()));
    }
    // It comes with a choice and goes with Escape, or with the stage.
    void theSheetComesWithAChoice() {
        FrameWindow w(Stage::measure);
        QVERIFY(!w.sheet()->isVisible());
        w.strip()->setFocus();
        w.key(Qt::Key_Left);
        QVERIFY(w.sheet()->isVisible());
        w.key(Qt::Key_Escape);
        QVERIFY(!w.sheet()->isVisible());
        QVERIFY(w.strip()->hasFocus());
        QTest::mouseClick(w.strip(), Qt::LeftButton, {}, {300, 60});
        QVERIFY(w.sheet()->isVisible());
        w.window.setStage(Stage::trace);
        QVERIFY(!w.sheet()->isVisible());
    }
    // Out of a field by Escape or Enter, and Space is the window's again.
    void aFieldIsLeftByEscapeAndEnter() {
        FrameWindow w(Stage::measure);
        w.strip()->setFocus();
        w.key(Qt::Key_Left);
        auto* label = w.child<QLineEdit>("label");
        label->setFocus();
        w.key(Qt::Key_Escape);
        QVERIFY(w.strip()->hasFocus() && w.sheet()->isVisible()); // first the field, then the sheet
        label->setFocus();
        label->selectAll();
        QTest::keyClicks(label, "other name");
        w.key(Qt::Key_Return);
        QTRY_VERIFY(w.strip()->hasFocus());
        w.key(Qt::Key_Space);
        QTRY_VERIFY2(w.status().contains("no address") || w.status().contains("run"), qPrintable(w.status()));
        QCOMPARE(label->text(), QString("other name")); // no blank was typed
    }
    // The section has the whole page; the ways between two places come beside it and go again.
    void theSectionIsThePage() {
        FrameWindow w(Stage::walk);
        w.strip()->setFocus();
        auto* section = w.child<SectionView>("section");
        QVERIFY(section->width() > 1100);
        QVERIFY(section->showsNames());
        auto* panel = w.child<QWidget>("ways-panel");
        QVERIFY(!panel->isVisible());
        // By keyboard: to a thing and Enter, and to another.
        section->setFocus();
        const auto goTo = [&](const QString& label) {
            for (int i = 0; i < 200 && section->current() != label; ++i)
                w.key(Qt::Key_Period);
            QCOMPARE(section->current(), label);
            w.key(Qt::Key_Return);
        };
        goTo("Loft coax 1");
        QVERIFY(!panel->isVisible());
        QVERIFY(w.child<QWidget>("thing-panel")->isVisible());
        goTo("Hall coax 1");
        QTRY_VERIFY(panel->isVisible());
        QVERIFY(section->width() < 900);
        w.key(Qt::Key_Escape);
        QTRY_VERIFY(!panel->isVisible());
        QVERIFY(section->width() > 1100);
    }
    void theChosenWayStandsOutInTheSection() {
        FrameWindow w(Stage::walk);
        w.window.showWays("hall", "loft");
        QVERIFY(w.settle());
        auto* section = w.child<SectionView>("section");
        const auto drawn = report::drawSection(testing::demoHouse());
        const auto isFaded = [&](const char* id) {
            for (const auto& wire : drawn.wires)
                if (wire.id == id) return section->isFaded(wire);
            qFatal("no such wire");
        };
        // Over the coax from the hall to the loft: its runs stand out, the duct run to the dome fades.
        int full = 0;
        for (const auto& wire : drawn.wires)
            if (!section->isFaded(wire)) ++full;
        QVERIFY(full > 0 && full < static_cast<int>(drawn.wires.size()) / 2);
        QVERIFY(isFaded("dome-run"));
        w.key(Qt::Key_Escape);
        QVERIFY(!section->isFaded(drawn.wires.front()));
    }
    // No icon stays behind in the colours of the other scheme.
    void everyIconFollowsTheScheme() {
        FrameWindow w(Stage::measure);
        w.strip()->setFocus();
        w.key(Qt::Key_Left); // the sheet has buttons of its own
        const auto inkOf = [](const QIcon& icon) {
            const QImage image = icon.pixmap(32, 32).toImage();
            int light = 0;
            int dark = 0;
            for (int y = 0; y < image.height(); ++y)
                for (int x = 0; x < image.width(); ++x)
                    if (const QColor c = image.pixelColor(x, y); c.alpha() > 200)
                        ++(c.lightness() > 128 ? light : dark);
            return light > dark;
        };
        const auto look = [&](bool lightInk) {
            int seen = 0;
            for (auto* button : w.window.findChildren<QAbstractButton*>())
                if (!button->icon().isNull() && button->isEnabled() && button->isVisible()) {
                    ++seen;
                    QVERIFY2(inkOf(button->icon()) == lightInk,
                             qPrintable(button->objectName() + button->text()));
                }
            QVERIFY(seen >= 8);
        };
        look(false);
        w.key(Qt::Key_D, Qt::ControlModifier);
        look(true);
        w.key(Qt::Key_D, Qt::ControlModifier);
        look(false);
    }
    // Those of the page that is shown, and those that always hold; it goes by the same key or Escape.
    void theKeysOfThePageAreOneKeyAway() {
        FrameWindow w(Stage::walk);
        w.strip()->setFocus();
        const auto text = [&] {
            QStringList all;
            for (const auto* label : w.child<QWidget>("keys")->findChildren<QLabel*>())
                all << label->text();
            return all.join('\n');
        };
        w.key(Qt::Key_F1);
        auto* keys = w.child<QWidget>("keys");
        QVERIFY(keys->isVisible());
        QVERIFY2(text().contains("Ctrl+R") && text().contains("from thing to thing"), qPrintable(text()));
        QVERIFY(!text().contains("suggested test"));
        QTest::keyClick(keys, Qt::Key_Escape);
        QVERIFY(!keys->isVisible());
        w.window.setStage(Stage::trace);
        w.strip()->setFocus();
        w.key(Qt::Key_F1);
        QVERIFY2(text().contains("suggested test"), qPrintable(text()));
        w.window.setStage(Stage::measure); // it follows
        QVERIFY2(text().contains("start or stop"), qPrintable(text()));
        QTest::keyClick(keys, Qt::Key_F1);
        QVERIFY(!keys->isVisible());
    }
    void amountsHaveTheCurrencyOfTheLocale() {
        QLocale::setDefault(QLocale(QLocale::English, QLocale::UnitedKingdom));
        {
            FrameWindow w(Stage::weigh);
            QTRY_VERIFY2(w.child<QLabel>("planHeadline")->text().startsWith(QString::fromUtf8("£ ")),
                         qPrintable(w.child<QLabel>("planHeadline")->text()));
        }
        QLocale::setDefault(QLocale::c());
    }
    // What a screen reader says of each control, and that Tab comes to each.
    void everyControlHasANameAndIsReachedByTab() {
        FrameWindow w(Stage::walk);
        QStringList faults;
        const auto look = [&](const QString& page) {
            w.settle();
            QSet<QWidget*> wanted;
            for (QWidget* widget : w.window.findChildren<QWidget*>()) {
                // Parts of a control speak through it.
                const bool isPart = widget->objectName().startsWith(QStringLiteral("qt_")) ||
                                    qobject_cast<QScrollArea*>(widget) != nullptr ||
                                    widget->focusProxy() != nullptr;
                if (!widget->isVisible() || !widget->isEnabled() || isPart ||
                    !(widget->focusPolicy() & Qt::TabFocus))
                    continue;
                // Of several that exclude each other Tab comes to the chosen one, the arrows to the rest.
                const auto* button = qobject_cast<QAbstractButton*>(widget);
                const bool isOneOf =
                    button != nullptr && !button->isChecked() &&
                    (button->autoExclusive() || (button->group() != nullptr && button->group()->exclusive()));
                if (!isOneOf) wanted.insert(widget);
                auto* spoken = QAccessible::queryAccessibleInterface(widget);
                const QString what =
                    QString::fromLatin1(widget->metaObject()->className()) + ' ' + widget->objectName();
                if (spoken == nullptr || spoken->text(QAccessible::Name).trimmed().isEmpty())
                    faults << page + ": no name for " + what;
                else if (spoken->role() == QAccessible::NoRole)
                    faults << page + ": no role for " + what;
            }
            QApplication::setActiveWindow(&w.window);
            w.strip()->setFocus();
            for (int i = 0; i < 400 && !wanted.isEmpty(); ++i) {
                if (QWidget* now = w.window.focusWidget()) wanted.remove(now);
                w.key(Qt::Key_Tab);
            }
            for (const QWidget* left : wanted)
                faults << page + ": Tab does not reach " +
                              QString::fromLatin1(left->metaObject()->className()) + ' ' + left->objectName();
        };
        w.onEachPage(look);
        faults.removeDuplicates();
        for (const QString& fault : faults)
            qWarning("%s", qPrintable(fault));
        QVERIFY2(faults.isEmpty(), qPrintable(faults.join('\n')));
    }
    void nothingIsCutAtTheSizesItIsMadeFor_data() {
        QTest::addColumn<QSize>("size");
        QTest::newRow("1280x800") << QSize(1280, 800);
        QTest::newRow("1024x700") << QSize(1024, 700);
    }
    void nothingIsCutAtTheSizesItIsMadeFor() {
        QFETCH(QSize, size);
        FrameWindow w(Stage::walk, true);
        w.window.resize(size);
        QStringList faults;
        const auto look = [&](const QString& page) {
            w.settle();
            QTest::qWait(0);
            const QSize now = w.window.size();
            if (now.width() > size.width() || now.height() > size.height())
                faults
                    << page +
                           QStringLiteral(": the window grows to %1x%2").arg(now.width()).arg(now.height());
            for (QWidget* widget : w.window.findChildren<QWidget*>()) {
                if (!widget->isVisible()) continue;
                if (const QString fault = cutOff(widget); !fault.isEmpty()) faults << page + ": " + fault;
                if (const QString fault = overlap(widget); !fault.isEmpty()) faults << page + ": " + fault;
                if (auto* table = qobject_cast<QTableView*>(widget);
                    table != nullptr && table->horizontalScrollBar()->maximum() > 0)
                    faults << page + ": " + table->objectName() + " is wider than its place";
                if (auto* area = qobject_cast<QScrollArea*>(widget);
                    area != nullptr && area->widget() != nullptr &&
                    area->widget()->minimumSizeHint().width() > area->viewport()->width() + 1)
                    faults << page + ": a part is wider than its place";
            }
        };
        w.onEachPage(look);
        QVERIFY2(faults.isEmpty(), qPrintable(faults.join('\n')));
    }
};

QTEST_MAIN(TestFrame)
#include "test_frame.moc"
