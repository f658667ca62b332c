// What every test of the real window needs before the first one opens.
#pragma once

#include "desktop/widgets/theme.h"
#include "probe/socket.h"

#include <QApplication>
#include <QTemporaryDir>

namespace metrodos::testing {

/// Settings and kept jobs go to `home`; fonts and the light scheme are there.
inline void prepareWindows(const QTemporaryDir& home) {
    probe::ignoreBrokenPipes();
    qputenv("XDG_CONFIG_HOME", home.path().toUtf8());
    qputenv("XDG_DATA_HOME", home.path().toUtf8());
    qputenv("XDG_CACHE_HOME", home.path().toUtf8());
    qputenv("METRODOS_JOBS", (home.path() + "/jobs").toUtf8());
    QApplication::setApplicationName(QStringLiteral("metrodos-test"));
    desktop::loadFonts();
    desktop::applyTheme(*qApp, desktop::lightTheme());
}

} // namespace metrodos::testing
