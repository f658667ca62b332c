// A device with nothing but a browser as a machine of the job: the address and the code that it opens.
#pragma once

#include "probe/guest_end.h"

#include <QWidget>
#include <memory>

class QLabel;
class QTimer;

namespace metrodos::desktop {

class QrPicture;

class GuestPanel : public QWidget {
    Q_OBJECT

  public:
    explicit GuestPanel(QWidget* parent = nullptr);

    void showGuest(const QString& machine, std::shared_ptr<probe::GuestEnd> guest);

  Q_SIGNALS:
    void arrived(const QString& machine,
                 const QString& address); ///< the device has opened the page and said how it is joined

  private:
    void look();

    void showAddresses(const std::vector<std::string>& urls);

    std::shared_ptr<probe::GuestEnd> m_guest;
    std::vector<std::string> m_urls;
    QString m_machine;
    QrPicture* m_picture;
    QLabel* m_address;
    QLabel* m_state;
    QTimer* m_timer;
    bool m_wasHere = false;
};

} // namespace metrodos::desktop
