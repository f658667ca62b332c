// Times of the day and dates as the locale writes them.
#pragma once

#include <QDateTime>
#include <QString>
#include <string>

namespace metrodos::desktop {

/// When something was, in local time: "14:02" today, with its date on another day. Seconds where they tell
/// things apart.
[[nodiscard]] QString momentText(const QDateTime& moment, bool seconds = false);

/// The same of ISO 8601 in UTC; "–" where it is no time, or that of a simulation outside time.
[[nodiscard]] QString momentText(const std::string& iso);

/// This moment as records have it: ISO 8601, UTC.
[[nodiscard]] std::string utcNow();

} // namespace metrodos::desktop
