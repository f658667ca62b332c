#include "desktop/measure/copy_page.h"

#include "desktop/measure/test_fields.h"
#include "desktop/widgets/rate_axis.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/tool_button.h"
#include "probe/file_copy.h"

#include <QFileDialog>
#include <QPainter>
#include <algorithm>
#include <array>

namespace metrodos::desktop {
namespace {

using nlohmann::json;
using quantity::BitRate;

} // namespace

CopyPage::CopyPage(RouteModel& model, AccessTo access)
    : TestPage(model, std::move(access), QStringLiteral("copy"),
               tr("Choose the folder where the store is mounted, then press Space: one large file is written "
                  "there, "
                  "read with the cache dropped, and read again. Beside a run over the same route it shows "
                  "what the "
                  "disk and the file protocol take.")) {
    m_folder = new QLineEdit;
    m_folder->setObjectName(QStringLiteral("copy-folder"));
    m_folder->setAccessibleName(tr("Folder of the mounted store"));
    m_folder->setPlaceholderText(tr("folder of the mounted store"));
    m_folder->setMinimumWidth(230);
    addField({}, m_folder);
    auto* browse = tool(QStringLiteral("copy-browse"), tr("&Choose…"), tr("Choose the folder"));
    connect(browse, &QToolButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("Folder of the mounted store"));
        if (!folder.isEmpty()) m_folder->setText(folder);
    });
    addField({}, browse);
    m_size = choice(QStringLiteral("copy-size"),
                    {{tr("10 MB"), 10e6}, {tr("1 GB"), 1e9}, {tr("4 GB"), 4e9}, {tr("20 GB"), 20e9}}, 1);
    addField({}, m_size);
}

quantity::Result<TestRunner::Work> CopyPage::work() {
    if (m_folder->text().trimmed().isEmpty())
        return quantity::problem("no folder was chosen", "", "choose the one where the store is mounted");
    probe::CopySettings settings;
    settings.folder = m_folder->text().trimmed().toStdString();
    settings.bytes = static_cast<std::uint64_t>(m_size->currentData().toDouble());
    // What the network alone gave on this route, as far as it is known.
    double network = 0;
    for (const benchmark::Run& run : model().runs())
        if (run.showsCeiling() && run.complete) network = std::max(network, run.goodput.bps());
    // Over a route on which files are copied the copy is evidence like a run.
    const house::Route* route = model().route();
    std::optional<bool> hereIsFrom;
    house::Id routeId;
    if (route != nullptr && !route->fileProtocol.empty()) {
        routeId = route->id;
        for (const bool from : {true, false})
            if (const auto* end = model().job().house().endpoint(from ? route->from : route->to);
                end != nullptr && end->address == "here")
                hereIsFrom = from;
    }
    const std::filesystem::path file = model().job().file();
    return TestRunner::Work(
        [=](const TestRunner::Progress& progress, const std::stop_token& stop) -> quantity::Result<json> {
            const QString words = tr("copying %1 MB there and back …").arg(settings.bytes / 1'000'000);
            progress(words, json());
            const auto done =
                probe::copyFile(settings, stop, [&](double share) { progress(words, json(), share); });
            if (!done) return tl::unexpected(done.error());
            benchmark::CopyReport report = *done;
            if (network > 0) report.network = BitRate::bitsPerSecond(network);
            if (hereIsFrom)
                for (const benchmark::Run& run : probe::copyRuns(report, *hereIsFrom))
                    if (const auto kept = job::keepRun(file, routeId, run); !kept)
                        return tl::unexpected(kept.error());
            return toJson(report);
        });
}

quantity::Result<std::vector<std::string>> CopyPage::take(const json& document) {
    auto report = benchmark::readCopyReport(document);
    if (!report) return tl::unexpected(report.error());
    m_report = std::move(*report);
    return benchmark::sentences(m_report);
}

void CopyPage::paintReport(QPainter& p, const QRectF& field) {
    const QRectF area(field.left() + 190, field.top() + 14, field.width() - 330, 132);
    const RateAxis axis(area);
    axis.paint(p);
    double y = area.top() + 6;
    const std::array<std::pair<QString, std::optional<BitRate>>, 3> passes{
        {{tr("write, to the disk"), m_report.write.rate},
         {tr("read, cache dropped"), m_report.cold ? std::optional(m_report.cold->rate) : std::nullopt},
         {tr("read again, from memory"), m_report.warm.rate}}};
    for (const auto& [words, rate] : passes) {
        p.setPen(theme().ink);
        p.setFont(textFont(10));
        p.drawText(QRectF(field.left() + 4, y, 180, 30), Qt::AlignLeft | Qt::AlignVCenter, words);
        if (rate) {
            p.fillRect(QRectF(area.left(), y + 8, axis.x(*rate) - area.left(), 14), theme().cool);
            p.setPen(theme().ink);
            p.setFont(figureFont(11, true));
            p.drawText(QRectF(area.right() + 8, y, field.right() - area.right() - 8, 30),
                       Qt::AlignLeft | Qt::AlignVCenter, byteText(*rate));
        } else {
            p.setPen(theme().quiet);
            p.drawText(QRectF(area.left() + 6, y, 300, 30), Qt::AlignLeft | Qt::AlignVCenter,
                       tr("not taken"));
        }
        y += 40;
    }
    if (!m_report.network) return;
    const double at = axis.x(*m_report.network);
    p.setPen(QPen(theme().ink, 2, Qt::DashLine));
    p.drawLine(QPointF(at, area.top() - 4), QPointF(at, area.bottom()));
    p.setFont(textFont(8, true));
    p.drawText(QRectF(at - 104, area.top() - 14, 100, 12), Qt::AlignRight, tr("network alone"));
}

} // namespace metrodos::desktop
