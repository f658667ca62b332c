// The real window as a test drives it: shown, with its parts by name and its sentence at the bottom.
#pragma once

#include "catalog/load.h"
#include "desktop/window/main_window.h"
#include "job/open.h"
#include "job/store.h"
#include "support/paths.h"
#include "support/window.h"

#include <QAbstractButton>
#include <QComboBox>
#include <QLabel>
#include <QTest>

namespace metrodos::testing {

using namespace metrodos::desktop;

inline house::House demoHouse() {
    return job::readJob(dataPath("demo/quarry-house.json")).value().house;
}

/// The runs of a job but those of the demo's past; none where it cannot be read.
inline benchmark::RouteRuns newRuns(const std::filesystem::path& file) {
    auto document = job::readJob(file);
    if (!document) return {};
    std::erase_if(document->runs, [](const benchmark::RouteRun& r) { return r.run.id.starts_with("past-"); });
    return document->runs;
}

struct TestedWindow {
    QTemporaryDir folder;
    std::filesystem::path file;
    MainWindow window{catalog::loadDefault().value()};

    /// A new job of this house.
    void create(const house::House& house, const QString& name = QStringLiteral("house.metrodos")) {
        file = folder.filePath(name).toStdString();
        (void)job::Store::create(file, {house, {}}).value();
    }
    void open(Stage stage) {
        window.openJob(file);
        window.setStage(stage);
        show();
    }
    void show() {
        window.resize(1280, 800);
        window.show();
        (void)QTest::qWaitForWindowExposed(&window);
        QApplication::setActiveWindow(&window); // there is no window manager to do it
    }
    /// Fails the program when there is none.
    template <typename Widget>
    [[nodiscard]] Widget* child(const char* name) {
        auto* found = find<Widget>(name);
        if (found == nullptr) qFatal("there is no %s", name);
        return found;
    }
    /// nullptr: there is none.
    template <typename Widget>
    [[nodiscard]] Widget* find(const char* name) {
        return window.findChild<Widget*>(QLatin1String(name));
    }
    void click(const char* name) { child<QAbstractButton>(name)->click(); }
    /// What is worked out beside the window is there.
    bool settle() {
        QCoreApplication::processEvents();
        const bool settled = QTest::qWaitFor([this] { return window.isSettled(); }, 20'000);
        QCoreApplication::processEvents();
        return settled;
    }
    /// With the verdict on what is there now.
    [[nodiscard]] QString status() {
        settle();
        return child<QLabel>("status")->text();
    }
    /// For looking at: only where a folder is named.
    void picture(const char* name) {
        const QString shots = qEnvironmentVariable("METRODOS_SHOTS");
        if (!shots.isEmpty()) window.grab().save(shots + '/' + name + ".png");
    }
    [[nodiscard]] house::House saved() const { return job::readJob(file).value().house; }
};

} // namespace metrodos::testing
