// Text for figures as people read them. The decimal mark is that of the C++ locale of the program
// (std::locale::global): a point, unless the program sets another, as the window does. Files are written with
// `fixed`, which knows no locale.
#pragma once

#include "quantity/quantity.h"

#include <string>

namespace metrodos::quantity {

/// "941 Mbit/s", "2.35 Gbit/s", "12.4 Mbit/s", "310 kbit/s": three significant figures.
[[nodiscard]] std::string plain(BitRate rate);

/// The same in bytes: "118 MB/s", "294 MB/s".
[[nodiscard]] std::string plainBytes(BitRate rate);

/// Both together: "941 Mbit/s · 118 MB/s".
[[nodiscard]] std::string plainBoth(BitRate rate);

/// "400 GB", "1.5 TB": decimal.
[[nodiscard]] std::string plain(ByteCount count);

/// "38 m", "1.5 m".
[[nodiscard]] std::string plain(Length length);

/// "¤ 55", "¤ 0.60": ¤ stands for a currency that is not named (ISO 8859-1).
[[nodiscard]] std::string plain(Money money);

/// `value` with so many decimals (0–9) and a point, whatever the locale: for files.
[[nodiscard]] std::string fixed(double value, int decimals);

/// `value` with so many decimals, 0–9.
[[nodiscard]] std::string decimals(double value, int count);

/// `value` with `figures` significant figures, never in exponent form.
[[nodiscard]] std::string significant(double value, int figures);

/// A time of round trip in microseconds as "3.42 ms" or "180 µs".
[[nodiscard]] std::string plainMicroseconds(double microseconds);

} // namespace metrodos::quantity
