#include "desktop/fit/photo_strip.h"

#include "desktop/fit/photo_file.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/time_text.h"

#include <QDialog>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QListWidget>
#include <QScreen>
#include <QVBoxLayout>
#include <algorithm>

namespace metrodos::desktop {
namespace {

constexpr QSize small(132, 88); // pixels

} // namespace

PhotoStrip::PhotoStrip(JobModel& job, QWidget* parent)
    : QWidget(parent)
    , m_job(job)
    , m_list(new QListWidget) {
    setObjectName(QStringLiteral("photo-strip"));
    m_list->setObjectName(QStringLiteral("photos"));
    m_list->setAccessibleName(tr("Photos of this step; Enter enlarges, Delete takes out"));
    m_list->setViewMode(QListView::IconMode);
    m_list->setFlow(QListView::LeftToRight);
    m_list->setWrapping(false);
    m_list->setMovement(QListView::Static);
    m_list->setIconSize(small);
    m_list->setFixedHeight(small.height() + 44);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(m_list);
    setFocusProxy(m_list);
    connect(m_list, &QListWidget::itemActivated, this, &PhotoStrip::enlarge);
    connect(&m_job, &JobModel::opened, this, [this] { m_small.clear(); });
    hide();
}

void PhotoStrip::showStep(const fit::Step& step) {
    m_step = step;
    std::vector<house::Photo> photos;
    for (const house::StepRecord& r : m_job.house().fitting.records)
        if (r.step == step.id) photos = r.photos;
    setVisible(!photos.empty());
    if (photos == m_photos) return;
    m_photos = std::move(photos);
    fill();
}

void PhotoStrip::fill() {
    m_list->clear();
    for (const house::Photo& p : m_photos) {
        const QImage image = imageOf(p.digest);
        auto* item = new QListWidgetItem(QString::fromStdString(p.caption), m_list);
        if (!image.isNull()) item->setIcon(QIcon(QPixmap::fromImage(image)));
        item->setToolTip(plainTip(
            image.isNull() ? tr("the picture is not in this job: add it again from its file")
                           : tr("%1, added %2").arg(QString::fromStdString(p.caption), momentText(p.at))));
    }
}

QImage PhotoStrip::imageOf(const std::string& digest) {
    const auto known = m_small.find(digest);
    if (known != m_small.end()) return known->second;
    const QImage whole = QImage::fromData(QByteArray::fromStdString(m_job.photo(digest)), "JPEG");
    QImage out = whole.isNull() ? whole : whole.scaled(small, Qt::KeepAspectRatio, Qt::SmoothTransformation);
    m_small.emplace(digest, out);
    return out;
}

void PhotoStrip::ask() {
    const QString file = QFileDialog::getOpenFileName(window(), tr("Photo of this step"), {},
                                                      tr("Pictures (*.jpg *.jpeg *.png *.webp)"));
    if (!file.isEmpty()) add(file);
}

void PhotoStrip::add(const QString& file) {
    std::size_t count = 0;
    for (const house::StepRecord& r : m_job.house().fitting.records)
        count += r.photos.size();
    if (count >= house::maxPhotos) {
        Q_EMIT said(
            tr("the job has %1 photos, as many as it holds; take some out first.").arg(house::maxPhotos),
            true);
        return;
    }
    const auto photo = photoOf(file);
    if (!photo) {
        Q_EMIT said(QString::fromStdString(photo.error().sentence()), true);
        return;
    }
    const auto digest = m_job.keepPhoto(*photo);
    if (digest.empty()) return; // it was said why
    const std::string now = utcNow();
    m_job.apply(tr("photo of “%1”").arg(QString::fromStdString(m_step.what)),
                fit::withPhoto(m_job.house(), m_step,
                               {digest, now, QFileInfo(file).completeBaseName().left(60).toStdString()}));
}

void PhotoStrip::takeOut() {
    const int row = m_list->currentRow();
    if (row < 0 || row >= static_cast<int>(m_photos.size())) return;
    m_job.apply(tr("take out a photo"),
                fit::withoutPhoto(m_job.house(), m_step.id, m_photos[static_cast<std::size_t>(row)].digest));
}

void PhotoStrip::enlarge() {
    const int row = m_list->currentRow();
    if (row < 0 || row >= static_cast<int>(m_photos.size())) return;
    const house::Photo& photo = m_photos[static_cast<std::size_t>(row)];
    const QImage whole = QImage::fromData(QByteArray::fromStdString(m_job.photo(photo.digest)), "JPEG");
    if (whole.isNull()) {
        Q_EMIT said(tr("the picture is not in this job; add it again from its file."), true);
        return;
    }
    auto* dialog = new QDialog(window(), Qt::Tool);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setObjectName(QStringLiteral("photo"));
    dialog->setWindowTitle(QString::fromStdString(photo.caption));
    auto* label = plainLabel();
    label->setPixmap(QPixmap::fromImage(
        whole.scaled(screen()->availableSize() * 0.8, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
    auto* layout = new QVBoxLayout(dialog);
    layout->addWidget(label);
    dialog->show();
}

} // namespace metrodos::desktop
