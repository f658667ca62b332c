// Pictures in a job file: kept, found again, swept out when nothing names them, and carried along.
#include "job/document.h"
#include "job/open.h"
#include "job/photo.h"
#include "job/store.h"
#include "support/houses.h"

#include <QTemporaryDir>
#include <QTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <nlohmann/json.hpp>

using namespace metrodos;

namespace {

// What begins as a JPEG file does.
std::string picture(const std::string& tail) {
    return "\xff\xd8\xff\xe0" + tail + std::string("\0\x01\xfe", 3);
}

house::House naming(house::House h, const std::string& digest) {
    h.fitting.records = {{"bench-coax", house::StepState::done, "2026-05-04T10:00:00Z"}};
    h.fitting.records[0].photos = {{digest, "2026-05-04T10:00:00Z", "splitter"}};
    return h;
}

} // namespace

class TestPhotos : public QObject {
    Q_OBJECT

    QTemporaryDir m_folder;
    int m_next = 0;
    std::filesystem::path file() {
        return m_folder.filePath(QStringLiteral("job-%1.metrodos").arg(++m_next)).toStdString();
    }

  private slots:
    // FIPS 180-4's own example, and RFC 4648's.
    void digestsAndBase64AreStandard() {
        QCOMPARE(job::digestOf("abc"),
                 std::string("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"));
        for (const auto& [plain, coded] : {std::pair("", ""), std::pair("f", "Zg=="), std::pair("fo", "Zm8="),
                                           std::pair("foo", "Zm9v"), std::pair("foob", "Zm9vYg==")}) {
            QCOMPARE(job::base64(plain), std::string(coded));
            QCOMPARE(job::fromBase64(coded).value(), std::string(plain));
        }
        for (const char* bad : {"Zg=", "Z", "Zg==Zg", "!!!!"})
            QVERIFY2(!job::fromBase64(bad), bad);
    }
    void aPictureIsKept() {
        const auto at = file();
        auto store = job::Store::create(at, {testing::wiredHouse(), {}}).value();
        const std::string digest = store.addPhoto(picture("one")).value();
        QCOMPARE(digest, job::digestOf(picture("one")));
        QVERIFY(store.change("photo", naming(store.house(), digest)).has_value());
        QCOMPARE(store.photo(digest).value(), picture("one"));
        auto again = job::Store::open(at).value();
        QCOMPARE(again.photo(digest).value(), picture("one"));
        QCOMPARE(again.house().fitting.records[0].photos[0].caption, std::string("splitter"));
        QVERIFY(!again.photo(std::string(64, '0')));
        for (const std::string& bad : {std::string(), std::string("GIF89a"), std::string("\xff\xd8"),
                                       picture(std::string(job::maxPhotoBytes, 'x'))})
            QVERIFY(!again.addPhoto(bad));
    }
    void undoBringsItBackAndWhatNothingNamesGoes() {
        auto store = job::Store::create(file(), {testing::wiredHouse(), {}}).value();
        const std::string kept = store.addPhoto(picture("kept")).value();
        QVERIFY(store.change("photo", naming(store.house(), kept)).has_value());
        QVERIFY(store.undo().has_value());
        const std::string stray = store.addPhoto(picture("stray")).value();
        const std::string third = store.addPhoto(picture("third")).value(); // sweeps before it comes
        QVERIFY(!store.photo(stray));                                       // nothing ever named it
        QVERIFY(store.photo(kept).has_value());                             // redo may want it
        QVERIFY(store.photo(third).has_value());
        QVERIFY(store.redo().has_value());
        QCOMPARE(store.photo(kept).value(), picture("kept"));
    }
    void itGoesAlongInTheInterchangeForm() {
        auto store = job::Store::create(file(), {testing::wiredHouse(), {}}).value();
        const std::string digest = store.addPhoto(picture("one")).value();
        QVERIFY(store.change("photo", naming(store.house(), digest)).has_value());
        const nlohmann::json out = job::toJson(store.document().value());
        QVERIFY(job::faultsOf(out).empty());
        const auto back = job::documentFromJson(out).value();
        QCOMPARE(back.photos.size(), std::size_t(1));
        const auto other = file();
        auto copy = job::Store::create(other, back).value();
        QCOMPARE(copy.photo(digest).value(), picture("one"));
        // One that is not what its digest says is refused.
        nlohmann::json changed = out;
        changed["photos"][0]["jpeg"] = job::base64(picture("two"));
        QVERIFY(!job::documentFromJson(changed));
        changed["photos"][0]["jpeg"] = "no base 64!!";
        QVERIFY(!job::documentFromJson(changed));
    }
    void aDamagedPictureIsSaidAndRecovered() {
        const auto at = file();
        std::string digest;
        std::string spoilt;
        {
            auto store = job::Store::create(at, {testing::wiredHouse(), {}}).value();
            digest = store.addPhoto(picture("one")).value();
            QVERIFY(store.change("photo", naming(store.house(), digest)).has_value());
            spoilt = store.addPhoto(picture("two")).value();
        }
        SQLite::Database(at.string(), SQLite::OPEN_READWRITE)
            .exec("UPDATE photo SET body=X'ffd8ff00' WHERE digest='" + spoilt + "'");
        auto store = job::Store::open(at).value();
        QVERIFY(store.photo(spoilt).error().what.find("damaged") != std::string::npos);
        QVERIFY(store.photo(digest).has_value());
        QCOMPARE(store.document().value().photos.size(), std::size_t(1));
        const auto copy = file();
        QVERIFY(job::recoverCopy(at, copy).has_value());
        QCOMPARE(job::Store::open(copy).value().photo(digest).value(), picture("one"));
    }
    void aJobOfAnEarlierVersionGetsTheTable() {
        const auto at = file();
        (void)job::Store::create(at, {testing::wiredHouse(), {}});
        SQLite::Database(at.string(), SQLite::OPEN_READWRITE).exec("DROP TABLE photo; PRAGMA user_version=2");
        {
            const auto readOnly = job::Store::open(at, job::Store::Mode::readOnly).value();
            QVERIFY(!readOnly.photo(std::string(64, '0')));
            QVERIFY(readOnly.document().value().photos.empty());
        }
        auto store = job::Store::open(at).value();
        QVERIFY(store.addPhoto(picture("one")).has_value());
    }
};

QTEST_APPLESS_MAIN(TestPhotos)
#include "test_photos.moc"
