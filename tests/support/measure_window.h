// The window in stage Measure, for the tests of runs and of trials.
#pragma once

#include "catalog/load.h"
#include "desktop/main_window.h"
#include "job/open.h"
#include "job/store.h"
#include "standin/simulated_house.h"
#include "support/window.h"

#include <QAbstractButton>
#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QLabel>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>

namespace metrodos::testing {

using namespace metrodos::desktop;

/// The window on the demo house, whose machines are simulated at full speed.
struct MeasureWindow {
    QTemporaryDir folder;
    std::filesystem::path file;
    std::unique_ptr<standin::SimulatedHouse> house;
    MainWindow window{catalog::loadDefault().value()};

    /// `survey` changes what the job knows of the house; the machines stay as they are.
    explicit MeasureWindow(
        bool secondRoute = false, const std::function<void(house::House&)>& survey = [](house::House&) {}) {
        house::House h = job::readJob(METRODOS_DATA_DIR "/demo/quarry-house.json").value().house;
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
        file = folder.filePath("measure.metrodos").toStdString();
        (void)job::Store::create(file, {h, {}}).value();
        open();
    }
    void open() {
        window.openJob(file);
        window.setStage(Stage::measure);
        window.resize(1280, 800);
        window.show();
        (void)QTest::qWaitForWindowExposed(&window);
        QApplication::setActiveWindow(&window);
    }
    template <typename Widget>
    [[nodiscard]] Widget* child(const char* name) {
        auto* found = window.findChild<Widget*>(QLatin1String(name));
        if (found == nullptr) qFatal("there is no %s", name);
        return found;
    }
    void click(const char* name) { child<QAbstractButton>(name)->click(); }
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
    /// With the verdict on what is there now.
    [[nodiscard]] QString status() {
        (void)QTest::qWaitFor([this] { return window.isSettled(); });
        return child<QLabel>("status")->text();
    }
    [[nodiscard]] std::vector<benchmark::Run> runs() {
        std::vector<benchmark::Run> out;
        job::Document document = job::readJob(file).value();
        for (job::RouteRun& r : document.runs)
            out.push_back(std::move(r.run));
        return out;
    }
    /// For looking at: only where a folder is named.
    void picture(const char* name) {
        const QString shots = qEnvironmentVariable("METRODOS_SHOTS");
        if (!shots.isEmpty()) window.grab().save(shots + '/' + name + ".png");
    }
};

} // namespace metrodos::testing
