// metrodos: the desktop application.
#include "catalog/load.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/window/main_window.h"
#include "probe/socket.h"
#include "programs/no_core.h"
#include "quantity/parse.h"

#include <CLI/CLI.hpp>
#include <QApplication>
#include <QElapsedTimer>
#include <QSettings>
#include <QSize>
#include <QTemporaryDir>
#include <QTimer>
#include <iostream>
#include <optional>

namespace {

using namespace metrodos;

int fail(const quantity::Problem& problem) {
    std::cerr << "metrodos: " << problem.sentence() << '\n';
    return 1;
}

std::vector<std::string> pageNames() {
    std::vector<std::string> out;
    for (const desktop::PageName& p : desktop::pages)
        out.emplace_back(p.name);
    return out;
}

// "1024x700".
std::optional<QSize> sizeOf(const std::string& text) {
    const auto cross = text.find('x');
    if (cross == std::string::npos) return std::nullopt;
    const auto width = quantity::parseWhole(text.substr(0, cross), 200, 8000);
    const auto height = quantity::parseWhole(text.substr(cross + 1), 200, 8000);
    if (!width || !height) return std::nullopt;
    return QSize(static_cast<int>(*width), static_cast<int>(*height));
}

// Lets the window lay itself out and paint, then saves it.
int saveScreenshot(QApplication& application, desktop::MainWindow& window, const std::string& file,
                   QSize size) {
    window.resize(size);
    window.show();
    int result = 0;
    QTimer settle;
    QObject::connect(&settle, &QTimer::timeout, &application, [&] {
        if (!window.isSettled()) return; // looked at again the next time
        settle.stop();
        if (!window.grab().toImage().save(QString::fromStdString(file))) {
            result = fail({"the picture cannot be written", file,
                           "choose a name that ends in .png in a folder that you may write to"});
        }
        QApplication::quit();
    });
    settle.start(600);
    QApplication::exec();
    return result;
}

} // namespace

int main(int argc, char** argv) {
    programs::leaveNoCore();
    probe::ignoreBrokenPipes();
    CLI::App app{"Metrodos finds what limits the speed of a house's wiring."};
    std::string job;
    std::string stage = "measure";
    std::string screenshot;
    std::string page = "section";
    std::string size = "1280x800";
    std::vector<std::string> ways;
    std::string invited;
    bool demo = false;
    bool dark = false;
    bool timing = false;
    app.add_option("job", job, "a .metrodos file or its JSON form");
    app.add_flag("--demo", demo, "open the demo job with its simulated endpoints");
    app.add_option("--stage", stage, "the stage to begin with")
        ->check(CLI::IsMember({"walk", "weigh", "fit", "measure", "trace", "log", "handover"}));
    app.add_option("--screenshot", screenshot,
                   "show at 1280x800 or --size, save the picture and end; works without a display");
    app.add_option("--size", size, "of the picture, like 1024x700; 200x200 to 8000x8000")
        ->check([](const std::string& text) {
            return sizeOf(text) ? std::string() : "a size is two numbers from 200 to 8000, like 1024x700";
        });
    app.add_option("--page", page, "the page of Walk, Weigh or Measure to begin with")
        ->check(CLI::IsMember(pageNames()));
    app.add_option("--ways", ways, "a thing that Walk shows, or two places and the ways between them")
        ->expected(1, 2);
    app.add_option("--invite", invited,
                   "a machine of the job that has only a browser: shows its address and code");
    app.add_flag("--dark", dark, "the dark scheme, for this time");
    app.add_flag("--time-start", timing, "print the time to the first painted window and end");
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    }
    if (demo && !job.empty()) {
        std::cerr << "metrodos: give a job or --demo, not both.\n";
        return 2;
    }
    const auto firstStage = desktop::stageNamed(stage);
    if (!firstStage)
        return fail({"this version has the stages walk, weigh, fit, measure and trace only",
                     "--stage " + stage, "choose one of them"});

    QElapsedTimer sinceStart;
    sinceStart.start();
    if (qEnvironmentVariableIsEmpty("DISPLAY") && qEnvironmentVariableIsEmpty("WAYLAND_DISPLAY") &&
        qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) {
        if (screenshot.empty())
            return fail({"there is no display", "", "start it from a desktop session, or use metrodos-cli"});
        qputenv("QT_QPA_PLATFORM", "offscreen");
    }
    QApplication application(argc, argv);
    QApplication::setApplicationName(QStringLiteral("metrodos"));
    QApplication::setOrganizationName(QStringLiteral("metrodos"));
    QApplication::setApplicationVersion(QStringLiteral(METRODOS_VERSION));
    desktop::followLocale(QLocale());
    desktop::loadFonts();
    desktop::applyTheme(application,
                        dark || (screenshot.empty() && QSettings().value(QStringLiteral("dark")).toBool())
                            ? desktop::darkTheme()
                            : desktop::lightTheme());
    auto catalog = catalog::loadDefault();
    if (!catalog) return fail(catalog.error());
    desktop::MainWindow window(std::move(*catalog));

    // A picture is taken of a fresh demo; otherwise the demo job is kept like any other.
    const QTemporaryDir fresh;
    const bool opened = demo ? window.openDemo(screenshot.empty() && !timing
                                                   ? desktop::demoFolder()
                                                   : std::filesystem::path(fresh.path().toStdString()))
                             : job.empty() || window.openJob(job);
    window.setStage(*firstStage);
    window.setPage(desktop::pageNamed(page).value_or(desktop::Page::section));
    if (!ways.empty())
        window.showWays(QString::fromStdString(ways.front()),
                        ways.size() == 2 ? QString::fromStdString(ways.back()) : QString());
    if (!invited.empty()) window.inviteGuest(invited);
    if (!opened && !screenshot.empty())
        return fail({"the job could not be opened", job, "run metrodos-cli check on it"});
    if (!screenshot.empty()) return saveScreenshot(application, window, screenshot, *sizeOf(size));
    window.show();
    if (timing) {
        // Events of the first paint come before a timer of no delay that is set from the event loop.
        QTimer::singleShot(0, [&] {
            window.repaint();
            std::cout << sinceStart.elapsed() << '\n';
            QApplication::quit();
        });
    }
    return QApplication::exec();
}
