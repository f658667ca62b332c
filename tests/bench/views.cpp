// How fast the views follow the hand: the section of a large house, three hundred steps, 10,000 runs; and how
// fast a library of 2,000 jobs is listed and searched.
#include "catalog/load.h"
#include "desktop/fit/fit_view.h"
#include "desktop/log/log_view.h"
#include "desktop/walk/section_view.h"
#include "desktop/widgets/theme.h"
#include "job/library.h"
#include "job/store.h"
#include "quantity/moment.h"
#include "support/houses.h"
#include "support/large_fitting.h"
#include "support/random_house.h"
#include "support/runs.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QLineEdit>
#include <QScrollBar>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cstdio>

using namespace metrodos;

namespace {

constexpr double picture = 1000.0 / 60; // ms

double milliseconds(const QElapsedTimer& timer) {
    return static_cast<double>(timer.nsecsElapsed()) / 1e6;
}

// The middle and the slowest of so many times.
template <class Act>
void time(const char* what, int times, double wanted, Act act) {
    std::vector<double> all;
    for (int i = 0; i < times; ++i) {
        QElapsedTimer timer;
        timer.start();
        act(i);
        all.push_back(milliseconds(timer));
    }
    std::sort(all.begin(), all.end());
    std::printf("%s: %.1f ms (slowest %.1f, wanted %.0f)\n", what, all[all.size() / 2], all.back(), wanted);
}

void section(const QTemporaryDir& folder, const catalog::Catalog& classes) {
    desktop::JobModel model(classes);
    const std::filesystem::path file = folder.filePath("section.metrodos").toStdString();
    model.setStore(job::Store::create(file, {testing::RandomHouse(7).make({40, 60, 5}), {}}).value());
    desktop::SectionView section(model);
    section.resize(900, 420);
    section.show();
    QImage image(section.size(), QImage::Format_RGB32);
    // Back and forth, so that the house stays in sight; in to a few rooms and out again.
    const Qt::Key moves[] = {Qt::Key_Left, Qt::Key_Up, Qt::Key_Right, Qt::Key_Down};
    time("a picture of the section of a large house, panned and zoomed", 120, picture, [&](int i) {
        QTest::keyClick(&section, i % 5 < 4 ? moves[i % 5] : i % 40 < 20 ? Qt::Key_Plus : Qt::Key_Minus);
        section.render(&image);
    });
}

void steps(const QTemporaryDir& folder, const catalog::Catalog& classes) {
    const house::House h = testing::largeFitting();
    std::size_t count = 0;
    time("steps derived", 20, 50, [&](int) { count = fit::stepsOf(h, classes).size(); });
    desktop::JobModel model(classes);
    model.setStore(job::Store::create(folder.filePath("steps.metrodos").toStdString(), {h, {}}).value());
    desktop::FitView view(model);
    view.resize(1180, 700);
    QElapsedTimer timer;
    timer.start();
    view.show();
    QApplication::processEvents();
    std::printf("a list of %zu steps laid out in %.1f ms\n", count, milliseconds(timer));
    auto* list = view.findChild<QTableWidget*>(QStringLiteral("steps"));
    QImage image(list->size(), QImage::Format_RGB32);
    // As the wheel scrolls, and as the arrow key goes from step to step with its card.
    time("scrolling them", 120, picture, [&](int i) {
        list->verticalScrollBar()->setValue(i * 30);
        list->render(&image);
    });
    time("from step to step", 120, picture, [&](int) {
        QTest::keyClick(list, Qt::Key_Down);
        view.render(&image);
    });
}

void library(const QTemporaryDir& folder, const catalog::Catalog& classes) {
    constexpr int jobs = 2000;
    const std::filesystem::path shelf = std::filesystem::path(folder.path().toStdString()) / "jobs";
    std::filesystem::create_directories(shelf);
    const char* first[] = {"Larch", "Birch", "Oak",   "Elm",   "Alder",
                           "Rowan", "Hazel", "Maple", "Cedar", "Yew"};
    const char* second[] = {"Hall", "Cottage", "House", "Barn", "Mill"};
    for (int i = 0; i < jobs; ++i) {
        house::House h = testing::coaxHouse();
        h.name = std::string(first[i % 10]) + " " + second[i % 5] + " " + std::to_string(i);
        job::Document d{h, {}};
        if (i % 40 == 0) { // judging takes its time; a few have something to judge
            d.runs.push_back({"desk-shelf", testing::steadyRun(benchmark::Direction::forward, 900)});
        }
        (void)job::Store::create(shelf / (std::to_string(i) + ".metrodos"), d);
    }
    auto shelfed = job::Library::open(shelf, shelf.parent_path() / "index.sqlite");
    if (!shelfed) return;
    QElapsedTimer timer;
    timer.start();
    const auto read = shelfed->refresh(classes, {}, {});
    std::printf("index of %zu jobs made anew in %.1f s\n", read.value_or(0), milliseconds(timer) / 1000);
    time("looking whether any has changed", 5, 100, [&](int) { (void)shelfed->refresh(classes, {}, {}); });
    time("2,000 jobs listed", 20, 100, [&](int) { (void)shelfed->list(); });
    time("one word that many have", 20, 100, [&](int) { (void)shelfed->search("larch"); });
    time("two words that few have", 20, 100,
         [&](int i) { (void)shelfed->search("oak " + std::to_string(2 + i * 10)); });
    time("a letter that nearly all have", 20, 100, [&](int) { (void)shelfed->search("c"); });
}

void timeline(const QTemporaryDir& folder, const catalog::Catalog& classes) {
    constexpr int runs = 10'000;
    job::Document d{testing::wiredHouse(), {}};
    const std::int64_t begin = quantity::utcSeconds("2026-01-01T00:00:00Z").value_or(0);
    for (int i = 0; i < runs; ++i) {
        benchmark::Run run =
            testing::steadyRun(i % 2 == 0 ? benchmark::Direction::forward : benchmark::Direction::backward,
                               100 + i % 37, 4, 0.03, "run-" + std::to_string(i));
        run.startedAt = quantity::utcText(begin + i * 1800);
        d.runs.push_back({"desk-shelf", run});
    }
    auto made = job::Store::create(folder.filePath("house.metrodos").toStdString(), d);
    if (!made) return;
    d.runs.clear();
    desktop::JobModel model(classes);
    QElapsedTimer timer;
    timer.start();
    model.setStore(std::move(*made));
    std::printf("10,000 runs opened in %.0f ms\n", milliseconds(timer));
    desktop::LogView view(model);
    view.resize(1180, 700);
    timer.restart();
    view.show();
    QApplication::processEvents();
    std::printf("shown after %.0f ms\n", milliseconds(timer));
    (void)QTest::qWaitFor([&] { return view.isSettled(); }, 60'000);
    std::printf("spreads of all of them after %.1f s, beside the window\n", milliseconds(timer) / 1000);
    auto* line = view.findChild<desktop::LogTimeline*>(QStringLiteral("log-timeline"));
    QImage image(line->size(), QImage::Format_RGB32);
    time("timeline drawn", 20, 16.7, [&](int) { line->render(&image); });
    auto* filter = view.findChild<QLineEdit*>(QStringLiteral("log-first"));
    time("filtered", 6, 100, [&](int i) {
        filter->setText(i % 2 == 0 ? QStringLiteral("direction=forward hours=8-12") : QString());
        Q_EMIT filter->editingFinished();
        QApplication::processEvents();
    });
}

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication application(argc, argv);
    std::setvbuf(stdout, nullptr, _IOLBF, 0);
    desktop::loadFonts();
    desktop::applyTheme(application, desktop::lightTheme());
    const QTemporaryDir folder;
    const catalog::Catalog classes = catalog::loadDefault().value();
    section(folder, classes);
    steps(folder, classes);
    library(folder, classes);
    timeline(folder, classes);
}
