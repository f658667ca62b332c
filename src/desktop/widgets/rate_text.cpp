#include "desktop/widgets/rate_text.h"

#include "quantity/format.h"

#include <QCoreApplication>
#include <QLocale>
#include <cmath>
#include <locale>

namespace metrodos::desktop {

void followLocale(const QLocale& locale) {
    QLocale::setDefault(locale);
    // The core's figures ask the C++ locale; of it only this is changed, so that nothing else reads or writes
    // otherwise.
    struct DecimalMark : std::numpunct<char> {
        explicit DecimalMark(char wanted)
            : mark(wanted) {}
        char mark;
        char do_decimal_point() const override { return mark; }
    };
    const char mark = locale.decimalPoint() == QLatin1String(",") ? ',' : '.';
    std::locale::global(std::locale(std::locale::classic(), new DecimalMark(mark))); // which owns it
}

QString capitalised(const std::string& text) {
    QString out = QString::fromStdString(text);
    if (!out.isEmpty()) out[0] = out[0].toUpper();
    return out;
}

QString rateText(quantity::BitRate rate) {
    return QString::fromStdString(quantity::plain(rate));
}
QString byteText(quantity::BitRate rate) {
    return QString::fromStdString(quantity::plainBytes(rate));
}
QString bothText(quantity::BitRate rate) {
    return QString::fromStdString(quantity::plainBoth(rate));
}

QString shortRate(quantity::BitRate rate) {
    // Three figures where they say something: 2.35G, but 2.5G and 10G for round rates.
    QString text = rateText(rate);
    const auto blank = text.indexOf(QLatin1Char(' '));
    QString number = text.left(blank);
    const QString mark = QLocale().decimalPoint();
    if (number.contains(mark)) {
        while (number.endsWith(QLatin1Char('0')))
            number.chop(1);
        if (number.endsWith(mark)) number.chop(1);
    }
    const QChar prefix = text.at(blank + 1);
    return number + (prefix == QLatin1Char('b') ? QString() : QString(prefix));
}

QString countText(double count) {
    return QLocale().toString(count, 'f', count == std::floor(count) ? 0 : 1);
}

QString rangeText(const catalog::RateSpread& spread) {
    if (spread.p90.bps() / spread.p10.bps() < 1.005) return rateText(spread.p50);
    const QString low = rateText(spread.p10);
    const QString high = rateText(spread.p90);
    const QString unit = low.mid(low.indexOf(QLatin1Char(' ')));
    const QString from = high.endsWith(unit) ? low.left(low.indexOf(QLatin1Char(' '))) : low;
    return QCoreApplication::translate("Rate", "%1 to %2").arg(from, high);
}

QString delayText(double microseconds) {
    return QString::fromStdString(quantity::plainMicroseconds(microseconds));
}

QString percentText(double share) {
    if (share >= 0.995) return QStringLiteral(">99 %");
    if (share < 0.01) return QStringLiteral("<1 %");
    return QLocale().toString(static_cast<int>(std::lround(share * 100))) + QStringLiteral(" %");
}

double logPosition(quantity::BitRate rate) {
    return std::max(0.0, std::log10(std::max(rate.bps(), 1.0) / 1e6) / 4);
}

QString counted(int n, const QString& one, const QString& many) {
    return (n == 1 ? one : many).arg(QLocale().toString(n));
}

} // namespace metrodos::desktop
