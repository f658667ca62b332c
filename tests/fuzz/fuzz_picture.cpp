// Pictures of codes: any grey values, and a good code with some of its modules turned.
#include "probe/qr_code.h"

#include <algorithm>

using namespace metrodos::probe;

namespace {

// As grey values, quiet zone included, each module so many points wide.
void readDamaged(std::span<const unsigned char> damage) {
    constexpr int module = 3;
    static const QrCode good = encodeQr("METRODOS:192.0.2.20:47710/").value();
    QrCode code = good;
    for (std::size_t i = 0; i + 1 < damage.size(); i += 2) {
        const auto at = (static_cast<std::size_t>(damage[i]) * 256 + damage[i + 1]) % code.dark.size();
        code.dark[at] = !code.dark[at];
    }
    const int side = (code.side + 2 * quietZone) * module;
    std::vector<std::uint8_t> grey(static_cast<std::size_t>(side) * static_cast<std::size_t>(side));
    for (int y = 0; y < side; ++y)
        for (int x = 0; x < side; ++x)
            grey[static_cast<std::size_t>(y * side + x)] =
                code.isDark(x / module - quietZone, y / module - quietZone) ? 0 : 255;
    if (const auto texts = readQr(grey, side, side))
        for (const std::string& text : *texts)
            (void)Invitation::parse(text);
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    if (size < 3) return 0;
    if (data[0] % 2 == 0) {
        readDamaged({data + 1, std::min<std::size_t>(size - 1, 200)});
        return 0;
    }
    // What a file says of its size need not be true.
    const int width = data[1];
    const int height = data[2];
    (void)readQr({data + 3, size - 3}, width, height);
    return 0;
}
