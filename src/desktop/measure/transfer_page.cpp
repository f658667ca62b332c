#include "desktop/measure/transfer_page.h"

#include "desktop/measure/test_fields.h"
#include "desktop/widgets/rate_axis.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "probe/transfer.h"

#include <QDir>
#include <QPainter>
#include <QStandardPaths>

namespace metrodos::desktop {
namespace {

using benchmark::Direction;
using benchmark::TransferPass;
using benchmark::TransferSink;
using benchmark::TransferSource;
using nlohmann::json;

QString passText(const TransferPass& pass) {
    if (pass.source == TransferSource::memory)
        return pass.sink == TransferSink::memory ? TransferPage::tr("memory to memory: the network alone")
                                                 : TransferPage::tr("memory to disk, until it is there");
    if (pass.source == TransferSource::warmDisk) return TransferPage::tr("disk to memory, read before");
    return pass.sink == TransferSink::memory ? TransferPage::tr("disk to memory, cache dropped")
                                             : TransferPage::tr("disk to disk, until it is there");
}

} // namespace

TransferPage::TransferPage(RouteModel& model, AccessTo access)
    : TestPage(model, std::move(access), QStringLiteral("transfer"),
               tr("Press Space: a file is copied between the two ends of the route by their agents, each "
                  "part by itself and "
                  "all together, so that it shows whether a disk or the network decides. An agent takes part "
                  "where its owner "
                  "has started it with --folder.")) {
    m_direction = choice(QStringLiteral("transfer-direction"),
                         {{tr("▸ forward"), static_cast<double>(Direction::forward)},
                          {tr("◂ backward"), static_cast<double>(Direction::backward)}},
                         0);
    addField({}, m_direction);
    m_size = choice(QStringLiteral("transfer-size"),
                    {{tr("10 MB"), 10e6}, {tr("1 GB"), 1e9}, {tr("4 GB"), 4e9}, {tr("20 GB"), 20e9}}, 1);
    addField({}, m_size);
    m_folder = new QLineEdit(QStandardPaths::writableLocation(QStandardPaths::CacheLocation));
    m_folder->setObjectName(QStringLiteral("transfer-folder"));
    m_folder->setAccessibleName(tr("Folder on this machine"));
    m_folder->setToolTip(
        tr("Where this machine has its file, where it is one of the ends; /tmp is often memory, no disk"));
    m_folder->setMinimumWidth(260);
    addField(tr("Fo&lder here"), m_folder);
}

quantity::Result<TestRunner::Work> TransferPage::work() {
    const house::Route* route = model().route();
    if (route == nullptr) return quantity::problem("no route is chosen", "", "choose one at the top");
    const auto from = access()(route->from);
    if (!from) return tl::unexpected(from.error());
    const auto to = access()(route->to);
    if (!to) return tl::unexpected(to.error());
    const std::filesystem::path folder = m_folder->text().trimmed().toStdString();
    if (from->address == "here" || to->address == "here") QDir().mkpath(m_folder->text().trimmed());
    probe::TransferSettings settings;
    settings.bytes = static_cast<std::uint64_t>(m_size->currentData().toDouble());
    settings.direction = static_cast<Direction>(m_direction->currentData().toInt());
    const bool isForward = settings.direction == Direction::forward;
    const std::string sender = model().job().house().endLabel(isForward ? route->from : route->to);
    const std::string receiver = model().job().house().endLabel(isForward ? route->to : route->from);
    return TestRunner::Work(
        [=, from = *from, to = *to](const TestRunner::Progress& progress,
                                    const std::stop_token& stop) -> quantity::Result<json> {
            progress(tr("connecting to both ends …"), json());
            auto a = openLink(from, stop, folder);
            if (!a) return tl::unexpected(a.error());
            auto b = openLink(to, stop, folder);
            if (!b) return tl::unexpected(b.error());
            const auto named = [&](benchmark::TransferReport report) {
                report.from = sender;
                report.to = receiver;
                return report;
            };
            const auto done = probe::transfer(
                *a, *b, settings,
                [&](const TransferPass& pass, const benchmark::TransferReport& soFar, double share) {
                    progress(passText(pass), soFar.passes.empty() ? json() : toJson(named(soFar)), share);
                },
                stop);
            if (!done) return tl::unexpected(done.error());
            return toJson(named(*done));
        });
}

quantity::Result<std::vector<std::string>> TransferPage::take(const json& document) {
    auto report = benchmark::readTransferReport(document);
    if (!report) return tl::unexpected(report.error());
    m_report = std::move(*report);
    return benchmark::sentences(m_report);
}

void TransferPage::paintReport(QPainter& p, const QRectF& field) {
    constexpr double words = 250;
    constexpr double figures = 190;
    constexpr double row = 36;
    const auto count = static_cast<double>(m_report.passes.size());
    const QRectF area(field.left() + words, field.top() + 14, field.width() - words - figures,
                      row * count + 8);
    const RateAxis axis(area);
    axis.paint(p);
    double y = area.top() + 4;
    for (const TransferPass& pass : m_report.passes) {
        p.setPen(theme().ink);
        p.setFont(textFont(10));
        p.drawText(QRectF(field.left() + 4, y, words - 10, row),
                   Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap, passText(pass));
        p.fillRect(QRectF(area.left(), y + 11, axis.x(pass.rate) - area.left(), 14), theme().cool);
        p.setFont(figureFont(11, true));
        p.drawText(QRectF(area.right() + 8, y, figures - 8, row), Qt::AlignLeft | Qt::AlignVCenter,
                   bothText(pass.rate));
        y += row;
    }
}

} // namespace metrodos::desktop
