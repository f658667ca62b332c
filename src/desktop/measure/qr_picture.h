// A code to be read by a camera.
#pragma once

#include "probe/qr_code.h"

#include <QPainter>
#include <QWidget>

namespace metrodos::desktop {

/// The code, always dark on white: readers want it so.
class QrPicture : public QWidget {
  public:
    QrPicture() {
        constexpr int side = 190;
        setFixedSize(side, side);
    }
    void setCode(const probe::QrCode& code) {
        m_code = code;
        update();
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.fillRect(rect(), Qt::white);
        const int modules = m_code.side + 2 * probe::quietZone;
        const double size = static_cast<double>(width()) / modules;
        for (int y = 0; y < m_code.side; ++y)
            for (int x = 0; x < m_code.side; ++x)
                if (m_code.isDark(x, y)) {
                    // To whole points, so that no light seam lies between two modules.
                    const auto at = [&](int i) { return qRound((i + probe::quietZone) * size); };
                    p.fillRect(QRect(QPoint(at(x), at(y)), QPoint(at(x + 1) - 1, at(y + 1) - 1)), Qt::black);
                }
    }

  private:
    probe::QrCode m_code;
};

} // namespace metrodos::desktop
