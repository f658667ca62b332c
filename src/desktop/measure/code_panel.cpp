#include "desktop/measure/code_panel.h"

#include "desktop/measure/qr_picture.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"

#include <QApplication>
#include <QClipboard>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QImage>
#include <QImageReader>
#include <QLabel>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

using nlohmann::json;

constexpr double cameraSeconds = 60;
constexpr const char* camera = "/dev/video0";

QPushButton* button(const QString& name, const QString& text, const QString& tip) {
    auto* b = new QPushButton(text);
    b->setObjectName(name);
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    return b;
}

} // namespace

CodePanel::CodePanel(std::filesystem::path keyFile, QWidget* parent)
    : QWidget(parent)
    , m_keyFile(std::move(keyFile))
    , m_show(button(QStringLiteral("show-key"), tr("Show the key"),
                    tr("As a code for other machines, and in letters")))
    , m_camera(button(QStringLiteral("read-camera"), tr("Read a code by camera"),
                      tr("Hold the agent's code in front of the camera")))
    , m_picture(new QrPicture)
    , m_text(plainLabel())
    , m_hint(
          plainLabel(tr("Every agent needs this key in its key file. Whoever sees it can run tests here."))) {
    setObjectName(QStringLiteral("codes"));
    setAcceptDrops(true);
    auto* row = new QHBoxLayout;
    row->addWidget(m_show);
    row->addWidget(m_camera);
    auto* picture = button(QStringLiteral("read-picture"), tr("… in a picture"),
                           tr("Open a picture of a code; one can also be dropped here"));
    auto* pasted = button(QStringLiteral("read-clipboard"), tr("… on the clipboard"),
                          tr("Take the picture that was copied"));
    row->addWidget(picture);
    row->addWidget(pasted);
    auto* fromFile = button(QStringLiteral("key-from-file"), tr("Key from a file …"),
                            tr("Take the key that another machine wrote to a file"));
    m_save = button(QStringLiteral("key-to-file"), tr("Save it as a file …"),
                    tr("For metrodos-agent --key-file on the other machine"));
    row->addWidget(fromFile);
    row->addWidget(m_save);
    row->addStretch();
    m_save->hide();
    connect(fromFile, &QPushButton::clicked, this, [this] {
        chooseFile(tr("Key file of the other machine"), QFileDialog::AcceptOpen,
                   [this](const QString& file) { takeFile(file.toStdString()); });
    });
    connect(m_save, &QPushButton::clicked, this, [this] {
        chooseFile(tr("Save the key"), QFileDialog::AcceptSave, [this](const QString& file) {
            const auto key = probe::Key::load(m_keyFile);
            const auto saved = key ? key->save(file.toStdString()) : tl::unexpected(key.error());
            Q_EMIT said(saved ? tr("The key is in %1; start metrodos-agent with it.").arg(file)
                              : QString::fromStdString(saved.error().sentence()),
                        !saved);
        });
    });
    m_text->setFont(codeFont(13, true));
    m_text->setObjectName(QStringLiteral("key-text"));
    m_text->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    m_text->setWordWrap(true);
    auto* key = new QHBoxLayout;
    key->setSpacing(14);
    key->addWidget(m_picture);
    auto* words = new QVBoxLayout;
    words->addWidget(m_text);
    words->addWidget(m_hint);
    words->addStretch();
    key->addLayout(words, 1);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addLayout(row);
    layout->addLayout(key);
    m_picture->setObjectName(QStringLiteral("key-code"));
    m_picture->hide();
    m_hint->setWordWrap(true);
    m_text->hide();
    m_hint->hide();
    connect(m_show, &QPushButton::clicked, this, &CodePanel::toggleKey);
    connect(picture, &QPushButton::clicked, this, &CodePanel::open);
    connect(pasted, &QPushButton::clicked, this, &CodePanel::paste);
    connect(m_camera, &QPushButton::clicked, this, &CodePanel::watchCamera);
    connect(&m_runner, &TestRunner::finished, this, [this](const json& found) {
        m_camera->setText(tr("Read a code by camera"));
        take(found.at("texts").get<std::vector<std::string>>());
    });
    connect(&m_runner, &TestRunner::failed, this, [this](const QString& sentence) {
        m_camera->setText(tr("Read a code by camera"));
        Q_EMIT said(sentence, true);
    });
}

bool CodePanel::showsKey() const {
    return m_picture->isVisibleTo(this);
}

void CodePanel::toggleKey() {
    if (showsKey()) {
        hideKey();
        return;
    }
    if (std::error_code gone; !std::filesystem::exists(m_keyFile, gone)) {
        if (const auto made = keep(probe::Key::generate()); !made) {
            Q_EMIT said(QString::fromStdString(made.error().sentence()), true);
            return;
        }
        Q_EMIT said(tr("A new key was made; every agent needs it."), false);
    }
    const auto key = probe::Key::load(m_keyFile);
    const auto code = key ? probe::encodeQr(probe::Invitation{"", *key}.text())
                          : quantity::Result<probe::QrCode>(tl::unexpected(key.error()));
    if (!code) {
        Q_EMIT said(QString::fromStdString(code.error().sentence()), true);
        return;
    }
    m_picture->setCode(*code);
    m_text->setText(QString::fromStdString(key->text()));
    m_hint->show();
    m_picture->show();
    m_text->show();
    m_save->show();
    m_show->setText(tr("Hide the key"));
}

void CodePanel::hideKey() {
    m_picture->hide();
    m_text->hide();
    m_hint->hide();
    m_text->clear();
    m_save->hide();
    m_picture->setCode({});
    m_show->setText(tr("Show the key"));
}

// A key is not left standing on a page that was left.
void CodePanel::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    hideKey();
}

void CodePanel::open() {
    const QString file = QFileDialog::getOpenFileName(this, tr("Picture of a code"), {},
                                                      tr("Pictures (*.png *.jpg *.jpeg *.bmp *.webp)"));
    if (file.isEmpty()) return;
    QImageReader reader(file);
    reader.setAutoTransform(true);
    const QImage picture = reader.read();
    if (picture.isNull())
        Q_EMIT said(tr("“%1” is no picture that can be read; save it as PNG or JPEG.").arg(file), true);
    else
        read(picture);
}

void CodePanel::paste() {
    const QImage picture = QApplication::clipboard()->image();
    if (picture.isNull())
        Q_EMIT said(tr("there is no picture on the clipboard; copy one first."), true);
    else
        read(picture);
}

void CodePanel::watchCamera() {
    if (m_runner.isRunning()) {
        m_runner.stop();
        return;
    }
    m_camera->setText(tr("Stop the camera"));
    Q_EMIT said(tr("Hold the agent's code in front of the camera …"), false);
    m_runner.start([](const TestRunner::Progress&, const std::stop_token& stop) {
        return probe::readQrByCamera(camera, cameraSeconds, stop)
            .map([](const std::vector<std::string>& texts) {
                return json{{"texts", texts}};
            });
    });
}

void CodePanel::read(const QImage& picture) {
    // Rows of a grey picture are padded; the reader wants them one behind the other.
    const QImage grey = picture.convertToFormat(QImage::Format_Grayscale8);
    std::vector<std::uint8_t> points;
    points.reserve(static_cast<std::size_t>(grey.width()) * static_cast<std::size_t>(grey.height()));
    for (int y = 0; y < grey.height(); ++y)
        points.insert(points.end(), grey.constScanLine(y), grey.constScanLine(y) + grey.width());
    const auto found = probe::readQr(points, grey.width(), grey.height());
    if (!found)
        Q_EMIT said(QString::fromStdString(found.error().sentence()), true);
    else
        take(*found);
}

void CodePanel::take(const std::vector<std::string>& texts) {
    std::optional<quantity::Problem> wrong;
    for (const std::string& text : texts) {
        const auto invitation = probe::Invitation::parse(text);
        if (!invitation) {
            wrong = invitation.error();
            continue;
        }
        if (invitation->meeting) {
            Q_EMIT meetingRead(QString::fromStdString(invitation->address), *invitation->meeting);
            return;
        }
        if (invitation->key)
            if (const auto kept = keep(*invitation->key); !kept) {
                Q_EMIT said(QString::fromStdString(kept.error().sentence()), true);
                return;
            }
        if (invitation->address.empty())
            Q_EMIT said(tr("The key was read and is kept."), false);
        else
            Q_EMIT addressRead(QString::fromStdString(invitation->address));
        return;
    }
    if (wrong) Q_EMIT said(QString::fromStdString(wrong->sentence()), true);
}

void CodePanel::chooseFile(const QString& title, QFileDialog::AcceptMode mode,
                           const std::function<void(const QString&)>& chosen) {
    auto* dialog = new QFileDialog(this, title);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QFileDialog::DontUseNativeDialog);
    dialog->setAcceptMode(mode);
    connect(dialog, &QFileDialog::fileSelected, this, chosen);
    dialog->open();
}

void CodePanel::takeFile(const std::filesystem::path& file) {
    const auto key = probe::Key::load(file);
    const auto kept = key ? keep(*key) : tl::unexpected(key.error());
    Q_EMIT said(kept ? tr("The key was read and is kept.") : QString::fromStdString(kept.error().sentence()),
                !kept);
}

// A key that is there already stays, unless it is the same.
quantity::Result<void> CodePanel::keep(const probe::Key& key) {
    if (std::error_code gone; std::filesystem::exists(m_keyFile, gone)) {
        const auto own = probe::Key::load(m_keyFile);
        if (!own) return tl::unexpected(own.error());
        if (*own == key) return {};
        return quantity::problem(
            "the code has another key than this machine", m_keyFile.string(),
            "give the agent this machine's key, or move this machine's key file away first");
    }
    std::error_code failed;
    std::filesystem::create_directories(m_keyFile.parent_path(), failed);
    return key.save(m_keyFile);
}

void CodePanel::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasImage() || event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void CodePanel::dropEvent(QDropEvent* event) {
    QImage picture = qvariant_cast<QImage>(event->mimeData()->imageData());
    for (const QUrl& url : event->mimeData()->urls())
        if (picture.isNull() && url.isLocalFile()) picture.load(url.toLocalFile());
    if (picture.isNull())
        Q_EMIT said(tr("What was dropped is no picture; drop a PNG or JPEG of the code."), true);
    else
        read(picture);
}

} // namespace metrodos::desktop
