// How fast the list of three hundred steps is there, and follows the hand.
#include "catalog/load.h"
#include "desktop/fit/fit_view.h"
#include "desktop/widgets/theme.h"
#include "job/store.h"
#include "support/large_fitting.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QScrollBar>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cstdio>

using namespace metrodos;

namespace {

double milliseconds(const QElapsedTimer& timer) {
    return static_cast<double>(timer.nsecsElapsed()) / 1e6;
}

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication application(argc, argv);
    desktop::loadFonts();
    desktop::applyTheme(application, desktop::lightTheme());
    const QTemporaryDir folder;
    const catalog::Catalog classes = catalog::loadDefault().value();
    const house::House h = testing::largeFitting();
    QElapsedTimer timer;
    timer.start();
    constexpr int times = 20;
    std::size_t count = 0;
    for (int i = 0; i < times; ++i)
        count = fit::stepsOf(h, classes).size();
    std::printf("%zu steps derived in %.1f ms (wanted 50)\n", count, milliseconds(timer) / times);
    desktop::JobModel model(classes);
    auto made = job::Store::create(folder.filePath("house.metrodos").toStdString(), {h, {}});
    if (!made) {
        std::puts(made.error().sentence().c_str());
        return 1;
    }
    model.setStore(std::move(*made));
    desktop::FitView view(model);
    view.resize(1180, 700);
    timer.restart();
    view.show();
    QApplication::processEvents();
    std::printf("their list laid out in %.1f ms\n", milliseconds(timer));
    auto* list = view.findChild<QTableWidget*>(QStringLiteral("steps"));
    QImage image(list->size(), QImage::Format_RGB32);
    for (const bool byKey : {false, true}) {
        std::vector<double> pictures;
        for (int i = 0; i < 120; ++i) {
            timer.restart();
            // As the wheel scrolls, and as the arrow key goes from step to step with its card.
            if (byKey)
                QTest::keyClick(list, Qt::Key_Down);
            else
                list->verticalScrollBar()->setValue(i * 30);
            if (byKey)
                view.render(&image);
            else
                list->render(&image);
            pictures.push_back(milliseconds(timer));
        }
        std::sort(pictures.begin(), pictures.end());
        std::printf("%s: a picture in %.1f ms (median of %zu), slowest %.1f ms (wanted 16.7)\n",
                    byKey ? "from step to step" : "scrolling", pictures[pictures.size() / 2], pictures.size(),
                    pictures.back());
    }
}
