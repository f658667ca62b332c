// The window in stage Measure, for the tests of runs and of trials.
#pragma once

#include "standin/simulated_house.h"
#include "support/tested_window.h"

#include <QDir>
#include <QLineEdit>
#include <QStandardPaths>

namespace metrodos::testing {

/// The window on the demo house, whose machines are simulated at full speed.
struct MeasureWindow : TestedWindow {
    std::unique_ptr<standin::SimulatedHouse> house;

    /// `survey` changes what the job knows of the house; the machines stay as they are.
    explicit MeasureWindow(
        bool secondRoute = false, const std::function<void(house::House&)>& survey = [](house::House&) {}) {
        house::House h = demoHouse();
        if (secondRoute) {
            house::Route other = h.routes.front();
            other.id = "other";
            other.label = "The other way";
            h.routes.push_back(other);
        }
        const probe::Key key = probe::Key::generate();
        house = standin::SimulatedHouse::start({[h] { return quantity::Result<house::House>(h); },
                                                catalog::loadDefault().value(), key, 1, false})
                    .value();
        for (house::Endpoint& e : h.endpoints)
            for (const auto& s : house->endpoints())
                if (s.id == e.id) e.address = s.host + ":" + std::to_string(s.port);
        const QString config = QStandardPaths::writableLocation(QStandardPaths::ConfigLocation) + "/metrodos";
        QDir().mkpath(config);
        QFile::remove(config + "/key");
        if (!key.save((config + "/key").toStdString())) qFatal("no key could be written");
        survey(h);
        create(h);
        open(Stage::measure);
    }
    void pick(const char* name, const QString& text) {
        auto* box = child<QComboBox>(name);
        box->setCurrentIndex(box->findText(text));
        Q_EMIT box->activated(box->currentIndex());
    }
    void space() {
        child<QWidget>("run")->setFocus();
        QTest::keyClick(&window, Qt::Key_Space);
    }
    /// Space, and until the window is at rest again.
    bool run() {
        space();
        auto* button = child<QAbstractButton>("run");
        return QTest::qWaitFor([&] { return button->text().startsWith("Stop"); }, 3000) &&
               QTest::qWaitFor([&] { return button->text().startsWith("Run"); }, 20'000);
    }
    /// A watch of 30 days that has begun, until somebody stops it; its button.
    QAbstractButton* startLongWatch() {
        child<QLineEdit>("watch-for")->setText("30 d");
        space();
        auto* button = child<QAbstractButton>("watch-run");
        if (!QTest::qWaitFor([&] { return button->text().startsWith("Stop"); }, 5000))
            qFatal("the watch did not begin");
        return button;
    }
    /// The test on a page of its own, from Space to its end.
    void test(const char* page) {
        auto* button = child<QAbstractButton>((QByteArray(page) + "-run").constData());
        button->setFocus();
        QTest::keyClick(&window, Qt::Key_Space);
        QVERIFY2(QTest::qWaitFor([&] { return button->text().startsWith("Stop"); }, 3000),
                 qPrintable(status()));
        QVERIFY2(QTest::qWaitFor([&] { return button->text().startsWith("Run"); }, 60'000),
                 qPrintable(status()));
    }
    [[nodiscard]] std::vector<benchmark::Run> runs() {
        std::vector<benchmark::Run> out;
        job::Document document = job::readJob(file).value();
        for (benchmark::RouteRun& r : document.runs)
            out.push_back(std::move(r.run));
        return out;
    }
};

} // namespace metrodos::testing
