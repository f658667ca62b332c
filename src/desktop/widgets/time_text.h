// Times of the day and dates as the locale writes them.
#pragma once

#include <QDateTime>
#include <QElapsedTimer>
#include <QString>
#include <optional>
#include <string>

namespace metrodos::desktop {

/// When something was, in local time: "14:02" today, with its date on another day. Seconds where they tell
/// things apart.
[[nodiscard]] QString momentText(const QDateTime& moment, bool seconds = false);

/// The same of ISO 8601 in UTC; "–" where it is no time, or that of a simulation outside time.
[[nodiscard]] QString momentText(const std::string& iso);

/// Seconds that work still takes, as the time since `begun` was for the share of it that is done, 0–1;
/// nothing where neither says much yet.
[[nodiscard]] std::optional<double> secondsLeft(const QElapsedTimer& begun, double done);

/// This moment as records have it: ISO 8601, UTC.
[[nodiscard]] std::string utcNow();

} // namespace metrodos::desktop
