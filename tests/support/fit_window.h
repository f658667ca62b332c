// The window in stage Fit on the demo job, which is half fitted.
#pragma once

#include "fit/steps.h"
#include "support/measure_window.h"

#include <QTableWidget>

namespace metrodos::testing {

struct FittingWindow : MeasureWindow {
    explicit FittingWindow(const std::function<void(house::House&)>& survey = [](house::House&) {})
        : MeasureWindow(false, survey) {
        toFit();
    }
    void toFit() {
        QTest::keyClick(&window, Qt::Key_3, Qt::ControlModifier);
        QCoreApplication::processEvents();
    }
    [[nodiscard]] std::vector<fit::Step> steps() const {
        return fit::stepsOf(saved(), catalog::loadDefault().value());
    }
    /// The step of this kind, about this thing where one is given, is chosen; by the list.
    fit::Step choose(fit::StepKind kind, const std::string& about = {}) {
        const auto all = steps();
        for (std::size_t i = 0; i < all.size(); ++i)
            if (all[i].kind == kind && (about.empty() || all[i].about == about)) {
                auto* list = child<QTableWidget>("steps");
                list->setFocus();
                list->setCurrentCell(static_cast<int>(i), 1);
                return all[i];
            }
        qFatal("there is no such step");
        return {};
    }
    /// A page of the stage, by the key of its tab.
    void page(Page page) {
        window.setPage(page);
        QCoreApplication::processEvents();
    }
    [[nodiscard]] QString text(const char* name) { return child<QLabel>(name)->text(); }
    [[nodiscard]] QString said() { return child<QLabel>("status")->text(); }
    /// To whatever has the keyboard.
    void key(Qt::Key k, Qt::KeyboardModifiers with = Qt::NoModifier) {
        QTest::keyClick(QApplication::focusWidget(), k, with);
        QCoreApplication::processEvents();
    }
    void type(const QString& words) { QTest::keyClicks(QApplication::focusWidget(), words); }
    void undo() { QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier); }
};

} // namespace metrodos::testing
