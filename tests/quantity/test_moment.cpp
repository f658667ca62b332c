// Moments of files: ISO 8601 in UTC, and the local clock.
#include "quantity/moment.h"

#include <QTest>
#include <cstdlib>

using namespace metrodos::quantity;

class TestMoment : public QObject {
    Q_OBJECT

  private slots:
    // By date(1): date -u -d @1777888800 +%FT%TZ.
    void secondsAndTextAreTheSameMoment() {
        QCOMPARE(utcText(1'777'888'800), std::string("2026-05-04T10:00:00Z"));
        QCOMPARE(utcSeconds("2026-05-04T10:00:00Z"), std::optional<std::int64_t>(1'777'888'800));
        QCOMPARE(utcSeconds("1970-01-01T00:00:00Z"), std::optional<std::int64_t>(0));
        QCOMPARE(utcSeconds("2024-02-29T23:59:59Z"), std::optional<std::int64_t>(1'709'251'199));
        // Parts of a second are left out.
        QCOMPARE(utcSeconds("2026-05-04T10:00:00.734Z"), std::optional<std::int64_t>(1'777'888'800));
        // Beyond the calendar the nearest.
        QCOMPARE(utcText(-5), std::string("1970-01-01T00:00:00Z"));
        QCOMPARE(utcText(std::int64_t(1) << 60), std::string("9999-12-31T23:59:59Z"));
        QVERIFY(utcSeconds(utcNow()));
    }
    void whatIsNoMomentIsNone() {
        for (const char* text : {"", "Z", "2026-05-04", "2026-05-04T10:00:00", "2026-05-04T10:00:00+02:00",
                                 "2026-13-04T10:00:00Z", "2026-02-30T10:00:00Z", "2026-04-31T10:00:00Z",
                                 "2026-05-04T24:30:00Z", "2026-05-04T10:61:00Z", "2026-05-04 10:00:00Z",
                                 "2026-05-04T10:00:00.Z", "2026-05-04T10:00:00.7xZ", "x026-05-04T10:00:00Z",
                                 "2026-05-04T10:00:00ZZ", "1969-12-31T23:59:59Z"})
            QVERIFY2(!utcSeconds(text), text);
    }
    void theLocalClockIsThatOfTheZone() {
        qputenv("TZ", "UTC-2"); // two hours ahead, without a summer time
        ::tzset();
        const LocalTime t = localTime(1'777'931'999); // 2026-05-04T21:59:59Z, a Monday
        QCOMPARE(t.dateText(), std::string("2026-05-04"));
        QCOMPARE(t.weekday, 0);
        QCOMPARE(t.hour, 23);
        QCOMPARE(t.minute, 59);
        const LocalTime next = localTime(1'777'932'000);
        QCOMPARE(next.dateText(), std::string("2026-05-05"));
        QCOMPARE(next.weekday, 1);
        QCOMPARE(next.hour, 0);
        // A Sunday is the last of its week.
        QCOMPARE(localTime(1'777'800'000).weekday, 6); // 2026-05-03T09:20:00Z
    }
};

QTEST_GUILESS_MAIN(TestMoment)
#include "test_moment.moc"
