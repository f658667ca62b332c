// The paper that is usual where the machine stands.
#pragma once

#include <QLocale>

namespace metrodos::desktop {

/// Letter, else A4.
[[nodiscard]] inline bool isLetterUsual() {
    return QLocale().measurementSystem() == QLocale::ImperialUSSystem;
}

} // namespace metrodos::desktop
