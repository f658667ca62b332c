// Codes: what is drawn can be read again, turned, small or noisy; what is no code of ours is refused.
#include "probe/qr_code.h"

#include <QTest>
#include <random>

using namespace metrodos::probe;

namespace {

struct Grey {
    int side = 0;
    std::vector<std::uint8_t> points;
};

// The code with its margin, so many points a module.
Grey drawn(const QrCode& code, int size) {
    Grey out;
    out.side = (code.side + 2 * quietZone) * size;
    for (int y = 0; y < out.side; ++y)
        for (int x = 0; x < out.side; ++x)
            out.points.push_back(code.isDark(x / size - quietZone, y / size - quietZone) ? 0 : 255);
    return out;
}

Invitation invitation() {
    return {"192.168.1.20:47710", Key::generate()};
}

} // namespace

class TestQrCode : public QObject {
    Q_OBJECT

  private slots:
    void whatIsDrawnCanBeReadAgain() {
        for (const Invitation& sent : {invitation(), Invitation{"", Key::generate()},
                                       Invitation{"[fd00::1%eth0]:5000", std::nullopt}}) {
            const auto code = encodeQr(sent.text());
            QVERIFY(code.has_value());
            for (const int size : {3, 8}) {
                const Grey picture = drawn(*code, size);
                const auto texts = readQr(picture.points, picture.side, picture.side);
                QVERIFY2(texts.has_value(), texts ? "" : texts.error().sentence().c_str());
                QCOMPARE(texts->size(), std::size_t(1));
                QVERIFY(Invitation::parse(texts->front()).value() == sent);
            }
        }
    }
    void upsideDownAndNoisyToo() {
        const Invitation sent = invitation();
        Grey picture = drawn(encodeQr(sent.text()).value(), 6);
        std::reverse(picture.points.begin(), picture.points.end());
        std::mt19937 random(3);
        std::normal_distribution<double> noise(0, 8);
        for (std::uint8_t& p : picture.points)
            p = static_cast<std::uint8_t>(std::clamp(p * 0.6 + 50 + noise(random), 0.0, 255.0));
        const auto texts = readQr(picture.points, picture.side, picture.side);
        QVERIFY(texts.has_value());
        QVERIFY(Invitation::parse(texts->front()).value() == sent);
    }
    void anAddressAndKeyStaySmall() {
        // Letters and digits alone: 5.5 bits each, and the code fits a terminal of 80 × 24.
        const auto code = encodeQr(invitation().text());
        QVERIFY(code->side <= 33);
        const std::string text = terminalText(*code);
        QVERIFY(std::count(text.begin(), text.end(), '\n') <= 23);
    }
    void whatIsNoCodeIsASentence() {
        const std::vector<std::uint8_t> white(100 * 100, 255);
        QVERIFY(readQr(white, 100, 100).error().sentence().find("no code") != std::string::npos);
        QVERIFY(!readQr(white, 100, 99));
        QVERIFY(!readQr({}, 0, 0));
        QVERIFY(!readQr(white, -100, -100));
        QVERIFY(!encodeQr(""));
        QVERIFY(!encodeQr(std::string(501, 'A')));
        QVERIFY(!encodeQr(std::string("A\0B", 3)));
        QVERIFY(readQrByCamera("/dev/no-such-camera", 1, {}).error().sentence().find("no camera") !=
                std::string::npos);
    }
    void foreignTextsAreRefused() {
        for (const char* text : {"", "hello", "METRODOS:", "METRODOS:/", "METRODOS:host:1", "METRODOS:a b/",
                                 "METRODOS:h:1/NOT-A-KEY", "http://192.168.1.1/"})
            QVERIFY2(!Invitation::parse(text), text);
        QVERIFY(!Invitation::parse("METRODOS:" + std::string(600, 'a') + "/"));
        QCOMPARE(Invitation::parse("metrodos:Desk.LOCAL:47710/")->address, std::string("desk.local:47710"));
    }
    void theAddressIsOneThatOthersReach() {
        QCOMPARE(reachableAddress("127.0.0.1", 80).value(), std::string("127.0.0.1:80"));
        QCOMPARE(reachableAddress("fe80::1", 80).value(), std::string("[fe80::1]:80"));
        if (const auto found = reachableAddress("0.0.0.0", 80)) { // a machine without a network has none
            QVERIFY(found->rfind("127.", 0) != 0);
            QVERIFY(found->size() > 3 && found->substr(found->size() - 3) == ":80");
        }
    }
};

QTEST_GUILESS_MAIN(TestQrCode)
#include "test_qr_code.moc"
