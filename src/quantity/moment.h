// Moments as files have them, ISO 8601 in UTC to the second: "2026-05-04T10:00:00Z".
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace metrodos::quantity {

[[nodiscard]] std::string utcNow();
/// Of seconds since 1970, of the years 1970 to 9999; outside them the nearest.
[[nodiscard]] std::string utcText(std::int64_t seconds);
/// Seconds since 1970; nothing for anything but "dddd-dd-ddTdd:dd:ddZ", fractions of a second allowed and
/// left out.
[[nodiscard]] std::optional<std::int64_t> utcSeconds(std::string_view text);

/// A moment on the clock of this machine's time zone.
struct LocalTime {
    int year = 1970;
    int month = 1; ///< 1–12
    int day = 1;
    int weekday = 0; ///< 0: Monday
    int hour = 0;
    int minute = 0;
    [[nodiscard]] std::string dateText() const; ///< "2026-05-04"
};
[[nodiscard]] LocalTime localTime(std::int64_t seconds);

} // namespace metrodos::quantity
