// QR codes (ISO/IEC 18004): keys and addresses from screen to screen, without typing.
#pragma once

#include "probe/invitation.h"

#include <cstdint>
#include <optional>
#include <span>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::probe {

/// A square of modules, row by row; true is dark. The quiet zone of four modules around it is left to the
/// painter.
struct QrCode {
    int side = 0;
    std::vector<bool> dark;

    [[nodiscard]] bool isDark(int x, int y) const {
        return x >= 0 && y >= 0 && x < side && y < side &&
               dark[static_cast<std::size_t>(y) * static_cast<std::size_t>(side) +
                    static_cast<std::size_t>(x)];
    }
};
inline constexpr int quietZone = 4;

/// Error correction M. A Problem when the text is empty or longer than 500 bytes.
[[nodiscard]] quantity::Result<QrCode> encodeQr(std::string_view text);

/// For a terminal: two rows of modules in a line, quiet zone included; dark ink on a light ground by escape
/// codes, whatever the colours of the terminal.
[[nodiscard]] std::string terminalText(const QrCode& code);

/// The texts of all codes in a picture of width × height grey values, row by row, 0 black; none found is a
/// Problem. Pictures above 50 million points are refused.
[[nodiscard]] quantity::Result<std::vector<std::string>> readQr(std::span<const std::uint8_t> grey, int width,
                                                                int height);

/// Watches a camera (Video4Linux) until it sees a code, for at most so long. A Problem when there is no
/// camera, when it cannot be used, when nothing was seen, or when stopped.
[[nodiscard]] quantity::Result<std::vector<std::string>>
readQrByCamera(const std::string& device, double seconds, const std::stop_token& stop);

} // namespace metrodos::probe
