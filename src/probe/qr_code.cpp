#include "probe/qr_code.h"

#include <algorithm>
#include <cctype>
#include <chrono>
#include <memory>
#include <poll.h>
#include <qrencode.h>
#include <unistd.h>
#include <zbar.h>

namespace metrodos::probe {
namespace {

constexpr std::size_t maxTextBytes = 500; // bytes

template <auto destroy>
struct Destroy {
    template <typename T>
    void operator()(T* it) const {
        destroy(it);
    }
};
using Scanner = std::unique_ptr<zbar::zbar_image_scanner_t, Destroy<zbar::zbar_image_scanner_destroy>>;
using Image = std::unique_ptr<zbar::zbar_image_t, Destroy<zbar::zbar_image_destroy>>;
using Video = std::unique_ptr<zbar::zbar_video_t, Destroy<zbar::zbar_video_destroy>>;

constexpr unsigned long fourcc(char a, char b, char c, char d) {
    return static_cast<unsigned char>(a) | static_cast<unsigned long>(static_cast<unsigned char>(b)) << 8U |
           static_cast<unsigned long>(static_cast<unsigned char>(c)) << 16U |
           static_cast<unsigned long>(static_cast<unsigned char>(d)) << 24U;
}
constexpr unsigned long greyFormat = fourcc('Y', '8', '0', '0');

Scanner scanner() {
    Scanner s(zbar::zbar_image_scanner_create());
    // Only what we make ourselves: other symbologies would be read into noise.
    zbar::zbar_image_scanner_set_config(s.get(), zbar::ZBAR_NONE, zbar::ZBAR_CFG_ENABLE, 0);
    zbar::zbar_image_scanner_set_config(s.get(), zbar::ZBAR_QRCODE, zbar::ZBAR_CFG_ENABLE, 1);
    return s;
}

std::vector<std::string> textsOf(const Scanner& s, zbar::zbar_image_t* image) {
    std::vector<std::string> out;
    if (zbar::zbar_scan_image(s.get(), image) <= 0) return out;
    for (const auto* symbol = zbar::zbar_image_first_symbol(image); symbol != nullptr;
         symbol = zbar::zbar_symbol_next(symbol))
        out.emplace_back(zbar::zbar_symbol_get_data(symbol), zbar::zbar_symbol_get_data_length(symbol));
    return out;
}

} // namespace

quantity::Result<QrCode> encodeQr(std::string_view text) {
    if (text.empty() || text.size() > maxTextBytes)
        return quantity::problem("this text does not fit a code", "", "keep it between 1 and 500 bytes");
    const std::string whole(text);
    if (whole.find('\0') != std::string::npos)
        return quantity::problem("this text does not fit a code", "", "leave out the zero bytes");
    // Letters, digits and a few marks alone take the denser alphanumeric mode by themselves.
    const std::unique_ptr<QRcode, Destroy<QRcode_free>> made(
        QRcode_encodeString(whole.c_str(), 0, QR_ECLEVEL_M, QR_MODE_8, 1));
    if (!made) return quantity::problem("no code could be made", "", "free some memory and try again");
    QrCode out;
    out.side = made->width;
    const std::span<const unsigned char> modules(made->data,
                                                 static_cast<std::size_t>(made->width * made->width));
    std::transform(modules.begin(), modules.end(), std::back_inserter(out.dark),
                   [](unsigned char m) { return (m & 1U) != 0; });
    return out;
}

std::string terminalText(const QrCode& code) {
    std::string out;
    for (int y = -quietZone; y < code.side + quietZone; y += 2) {
        out += "\x1b[30;107m";
        for (int x = -quietZone; x < code.side + quietZone; ++x) {
            const bool upper = code.isDark(x, y);
            const bool lower = code.isDark(x, y + 1);
            out += upper ? (lower ? "█" : "▀") : (lower ? "▄" : " ");
        }
        out += "\x1b[0m\n";
    }
    return out;
}

quantity::Result<std::vector<std::string>> readQr(std::span<const std::uint8_t> grey, int width, int height) {
    constexpr long long maxPixels = 50'000'000;
    const long long points = static_cast<long long>(width) * height;
    if (width < 1 || height < 1 || points > maxPixels || static_cast<std::size_t>(points) != grey.size())
        return quantity::problem("this picture cannot be searched for a code", "",
                                 "take one of at most 50 million points");
    const Image image(zbar::zbar_image_create());
    zbar::zbar_image_set_format(image.get(), greyFormat);
    zbar::zbar_image_set_size(image.get(), static_cast<unsigned>(width), static_cast<unsigned>(height));
    zbar::zbar_image_set_data(image.get(), grey.data(), grey.size(), nullptr);
    auto found = textsOf(scanner(), image.get());
    if (found.empty())
        return quantity::problem("no code was found in the picture", "",
                                 "take it straight from the front, with the whole white margin");
    return found;
}

quantity::Result<std::vector<std::string>> readQrByCamera(const std::string& device, double seconds,
                                                          const std::stop_token& stop) {
    const auto none = [&](const char* what) {
        return quantity::problem(what, device, "use a picture of the code, or type address and key");
    };
    if (::access(device.c_str(), F_OK) != 0) return none("this machine has no camera");
    const Video video(zbar::zbar_video_create());
    if (zbar::zbar_video_open(video.get(), device.c_str()) != 0 ||
        zbar::zbar_negotiate_format(video.get(), nullptr) != 0 ||
        zbar::zbar_video_enable(video.get(), 1) != 0)
        return none("the camera cannot be used");
    const Scanner s = scanner();
    const auto end = std::chrono::steady_clock::now() + std::chrono::duration<double>(seconds);
    while (!stop.stop_requested() && std::chrono::steady_clock::now() < end) {
        pollfd ready{zbar::zbar_video_get_fd(video.get()), POLLIN, 0};
        constexpr int patience = 100; // ms
        if (::poll(&ready, 1, patience) <= 0) continue;
        const Image frame(zbar::zbar_video_next_image(video.get()));
        if (!frame) return none("the camera gives no picture");
        const Image grey(zbar::zbar_image_convert(frame.get(), greyFormat));
        if (!grey) continue;
        if (auto found = textsOf(s, grey.get()); !found.empty()) return found;
    }
    return none("the camera saw no code");
}

} // namespace metrodos::probe
