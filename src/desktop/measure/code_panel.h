// Keys and addresses as codes: shows this machine's key, and reads what an agent shows, from a picture or a
// camera.
#pragma once

#include "desktop/model/test_runner.h"
#include "probe/qr_code.h"

#include <QFileDialog>
#include <QWidget>
#include <filesystem>
#include <optional>

class QImage;
class QLabel;
class QPushButton;

namespace metrodos::desktop {

class QrPicture;

class CodePanel : public QWidget {
    Q_OBJECT

  public:
    /// `keyFile`: where the key of this machine lies, or will.
    explicit CodePanel(std::filesystem::path keyFile, QWidget* parent = nullptr);

    /// Searches a picture for a code and takes what it says.
    void read(const QImage& picture);
    /// Takes the key of another machine's key file.
    void takeFile(const std::filesystem::path& file);
    [[nodiscard]] bool showsKey() const;

  Q_SIGNALS:
    void addressRead(const QString& address);
    void meetingRead(const QString& address, const metrodos::probe::MeetingCode& code);
    void said(const QString& sentence, bool isProblem);

  protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    void toggleKey();
    void hideKey();
    void open();
    void paste();
    void watchCamera();
    void chooseFile(const QString& title, QFileDialog::AcceptMode mode,
                    const std::function<void(const QString&)>& chosen);
    void take(const std::vector<std::string>& texts);
    quantity::Result<void> keep(const probe::Key& key);

    std::filesystem::path m_keyFile;
    QPushButton* m_show;
    QPushButton* m_camera;
    QPushButton* m_save;
    QrPicture* m_picture;
    QLabel* m_text;
    QLabel* m_hint;
    TestRunner m_runner;
};

} // namespace metrodos::desktop
