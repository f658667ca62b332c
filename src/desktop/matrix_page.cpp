#include "desktop/matrix_page.h"

#include "benchmark/matrix.h"
#include "desktop/rate_text.h"
#include "desktop/test_fields.h"
#include "desktop/theme.h"
#include "probe/cross.h"

#include <QPainter>
#include <QSpinBox>
#include <algorithm>
#include <cmath>

namespace metrodos::desktop {
namespace {

using nlohmann::json;
using quantity::BitRate;

constexpr double namesWidth = 150;
constexpr double headHeight = 34;

// Where the cell from row to column lies.
QRectF cellAt(const QRectF& field, int count, int row, int column) {
    const double width = std::min(170.0, (field.width() - namesWidth) / count);
    const double height = std::min(64.0, (field.height() - headHeight) / count);
    return {field.left() + namesWidth + column * width, field.top() + headHeight + row * height, width - 4,
            height - 4};
}

int countOf(const json& report) {
    return std::min(static_cast<int>(report.at("endpoints").size()), 16);
}

} // namespace

MatrixPage::MatrixPage(JobModel& model, AccessTo access)
    : TestPage(model, std::move(access), QStringLiteral("matrix"),
               tr("Press Space: every machine of the job that can be reached sends to every other, one pair "
                  "after the other. Pairs that end at the same figure hang on the same element. Click cells "
                  "to have those pairs run at once afterwards: what they share shows.")) {
    m_seconds = choice(QStringLiteral("matrix-seconds"), {{tr("2 s"), 2}, {tr("5 s"), 5}, {tr("10 s"), 10}});
    addField(tr("&length"), m_seconds);
    m_repeats = new QSpinBox;
    m_repeats->setRange(1, 20);
    m_repeats->setObjectName(QStringLiteral("matrix-repeats"));
    m_repeats->setToolTip(tr("Runs a pair; three or more give a range"));
    addField(tr("re&peat"), m_repeats);
}

quantity::Result<TestRunner::Work> MatrixPage::work() {
    probe::CrossOrder order;
    for (const house::Endpoint& endpoint : model().house().endpoints) {
        auto reach = access()(endpoint.id);
        if (!reach) return tl::unexpected(reach.error());
        if (reach->address.empty()) continue;
        order.names.push_back(endpoint.label);
        order.ends.emplace_back([reach = *reach] { return openLink(reach); });
    }
    if (order.ends.size() < 2)
        return quantity::problem("fewer than two machines have an address", "",
                                 "give the addresses of their agents in Walk");
    order.run.seconds = m_seconds->currentData().toDouble();
    order.run.streams = 4;
    order.repeats = m_repeats->value();
    for (const auto& [from, to] : m_chosen)
        if (std::max(from, to) < static_cast<int>(order.ends.size()))
            order.atOnce.push_back({static_cast<std::size_t>(from), static_cast<std::size_t>(to)});
    if (order.atOnce.size() == 1) order.atOnce.clear();
    return TestRunner::Work(
        [order = std::move(order)](const TestRunner::Progress& progress, const std::stop_token& stop) {
            const std::size_t pairs = order.ends.size() * (order.ends.size() - 1);
            return probe::measureMatrix(
                       order,
                       [&](const benchmark::Matrix& m) {
                           progress(tr("%1 of %2 pairs").arg(m.cells.size()).arg(pairs),
                                    benchmark::matrixDocument(m));
                       },
                       stop)
                .map([](const benchmark::Matrix& m) { return benchmark::matrixDocument(m); });
        });
}

QStringList MatrixPage::sentences(const json& report) const {
    QStringList out;
    const json& cells = report.at("cells");
    if (cells.empty()) return {tr("No pair was measured.")};
    const auto byRate = [](const json& a, const json& b) {
        return a.at("goodput_bps").get<double>() < b.at("goodput_bps").get<double>();
    };
    const json& slowest = *std::min_element(cells.begin(), cells.end(), byRate);
    const auto nameOf = [&](const json& cell, const char* key) {
        return QString::fromStdString(
            report.at("endpoints").at(cell.at(key).get<std::size_t>()).get<std::string>());
    };
    if (report.at("common_ceiling_bps").is_number())
        out << tr("Several pairs have one ceiling of about %1: look at what they have in common.")
                   .arg(rateText(BitRate::bitsPerSecond(report.at("common_ceiling_bps").get<double>())));
    out << tr("The slowest pair is %1 to %2 with %3.")
               .arg(nameOf(slowest, "from"), nameOf(slowest, "to"),
                    bothText(BitRate::bitsPerSecond(slowest.at("goodput_bps").get<double>())));
    if (report.at("shared_limit").is_string())
        out << localised(report.at("shared_limit").get<std::string>()) + QLatin1Char('.');
    return out;
}

void MatrixPage::paintReport(QPainter& p, const QRectF& field, const json& report) {
    const int count = countOf(report);
    if (count == 0) return;
    const json& names = report.at("endpoints");
    p.setFont(textFont(10, true));
    for (int i = 0; i < count; ++i) {
        const QString name = QString::fromStdString(names.at(static_cast<std::size_t>(i)).get<std::string>());
        const QRectF first = cellAt(field, count, i, 0);
        const QRectF head = cellAt(field, count, 0, i);
        p.setPen(theme().ink);
        p.drawText(QRectF(field.left() + 4, first.top(), namesWidth - 14, first.height()),
                   Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(tr("%1 sends").arg(name), Qt::ElideRight,
                                              static_cast<int>(namesWidth) - 14));
        p.drawText(QRectF(head.left(), field.top(), head.width(), headHeight - 6),
                   Qt::AlignHCenter | Qt::AlignBottom,
                   p.fontMetrics().elidedText(tr("to %1").arg(name), Qt::ElideRight,
                                              static_cast<int>(head.width())));
        p.fillRect(cellAt(field, count, i, i), QBrush(theme().line, Qt::BDiagPattern));
    }
    const double ceiling =
        report.at("common_ceiling_bps").is_number() ? report.at("common_ceiling_bps").get<double>() : 0;
    for (const json& cell : report.at("cells")) {
        const int from = cell.at("from").get<int>();
        const int to = cell.at("to").get<int>();
        if (from >= count || to >= count) continue;
        const QRectF box = cellAt(field, count, from, to);
        const auto rate = BitRate::bitsPerSecond(cell.at("goodput_bps").get<double>());
        p.fillRect(box, theme().panel);
        // A bar on the logarithmic scale that all the window's axes have.
        const double share = std::clamp(logPosition(rate), 0.0, 1.0);
        p.fillRect(QRectF(box.left(), box.bottom() - 7, box.width() * share, 7), theme().cool);
        const bool shares = ceiling > 0 && std::fabs(rate.bps() / ceiling - 1) < 0.05;
        if (shares)
            p.fillRect(QRectF(box.left(), box.bottom() - 7, box.width() * share, 7),
                       QBrush(theme().panel, Qt::Dense6Pattern));
        p.setPen(theme().ink);
        p.setFont(figureFont(box.height() > 44 ? 13 : 10.5, true));
        p.drawText(box.adjusted(6, 0, -4, -8), Qt::AlignLeft | Qt::AlignVCenter, shortRate(rate));
        // One run has a spread of its own, but says nothing of the next.
        if (cell.at("runs").get<int>() > 2 && cell.at("low_bps").is_number() &&
            cell.at("high_bps").is_number()) {
            p.setPen(theme().quiet);
            p.setFont(figureFont(8));
            p.drawText(box.adjusted(6, 0, -6, -8), Qt::AlignRight | Qt::AlignVCenter,
                       shortRate(BitRate::bitsPerSecond(cell.at("low_bps").get<double>())) + QChar(0x2013) +
                           shortRate(BitRate::bitsPerSecond(cell.at("high_bps").get<double>())));
        }
        if (report.at("at_once").is_array())
            for (const json& both : report.at("at_once"))
                if (both.at("from") == cell.at("from") && both.at("to") == cell.at("to")) {
                    p.setPen(theme().quiet);
                    p.setFont(figureFont(8));
                    p.drawText(
                        box.adjusted(6, 2, -6, 0), Qt::AlignRight | Qt::AlignTop,
                        tr("at once %1")
                            .arg(shortRate(BitRate::bitsPerSecond(both.at("goodput_bps").get<double>()))));
                }
        p.setPen(QPen(m_chosen.count({from, to}) > 0 ? theme().ink : theme().line,
                      m_chosen.count({from, to}) > 0 ? 2.5 : 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(box);
    }
}

void MatrixPage::pressed(const QPointF& at, const QRectF& field) {
    if (!report().is_object() || !report().contains("endpoints")) return;
    const int count = countOf(report());
    for (int row = 0; row < count; ++row)
        for (int column = 0; column < count; ++column)
            if (row != column && cellAt(field, count, row, column).contains(at))
                if (!m_chosen.insert({row, column}).second) m_chosen.erase({row, column});
    repaintReport();
}

} // namespace metrodos::desktop
