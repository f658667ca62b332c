#include "desktop/widgets/time_text.h"

#include <QLocale>

namespace metrodos::desktop {

QString momentText(const QDateTime& moment, bool seconds) {
    const QLocale locale;
    QString format = locale.timeFormat(QLocale::ShortFormat);
    if (seconds && !format.contains(QLatin1String("ss")))
        format.replace(QLatin1String("mm"), QLatin1String("mm:ss"));
    QString clock = locale.toString(moment.time(), format);
    if (moment.date() == QDate::currentDate()) return clock;
    return locale.toString(moment.date(), QLocale::ShortFormat) + QLatin1Char(' ') + clock;
}

QString momentText(const std::string& iso) {
    const QDateTime time = QDateTime::fromString(QString::fromStdString(iso), Qt::ISODate).toLocalTime();
    const bool isReal =
        time.isValid() && time.date().year() > 1971; // simulations are at the beginning of 1970
    return isReal ? momentText(time) : QStringLiteral("–");
}

std::optional<double> secondsLeft(const QElapsedTimer& begun, double done) {
    constexpr double little = 0.02;
    constexpr double longEnough = 1; // s
    const double passed = static_cast<double>(begun.isValid() ? begun.elapsed() : 0) / 1000;
    if (done < little || done >= 1 || passed < longEnough) return std::nullopt;
    return passed / done * (1 - done);
}

std::string utcNow() {
    return QDateTime::currentDateTimeUtc().toString(Qt::ISODate).toStdString();
}

} // namespace metrodos::desktop
