// Figures for the screen, in the locale's way of writing numbers.
#pragma once

#include "capacity/distribution.h"
#include "quantity/quantity.h"

#include <QLocale>
#include <QString>

namespace metrodos::desktop {

[[nodiscard]] QString rateText(quantity::BitRate rate);             ///< "282 Mbit/s"
[[nodiscard]] QString byteText(quantity::BitRate rate);             ///< "35.2 MB/s"
[[nodiscard]] QString bothText(quantity::BitRate rate);             ///< "282 Mbit/s · 35.2 MB/s"
[[nodiscard]] QString shortRate(quantity::BitRate rate);            ///< "282M", "2.35G"
[[nodiscard]] QString rangeText(const catalog::RateSpread& spread); ///< "280 to 350 Mbit/s", or one figure
[[nodiscard]] QString delayText(double microseconds);               ///< "3.65 ms"
[[nodiscard]] QString percentText(double share);                    ///< "92 %", ">99 %", "<1 %"
/// Has all figures of the program, those in sentences of the core among them, written in this way. Once,
/// before there are threads.
void followLocale(const QLocale& locale);
/// A text of the core with its first letter in upper case, as a heading has it.
[[nodiscard]] QString capitalised(const std::string& text);

/// "1 hole", "4 holes": `one` and `many` with %1 for the number.
[[nodiscard]] QString counted(int n, const QString& one, const QString& many);

/// A number of pieces or metres: "3", "24.5".
[[nodiscard]] QString countText(double count);

/// Position of a rate on a logarithmic scale from 1 Mbit/s (0) to 10 Gbit/s (1), not clipped above.
[[nodiscard]] double logPosition(quantity::BitRate rate);

} // namespace metrodos::desktop
