#include "desktop/handover/firm_logo.h"

#include "desktop/model/config_file.h"
#include "desktop/widgets/picture_file.h"
#include "job/document.h"
#include "report/document.h"

#include <QBuffer>
#include <QFile>

namespace metrodos::desktop {
namespace {

constexpr int logoSide = 600; // px

std::filesystem::path logoFile() {
    return configFile("METRODOS_LOGO", QStringLiteral("logo.png"));
}

} // namespace

std::string keptLogo() {
    QFile file(QString::fromStdString(logoFile().string()));
    if (!file.open(QIODevice::ReadOnly)) return {};
    return report::checkedLogo(file.read(report::maxLogoBytes + 1).toStdString()).value_or(std::string());
}

quantity::Result<std::string> keepLogo(const QString& file) {
    const auto picture = pictureOf(file, logoSide);
    if (!picture) return tl::unexpected(picture.error());
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!picture->save(&buffer, "PNG"))
        return quantity::problem("the picture cannot be written as PNG", file.toStdString(),
                                 "install the PNG support of the graphics library");
    auto logo = report::checkedLogo(bytes.toStdString());
    if (!logo) return logo;
    std::error_code error;
    std::filesystem::create_directories(logoFile().parent_path(),
                                        error); // where it cannot be made, writing says so
    if (const auto written = job::writeText(logoFile(), *logo); !written)
        return tl::unexpected(written.error());
    return logo;
}

} // namespace metrodos::desktop
