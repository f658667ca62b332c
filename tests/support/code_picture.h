// Codes as pictures.
#pragma once

#include "probe/qr_code.h"

#include <QImage>
#include <QPainter>

namespace metrodos::testing {

/// The code as a camera would see it.
inline QImage codePicture(const probe::Invitation& invitation) {
    const probe::QrCode code = probe::encodeQr(invitation.text()).value();
    constexpr int size = 5;
    const int side = (code.side + 2 * probe::quietZone) * size;
    QImage out(side, side, QImage::Format_RGB32);
    out.fill(Qt::white);
    QPainter p(&out);
    for (int y = 0; y < code.side; ++y)
        for (int x = 0; x < code.side; ++x)
            if (code.isDark(x, y))
                p.fillRect((x + probe::quietZone) * size, (y + probe::quietZone) * size, size, size,
                           Qt::black);
    return out;
}

} // namespace metrodos::testing
